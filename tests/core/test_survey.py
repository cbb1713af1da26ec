"""Real files: the outer skin, repairs, V(t), girths, against closed forms and general libraries."""

import math

import numpy as np
import pytest
import trimesh
from scipy.special import elliprg

from core.shapes import box, cone, cylinder, half_sphere, joined, sphere, torus, tube, turned
from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.distance_field import volume_curve
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Mesh, join_corners
from mildhusk.core.geometry.narrow import narrow_places
from mildhusk.core.geometry.nearest import nearest_on, sample_surface
from mildhusk.core.geometry.openings import lids, rims
from mildhusk.core.geometry.repair import RepairKind, repair
from mildhusk.core.geometry.sections import girths, section, section_length, taped
from mildhusk.core.geometry.skin import find_skin
from mildhusk.core.geometry.skin_terms import SkinMethod
from mildhusk.core.geometry.survey import survey
from mildhusk.core.geometry.survey_options import SkinChoice, SurveyWish

R, WALL = 0.1, 0.004
UP = np.array([0.0, 0.0, 1.0])
WALLS = (0.002, 0.003, 0.004, 0.006, 0.010)


def askew(mesh):
    """Turned so that no side lies along the grid."""
    turn = trimesh.transformations.rotation_matrix(0.7, [0.3, 0.9, 0.4])[:3, :3]
    return Mesh(mesh.vertices @ turn.T, mesh.faces)


def curve_of(mesh):
    openings = rims(mesh)
    return volume_curve(mesh, lids(mesh, openings))


def ellipsoid(a, b, c):
    mesh = sphere(1.0, 120)
    return Mesh(mesh.vertices * [a, b, c], mesh.faces)


def ellipsoid_area(a, b, c):
    """Carlson's symmetric form: 4 pi R_G((ab)^2, (ac)^2, (bc)^2) (DLMF 19.33.1)."""
    return 4.0 * math.pi * elliprg((a * b) ** 2, (a * c) ** 2, (b * c) ** 2)


def box_shell(a, b, c):
    """Exact: the box less the box that is left inside; nothing is left once it is solid."""
    return lambda t: a * b * c - np.prod([max(0.0, side - 2.0 * t) for side in (a, b, c)])


def cone_shell(r, h):
    """Exact: the inside of a cone's wall is the same cone made smaller about its inscribed ball."""
    inscribed = r * h / (r + math.hypot(r, h))
    return lambda t: math.pi * r * r * h / 3.0 * (1.0 - max(0.0, 1.0 - t / inscribed) ** 3)


def rod_shell(r, h):
    return lambda t: math.pi * (r * r * h - max(0.0, r - t) ** 2 * max(0.0, h - 2.0 * t))


def ball_shell(r):
    return lambda t: 4.0 / 3.0 * math.pi * (r**3 - max(0.0, r - t) ** 3)


@pytest.mark.parametrize(
    ("mesh", "exact"),
    [
        (sphere(R, 120), ball_shell(R)),
        (askew(cylinder(0.05, 0.12)), rod_shell(0.05, 0.12)),
        (askew(cone(0.05, 0.12)), cone_shell(0.05, 0.12)),
        (torus(0.08, 0.03), lambda t: 2 * math.pi**2 * 0.08 * (0.03**2 - (0.03 - t) ** 2)),
        (askew(box(0.1, 0.12, 0.15)), box_shell(0.1, 0.12, 0.15)),
    ],
    ids=["sphere", "cylinder", "cone", "torus", "box"],
)
def test_shell_volume_follows_the_closed_forms_before_anything_fills(mesh, exact):
    curve = curve_of(mesh)
    for wall in WALLS:
        assert curve.volume(wall) == pytest.approx(exact(wall), rel=5e-3), wall


@pytest.mark.parametrize(
    ("mesh", "exact"),
    [
        (askew(box(0.2, 0.1, 0.006)), box_shell(0.2, 0.1, 0.006)),
        (box(0.2, 0.1, 0.008), box_shell(0.2, 0.1, 0.008)),
        (askew(cylinder(0.004, 0.1)), rod_shell(0.004, 0.1)),
        (sphere(0.009, 80), ball_shell(0.009)),
    ],
    ids=["wing askew", "wing", "rod", "ball"],
)
def test_shell_volume_follows_the_closed_forms_while_it_fills_solid(mesh, exact):
    """Two parallel plates joined (a wing), and round things thinner than two walls."""
    curve = curve_of(mesh)
    for wall in WALLS:
        assert curve.volume(wall) == pytest.approx(exact(wall), rel=1e-2), wall


def test_an_open_piece_grows_no_wall_on_its_openings():
    """Exact: half a ball open below, its shell cut off flat: half the ball's shell."""
    curve = curve_of(half_sphere(R))
    for wall in WALLS:
        # The wall ends at the rim: the ring of the lid within reach is no part of it.
        assert curve.volume(wall) == pytest.approx(ball_shell(R)(wall) / 2.0, rel=5e-3)


def test_area_of_an_ellipsoid_is_carlsons_integral():
    found = survey(ellipsoid(0.09, 0.07, 0.11), SurveyWish())
    assert found.measures.area_m2 == pytest.approx(ellipsoid_area(0.09, 0.07, 0.11), rel=1e-3)


@pytest.mark.parametrize("seed", range(3))
def test_distances_agree_with_the_mesh_librarys_signed_distance(seed):
    """Within one cell of the grid; the library's sign is the same, inside positive."""
    rng = np.random.default_rng(seed)
    model = trimesh.creation.icosphere(subdivisions=3, radius=0.05)
    model.vertices *= 1.0 + 0.15 * np.sin(model.vertices @ rng.normal(size=(3, 1)) * 60.0)
    mesh = joined(model)
    surface = sample_surface((mesh,), 0.002, 0.006)
    points = rng.uniform(-0.05, 0.05, (300, 3))
    ours, _ = nearest_on(surface, points)
    theirs = trimesh.proximity.signed_distance(
        trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False), points
    )
    near = np.abs(theirs) < 0.012
    assert near.sum() > 50
    assert np.abs(ours - theirs)[near].max() < 0.002


@pytest.mark.parametrize("seed", range(10))
def test_sections_areas_and_volumes_of_random_bodies_equal_the_librarys(seed):
    rng = np.random.default_rng(seed)
    model = trimesh.creation.icosphere(subdivisions=3, radius=0.06)
    wave = rng.normal(size=(3, 1)) * 50.0
    model.vertices *= 1.0 + 0.2 * np.sin(model.vertices @ wave)
    mesh = joined(model)
    library = trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False)
    face = measure_face(mesh)
    assert face.area_m2 == pytest.approx(library.area, rel=1e-9)
    assert face.volume_m3 == pytest.approx(library.volume, rel=1e-9)
    for at in rng.uniform(-0.03, 0.03, 5):
        ours = section(mesh, UP, at)
        theirs = library.section(plane_origin=[0, 0, at], plane_normal=[0, 0, 1])
        assert section_length(ours) == pytest.approx(theirs.length, rel=1e-5)
        hull = trimesh.path.polygons.Polygon(theirs.vertices[:, :2]).convex_hull
        assert taped(ours, UP) >= hull.length * 0.999


def test_girths_of_a_ball_are_circles():
    """Exact: 2 pi sqrt(R^2 - z^2), by a tape on facets."""
    for one in girths(sphere(R, 120), UP, 12):
        exact = 2.0 * math.pi * math.sqrt(R * R - (one.height_m - R) ** 2)
        assert one.girth_m == pytest.approx(exact, rel=2e-3)


def test_a_tape_spans_hollows():
    star = np.array([0.1, 0.05] * 6)
    profile = [(1.0, 0.0), (1.0, 0.1)]
    mesh = turned(profile, 12)
    scaled = mesh.vertices.copy()
    angle = np.round(np.arctan2(scaled[:, 1], scaled[:, 0]) / (np.pi / 6)).astype(int) % 12
    scaled[:, :2] *= star[angle][:, None]
    cut = section(Mesh(scaled, mesh.faces), UP, 0.05)
    # Exact: a regular hexagon with corners at 0.1.
    assert taped(cut, UP) == pytest.approx(0.6)
    assert section_length(cut) > 0.7


# --- the outer skin ---


def print_of_a_ball(opening_half_angle, sections=120):
    """A hollow print, 4 mm thick, open below, as one turned profile of both skins and the rim."""
    angle = np.linspace(opening_half_angle, np.pi, 60)
    outer = [(R * math.sin(a), -R * math.cos(a)) for a in angle]
    inner = [((R - WALL) * math.sin(a), -(R - WALL) * math.cos(a)) for a in angle]
    profile = [*inner[::-1], *outer]
    profile[0], profile[-1] = (0.0, R - WALL), (0.0, R)
    return turned(profile, sections)


def two_balls():
    outer, inner = (trimesh.creation.icosphere(subdivisions=4, radius=r) for r in (R, R - WALL))
    inner.invert()
    return outer, inner


def test_of_a_closed_print_the_outer_skin_alone_is_cast():
    both = joined(trimesh.util.concatenate(list(two_balls())))
    found = survey(both, SurveyWish())
    assert found.casting.skin.method is SkinMethod.OUTER
    assert found.casting.skin.wall_m == pytest.approx(WALL, rel=0.02)
    assert found.measures.area_m2 == pytest.approx(4.0 * math.pi * R * R, rel=5e-3)
    everything = survey(both, SurveyWish(skin=SkinChoice.ALL))
    assert everything.measures.area_m2 > 1.8 * found.measures.area_m2


def test_of_a_print_with_a_round_opening_rim_and_inside_are_left_out():
    """Exact: a zone of the ball with an opening of 60 degrees, 2 pi R^2 (1 + cos 30)."""
    half = math.radians(30.0)
    found = survey(print_of_a_ball(half), SurveyWish())
    exact = 2.0 * math.pi * R * R * (1.0 + math.cos(half))
    assert found.measures.area_m2 == pytest.approx(exact, rel=5e-3)
    assert found.opening_girth_m == pytest.approx(2.0 * math.pi * R * math.sin(half), rel=5e-3)
    assert found.widest_girth_m == pytest.approx(2.0 * math.pi * R, rel=5e-3)
    assert len(found.measures.openings) == 1


def test_of_a_print_with_two_eyes_the_outer_skin_alone_is_cast():
    outer, inner = two_balls()
    inner.invert()
    eyes = [trimesh.creation.cylinder(0.018, 0.3) for _ in range(2)]
    for eye, x in zip(eyes, (-0.035, 0.035), strict=True):
        eye.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, [1, 0, 0]))
        eye.apply_translation([x, 0.15, 0.02])
    hollow = trimesh.boolean.difference([trimesh.boolean.difference([outer, inner]), *eyes])
    skin = find_skin(joined(hollow))
    # The library's own outer ball with the same holes, without the walls of the holes.
    pierced = trimesh.boolean.difference([outer, *eyes])
    on_ball = (np.linalg.norm(pierced.triangles, axis=2) > R * 0.998).all(axis=1)
    mesh = joined(hollow)
    kept = measure_face(Mesh(mesh.vertices, mesh.faces[skin.kept]))
    assert kept.area_m2 == pytest.approx(pierced.area_faces[on_ball].sum(), rel=5e-3)


@pytest.mark.parametrize(
    "mesh",
    [box(0.1, 0.2, 0.3), sphere(R, 60), half_sphere(R, 40), torus(0.08, 0.03), tube(0.05, 0.12)],
    ids=["box", "ball", "half ball", "torus", "tube"],
)
def test_what_is_not_hollow_keeps_all_its_faces(mesh):
    assert find_skin(mesh).method is SkinMethod.ALL


# --- broken on purpose ---

GOOD = joined(trimesh.creation.icosphere(subdivisions=4, radius=R))
RNG = np.random.default_rng(7)


def _flipped():
    faces = GOOD.faces.copy()
    some = RNG.permutation(len(faces))[: len(faces) // 20]
    faces[some] = faces[some][:, ::-1]
    return Mesh(GOOD.vertices, faces)


def _with_gaps():
    keep = np.ones(len(GOOD.faces), bool)
    keep[RNG.permutation(len(keep))[: len(keep) // 50]] = False
    return Mesh(GOOD.vertices, GOOD.faces[keep])


def _with_crumbs():
    soup = [GOOD.vertices[GOOD.faces]]
    for at in RNG.normal(size=(20, 3)):
        crumb = trimesh.creation.icosphere(subdivisions=0, radius=0.0008)
        soup.append(crumb.triangles + 1.2 * R * at / np.linalg.norm(at))
    return join_corners(np.concatenate(soup))


def _jittered():
    soup = GOOD.vertices[GOOD.faces]
    return join_corners(soup + RNG.uniform(-1e-6, 1e-6, soup.shape))


def _doubled():
    return Mesh(GOOD.vertices, np.concatenate([GOOD.faces, GOOD.faces[::7]]))


BROKEN = {
    "flipped": (_flipped, RepairKind.FLIPPED_FACES),
    "gaps": (_with_gaps, RepairKind.TINY_HOLES),
    "doubled": (_doubled, RepairKind.DUPLICATE_FACES),
    "crumbs": (_with_crumbs, RepairKind.LOOSE_CRUMBS),
    "jittered": (_jittered, RepairKind.MERGED_POINTS),
}


def _repaired(mesh):
    found = repair(mesh)
    return found.mesh, found.repairs


@pytest.mark.parametrize("how", BROKEN)
def test_what_was_broken_on_purpose_measures_as_the_good_one(how):
    make, kind = BROKEN[how]
    mended, repairs = _repaired(make())
    good, found = measure_face(GOOD), measure_face(mended)
    assert found.area_m2 == pytest.approx(good.area_m2, rel=1e-2)
    assert found.volume_m3 == pytest.approx(good.volume_m3, rel=1e-2)
    assert found.clashing_edges == 0
    assert kind in {one.kind for one in repairs}
    assert all(one.count > 0 and one.sentence for one in repairs)


def test_everything_broken_at_once_still_measures():
    broken = [_flipped(), _with_crumbs()]
    soup = np.concatenate([mesh.vertices[mesh.faces] for mesh in broken])
    mended, _ = _repaired(join_corners(soup))
    assert measure_face(mended).area_m2 == pytest.approx(measure_face(GOOD).area_m2, rel=1e-2)


def test_a_good_file_is_left_alone():
    mended, repairs = _repaired(GOOD)
    assert repairs == ()
    assert mended.faces is GOOD.faces


def test_metres_read_as_millimetres_are_refused():
    with pytest.raises(MeshFileError, match="Check the unit of the file"):
        survey(GOOD.scaled(1e-3), SurveyWish())


# --- narrow places, rim plane, skirt ---


def test_a_wing_is_narrow_all_over_and_a_ball_nowhere():
    (place,), faces = narrow_places(box(0.2, 0.1, 0.005), 0.003)
    assert place.width_m == pytest.approx(0.005, rel=0.02)
    assert place.volume_m3 == pytest.approx(0.2 * 0.1 * 0.005, rel=0.05)
    assert faces.sum() == 4
    assert narrow_places(sphere(R, 60), 0.003)[0] == ()


def test_a_cut_at_a_rim_plane_leaves_what_is_above():
    """Exact: a ball cut at z = -R/2 keeps a zone of 2 pi R (3/2 R) (Archimedes)."""
    found = survey(sphere(R, 120), SurveyWish(rim_z_m=-R / 2.0))
    assert found.measures.area_m2 == pytest.approx(3.0 * math.pi * R * R, rel=2e-3)
    assert found.opening_girth_m == pytest.approx(math.pi * R * math.sqrt(3.0), rel=2e-3)


def test_a_skirt_is_cast_and_then_wasted():
    """Exact: a skirt on a round rim is a tube, 2 pi R s."""
    bare, skirted = (
        survey(half_sphere(R, 60), SurveyWish(skirt_m=s)).measures for s in (0.0, 0.05)
    )
    assert skirted.waste_m2 == pytest.approx(2.0 * math.pi * R * 0.05, rel=2e-3)
    assert skirted.area_m2 == pytest.approx(bare.area_m2 + skirted.waste_m2, rel=1e-6)
    assert skirted.waste_share == pytest.approx(1.0 / 3.0, rel=5e-3)
    assert bare.waste_m2 == 0.0


@pytest.mark.parametrize(
    ("wish", "said"),
    [
        (SurveyWish(rim_z_m=0.2), "above the piece"),
        (SurveyWish(skirt_m=2.0), "The skirt is 2,000 mm"),
        (SurveyWish(skirt_m=0.05), "no rim to draw a skirt from"),
    ],
)
def test_a_rim_or_skirt_that_does_not_fit_is_told(wish, said):
    with pytest.raises(MeshFileError, match=said):
        survey(GOOD, wish)


def test_a_shape_measured_again_has_its_curve_at_once_and_another_has_its_own():
    """Identity: the same numbers give the very same curve; a corner moved gives another."""
    ball = sphere(0.05, 24)
    curve = volume_curve(ball, None)
    assert volume_curve(Mesh(ball.vertices.copy(), ball.faces.copy()), None) is curve
    moved = ball.vertices.copy()
    moved[0] *= 1.1
    other = volume_curve(Mesh(moved, ball.faces), None)
    assert other is not curve
    assert other.volumes_m3[-1] > curve.volumes_m3[-1]
