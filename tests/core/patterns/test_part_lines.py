"""Part-line walls: contours of known moulds, and walls held against the rubber they are cut for."""

import numpy as np
import pytest
import shapely
import trimesh

from core import practice_shapes, shapes
from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.mould.locks import best_split
from mildhusk.core.mould.outside import rubber_surface, standing
from mildhusk.core.patterns.flat import Layer, Pattern, outline_of
from mildhusk.core.patterns.part_line import PartLineWish, part_line
from mildhusk.demo import shapes as demo

UP = np.array([0.0, 0.0, 1.0])
WALL_M = 0.010


def ball(radius: float) -> Mesh:
    return shapes.joined(trimesh.creation.icosphere(subdivisions=5, radius=radius))


def on_board(face: Mesh, parts: int, wish: PartLineWish | None = None) -> tuple[Pattern, Mesh]:
    piece = standing(face)
    rubber = rubber_surface(piece, WALL_M)
    split = best_split(rubber, piece.up, parts)
    return part_line(rubber, piece.up, split.angle, wish or PartLineWish(parts)), rubber


@pytest.mark.parametrize("parts", [2, 3, 4])
def test_the_part_line_of_a_ball_is_a_circle_of_its_radius_rubber_and_clearance(parts):
    # Exact: a plane through the middle of a ball of R + t cuts a circle; the wall keeps c off it.
    radius, rubber, clearance = 0.1, 0.01, 0.002
    wish = PartLineWish(parts, clearance_m=clearance)
    pattern = part_line(ball(radius + rubber), UP, 0.3, wish)
    for line in pattern.curves_m:
        away = np.linalg.norm(np.array(line), axis=1)
        assert away == pytest.approx(radius + rubber + clearance, rel=4e-4)
    whole = np.pi * (radius + rubber + clearance) * (2 if parts == 2 else parts)
    assert pattern.figures[0].value == pytest.approx(whole, rel=4e-4)


def test_a_wall_round_a_floating_ball_comes_in_two_halves_as_wide_as_the_flange():
    wish = PartLineWish(2, clearance_m=0.001, flange_m=0.05)
    pattern = part_line(ball(0.11), UP, 0.0, wish)
    areas = [outline_of(one).area for one in pattern.parts]
    # Exact: half a ring each.
    assert areas == pytest.approx([np.pi * (0.161**2 - 0.111**2) / 2.0] * 2, rel=1e-3)
    holes = [len(one.holes) for one in pattern.parts]
    assert min(holes) >= 2


def test_a_wall_on_a_board_follows_a_dome_down_to_it():
    # Exact: a half ball of R + t + c, upright on its board, is a half circle.
    pattern, _ = on_board(shapes.half_sphere(0.09), 2)
    assert pattern.figures[0].value == pytest.approx(np.pi * 0.101, rel=2e-3)
    wall = pattern.parts[0]
    low = min(y for line in wall.lines for _, y in line.points_m)
    assert low == 0.0
    # Its feet stand wider than the flange on both sides.
    assert wall.size_m[0] == pytest.approx(2 * (0.101 + 0.045 + 0.04), rel=2e-3)
    assert any(one.name == "bracket" and one.count == 4 for one in pattern.parts)


@pytest.mark.parametrize(
    ("face", "parts"),
    [
        (lambda: practice_shapes.read(demo.half_mask_stl()), 2),
        (lambda: practice_shapes.read(demo.helmet_stl()), 3),
        (lambda: practice_shapes.read(demo.bust_stl()), 2),
        (practice_shapes.bottle, 4),
        (practice_shapes.cowl, 2),
        (lambda: shapes.turned([(0.06, 0.0), (0.09, 0.1), (0.03, 0.22), (0.0, 0.23)]), 3),
        (lambda: shapes.half_sphere(0.07), 4),
    ],
    ids=["half mask", "helmet", "bust", "bottle", "cowl", "spindle", "dome"],
)
def test_no_gap_between_wall_and_rubber_is_wider_than_the_clearance(face, parts):
    wish = PartLineWish(parts, clearance_m=0.0015)
    pattern, rubber = on_board(face(), parts, wish)
    each = 2000 // len(pattern.curves_m) + 1
    points = np.concatenate([_along(np.array(line), each) for line in pattern.curves_m])
    assert len(points) >= 2000
    surface = trimesh.Trimesh(rubber.vertices, rubber.faces, process=False)
    _, gap, _ = trimesh.proximity.closest_point(surface, points)
    # To a tenth of a millimetre: the cut is kept with so few points as stay that near.
    assert gap.max() <= wish.clearance_m + 1e-4


def _along(line: np.ndarray, count: int) -> np.ndarray:
    at = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))]
    wanted = np.linspace(0.0, at[-1], count)
    return np.stack([np.interp(wanted, at, line[:, k]) for k in range(3)], axis=1)


def test_the_drawn_cut_is_the_line_on_the_piece():
    # The flat cut is as long as the line in space: what is shown on both is one thing.
    pattern, _ = on_board(practice_shapes.bottle(), 3)
    for part, line in zip(pattern.parts[:3], pattern.curves_m, strict=True):
        there = _along(np.array(line), 5000)
        edge = outline_of(part).exterior
        marks = [one for one in part.marks if one.name.startswith("mark")]
        assert marks
        for one in marks:
            assert edge.distance(shapely.Point(one.at_m)) < 1e-4
            assert np.linalg.norm(there - np.array(one.place_m), axis=1).min() < 2e-4
        flat = np.array([one.at_m for one in marks])
        solid = np.array([one.place_m for one in marks])
        assert np.linalg.norm(np.diff(flat, axis=0), axis=1) == pytest.approx(
            np.linalg.norm(np.diff(solid, axis=0), axis=1), abs=1e-6
        )


def test_bolts_stand_in_the_flange_at_one_pitch_and_off_its_corners():
    # A box of rubber: its flange turns by a right angle at two corners.
    rubber = shapes.joined(trimesh.creation.box((0.2, 0.2, 0.2)))
    keep = rubber.vertices[rubber.faces][:, :, 2].max(axis=1) > -0.099
    rubber = Mesh(rubber.vertices, rubber.faces[keep])
    wish = PartLineWish(2, bolt_pitch_m=0.08, clearance_m=0.001)
    pattern = part_line(rubber, UP, 0.0, wish)
    wall = pattern.parts[0]
    outline = outline_of(wall)
    places = np.array([one.place_m for one in wall.marks if one.name.startswith("bolt")])
    across = np.c_[np.hypot(places[:, 0], places[:, 1]) * np.sign(places[:, 1]), places[:, 2]]
    corner = np.array([[-0.1, 0.1], [0.1, 0.1]])
    near = np.linalg.norm(across[:, None] - corner, axis=2).min()
    # The round of the bolt line about a corner has half the flange for a radius; none stands in it.
    turning = np.abs(across[:, 0]) > 0.101
    over = across[:, 1] > 0.101
    assert not (turning & over).any()
    assert near > wish.flange_m / 2.0
    for one in wall.holes:
        assert outline.buffer(-0.005).contains(shapely.Point(one.at_m))


def test_a_heavy_mould_gets_hand_holes():
    face = practice_shapes.helmet()
    piece = standing(face)
    rubber = rubber_surface(piece, WALL_M)
    without, with_two = (
        part_line(rubber, piece.up, 0.4, PartLineWish(2, handles=n)) for n in (0, 2)
    )
    cuts = [
        sum(line.layer is Layer.CUT for line in one.parts[0].lines) for one in (without, with_two)
    ]
    assert cuts[1] == cuts[0] + 2


@pytest.mark.parametrize("flange_m", [0.015, 0.045, 0.1])
def test_hand_holes_come_near_neither_bolt_nor_each_other(flange_m):
    wish = PartLineWish(2, flange_m=flange_m, bolt_pitch_m=0.03, handles=4)
    pattern, _ = on_board(practice_shapes.read(demo.helmet_stl()), 2, wish)
    wall = pattern.parts[0]
    # Exact: a slot of 110 by 35 mm with round ends.
    area = 0.075 * 0.035 + np.pi * 0.0175**2
    cuts = [shapely.Polygon(one.points_m) for one in wall.lines if one.layer is Layer.CUT]
    slots = [one for one in cuts if abs(one.area / area - 1.0) < 0.01]
    # As many on both sides.
    assert len(slots) in (2, 4)
    for slot in slots:
        assert all(slot.distance(shapely.Point(one.at_m)) > 0.006 for one in wall.holes)
        others = [one for one in slots if one is not slot]
        assert all(slot.distance(one) > 0.015 for one in others)


@pytest.mark.parametrize(
    ("wish", "says"),
    [
        (lambda: PartLineWish(1), "no part line"),
        (lambda: PartLineWish(5), "2 to 4"),
        (lambda: PartLineWish(2, clearance_m=0.2), "clearance is 200 mm; give 0 mm to 30 mm"),
        (lambda: PartLineWish(2, flange_m=0.001), "flange is 1 mm"),
        (lambda: PartLineWish(3, aside_m=0.01), "shell in two"),
        (lambda: PartLineWish(2, turned=float("nan")), "degrees"),
    ],
)
def test_a_wall_that_cannot_be_is_refused_in_a_sentence(wish, says):
    with pytest.raises(PatternError, match=says):
        wish()


def test_a_split_that_misses_the_mould_and_a_clearance_larger_than_it_are_refused():
    with pytest.raises(PatternError, match="misses the mould"):
        part_line(ball(0.05), UP, 0.0, PartLineWish(2, aside_m=0.06))
    with pytest.raises(PatternError, match="larger than the mould"):
        part_line(ball(0.02), UP, 0.0, PartLineWish(2, clearance_m=0.025))
