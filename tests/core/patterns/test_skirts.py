"""Skirts, boxes and strips against closed forms."""

import numpy as np
import pytest
import shapely
from scipy.special import elliprg

from core import practice_shapes, shapes
from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.mould.locks import best_split
from mildhusk.core.mould.outside import standing
from mildhusk.core.patterns.box import FREEBOARD_M, BoxWish, box
from mildhusk.core.patterns.flat import Layer, outline_of
from mildhusk.core.patterns.skirt import SkirtWish, skirt
from mildhusk.core.patterns.strips import StripsWish, strips, strips_for


def figures(pattern):
    return {one.key: one.value for one in pattern.figures}


def cup(radius: float, height: float) -> Mesh:
    """A round cup, open below."""
    return shapes.turned([(radius, 0.0), (radius, height), (0.0, height)])


def squashed(mesh: Mesh, a: float, b: float) -> Mesh:
    return Mesh(mesh.vertices * (a, b, 1.0), mesh.faces)


def test_the_skirt_of_a_cone_is_its_sector():
    # Exact: a frustum of slope s and radii r, R unrolls to a sector of the radii r / sin f and
    # R / sin f, of angle 2 pi sin f.
    flare, height, radius = np.radians(30.0), 0.1, 0.1
    wish = SkirtWish(height, flare=flare, allowance_m=0.0)
    pattern = skirt(cup(radius, 0.15), wish)
    (part,) = pattern.parts
    area = np.pi * height * (2.0 * radius + height * np.sin(flare))
    assert part.area_m2 == pytest.approx(area, rel=1e-3)
    outline = outline_of(part)
    points = shapely.get_coordinates(outline.exterior)
    near, far = radius / np.sin(flare), radius / np.sin(flare) + height
    # The middle of the sector is where all of its points are at one of two distances.
    marks = np.array([one.at_m for one in part.marks])
    middle = _centre_of_circle(marks[0], marks[len(marks) // 3], marks[2 * len(marks) // 3])
    away = np.linalg.norm(points - middle, axis=1)
    on_arc = np.minimum(np.abs(away / near - 1.0), np.abs(away / far - 1.0))
    assert on_arc.max() < 1e-3
    sector = points[np.abs(away / near - 1.0) < 1e-3] - middle
    assert _swept(sector) == pytest.approx(2.0 * np.pi * np.sin(flare), rel=1e-3)


def _centre_of_circle(a, b, c):
    matrix = 2.0 * np.array([b - a, c - a])
    return np.linalg.solve(matrix, np.array([b @ b - a @ a, c @ c - a @ a]))


def _swept(points):
    angle = np.sort(np.arctan2(points[:, 1], points[:, 0]))
    gaps = np.diff(np.r_[angle, angle[0] + 2.0 * np.pi])
    return 2.0 * np.pi - gaps.max()


@pytest.mark.parametrize(("a", "b"), [(0.08, 0.08), (0.12, 0.07), (0.1, 0.03)])
def test_a_straight_skirt_is_as_long_as_the_ellipse_it_goes_round(a, b):
    # Published: L = 8 R_G(0, a^2, b^2), Carlson's symmetric integral (NIST DLMF 19.30.5 with
    # 19.25.1, from memory).
    pattern = skirt(squashed(cup(1.0, 0.1), a, b), SkirtWish(0.05, allowance_m=0.0))
    length = 8.0 * elliprg(0.0, a * a, b * b)
    assert figures(pattern)["rim"] == pytest.approx(length, rel=2e-4)
    (part,) = pattern.parts
    assert max(part.size_m) == pytest.approx(length, rel=5e-4)
    assert min(part.size_m) == pytest.approx(0.05, rel=1e-3)


def test_thick_foam_is_laid_flat_through_its_middle():
    # Exact: a band t thick outside a circle of r has its middle at r + t / 2.
    pattern = skirt(cup(0.09, 0.1), SkirtWish(0.06, thickness_m=0.01, allowance_m=0.0))
    assert figures(pattern)["strip"] == pytest.approx(2.0 * np.pi * 0.095, rel=1e-3)
    assert figures(pattern)["rim"] == pytest.approx(2.0 * np.pi * 0.09, rel=1e-3)


def test_marks_on_the_skirt_meet_marks_on_the_rim():
    pattern = skirt(practice_shapes.helmet(), SkirtWish(0.1))
    every = figures(pattern)["mark"]
    assert every == pytest.approx(0.05, rel=0.1)
    rim = np.array(pattern.curves_m[0])
    number = 0
    for part in pattern.parts:
        for before, after in zip(part.marks, part.marks[1:], strict=False):
            flat = np.linalg.norm(np.subtract(after.at_m, before.at_m))
            # As the strip is bent, a chord is no longer than the rim between two marks.
            assert flat <= every * 1.02
        for one in part.marks:
            number += 1
            assert one.name == f"mark {number}"
            assert np.linalg.norm(rim - np.array(one.place_m), axis=1).min() < 1e-3


def handedness(part, way_of_tick, outward):
    """Of marks and their band, flat and on the piece: whether one is the mirror of the other."""
    one, two = part.marks[1], part.marks[2]
    travel = np.subtract(two.at_m, one.at_m)
    tick = np.subtract(way_of_tick, one.at_m)
    flat = travel[0] * tick[1] - travel[1] * tick[0]
    across = np.subtract(two.place_m, one.place_m)
    solid = np.dot(np.cross(across, outward(np.array(one.place_m))), np.array([0.0, 0.0, 1.0]))
    return np.sign(flat), np.sign(solid)


@pytest.mark.parametrize("flip", [1.0, -1.0])
def test_a_skirt_is_drawn_as_it_is_seen_from_outside(flip):
    # Seen from outside the marks run to the right while the band hangs below them. A mirrored piece
    # has to give the mirrored pattern, and not the same one.
    mesh = squashed(cup(1.0, 0.1), 0.1, 0.06)
    shear = mesh.vertices.copy()
    shear[:, 0] += flip * 0.4 * shear[:, 1]
    pattern = skirt(Mesh(shear, mesh.faces), SkirtWish(0.05, allowance_m=0.0))
    part = pattern.parts[0]
    ticks = [one for one in part.lines if one.layer is Layer.MARK]
    tick = next(one for one in ticks if np.allclose(one.points_m[0], part.marks[1].at_m, atol=1e-4))
    flat, solid = handedness(part, tick.points_m[1], lambda at: at * (1.0, 1.0, 0.0))
    # Band below and to the right of the way: clockwise flat; on the piece, open below, the way to
    # the right is across outward times up.
    assert flat < 0.0
    assert solid < 0.0


def test_flashing_runs_to_the_right_for_who_looks_at_it_from_outside():
    pattern = box(standing(squashed(cup(1.0, 0.1), 0.1, 0.05)), BoxWish(0.02, following=False))
    flashing = next(one for one in pattern.parts if one.name == "flashing")
    places = np.array([one.place_m for one in flashing.marks])
    across = [one.at_m[0] for one in flashing.marks]
    assert across == sorted(across)
    around = np.cross(places[:-1], places[1:])[:, 2].sum()
    # Anticlockwise from above.
    assert around > 0.0


def test_a_flared_skirt_round_a_corner_keeps_the_length_of_the_rim():
    # A rim with inner corners: a plus sign. The rim's edge must not be stretched by laying it flat.
    plus = shapely.union_all(
        [shapely.box(-0.1, -0.03, 0.1, 0.03), shapely.box(-0.03, -0.1, 0.03, 0.1)]
    )
    ring = np.array(plus.exterior.segmentize(0.002).coords)[:-1][::-1]
    n = len(ring)
    low, high = np.c_[ring, np.zeros(n)], np.c_[ring, np.full(n, 0.1)]
    k = np.arange(n)
    after = (k + 1) % n
    faces = np.r_[
        np.c_[k, n + k, after], np.c_[after, n + k, n + after],
        np.c_[n + after, n + k, np.full(n, 2 * n)],
    ]  # fmt: skip
    face = Mesh(np.r_[low, high, [[0.0, 0.0, 0.1]]], faces)
    pattern = skirt(face, SkirtWish(0.05, flare=np.radians(25.0), allowance_m=0.0))
    assert figures(pattern)["rim"] == pytest.approx(plus.exterior.length, rel=1e-2)
    for one in pattern.parts:
        assert outline_of(one).is_valid


def test_a_seam_gets_its_allowance_beyond_a_fold():
    plain, seamed = (skirt(cup(0.09, 0.1), SkirtWish(0.06, allowance_m=a)) for a in (0.0, 0.015))
    assert max(seamed.parts[0].size_m) == pytest.approx(
        max(plain.parts[0].size_m) + 0.015, abs=1e-5
    )
    assert any(one.layer is Layer.BEND for one in seamed.parts[0].lines)


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: skirt(shapes.sphere(0.1), SkirtWish()), "closed piece has no rim"),
        (lambda: SkirtWish(height_m=0.9), "height of the skirt is 900 mm"),
        (lambda: skirt(cup(0.02, 0.1), SkirtWish(0.2, flare=np.radians(-40))), "closes on itself"),
    ],
)
def test_a_skirt_that_cannot_be_is_refused(make, says):
    with pytest.raises(PatternError, match=says):
        make()


def test_a_box_round_a_cylinder_is_a_larger_cylinder():
    # Exact: radius and height each larger by the margin; the rubber is the difference.
    r, h, m, density = 0.06, 0.12, 0.02, 1100.0
    wish = BoxWish(m, density_kg_m3=density, overlap_m=0.03, chunks_off_m=0.01)
    pattern = box(standing(cup(r, h)), wish)
    found = figures(pattern)
    volume = np.pi * ((r + m) ** 2 * (h + m) - r * r * h)
    assert found["volume"] == pytest.approx(volume, rel=3e-3)
    assert found["rubber"] == pytest.approx(volume * density, rel=3e-3)
    assert found["level"] == pytest.approx(h + m, rel=1e-6)
    assert found["flashing"] == pytest.approx(2.0 * np.pi * (r + m) + 0.03, rel=1e-2)
    flashing = next(one for one in pattern.parts if one.name == "flashing")
    assert flashing.size_m[1] == pytest.approx(h + m + FREEBOARD_M)
    # Old rubber lies no nearer than 10 mm: half of a ring and a lid are left to it (Steiner's
    # formula for a convex body on its board: the 10 mm round it are rounded at the top).
    near = np.pi * ((r + 0.01) ** 2 * h - r * r * h) + np.pi * 0.01 * r * r
    rounded = np.pi * 0.01**2 * (np.pi / 2.0 * r + 2.0 / 3.0 * 0.01)
    assert found["chunks"] == pytest.approx(0.5 * (volume - near - rounded) * density, rel=0.03)


def test_a_straight_box_is_a_rectangle_with_four_bends():
    pattern = box(standing(squashed(cup(1.0, 0.1), 0.1, 0.05)), BoxWish(0.02, following=False))
    found = figures(pattern)
    assert found["bends"] == 4
    assert found["flashing"] == pytest.approx(2 * (0.24 + 0.14) + 0.03, rel=1e-3)
    lines = [one for part in pattern.parts for one in part.lines if one.layer is Layer.BEND]
    assert len(lines) == 4


@pytest.mark.parametrize("overlap", [0.0, 0.3, 0.5])
@pytest.mark.parametrize("passes", [1, 2])
def test_strips_cover_the_shell_to_one_strip(overlap, passes):
    wish = StripsWish(0.3, 0.2, overlap=overlap, passes=passes)
    area = 0.431
    count = strips_for(area, wish)
    needed = area * passes / (1.0 - overlap)
    assert needed <= count * 0.06 < needed + 0.06 + 1e-12


def test_three_plies_over_half_lie_six_times():
    # Common practice, no source: strips of three plies that overlap by half make six.
    rubber = shapes.half_sphere(0.12)
    split = best_split(rubber, np.array([0.0, 0.0, 1.0]), 2)
    shell = shipped_material("shell-bandage")
    pattern = strips(rubber, np.array([0.0, 0.0, 1.0]), split, shell, StripsWish())
    found = figures(pattern)
    assert found["plies"] == 6.0
    assert found["area"] == pytest.approx(2.0 * np.pi * 0.12**2, rel=1e-3)
    # Exact: its part line is half a circle, both of its ends on the board.
    assert found["seam"] == pytest.approx(np.pi * 0.12, rel=1e-3)
    assert sum(one.count for one in pattern.rows) == found["strips"]
    assert {one.part for one in pattern.rows} == {"part 1", "part 2"}


@pytest.mark.parametrize("working_s", [240.0, 900.0])
def test_batches_of_paste_add_up_to_the_shell_and_fit_the_working_time(working_s):
    rubber, up = shapes.half_sphere(0.12), np.array([0.0, 0.0, 1.0])
    split, paste = best_split(rubber, up, 2), shipped_material("shell-urethane-paste")
    pattern = strips(rubber, up, split, paste, StripsWish(working_s=working_s))
    # A paste is spread: nothing is cut for it.
    assert pattern.rows == ()
    mixed = sum(one.batches * one.amount for one in pattern.mixes if one.unit == "kg")
    area = 2.0 * np.pi * 0.12**2
    # The list of the material, by hand: 6.6 kg a square metre, flanges of 15 % on two parts.
    assert mixed == pytest.approx(6.6 * area * 1.15, rel=2e-3)
    for one in pattern.mixes:
        work_s = area * 1.15 / 2.0 * paste.hours_per_m2 * 3600.0
        assert work_s / one.batches <= working_s * 1.01


def test_glass_is_cut_in_squares_and_bandage_in_strips():
    rubber, up = shapes.half_sphere(0.12), np.array([0.0, 0.0, 1.0])
    split = best_split(rubber, up, 2)
    cut = {
        key: strips(rubber, up, split, shipped_material(key), StripsWish()).rows[0].what
        for key in ("shell-bandage", "shell-glass-polyester")
    }
    assert cut == {"shell-bandage": "strip", "shell-glass-polyester": "square"}
    glass = strips(rubber, up, split, shipped_material("shell-glass-polyester"), StripsWish())
    # What is cut is not mixed.
    assert {one.what.split(",")[0] for one in glass.mixes} == {
        "polyester resin",
        "peroxide catalyst",
    }


@pytest.mark.parametrize("step", [0.0, 0.015, 0.05])
def test_seam_strips_reach_along_the_seam_each_in_the_step_of_the_last(step):
    rubber, up = shapes.half_sphere(0.12), np.array([0.0, 0.0, 1.0])
    split, shell = best_split(rubber, up, 2), shipped_material("shell-bandage")
    wish = StripsWish(0.3, 0.2, seam_step_m=step)
    pattern = strips(rubber, up, split, shell, wish)
    rows = [one for one in pattern.rows if "seam" in one.what]
    # Each of two parts has the whole seam, half a circle. Laid end on end with ends that overlap by
    # the step, they reach along it, and one less would not.
    reach = np.pi * 0.12
    for one in rows:
        assert one.count * (0.3 - step) >= reach > (one.count - 1) * (0.3 - step)
    (drawn,) = pattern.parts
    outline = outline_of(drawn)
    # Exact: a rectangle without two corners of the step by half the width.
    assert outline.area == pytest.approx(0.3 * 0.2 - 2 * step * 0.1, rel=1e-6)
    (fold,) = [one for one in drawn.lines if one.layer is Layer.BEND]
    folded = shapely.affinity.scale(outline, 1.0, -1.0, origin=(0.0, fold.points_m[0][1]))
    lower = outline.intersection(shapely.box(0.0, 0.0, 1.0, fold.points_m[0][1]))
    upper = folded.intersection(shapely.box(0.0, 0.0, 1.0, fold.points_m[0][1])).buffer(-1e-9)
    # Folded, the upper half lies on the lower one and ends a step before it at both ends.
    assert lower.covers(upper)
    assert upper.bounds[0] - lower.bounds[0] == pytest.approx(step, abs=1e-6)
    assert lower.bounds[2] - upper.bounds[2] == pytest.approx(step, abs=1e-6)


def test_what_is_spread_and_a_hood_have_no_seam_strip():
    rubber, up = shapes.half_sphere(0.12), np.array([0.0, 0.0, 1.0])
    for parts, shell in ((2, "shell-urethane-paste"), (1, "shell-bandage")):
        split = best_split(rubber, up, parts)
        assert strips(rubber, up, split, shipped_material(shell), StripsWish()).parts == ()


def test_strips_that_cannot_be_are_refused():
    with pytest.raises(PatternError, match="leaves nothing of a strip of 300 mm; give at most 75"):
        StripsWish(0.3, seam_step_m=0.08)
    with pytest.raises(PatternError, match="overlap"):
        StripsWish(overlap=1.0)
    with pytest.raises(PatternError, match="plies"):
        StripsWish(strip_plies=0)
