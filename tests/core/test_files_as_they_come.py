"""Files as they come: is it hollow, what does the mould touch, what is broken, what is asked.

Exact: what the mould touches of a print is the body it was hollowed from, cut at the same plane.
"""

import functools
import io
from pathlib import Path

import numpy as np
import pytest
import trimesh

from core.corpus import (
    BUST,
    FORMS,
    body_of,
    dish,
    hollow_print,
    posts,
    solid,
    touched,
)
from core.shapes import box, half_sphere, joined, sphere, torus, tube
from core.soft_shapes import bust
from core.test_survey import print_of_a_ball
from mildhusk.core.errors import InputError, MeshFileError
from mildhusk.core.geometry.answer import SurveyFacts
from mildhusk.core.geometry.casting_face import casting_face
from mildhusk.core.geometry.distance_field import MOST_CELLS, USUAL_CELLS, cell_of
from mildhusk.core.geometry.doubts import area_band
from mildhusk.core.geometry.face_kinds import FaceKind
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Mesh, join_corners
from mildhusk.core.geometry.questions import answered, unit_question
from mildhusk.core.geometry.reading import read_shape
from mildhusk.core.geometry.repair import RepairKind, repair
from mildhusk.core.geometry.sections import section, section_length
from mildhusk.core.geometry.skin_terms import HollowVerdict
from mildhusk.core.geometry.survey import survey
from mildhusk.core.geometry.survey_options import SkinChoice, SurveyWish

R = 0.1


@functools.cache
def truth(name):
    """Area of the body's own face above the cut, and the length of its section just above it."""
    field, grid, axis = FORMS[name]
    mesh = repair(touched(field, grid, axis)).mesh
    rim = section_length(section(mesh, np.eye(3)[axis], 1e-6))
    return measure_face(mesh).area_m2, rim


# --- is it hollow at all ---


@pytest.mark.parametrize("name", FORMS)
def test_of_a_hollow_print_what_the_mould_touches_is_its_outer_face(name):
    found = casting_face(hollow_print(*FORMS[name]), SurveyWish())
    area, rim = truth(name)
    face = measure_face(found.face)
    assert found.skin.verdict is HollowVerdict.YES
    assert found.skin.evidence.wall_m == pytest.approx(0.004, rel=0.1)
    assert face.area_m2 == pytest.approx(area, rel=5e-3)
    assert face.openings[0].perimeter_m == pytest.approx(rim, rel=1e-2)
    assert found.left_out_m2 + face.area_m2 == pytest.approx(
        measure_face(hollow_print(*FORMS[name])).area_m2, rel=1e-3
    )


def test_parts_in_the_cavity_of_a_print_are_left_out_with_its_inside():
    found = casting_face(hollow_print(*FORMS["helmet"], posts), SurveyWish())
    area, rim = truth("helmet")
    face = measure_face(found.face)
    assert face.area_m2 == pytest.approx(area, rel=5e-3)
    assert face.openings[0].perimeter_m == pytest.approx(rim, rel=1e-2)


@pytest.mark.parametrize("name", FORMS)
def test_a_solid_with_a_flat_base_loses_nothing(name):
    mesh = solid(*FORMS[name])
    found = casting_face(mesh, SurveyWish())
    assert (found.skin.verdict, found.left_out_m2, found.asks) == (HollowVerdict.NO, 0.0, ())
    assert measure_face(found.face).area_m2 == pytest.approx(measure_face(mesh).area_m2, rel=1e-3)


def test_a_single_sheet_with_an_open_mouth_keeps_its_mouth():
    found = casting_face(touched(*FORMS["roaring head"]), SurveyWish())
    assert (found.skin.verdict, found.left_out_m2, found.asks) == (HollowVerdict.NO, 0.0, ())
    assert measure_face(found.face).area_m2 == pytest.approx(truth("roaring head")[0], rel=1e-3)
    assert len(measure_face(found.face).openings) == 1


def test_a_thick_dish_is_asked_about_and_nothing_is_left_out_meanwhile():
    """A dish and a thick-walled print of a bowl are the same body."""
    mesh = dish(28)
    found = casting_face(mesh, SurveyWish())
    whole = measure_face(mesh).area_m2
    (question,) = found.asks
    areas = {one.id: one.area_m2 for one in question.choices}
    assert (question.id, question.likelier, found.left_out_m2) == ("hollow", "all", 0.0)
    assert areas["all"] == pytest.approx(whole, rel=1e-3)
    # The band holds the other answer.
    assert abs(areas["outer"] - whole) <= found.doubt * whole * 1.001
    assert found.skin.doubtful.any()
    hollow = casting_face(mesh, answered(SurveyWish(), "hollow", "outer"))
    assert hollow.asks == ()
    assert measure_face(hollow.face).area_m2 == pytest.approx(areas["outer"], rel=1e-2)
    assert casting_face(mesh, answered(SurveyWish(), "hollow", "all")).asks == ()


@pytest.mark.parametrize(
    "mesh",
    [
        dish(5),
        torus(0.09, 0.003),
        torus(0.08, 0.03),
        box(0.2, 0.1, 0.005),
        box(0.1, 0.2, 0.3),
        tube(0.05, 0.12),
        half_sphere(R, 40),
    ],
    ids=["shallow dish", "thin ring", "ring", "plate", "box", "tube", "half ball"],
)
def test_rods_plates_and_uneven_dishes_are_no_hollow_prints(mesh):
    found = casting_face(mesh, SurveyWish())
    assert (found.skin.verdict, found.asks) == (HollowVerdict.NO, ())
    assert found.left_out is None


def test_two_loose_sheets_are_two_skins():
    """Exact: the outer half ball, open at its equator."""
    sheets = [half_sphere(r, 40) for r in (R, R - 0.004)]
    both = join_corners(np.concatenate([one.vertices[one.faces] for one in sheets]))
    found = casting_face(both, SurveyWish())
    assert found.skin.verdict is HollowVerdict.YES
    face = measure_face(found.face)
    assert face.area_m2 == pytest.approx(2.0 * np.pi * R * R, rel=5e-3)
    assert face.openings[0].perimeter_m == pytest.approx(2.0 * np.pi * R, rel=5e-3)


def test_what_is_hollow_does_not_depend_on_how_it_lies_or_how_large_it_is():
    mesh = hollow_print(*FORMS["half mask"])
    turn = trimesh.transformations.rotation_matrix(1.1, [0.4, -0.7, 0.2])[:3, :3]
    areas = []
    for scale in (1.0, 1.7):
        turned = Mesh(scale * (mesh.vertices @ turn.T) + 0.3, mesh.faces)
        found = casting_face(turned, SurveyWish())
        assert found.skin.verdict is HollowVerdict.YES
        areas.append(measure_face(found.face).area_m2 / scale**2)
    assert areas == pytest.approx([truth("half mask")[0]] * 2, rel=5e-3)


# --- what is broken ---


GOOD = joined(body_of(bust, BUST)).scaled(1e-3)


def soup(micrometres):
    rng = np.random.default_rng(5)
    corners = GOOD.vertices[GOOD.faces]
    off = micrometres * 1e-6
    return join_corners(corners + rng.uniform(-off, off, corners.shape))


@pytest.mark.parametrize("micrometres", [1, 5, 20, 50, 100])
def test_a_face_soup_is_welded_by_what_its_corners_disagree(micrometres):
    found = casting_face(soup(micrometres), SurveyWish())
    face, good = measure_face(found.face), measure_face(GOOD)
    assert face.openings == ()
    assert face.area_m2 == pytest.approx(good.area_m2, rel=1e-2)
    assert face.volume_m3 == pytest.approx(good.volume_m3, rel=5e-3)


def test_faces_that_touch_nothing_are_refused():
    rng = np.random.default_rng(5)
    corners = GOOD.vertices[GOOD.faces] + rng.uniform(-0.02, 0.02, (len(GOOD.faces), 1, 3))
    with pytest.raises(MeshFileError, match="do not hang together"):
        casting_face(join_corners(corners), SurveyWish())


@pytest.mark.parametrize("high_m", [1e-9, 1e-6, 1e-4, 5e-4])
def test_slivers_on_edges_change_nothing(high_m):
    rng = np.random.default_rng(5)
    bowl = half_sphere(R, 40)
    face, side = rng.integers(0, len(bowl.faces), 500), rng.integers(0, 3, 500)
    a, b = bowl.vertices[bowl.faces[face, side]], bowl.vertices[bowl.faces[face, (side + 1) % 3]]
    tips = (a + b) / 2.0 + rng.normal(size=a.shape) * high_m
    broken = join_corners(np.concatenate([bowl.vertices[bowl.faces], np.stack([a, b, tips], 1)]))
    found, good = measure_face(casting_face(broken, SurveyWish()).face), measure_face(bowl)
    assert found.area_m2 == pytest.approx(good.area_m2, rel=1e-3)
    assert found.volume_m3 == pytest.approx(good.volume_m3, rel=1e-3)
    assert found.openings[0].perimeter_m == pytest.approx(good.openings[0].perimeter_m, rel=1e-2)


def test_corners_on_a_neighbours_edge_open_no_seam():
    rng = np.random.default_rng(5)
    corners = GOOD.vertices[GOOD.faces]
    some = rng.permutation(len(corners))[:200]
    middle = (corners[some, 0] + corners[some, 1]) / 2.0
    halves = [
        np.stack([corners[some, 0], middle, corners[some, 2]], 1),
        np.stack([middle, corners[some, 1], corners[some, 2]], 1),
    ]
    rest = np.delete(corners, some, axis=0)
    found = repair(join_corners(np.concatenate([rest, *halves])))
    assert measure_face(found.mesh).openings == ()
    assert RepairKind.SEAMS in {one.kind for one in found.repairs}


def test_a_corner_five_metres_away_is_moved_back_and_told():
    far = GOOD.vertices.copy()
    far[1234] = [5.0, 0.0, 0.0]
    found = casting_face(Mesh(far, GOOD.faces), SurveyWish())
    assert measure_face(found.face).area_m2 == pytest.approx(measure_face(GOOD).area_m2, rel=1e-3)
    (told,) = [one for one in found.repairs if one.kind is RepairKind.FAR_CORNERS]
    assert (told.count, "moved back" in told.sentence) == (1, True)


def test_a_spike_that_may_be_a_horn_is_asked_about():
    ball = joined(trimesh.creation.icosphere(subdivisions=4, radius=R))
    spiked = ball.vertices.copy()
    spiked[1000] *= 1.5
    found = casting_face(Mesh(spiked, ball.faces), SurveyWish())
    (question,) = found.asks
    assert (question.id, question.likelier) == ("spikes", "keep")
    good = measure_face(ball).area_m2
    areas = {one.id: one.area_m2 for one in question.choices}
    assert areas["move-back"] == pytest.approx(good, rel=1e-3)
    assert areas["keep"] - good <= found.doubt * areas["keep"] + 1e-9
    back = casting_face(Mesh(spiked, ball.faces), answered(SurveyWish(), "spikes", "move-back"))
    assert measure_face(back.face).area_m2 == pytest.approx(good, rel=1e-3)


def test_loose_parts_above_two_per_cent_are_asked_about_and_below_left_out():
    """Exact: so many little balls beside a ball, by their areas."""
    ball = joined(trimesh.creation.icosphere(subdivisions=4, radius=R))
    rng = np.random.default_rng(5)
    little = trimesh.creation.icosphere(subdivisions=1, radius=0.0028)

    def beside(count):
        ways = rng.normal(size=(count, 3))
        ways *= 1.3 * R / np.linalg.norm(ways, axis=1, keepdims=True)
        soups = [ball.vertices[ball.faces], *(little.triangles + way for way in ways)]
        return join_corners(np.concatenate(soups))

    few, many = (casting_face(beside(count), SurveyWish()) for count in (10, 60))
    assert few.asks == ()
    (told,) = [one for one in few.repairs if one.kind is RepairKind.LOOSE_CRUMBS]
    assert told.share == pytest.approx(
        10 * little.area / (measure_face(ball).area_m2 + 10 * little.area), rel=1e-3
    )
    (question,) = many.asks
    assert question.id == "parts"
    assert many.doubt == pytest.approx(
        60 * little.area / (measure_face(ball).area_m2 + 60 * little.area), rel=1e-3
    )


# --- unit, answers, bands ---


def test_a_size_beyond_a_person_asks_for_the_unit():
    question = unit_question(250.0, LengthUnit.INCH)
    assert "6.35 m" in question.text
    assert {one.id for one in question.choices} == {"mm", "cm", "m", "in"}
    assert unit_question(250.0, LengthUnit.MILLIMETRE) is None


def test_an_answer_that_is_none_is_told():
    with pytest.raises(InputError, match="give one of outer, all"):
        answered(SurveyWish(), "hollow", "perhaps")
    with pytest.raises(InputError, match="no question 'colour'"):
        answered(SurveyWish(), "colour", "red")


@pytest.mark.parametrize("subdivisions", [2, 3, 4])
def test_the_band_of_a_faceted_ball_holds_the_ball(subdivisions):
    """Exact: 4 pi R^2 and 4/3 pi (R^3 - (R - t)^3)."""
    ball = joined(trimesh.creation.icosphere(subdivisions=subdivisions, radius=R))
    found = survey(ball, SurveyWish())
    area = 4.0 * np.pi * R * R
    shell = 4.0 / 3.0 * np.pi * (R**3 - (R - 0.003) ** 3)
    assert abs(area / found.measures.area_m2 - 1.0) <= found.bands.area
    assert abs(shell / found.measures.curve.volume(0.003) - 1.0) <= found.bands.shell_volume
    assert abs(2.0 * np.pi * R / found.widest_girth_m - 1.0) <= found.bands.girth
    assert found.bands.area < 4.0 * (1.0 - found.measures.area_m2 / area) + 0.006


def test_a_closed_piece_is_taped_along_its_own_long_axis():
    """Exact: an ellipsoid of revolution lying askew is as wide as the circle of its short axis."""
    ball = sphere(1.0, 60)
    turn = trimesh.transformations.rotation_matrix(0.9, [0.5, 0.8, 0.1])[:3, :3]
    lying = Mesh((ball.vertices * [0.07, 0.07, 0.13]) @ turn.T, ball.faces)
    found = survey(lying, SurveyWish())
    assert found.widest_girth_m == pytest.approx(2.0 * np.pi * 0.07, rel=5e-3)


def test_eyes_and_the_main_opening_have_names():
    head = trimesh.creation.icosphere(subdivisions=5, radius=R)
    corners = joined(head)
    middle = corners.vertices[corners.faces].mean(axis=1)
    gone = middle[:, 2] < -0.06
    for x in (-0.035, 0.035):
        gone |= np.linalg.norm(middle - [x, 0.09, 0.02], axis=1) < 0.018
    found = survey(Mesh(corners.vertices, corners.faces[~gone]), SurveyWish())
    names = [one.name for one in found.measures.openings]
    assert names[0] == "main opening"
    assert set(names[1:]) == {"left eye", "right eye"}
    left = next(one for one in found.measures.openings if one.name == "left eye")
    # Above is +z, the eyes look to +y: the left one of who wears it is at -x.
    assert left.centre_m[0] < 0.0
    closed = survey(Mesh(corners.vertices, corners.faces[~gone]), SurveyWish(close_under_m=0.05))
    assert [one.name for one in closed.measures.openings] == ["main opening"]


def test_what_was_found_is_told_with_its_area():
    facts = SurveyFacts.of(survey(hollow_print(*FORMS["half mask"]), SurveyWish()))
    assert facts.hollow.left_out_m2 > 0.0
    assert f"{facts.hollow.left_out_m2 * 1e4:,.0f} cm²" in facts.skin_sentence
    everything = casting_face(hollow_print(*FORMS["half mask"]), SurveyWish(skin=SkinChoice.ALL))
    assert (everything.left_out, everything.asks) == (None, ())


# --- surfaces that nobody here made ---

REGISTRY = Path(__file__).parents[1] / "registry"


@pytest.mark.parametrize("name", ["head.stl", "dome-one.stl", "dome-two.stl", "face.obj"])
def test_open_surfaces_measure_as_the_mesh_library_measures_them(name):
    """Where they are clean: area and volume within half a per cent of the library's."""
    content = (REGISTRY / name).read_bytes()
    unit = 1e-2 if name == "face.obj" else 1e-3
    library = trimesh.load_mesh(io.BytesIO(content), file_type=name[-3:])
    found = casting_face(read_shape(content, name).mesh.scaled(unit), SurveyWish())
    face = measure_face(found.face)
    assert (found.skin.verdict, found.asks) == (HollowVerdict.NO, ())
    assert face.area_m2 == pytest.approx(library.area * unit**2, rel=5e-3)
    if library.is_watertight:
        assert face.volume_m3 == pytest.approx(library.volume * unit**3, rel=5e-3)
    else:
        rim = sum(one.length(library.vertices) for one in library.outline().entities)
        assert face.openings[0].perimeter_m == pytest.approx(rim * unit, rel=5e-3)


def test_a_closed_head_is_as_wide_as_its_widest_level_section():
    """The library's own sections square to the head's height, by their convex hulls."""
    content = (REGISTRY / "head.stl").read_bytes()
    library = trimesh.load_mesh(io.BytesIO(content), file_type="stl")
    found = survey(read_shape(content, "head.stl").mesh.scaled(1e-3), SurveyWish())
    low, high = library.bounds[:, 2]
    widest = 0.0
    for at in np.linspace(low, high, 40)[1:-1]:
        cut = library.section(plane_origin=[0, 0, at], plane_normal=[0, 0, 1])
        hull = trimesh.path.polygons.Polygon(cut.vertices[:, :2]).convex_hull
        widest = max(widest, hull.length)
    assert found.widest_girth_m == pytest.approx(widest * 1e-3, rel=1e-2)


# --- whatever happens to a file ---


def _flip(rng, corners):
    some = rng.random(len(corners)) < rng.uniform(0.0, 0.3)
    return np.where(some[:, None, None], corners[:, ::-1], corners)


def _lose(rng, corners):
    return corners[rng.random(len(corners)) > rng.uniform(0.0, 0.02)]


def _double(rng, corners):
    return np.concatenate([corners, corners[rng.random(len(corners)) < 0.2]])


def _loosen(rng, corners):
    off = 10.0 ** rng.uniform(-6.0, -4.0)
    return corners + rng.uniform(-off, off, corners.shape)


def _sliver(rng, corners):
    face, side = rng.integers(0, len(corners), 60), rng.integers(0, 3, 60)
    a, b = corners[face, side], corners[face, (side + 1) % 3]
    tips = a + rng.uniform(0.1, 0.9, (60, 1)) * (b - a)
    tips = tips + rng.normal(size=a.shape) * 10.0 ** rng.uniform(-9.0, -4.0)
    return np.concatenate([corners, np.stack([a, b, tips], 1)])


def _pull(rng, corners):
    where = corners[rng.integers(len(corners)), 0]
    moved = where * rng.uniform(1.3, 30.0)
    return np.where((corners == where).all(axis=2)[:, :, None], moved, corners)


def _sprinkle(rng, corners):
    little = trimesh.creation.icosphere(subdivisions=0, radius=rng.uniform(0.0005, 0.004))
    ways = rng.normal(size=(rng.integers(1, 40), 3))
    ways *= 0.13 / np.linalg.norm(ways, axis=1, keepdims=True)
    return np.concatenate([corners, *(little.triangles + way for way in ways)])


def _divide(rng, corners):
    some = rng.random(len(corners)) < 0.1
    a, b, c = (corners[some, k] for k in range(3))
    middle = (a + b) / 2.0
    return np.concatenate(
        [corners[~some], np.stack([a, middle, c], 1), np.stack([middle, b, c], 1)]
    )


DAMAGES = (_flip, _lose, _double, _loosen, _sliver, _pull, _sprinkle, _divide)
BODIES = {
    "ball": joined(trimesh.creation.icosphere(subdivisions=3, radius=R)),
    "bowl": half_sphere(R, 14),
    "egg": Mesh(sphere(1.0, 24).vertices * [0.07, 0.09, 0.12], sphere(1.0, 24).faces),
    "ring": joined(trimesh.creation.torus(0.08, 0.03, major_sections=40, minor_sections=20)),
}


@pytest.mark.parametrize("name", BODIES)
def test_a_damaged_file_is_measured_within_its_band_or_asked_about_or_refused(name):
    """125 bodies each, with one to four damages at random: never a silent miss."""
    body = BODIES[name]
    good = measure_face(body)
    told = {"measured": 0, "asked": 0, "refused": 0}
    for seed in range(125):
        rng = np.random.default_rng(seed)
        corners = body.vertices[body.faces]
        some = rng.permutation(len(DAMAGES))[: rng.integers(1, 5)]
        for at in sorted(some.tolist()):
            corners = DAMAGES[at](rng, corners)
        try:
            found = casting_face(join_corners(corners), SurveyWish())
        except MeshFileError:
            told["refused"] += 1
            continue
        face = measure_face(found.face)
        off = abs(good.area_m2 / face.area_m2 - 1.0)
        told["asked" if found.asks else "measured"] += 1
        what = [DAMAGES[at].__name__ for at in sorted(some.tolist())]
        assert off <= area_band(found, face), (seed, what, off)
    # Most of it can be mended: refusing everything is no answer.
    assert told["measured"] > 60, told


@pytest.mark.parametrize("size_m", [0.1, 0.9, 2.0, 6.35, 19.0])
def test_cells_are_bounded_whatever_the_size(size_m):
    """By the budget: never more cells round a piece than are kept in some 200 MB."""
    ball = trimesh.creation.icosphere(subdivisions=2, radius=size_m / 2.0)
    mesh = joined(ball)
    cells = float(np.prod(mesh.extents)) / cell_of(mesh, USUAL_CELLS) ** 3
    assert cells <= MOST_CELLS * 1.001


@pytest.mark.parametrize("wall_m", [0.002, 0.003, 0.006])
def test_the_wall_of_a_print_is_that_of_the_body_it_was_hollowed_from(wall_m):
    """Exact: of half a ball, half of the ball's shell, whatever the print's own wall."""
    found = survey(print_of_a_ball(np.pi / 2.0), SurveyWish())
    assert found.casting.skin.verdict is HollowVerdict.YES
    exact = 2.0 / 3.0 * np.pi * (R**3 - (R - wall_m) ** 3)
    assert found.measures.curve.volume(wall_m) == pytest.approx(exact, rel=1.5e-2)


def test_small_holes_stay_open_where_somebody_says_so():
    """One press beside what was repaired: the faces that are missing stay missing."""
    holed = Mesh(GOOD.vertices, np.delete(GOOD.faces, [100, 2000, 5000], axis=0))
    mended, as_it_came = (
        casting_face(holed, SurveyWish(mend_holes=mend)) for mend in (True, False)
    )
    assert measure_face(mended.face).openings == ()
    assert (mended.kinds == FaceKind.REPAIRED).sum() == 3
    assert len(measure_face(as_it_came.face).openings) == 3
