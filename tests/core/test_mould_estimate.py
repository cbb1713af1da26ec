"""What a mould takes, against closed forms of the sphere and the tube."""

import math
from dataclasses import replace

import pytest

from core.shapes import sphere, tube
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.wall_volume import ShellCurve, outer_area, outer_volume, shell_volume
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.mould.estimate import FLANGE_SHARE, RUBBER_LOSS, MouldBuild, estimate_mould

RUBBER = shipped_material("rubber-addition-firm")
SHELL = shipped_material("shell-urethane-paste")
assert isinstance(RUBBER, Rubber)
assert isinstance(SHELL, ShellMaterial)
BUILD = MouldBuild(RUBBER, 0.010, SHELL, 50)
BALL = measure_face(sphere(0.1, 120))


def test_rubber_round_a_sphere_is_the_difference_of_two_spheres():
    """Exact: 4/3 pi ((R + t)^3 - R^3)."""
    takes = estimate_mould(BALL, BUILD)
    exact = 4.0 / 3.0 * math.pi * (0.11**3 - 0.1**3) * RUBBER.density_kg_m3
    assert takes.rubber_kg * (1.0 - RUBBER_LOSS) == pytest.approx(exact, rel=5e-3)


def test_the_shell_covers_the_outside_of_the_rubber_and_its_flanges():
    """Exact: 4 pi (R + t)^2."""
    takes = estimate_mould(BALL, BUILD)
    exact = 4.0 * math.pi * 0.11**2 * (1.0 + FLANGE_SHARE)
    assert takes.shell_m2 == pytest.approx(exact, rel=5e-3)
    assert takes.shell_kg == pytest.approx(takes.shell_m2 * SHELL.wall_m * SHELL.density_kg_m3)


def test_rubber_round_a_tube_without_ends_is_the_difference_of_two_tubes():
    """Exact: pi h ((R + t)^2 - R^2); the curvature of a tube has no third power."""
    curve = ShellCurve.of(measure_face(tube(0.05, 0.3)))
    exact = math.pi * 0.3 * (0.062**2 - 0.05**2)
    assert outer_volume(curve, 0.012) == pytest.approx(exact, rel=5e-3)
    assert outer_area(curve, 0.012) == pytest.approx(2.0 * math.pi * 0.062 * 0.3, rel=5e-3)


def test_outside_grows_where_inside_shrinks():
    curve = ShellCurve.of(BALL)
    assert outer_volume(curve, 0.01) > curve.area_m2 * 0.01 > shell_volume(curve, 0.01)


def test_a_thicker_wall_takes_more_of_everything():
    thin, thick = (estimate_mould(BALL, replace(BUILD, rubber_wall_m=w)) for w in (0.009, 0.013))
    assert (thin.rubber_coats, thick.rubber_coats) == (3, 5)
    assert thick.rubber_kg > thin.rubber_kg
    assert thick.hours > thin.hours
    assert thick.weight_kg > thin.weight_kg


def test_a_head_sized_mould_weighs_what_practice_says():
    """Common practice, no source: mould, shell and resin of a helmet together are 11 to 14 kg, in
    plaster; a sphere of 13 cm radius stands for the helmet."""
    plaster = shipped_material("shell-bandage-gypsum")
    assert isinstance(plaster, ShellMaterial)
    helmet = measure_face(sphere(0.13, 60))
    build = MouldBuild(RUBBER, 0.011, plaster, 50)
    assert 7.0 < estimate_mould(helmet, build).weight_kg < 14.0


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"rubber_wall_m": 0.001}, "The wall of rubber is 1 mm; give 2 mm to 26 mm"),
        ({"rubber_wall_m": math.nan}, "The wall of rubber is not a number"),
        ({"life_casts": 0}, "The expected life is 0 casts; give 1 casts to 1,000 casts"),
    ],
)
def test_a_mould_that_cannot_be_built_is_told(change, said):
    with pytest.raises(MouldError, match=said):
        replace(BUILD, **change)
