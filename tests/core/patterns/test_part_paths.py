"""Part lines that leave their plane: on bent and leaning moulds whose widest line is known."""

from functools import cache

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from core import practice_shapes, shapes
from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Mesh, join_corners
from mildhusk.core.mould.locks import best_split, locked_area
from mildhusk.core.mould.outside import rubber_surface, standing
from mildhusk.core.patterns.flat import Pattern, outline_of
from mildhusk.core.patterns.part_line import PartLineWish, part_line
from mildhusk.core.patterns.part_path import borders, follow, parts_of
from mildhusk.demo import shapes as demo

UP = np.array([0.0, 0.0, 1.0])
HIGH_M = 0.3


def bent(way, high=HIGH_M, radius=0.06, levels=150, sections=240) -> Mesh:
    """A round column with a dome, its axis moved along x by height: its widest line is the axis."""
    angle = np.linspace(0.0, 2.0 * np.pi, sections, endpoint=False)
    ring = np.c_[np.cos(angle), np.sin(angle)]
    body = [(radius, z) for z in np.linspace(0.0, high, levels)]
    dome = [
        (radius * np.cos(a), high + radius * np.sin(a))
        for a in np.linspace(0.0, np.pi / 2.0, 40)[1:]
    ]
    rings = [np.c_[r * ring[:, 0] + way(z), r * ring[:, 1], np.full(sections, z)]
             for r, z in (*body, *dome)]  # fmt: skip
    k, after = np.arange(sections), (np.arange(sections) + 1) % sections
    faces = []
    for low in np.arange(len(rings) - 1) * sections:
        high_at = low + sections
        faces += [np.c_[low + k, low + after, high_at + k],
                  np.c_[low + after, high_at + after, high_at + k]]  # fmt: skip
    mesh = Mesh(np.concatenate(rings), np.concatenate(faces))
    return join_corners(mesh.vertices[mesh.faces])


def leaning(z):
    return 0.25 * min(z, HIGH_M) - 0.125 * HIGH_M


def swaying(z):
    return 0.025 * np.sin(2.0 * np.pi * min(z, HIGH_M) / HIGH_M)


def along_x(mesh: Mesh) -> float:
    """The angle of a pull along x, whatever axes the split is counted by."""
    ways = [(one.before @ [1.0, 0.0, 0.0], k) for k, one in enumerate(borders(UP, 0.0, 360))]
    return 2.0 * np.pi * max(ways)[1] / 360.0


def walls(mesh: Mesh, **wished) -> Pattern:
    wish = PartLineWish(2, following=True, clearance_m=0.0015, **wished)
    return part_line(mesh, UP, along_x(mesh), wish)


def figures(pattern: Pattern) -> dict[str, float]:
    return {one.key: one.value for one in pattern.figures}


@pytest.mark.parametrize("way", [leaning, swaying], ids=["leaning", "swaying"])
def test_the_line_follows_the_widest_place_of_a_bent_column(way):
    # Exact: a circle is widest, seen along x, at its middle; so the line lies there at each height.
    mesh = bent(way)
    found = follow(mesh, UP, along_x(mesh), 2, 0.045, True)
    centre = (mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0))[0] / 2.0
    level = np.linspace(0.03, 0.8 * HIGH_M, 40)
    wanted = np.array([way(z) for z in level])
    for path, one in zip(found, borders(UP, along_x(mesh), 2), strict=True):
        aside = np.interp(level, path[:, 1], path[:, 0]) * (one.aside @ [1.0, 0.0, 0.0])
        off = aside - wanted
        # To the width of the grid and what a straight piece leaves; from the middle of the mould.
        assert np.ptp(off) < 0.018
        assert abs(off.mean() + centre) < 0.012


@pytest.mark.parametrize("way", [leaning, swaying], ids=["leaning", "swaying"])
def test_what_locks_along_a_plane_lets_go_along_the_line(way):
    mesh = bent(way)
    found = figures(walls(mesh))
    assert found["locked-plane"] > 0.003
    assert found["locked"] < 0.35 * found["locked-plane"]


def test_what_locks_with_planes_is_what_the_split_found():
    # Two ways to the same number: by sectors of an angle, and by the sides of straight part lines.
    rubber = rubber_surface(standing(practice_shapes.bottle()), 0.01)
    for parts in (2, 3, 4):
        split = best_split(rubber, UP, parts)
        straight = [np.array([[0.0, 0.0], [0.0, 1.0]])] * parts
        part = parts_of(rubber, UP, split.angle, straight)
        assert locked_area(rubber, UP, part, split.pulls) == pytest.approx(
            split.locked_m2, abs=2e-5
        )


@pytest.mark.parametrize(
    ("face", "parts"),
    [
        (lambda: bent(leaning), 2),
        (lambda: bent(swaying), 2),
        (lambda: bent(swaying), 3),
        (lambda: practice_shapes.read(demo.half_mask_stl()), 3),
        (lambda: practice_shapes.read(demo.bust_stl()), 2),
        (practice_shapes.cowl, 2),
    ],
    ids=["leaning", "swaying", "swaying in three", "half mask", "bust", "cowl"],
)
def test_no_gap_between_a_chain_and_the_rubber_is_wider_than_the_clearance(face, parts):
    piece = standing(face())
    rubber = rubber_surface(piece, 0.01)
    split = best_split(rubber, piece.up, parts)
    wish = PartLineWish(parts, following=True, clearance_m=0.0015)
    pattern = part_line(rubber, piece.up, split.angle + 0.6, wish)
    each = 2000 // len(pattern.curves_m) + 1
    points = np.concatenate([_along(np.array(line), each) for line in pattern.curves_m])
    surface = trimesh.Trimesh(rubber.vertices, rubber.faces, process=False)
    _, gap, _ = trimesh.proximity.closest_point(surface, points)
    assert len(points) >= 2000
    assert gap.max() <= wish.clearance_m + 1e-4


@cache
def rubber_of(name: str) -> Mesh:
    face = bent(swaying) if name == "swaying" else practice_shapes.cowl()
    return rubber_surface(standing(face), 0.008)


@settings(max_examples=12, deadline=None)
@given(
    st.sampled_from(["swaying", "cowl"]),
    st.integers(2, 4),
    st.floats(-3.0, 3.0),
    st.sampled_from([0.0, 0.0015, 0.006]),
    st.floats(0.015, 0.12),
    st.integers(0, 4),
)
def test_no_line_locks_more_than_a_plane_whatever_is_asked(
    name, parts, turned, clearance, flange, handles
):
    wish = PartLineWish(parts, clearance, flange, turned=turned, handles=handles, following=True)
    rubber = rubber_of(name)
    pattern = part_line(rubber, UP, 0.4, wish)
    assert figures(pattern)["locked"] <= figures(pattern)["locked-plane"]
    surface = trimesh.Trimesh(rubber.vertices, rubber.faces, process=False)
    points = np.concatenate([_along(np.array(line), 60) for line in pattern.curves_m])
    _, gap, _ = trimesh.proximity.closest_point(surface, points)
    # To a fifth of a millimetre, also where two panels meet in a hollow.
    assert gap.max() <= clearance + 2e-4


def _along(line: np.ndarray, count: int) -> np.ndarray:
    at = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))]
    wanted = np.linspace(0.0, at[-1], count)
    return np.stack([np.interp(wanted, at, line[:, k]) for k in range(3)], axis=1)


def test_a_chain_lies_flat_as_it_stands():
    # A surface hinged along parallel lines unrolls without stretching: marks of one panel are as
    # far apart flat as in space, and the panels together are as long as the cut in space.
    pattern = walls(bent(swaying))
    panels = [one for one in pattern.parts if one.name != "bracket"]
    assert len(panels) > 4
    for one in panels:
        marks = [mark for mark in one.marks if mark.name.startswith(("mark", "bolt"))]
        flat = np.array([mark.at_m for mark in marks])
        solid = np.array([mark.place_m for mark in marks])
        if len(marks) < 2:
            continue
        assert shapely.geometry.MultiPoint(flat).distance(outline_of(one)) < 1e-3
        between = [np.linalg.norm(x[:, None] - x[None], axis=2) for x in (flat, solid)]
        assert between[0] == pytest.approx(between[1], abs=2e-6)
    solid_m = sum(
        np.linalg.norm(np.diff(np.array(line), axis=0), axis=1).sum() for line in pattern.curves_m
    )
    assert figures(pattern)["cut"] == pytest.approx(solid_m, rel=1e-6)


def test_the_clay_rises_with_the_line():
    # Exact: lying on its side, the widest line of a leaning column is at the height of its middle.
    mesh = bent(leaning)
    pattern = walls(mesh)
    lowest = mesh.vertices[:, 0].min()
    highest = mesh.vertices[:, 0].max()
    found = {one.mark: one.height_m for one in pattern.heights}
    assert len(found) > 10
    places = {
        f"{part.name}: {mark.name}": mark.place_m for part in pattern.parts for mark in part.marks
    }
    first = np.array([places[one][0] for one in found])
    height = np.array(list(found.values()))
    up = np.corrcoef(first, height)[0, 1]
    assert abs(up) > 0.999999
    # Part 1 lies below: what its pull points to is down.
    assert np.sign(up) == -np.sign(borders(UP, along_x(mesh), 2)[0].before[0])
    expected = first - lowest if up > 0 else highest - first
    assert height == pytest.approx(expected, abs=1e-6)
    assert figures(pattern)["clay"] == max(found.values())


def test_bolts_and_hand_holes_keep_off_the_hinges():
    pattern = walls(bent(swaying), bolt_pitch_m=0.06, handles=2)
    for part in pattern.parts:
        outline = outline_of(part)
        for hole in part.holes:
            # No hole is cut by the edge of its panel.
            assert outline.exterior.distance(shapely.Point(hole.at_m)) > hole.diameter_m / 2.0
    area = 0.075 * 0.035 + np.pi * 0.0175**2
    slots = [
        line
        for part in pattern.parts
        for line in part.lines
        if line.closed and abs(shapely.Polygon(line.points_m).area / area - 1.0) < 0.01
    ]
    assert len(slots) == 2


def test_a_round_mould_keeps_its_plane_and_says_so():
    piece = standing(shapes.half_sphere(0.09))
    rubber = rubber_surface(piece, 0.01)
    wish = PartLineWish(2, following=True)
    pattern = part_line(rubber, piece.up, 0.3, wish)
    assert [one.id for one in pattern.findings] == ["part-line-plane"]
    assert figures(pattern)["locked"] == pytest.approx(figures(pattern)["locked-plane"], abs=1e-9)
    # Cut in one arch, as without the wish. Exact: half a circle of R + t + c.
    assert [one.name for one in pattern.parts] == ["wall", "bracket"]
    assert figures(pattern)["cut"] == pytest.approx(np.pi * 0.101, rel=2e-3)


def test_only_a_plane_is_moved_aside():
    with pytest.raises(PatternError, match="finds its own way"):
        PartLineWish(2, following=True, aside_m=0.01)
