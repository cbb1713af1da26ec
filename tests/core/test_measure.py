"""Area, volume, bends and openings against closed forms and a general mesh library."""

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from core.shapes import (
    box,
    cone,
    cylinder,
    half_sphere,
    joined,
    sphere,
    torus,
    tube,
)
from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Mesh, join_corners
from mildhusk.core.geometry.wall_volume import ShellCurve, outer_volume, shell_volume

R, H, T = 0.05, 0.12, 0.1


@pytest.mark.parametrize("wall", [0.002, 0.02, 0.045])
def test_the_volume_of_an_even_wall_is_steiners(wall):
    """Closed form: a shell of a ball, inwards and outwards; thick walls too."""
    curve = ShellCurve(4 * math.pi * R**2, 4 * math.pi * R, 4 * math.pi, R, 4 / 3 * math.pi * R**3)
    inwards = 4 / 3 * math.pi * (R**3 - (R - wall) ** 3)
    outwards = 4 / 3 * math.pi * ((R + wall) ** 3 - R**3)
    assert shell_volume(curve, wall) == pytest.approx(inwards, rel=1e-9)
    assert outer_volume(curve, wall) == pytest.approx(outwards, rel=1e-9)


@pytest.mark.parametrize(
    ("mesh", "area", "volume"),
    [
        # Closed forms of elementary solids.
        (sphere(T), 4 * math.pi * T**2, 4 / 3 * math.pi * T**3),
        (cylinder(R, H), 2 * math.pi * R * (R + H), math.pi * R**2 * H),
        (cone(R, H), math.pi * R * (R + math.hypot(R, H)), math.pi * R**2 * H / 3),
        (torus(0.08, 0.03), 4 * math.pi**2 * 0.08 * 0.03, 2 * math.pi**2 * 0.08 * 0.03**2),
        (box(0.1, 0.2, 0.3), 0.22, 0.006),
    ],
    ids=["sphere", "cylinder", "cone", "torus", "box"],
)
def test_area_and_volume_of_solids_follow_the_closed_forms(mesh, area, volume):
    face = measure_face(mesh)
    assert face.area_m2 == pytest.approx(area, rel=1e-3)
    assert face.volume_m3 == pytest.approx(volume, rel=1e-3)
    assert face.watertight
    assert face.bodies == 1


@pytest.mark.parametrize("open_mesh", [tube(R, H), half_sphere(T)], ids=["tube", "half sphere"])
def test_area_and_bounds_agree_with_the_mesh_library(open_mesh):
    face = measure_face(open_mesh)
    model = trimesh.Trimesh(open_mesh.vertices, open_mesh.faces, process=False)
    assert face.area_m2 == pytest.approx(model.area, rel=1e-12)
    assert [face.lowest_m, face.highest_m] == pytest.approx(model.bounds)
    assert face.watertight is bool(model.is_watertight) is False


@pytest.mark.parametrize(
    ("mesh", "bends"),
    [
        # M is the integral of the mean curvature: 4 pi R on a sphere, pi H on a tube,
        # 2 pi^2 R on a torus (closed forms of differential geometry).
        (sphere(T), 4 * math.pi * T),
        (tube(R, H), math.pi * H),
        (torus(0.08, 0.03), 2 * math.pi**2 * 0.08),
        # A box grown inwards loses a mitre at each of its 12 edges: M = sum of the edges.
        (box(0.1, 0.2, 0.3), 4 * (0.1 + 0.2 + 0.3)),
    ],
    ids=["sphere", "tube", "torus", "box"],
)
def test_mean_curvature_follows_the_closed_forms(mesh, bends):
    assert measure_face(mesh).mean_curvature_m == pytest.approx(bends, rel=1e-3)


@pytest.mark.parametrize(
    ("mesh", "total"),
    [
        # Gauss-Bonnet: 2 pi times the Euler characteristic; half a sphere has half of it.
        (sphere(T), 4 * math.pi),
        (box(1, 1, 1), 4 * math.pi),
        (torus(0.08, 0.03), 0.0),
        (tube(R, H), 0.0),
        (half_sphere(T), 2 * math.pi),
    ],
    ids=["sphere", "box", "torus", "tube", "half sphere"],
)
def test_total_curvature_is_what_gauss_and_bonnet_say(mesh, total):
    assert measure_face(mesh).total_curvature == pytest.approx(total, abs=0.05)


def test_bends_of_a_fine_mesh_agree_with_the_mesh_library():
    # trimesh sums edge length times dihedral angle, the arc rule; on a fine mesh both are one.
    model = trimesh.creation.icosphere(subdivisions=5, radius=T)
    ours = measure_face(joined(model)).mean_curvature_m
    assert ours == pytest.approx(model.integral_mean_curvature, rel=1e-3)


def test_openings_are_found_with_their_size():
    above, below = measure_face(tube(R, H)).openings
    for opening in (above, below):
        assert opening.perimeter_m == pytest.approx(2 * math.pi * R, rel=1e-4)
        assert opening.area_m2 == pytest.approx(math.pi * R**2, rel=1e-3)
    assert {round(o.centre_m[2], 6) for o in (above, below)} == {0.0, H}


def test_an_open_piece_holds_what_flat_lids_close_in():
    assert measure_face(tube(R, H)).volume_m3 == pytest.approx(math.pi * R**2 * H, rel=1e-4)
    assert measure_face(half_sphere(T)).volume_m3 == pytest.approx(2 / 3 * math.pi * T**3, rel=1e-3)


def test_a_file_turned_inside_out_measures_the_same():
    right, wrong = measure_face(cone(R, H)), measure_face(cone(R, H).flipped())
    assert wrong.flipped
    assert not right.flipped
    assert wrong.mean_curvature_m == pytest.approx(right.mean_curvature_m)
    assert wrong.volume_m3 == pytest.approx(right.volume_m3)


def test_separate_bodies_are_counted():
    two = trimesh.util.concatenate(
        [
            trimesh.creation.icosphere(radius=0.05),
            trimesh.creation.icosphere(radius=0.01).apply_translation((0.2, 0, 0)),
        ]
    )
    assert measure_face(joined(two)).bodies == 2


def test_faces_that_disagree_about_outside_are_reported_and_do_not_spoil_the_rest():
    mesh = sphere(T, 40)
    faces = np.array(mesh.faces)
    faces[500] = faces[500][::-1]
    face = measure_face(Mesh(np.array(mesh.vertices), faces))
    assert face.clashing_edges == 3
    assert not face.watertight
    assert face.mean_curvature_m == pytest.approx(4 * math.pi * T, rel=0.02)


def test_an_edge_of_three_faces_is_a_branch():
    mesh = box(0.1, 0.1, 0.1)
    fin = np.array([[mesh.faces[0][0], mesh.faces[0][1], len(mesh.vertices)]])
    corners = np.r_[mesh.vertices, [[0.3, 0.3, 0.3]]]
    face = measure_face(Mesh(corners, np.r_[mesh.faces, fin]))
    assert face.branching_edges == 1
    assert not face.watertight


def test_a_sliver_without_area_is_counted_and_harmless():
    mesh = box(0.1, 0.1, 0.1)
    a, b = mesh.vertices[mesh.faces[0][:2]]
    sliver = np.array([[a, (a + b) / 2, b]])
    face = measure_face(join_corners(np.r_[mesh.vertices[mesh.faces], sliver]))
    assert face.flat_faces == 1
    assert math.isfinite(face.mean_curvature_m)
    assert face.area_m2 == pytest.approx(0.06, rel=1e-5)


def test_a_flattened_shape_has_no_area_and_says_so():
    with pytest.raises(MeshFileError, match="no area"):
        measure_face(join_corners(np.array([[[0.0, 0, 0], [0.1, 0, 0], [0.2, 0, 0]]])))


@pytest.mark.parametrize("scale", [1e-3, 1e3])
def test_a_size_that_no_cast_has_asks_for_the_unit(scale):
    with pytest.raises(MeshFileError, match="Check the unit") as caught:
        measure_face(sphere(T, 20).scaled(scale))
    assert caught.value.field == "units"


@settings(max_examples=25, deadline=None)
@given(
    angles=st.tuples(*[st.floats(-3, 3)] * 3),
    scale=st.floats(0.3, 3.0),
    shift=st.tuples(*[st.floats(-1, 1)] * 3),
)
def test_measures_do_not_depend_on_where_the_piece_lies_and_scale_as_they_must(
    angles, scale, shift
):
    """Law: area grows with the square of the scale, volume with the cube, M with the scale."""
    mesh = box(0.1, 0.15, 0.2)
    turn = trimesh.transformations.euler_matrix(*angles)[:3, :3]
    moved = Mesh(mesh.vertices @ turn.T * scale + np.array(shift), np.array(mesh.faces))
    before, after = measure_face(mesh), measure_face(moved)
    assert after.area_m2 == pytest.approx(before.area_m2 * scale**2, rel=1e-9)
    assert after.volume_m3 == pytest.approx(before.volume_m3 * scale**3, rel=1e-9)
    assert after.mean_curvature_m == pytest.approx(before.mean_curvature_m * scale, rel=1e-9)
    assert after.total_curvature == pytest.approx(before.total_curvature, abs=1e-9)


def test_measures_do_not_depend_on_the_order_of_the_faces():
    mesh = half_sphere(T)
    shuffled = np.array(mesh.faces)
    np.random.default_rng(7).shuffle(shuffled)
    before, after = measure_face(mesh), measure_face(Mesh(np.array(mesh.vertices), shuffled))
    assert after.mean_curvature_m == pytest.approx(before.mean_curvature_m, rel=1e-12)
    assert after.openings[0].perimeter_m == pytest.approx(before.openings[0].perimeter_m)
