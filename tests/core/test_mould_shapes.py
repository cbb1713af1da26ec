"""The rubber round a piece, where a shell locks on it, what a glove has to stretch."""

import math
from dataclasses import replace

import numpy as np
import pytest
import trimesh

from core.shapes import box, cylinder, half_sphere, sphere, torus, tube, turned
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Mesh, face_frames, join_corners
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mould.letting_go import PeelStation, cut_height, peel, peel_profile
from mildhusk.core.mould.locks import TOLERANCE, best_split
from mildhusk.core.mould.outside import rubber_curve, rubber_surface, standing

R, T = 0.1, 0.010
UP = np.array([0.0, 0.0, 1.0])
RUBBER = shipped_material("rubber-addition-firm")
assert isinstance(RUBBER, Rubber)


# --- the rubber round a piece ---


def test_rubber_round_a_ball_is_the_difference_of_two_balls():
    """Exact: 4/3 pi ((R + t)^3 - R^3)."""
    curve = rubber_curve(standing(sphere(R, 80)))
    for wall in (0.003, 0.010, 0.020):
        exact = 4.0 / 3.0 * math.pi * ((R + wall) ** 3 - R**3)
        assert curve.volume(wall) == pytest.approx(exact, rel=1e-2)


def test_rubber_on_a_cylinder_standing_on_its_board():
    """Exact, mantle, top and the quarter ring round the top's edge (Pappus-Guldinus)."""
    r, h = 0.06, 0.15
    cup = turned([(r, 0.0), (r, h), (0.0, h)])
    curve = rubber_curve(standing(cup))
    mantle = math.pi * h * ((r + T) ** 2 - r**2)
    edge = math.pi**2 / 2.0 * r * T**2 + 2.0 / 3.0 * math.pi * T**3
    exact = mantle + math.pi * r**2 * T + edge
    assert curve.volume(T) == pytest.approx(exact, rel=1e-2)


def test_rubber_fills_a_gap_narrower_than_two_walls_once():
    """Exact: a slot of width w and depth d takes w d l, however thick the wall beyond w / 2."""
    gap, side, depth = 0.008, 0.06, 0.05
    block = trimesh.boolean.difference(
        [
            trimesh.creation.box([2 * side + gap, side, 0.1]),
            trimesh.creation.box(
                [gap, 2 * side, 2 * depth], trimesh.transformations.translation_matrix([0, 0, 0.05])
            ),
        ]
    )
    slotted = join_corners(block.triangles)
    plain = box(2 * side + gap, side, 0.1)
    wall = 0.010
    with_slot, without = (rubber_curve(standing(one)).volume(wall) for one in (slotted, plain))
    in_slot = gap * depth * side
    # Beside it the wall over the slot's mouth and its two ends bulges by less than the wall.
    assert with_slot - without == pytest.approx(in_slot, rel=0.12)


def test_the_outside_of_the_rubber_of_a_ball_is_a_ball():
    outside = rubber_surface(standing(sphere(R, 80)), T)
    found = measure_face(outside)
    assert found.watertight
    assert found.area_m2 == pytest.approx(4.0 * math.pi * (R + T) ** 2, rel=1e-2)
    centre, normal, _ = face_frames(outside)
    assert np.einsum("ij,ij->i", centre, normal).min() > 0.0


def test_the_outside_of_the_rubber_ends_at_the_board():
    dome = half_sphere(R, 60)
    piece = standing(dome)
    outside = rubber_surface(piece, T)
    assert (outside.vertices @ piece.up).min() == pytest.approx(piece.board_m, abs=1e-6)
    assert measure_face(outside).area_m2 == pytest.approx(2.0 * math.pi * (R + T) ** 2, rel=2e-2)


@pytest.mark.parametrize("wall", [0.001, 0.030, math.nan])
def test_a_wall_nobody_builds_is_refused(wall):
    with pytest.raises(MouldError, match="The wall of rubber is"):
        rubber_surface(standing(sphere(R, 20)), wall)


# --- where a shell locks ---


@pytest.mark.parametrize("parts", [2, 3, 4])
def test_a_ball_locks_at_no_split_through_its_middle(parts):
    split = best_split(sphere(R, 60), UP, parts)
    assert split.locked_m2 == pytest.approx(0.0, abs=1e-6)
    assert split.filler_m3 < 0.01 * 4.0 / 3.0 * math.pi * R**3
    assert len(split.pulls) == parts


def test_a_ring_locks_by_the_inner_half_of_its_tube():
    """Exact, two parts: for every half ring the faces towards the axis, 2 pi r (pi R - 2 r).

    Faces that lean back by less than the tolerance are let off: those are taken from the integral.
    """
    major, minor = 0.10, 0.03
    split = best_split(torus(major, minor), UP, 2)
    exact = 2.0 * math.pi * minor * (math.pi * major - 2.0 * minor)
    tube, ring = np.meshgrid(
        np.linspace(math.pi / 2, 1.5 * math.pi, 1001), np.linspace(-math.pi / 2, math.pi / 2, 1001)
    )
    element = minor * (major + minor * np.cos(tube)) * (math.pi / 1000.0) ** 2
    leaning = 2.0 * float((element * (np.cos(tube) * np.cos(ring) < -TOLERANCE)).sum())
    assert 0.9 * exact < leaning < exact
    assert 0.99 * leaning < split.locked_m2 < 1.01 * exact
    # What is filled is at least the hole of the ring between the planes of its tube's middle.
    assert split.filler_m3 > 0.5 * math.pi * (major - minor) ** 2 * minor


def _cup(a, b, stem, rim):
    return turned([(a, 0.0), (a, stem), (b, stem), (b, stem + rim), (0.0, stem + rim)])


def test_a_cup_with_a_rim_lets_two_halves_go_and_holds_a_hood():
    """Exact: sideways nothing leans back; upwards the rim's underside, and the wall below it that
    the rim shadows: pi (b^2 - a^2) + 2 pi a h, freed by a ring of pi (b^2 - a^2) h."""
    a, b, stem, rim = 0.04, 0.07, 0.08, 0.03
    cup = _cup(a, b, stem, rim)
    assert best_split(cup, UP, 2).locked_m2 < 0.02 * measure_face(cup).area_m2
    hood = best_split(cup, UP, 1)
    under = math.pi * (b * b - a * a)
    assert hood.locked_m2 == pytest.approx(under + 2.0 * math.pi * a * stem, rel=0.02)
    # The grid of lines is coarse against the rim.
    assert hood.filler_m3 == pytest.approx(under * stem, rel=0.05)


def test_the_best_split_of_a_tilted_slab_is_across_it():
    """A notched block comes off one way only: its notches look along x."""
    notch = trimesh.creation.box([0.06, 0.05, 0.04])
    block = trimesh.creation.box([0.2, 0.1, 0.2])
    shifts = [[0.1, 0, 0], [-0.1, 0, 0]]
    made = block
    for shift in shifts:
        cut = notch.copy()
        cut.apply_translation(shift)
        made = trimesh.boolean.difference([made, cut])
    mesh = join_corners(made.triangles)
    turn = 0.7
    spun = trimesh.transformations.rotation_matrix(turn, [0, 0, 1])[:3, :3]
    split = best_split(Mesh(mesh.vertices @ spun.T, mesh.faces), UP, 2)
    assert split.locked_m2 == pytest.approx(0.0, abs=1e-6)
    pull = np.array([math.cos(turn), math.sin(turn), 0.0])
    assert abs(float(split.pulls[0] @ pull)) > math.cos(math.radians(2.0))


def test_a_finer_mesh_gives_the_same_split():
    """Law: the best angle of an egg-shaped post with ears is the same within two degrees."""
    angles = []
    for count in (40, 90):
        post = sphere(R, count)
        ear = np.abs(post.vertices[:, 1] / R) ** 8
        squeezed = post.vertices * np.c_[np.ones(len(ear)), 1.0 + 0.4 * ear, np.ones(len(ear))]
        split = best_split(Mesh(squeezed, post.faces), UP, 2)
        angles.append(math.degrees(split.angle) % 180.0)
    assert abs((angles[0] - angles[1] + 90.0) % 180.0 - 90.0) <= 2.0


def test_five_parts_are_refused():
    with pytest.raises(MouldError, match="The number of shell parts is 5; give 1 to 4"):
        best_split(sphere(R, 20), UP, 5)


# --- letting go ---


def funnel(narrow, wide, height):
    """Open and narrow on the board, widening evenly, closed on top."""
    return turned([(narrow, 0.0), (wide, height), (0.0, height)])


def test_a_funnel_needs_what_its_girths_say():
    """By hand: a ring of radius r passes the widest, so it stretches by W / r - 1."""
    narrow, wide, height = 0.05, 0.10, 0.20
    stations = peel_profile(standing(funnel(narrow, wide, height)))
    for one in stations:
        r = narrow + (wide - narrow) * one.height_m / height
        assert one.girth_m == pytest.approx(2.0 * math.pi * r, rel=2e-3)
        assert one.needed == pytest.approx(wide / r - 1.0, abs=0.02)


@pytest.mark.parametrize("elongation", [1.5, 0.9, 0.3])
def test_the_cut_of_a_funnel_ends_where_the_stretch_suffices(elongation):
    """By hand: at r = W / (1 + allowed), so at a share of the height."""
    narrow, wide, height = 0.05, 0.10, 0.20
    rubber = replace(RUBBER, elongation=elongation)
    found = peel(standing(funnel(narrow, wide, height)), rubber, T)
    allowed = elongation / 3.0
    exact = height * (wide / (1.0 + allowed) - narrow) / (wide - narrow)
    assert found.cut_m == pytest.approx(exact, abs=0.006)
    assert not found.lets_go
    assert found.cut_line[:, 2].max() == pytest.approx(found.cut_m, abs=0.03)
    assert len(found.teeth) > 2


def test_a_cone_topped_cylinder_needs_no_stretch_and_no_cut():
    """By hand: nothing above the opening is wider than it."""
    pointed = turned([(0.08, 0.0), (0.08, 0.1), (0.0, 0.2)])
    found = peel(standing(pointed), RUBBER, T)
    assert found.needed == pytest.approx(0.0, abs=1e-6)
    assert found.cut_m == 0.0
    assert found.lets_go
    assert len(found.cut_line) == 0


def test_a_soft_rubber_needs_a_shorter_cut_than_a_stiff_one():
    stations = tuple(PeelStation(0.01 * k, 0.3, 1.0 - 0.1 * k) for k in range(10))
    cuts = [cut_height(stations, allowed) for allowed in (0.95, 0.5, 0.2, 0.05)]
    assert cuts == sorted(cuts)
    assert cut_height(stations, 1.2) == 0.0
    assert cut_height(stations, 0.55) == pytest.approx(0.045)


def test_a_closed_piece_is_stood_on_its_lowest_place():
    piece = standing(cylinder(0.05, 0.1))
    assert piece.lid is None
    assert piece.board_m == pytest.approx(cylinder(0.05, 0.1).bounds[0][2])


def test_a_tube_open_at_both_ends_is_closed_above():
    """Law: the lids are flat discs, so the closed face is larger by two of them."""
    bare = measure_face(tube(0.05, 0.1)).area_m2
    piece = standing(tube(0.05, 0.1))
    discs = 2.0 * math.pi * 0.05**2
    assert measure_face(piece.closed).area_m2 == pytest.approx(bare + discs, rel=2e-3)
