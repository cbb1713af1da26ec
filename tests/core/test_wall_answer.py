"""What is told of a wall: its thickness against closed forms, its places in a maker's words."""

import math

import numpy as np
import pytest

from core.practice_shapes import bottle, bust, cowl, helmet, read
from core.shapes import half_sphere, sphere, tube
from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.naming import Kind, names_of
from mildhusk.core.coating.places import COIN_M2, coin_means, thin_places
from mildhusk.core.coating.thickness import curvature_of, thickness, volume_per_area
from mildhusk.core.geometry.mesh import Mesh, face_frames
from mildhusk.demo.shapes import bust_stl, helmet_stl

# --- thickness ---


@pytest.mark.parametrize("edge_m", [0.003, 0.006])
@pytest.mark.parametrize("wall_m", [0.003, 0.008])
def test_a_wall_in_a_ball_is_as_thick_as_its_shell(edge_m, wall_m):
    """Closed form: the shell of a ball holds (R^3 - (R - t)^3) / (3 R^2) per outer area; 1 %."""
    radius = 0.05
    grid = coat_grid(even_mesh(sphere(radius, 60), edge_m))
    per_area = (radius**3 - (radius - wall_m) ** 3) / (3.0 * radius**2)
    found = thickness(curvature_of(grid), np.full(len(grid.area), per_area))
    assert np.average(found, weights=grid.area) == pytest.approx(wall_m, rel=0.002)
    assert np.quantile(found, [0.02, 0.98]) == pytest.approx([wall_m] * 2, rel=0.015)


@pytest.mark.parametrize("outside", [True, False])
def test_a_wall_in_a_tube_is_thicker_than_its_volume_and_round_it_thinner(outside):
    """Closed form: (R^2 - (R -+ t)^2) / (2 R) per area of the tube, hollow or as a core; 0.1 %."""
    radius, wall_m = 0.04, 0.008
    mesh = tube(radius, 0.2)
    grid = coat_grid(mesh if outside else mesh.flipped())
    sign = -1.0 if outside else 1.0
    per_area = abs(radius**2 - (radius + sign * wall_m) ** 2) / (2.0 * radius)
    found = thickness(curvature_of(grid), np.full(len(grid.area), per_area))
    inside = np.abs(grid.centre[:, 2] - np.median(grid.centre[:, 2])) < 0.06
    assert found[inside] == pytest.approx(np.full(inside.sum(), wall_m), rel=1e-3)
    assert (found[inside] > per_area).all() is np.bool_(outside)


def test_volume_and_thickness_are_each_others_inverse_on_a_real_shape():
    grid = coat_grid(even_mesh(helmet(), 0.008))
    bend = curvature_of(grid)
    wall = np.random.default_rng(3).uniform(0.0005, 0.004, len(grid.area))
    back = thickness(bend, volume_per_area(bend, wall))
    sure = np.abs(back / volume_per_area(bend, wall) - 1.0) < 0.45
    assert sure.mean() > 0.95
    assert back[sure] == pytest.approx(wall[sure], rel=1e-6)


def test_a_lid_has_no_curvature_and_takes_none_from_the_face():
    grid = coat_grid(half_sphere(0.08, 60), capped=True)
    bend = curvature_of(grid)
    assert (bend.mean[grid.lid] == 0.0).all()
    face = ~grid.lid
    assert np.average(bend.mean[face], weights=grid.area[face]) == pytest.approx(12.5, rel=0.02)


# --- places ---


def test_a_hole_smaller_than_a_coin_is_no_place_and_a_larger_one_is():
    grid = coat_grid(even_mesh(sphere(0.1, 60), 0.004))
    away = np.linalg.norm(grid.centre - [0.1, 0.0, 0.0], axis=1)
    for radius, told in ((0.5, 0), (1.5, 1)):
        bare = away < radius * math.sqrt(COIN_M2 / math.pi)
        wall = np.where(bare, 0.0, 0.003)
        assert len(thin_places(grid, wall, 0.002)) == told
        # What a coin covers is bare only where the hole is as large.
        least = coin_means(grid, wall).min()
        assert (least < 1e-4) is np.bool_(radius > 1.0)


def test_a_mean_over_a_coin_is_that_of_a_slope_in_its_middle():
    """Closed form: a wall that rises evenly has its own value as the mean round each place."""
    grid = coat_grid(even_mesh(sphere(0.2, 60), 0.006))
    wall = 0.003 + 0.01 * grid.centre[:, 2]
    steep = np.abs(grid.centre[:, 2]) < 0.1
    assert coin_means(grid, wall)[steep] == pytest.approx(wall[steep], rel=0.03)
    wall[0] = np.inf
    assert coin_means(grid, wall)[0] == np.inf
    assert np.isfinite(coin_means(grid, wall)[1:]).all()


HEAD = {
    "helmet": (helmet, {
        (0.0, 0.11, 0.13): "nose",
        (0.0, -0.12, 0.13): "back of the head",
        (0.092, 0.0, 0.13): "right ear",
        (-0.092, 0.0, 0.13): "left ear",
        (0.0, 0.105, 0.05): "chin",
        (0.0, -0.13, 0.24): "comb, back",
        (0.06, 0.0, 0.26): "crown",
        (0.0, 0.10, 0.003): "rim, front",
    }),
    "bust": (bust, {
        (0.085, 0.0, 0.06): "right shoulder",
        (0.0, -0.05, 0.05): "back, between the shoulders",
        (0.0, 0.0, 0.21): "crown",
    }),
    "the demo's helmet": (lambda: read(helmet_stl()), {
        (0.0, -0.12, 0.13): "back of the head",
        (0.09, 0.0, 0.13): "right ear",
        (0.0, -0.1, 0.28): "comb, back",
        (0.0, 0.1, 0.27): "comb, front",
        (0.0, 0.1, 0.003): "rim, front",
    }),
    "the demo's bust": (lambda: read(bust_stl()), {
        (0.085, 0.0, 0.06): "right shoulder",
        (0.0, 0.0, 0.2): "crown",
        (0.0, 0.04, 0.16): "brow",
    }),
    "cowl": (cowl, {
        (0.054, -0.006, 0.32): "tip that stands out, right",
        (-0.054, -0.006, 0.32): "tip that stands out, left",
        (0.0, -0.095, 0.19): "back of the head",
    }),
}  # fmt: skip


@pytest.mark.parametrize("name", HEAD)
def test_places_of_a_head_have_the_names_of_a_head(name):
    """Its own left and right; the fields they are made from say where everything is."""
    make, places = HEAD[name]
    mesh = make()
    for piece in (mesh, Mesh(mesh.vertices * [1.0, -1.0, 1.0], mesh.faces[:, ::-1])):
        grid = coat_grid(even_mesh(piece, 0.007))
        names = names_of(grid)
        assert names.kind is Kind.HEAD
        forward = 1.0 if piece is mesh else -1.0
        assert names.front @ [0.0, forward, 0.0] > 0.95
        # What looks the other way has its left on the other side.
        found = {at: names.of(np.array(at) * [forward, forward, 1.0]) for at in places}
        assert found == places


def test_a_head_turned_about_its_height_keeps_its_names():
    """Law: how it stands in its file changes nothing."""
    mesh = helmet()
    at = np.array([0.092, 0.0, 0.13])
    for degrees in (30.0, 75.0, 200.0):
        c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        about_z = np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
        moved = Mesh(np.ascontiguousarray(mesh.vertices @ about_z.T), mesh.faces)
        assert names_of(coat_grid(even_mesh(moved, 0.009))).of(about_z @ at) == "right ear"


def test_places_of_a_bottle_go_by_its_height_and_no_axis_is_ever_told():
    grid = coat_grid(even_mesh(bottle(), 0.005))
    names = names_of(grid)
    assert names.kind is Kind.ROUND
    heights = {0.002: "bottom", 0.06: "side, low", 0.15: "shoulder", 0.19: "neck", 0.213: "rim"}
    found = {
        z: names.of(grid.centre[int(np.argmin(np.abs(grid.centre[:, 2] - z)))]) for z in heights
    }
    assert found == heights


def test_a_lump_without_two_like_sides_is_told_by_its_height():
    ball = sphere(0.1, 60)
    x, y, z = ball.vertices.T
    # A twisted column has no mirror plane along its height.
    wider = 1.0 + 0.35 * np.cos(3.0 * np.arctan2(y, x) + 25.0 * z)
    lump = Mesh(np.c_[x * wider, y * wider, z], ball.faces)
    grid = coat_grid(even_mesh(lump, 0.009))
    names = names_of(grid)
    assert names.kind is Kind.OTHER
    assert {names.of(one) for one in grid.centre} <= {
        "top", "bottom", "low", "half-way up", "high", "low, at a tip", "high, at a tip",
        "half-way up, at a tip",
    }  # fmt: skip


def test_a_head_upside_down_in_its_file_is_a_head_all_the_same():
    """Law: turned upside down, opening up, the crown is at the bottom of the file."""
    mesh = helmet()
    grid = coat_grid(even_mesh(Mesh(mesh.vertices * [1.0, -1.0, -1.0], mesh.faces), 0.009))
    lowest = grid.centre[int(np.argmin(grid.centre[:, 2]))]
    assert names_of(grid).of(lowest) in ("crown", "comb, back", "comb, front")


def test_a_dry_mould_is_thin_all_over():
    """Exact: a dry mould has no wall, and all of its face is one thin place."""
    grid = coat_grid(even_mesh(sphere(0.05, 30), 0.006))
    (place,) = thin_places(grid, Coated.bare(grid).wall_m, 0.001)
    assert place.area_m2 == pytest.approx(face_frames(grid.mesh)[2].sum(), rel=1e-9)
    assert place.wall_m == 0.0
