"""The shell volume V(t) against exact inner bodies."""

import itertools
import math

import numpy as np
import pytest

from core.shapes import box, cone, cylinder, half_sphere, reread, sphere, torus, tube
from mildhusk.core.errors import WallError
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.geometry.wall_volume import ShellCurve, inner_area, shell_volume

R, H = 0.05, 0.12
WALLS = (0.001, 0.003, 0.005)


def curve_of(mesh: Mesh) -> ShellCurve:
    return ShellCurve.of(measure_face(mesh))


def sphere_shell(radius, t):
    return 4 / 3 * math.pi * (radius**3 - (radius - t) ** 3)


def cylinder_shell(t):
    return math.pi * (R**2 * H - (R - t) ** 2 * (H - 2 * t))


def cone_shell(t):
    # The inner parallel body of a cone is a cone of the same shape, its inscribed sphere t smaller.
    inscribed = R * H / (R + math.hypot(R, H))
    return math.pi * R**2 * H / 3 * (1 - (1 - t / inscribed) ** 3)


def torus_shell(t):
    return 2 * math.pi**2 * 0.08 * (0.03**2 - (0.03 - t) ** 2)


def box_shell(t):
    return 0.1 * 0.2 * 0.3 - (0.1 - 2 * t) * (0.2 - 2 * t) * (0.3 - 2 * t)


@pytest.mark.parametrize("wall", WALLS)
@pytest.mark.parametrize(
    ("mesh", "exact"),
    [
        (sphere(0.1), lambda t: sphere_shell(0.1, t)),
        (half_sphere(0.1), lambda t: sphere_shell(0.1, t) / 2),
        (tube(R, H), lambda t: math.pi * H * (R**2 - (R - t) ** 2)),
        (torus(0.08, 0.03), torus_shell),
        (cylinder(R, H), cylinder_shell),
        (cone(R, H), cone_shell),
        (box(0.1, 0.2, 0.3), box_shell),
    ],
    ids=["sphere", "half sphere", "tube", "torus", "cylinder", "cone", "box"],
)
def test_shell_volume_is_that_of_the_exact_inner_body_within_half_a_percent(mesh, exact, wall):
    assert shell_volume(curve_of(mesh), wall) == pytest.approx(exact(wall), rel=5e-3)


def test_the_sphere_of_the_issue():
    """Radius 100 mm, 80,000 faces: area and volume within 0.1 %, V(3 mm) within 0.5 %."""
    mesh = reread(sphere(0.1, 142))
    assert 79_000 < len(mesh.faces) < 82_000
    face = measure_face(mesh)
    assert face.area_m2 == pytest.approx(4 * math.pi * 0.01, rel=1e-3)
    assert face.volume_m3 == pytest.approx(4 / 3 * math.pi * 0.001, rel=1e-3)
    assert shell_volume(ShellCurve.of(face), 0.003) == pytest.approx(
        sphere_shell(0.1, 0.003), rel=5e-3
    )


def test_area_times_wall_is_too_much_on_a_small_piece():
    """Why V(t) is not A t: on a ball of 20 mm a wall of 5 mm takes 42 % less (closed form)."""
    curve = curve_of(sphere(0.02))
    flat = curve.area_m2 * 0.005
    assert shell_volume(curve, 0.005) / flat == pytest.approx(1 - 0.25 + 0.25**2 / 3, rel=2e-3)


def test_inner_area_is_the_slope_of_the_volume():
    """Law: the next coat covers V'(t); here against a central difference."""
    curve, t, step = curve_of(cone(R, H)), 0.004, 1e-6
    slope = (shell_volume(curve, t + step) - shell_volume(curve, t - step)) / (2 * step)
    assert inner_area(curve, t) == pytest.approx(slope, rel=1e-6)


def test_thicker_walls_take_more():
    curve = curve_of(sphere(0.1))
    volumes = [shell_volume(curve, t) for t in np.linspace(0.001, 0.09, 30)]
    assert all(a < b for a, b in itertools.pairwise(volumes))


@pytest.mark.parametrize("wall", [0.0, -0.003, math.nan, math.inf, 0.1, 0.15, 1e3])
def test_walls_that_cannot_be_are_refused_with_the_field(wall):
    with pytest.raises(WallError, match="wall") as caught:
        shell_volume(curve_of(sphere(0.1, 40)), wall)
    assert caught.value.field == "wall_m"


def test_an_open_piece_may_be_thicker_than_half_its_depth():
    # A shallow open dish has one wall across its depth, a closed one has two.
    dish = curve_of(half_sphere(0.1))
    assert shell_volume(dish, 0.06) == pytest.approx(sphere_shell(0.1, 0.06) / 2, rel=1e-2)


def test_at_a_sharp_corner_a_thick_wall_comes_out_a_little_low():
    """What docs/decisions/0001 says of a cone of 50 x 120 mm at 6 mm: 0.7 % low."""
    low = 1 - shell_volume(curve_of(cone(R, H)), 0.006) / cone_shell(0.006)
    assert low == pytest.approx(0.007, abs=5e-4)
