"""Marks on the face, closed holes, ledges: each changes area and waste as its form says."""

import math

import numpy as np
import pytest

from core.shapes import box, half_sphere, sphere, tube
from core.test_survey import print_of_a_ball
from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.cutting import finer_near, split_along
from mildhusk.core.geometry.level import level_curve, liquid_surface, rim_test
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.openings import open_mould, rims
from mildhusk.core.geometry.survey import survey
from mildhusk.core.geometry.survey_options import FaceRole, Mark, SkinChoice, SurveyWish

R = 0.1


def cap(chord):
    """Area of the cap of a ball within a chord of its pole: pi c^2, whatever the ball (exact)."""
    return math.pi * chord**2


def test_cutting_changes_neither_area_nor_form():
    """Law: cut faces cover what they were cut from; no gap, no fold, the same Euler number."""
    ball = sphere(R, 40)
    height = ball.vertices @ np.array([0.6, 0.0, 0.8]) - 0.0213
    cut, parent, above = split_along(ball, height)
    before, after = measure_face(ball), measure_face(cut)
    assert after.watertight
    assert after.area_m2 == pytest.approx(before.area_m2, rel=1e-12)
    assert after.total_curvature == pytest.approx(4.0 * math.pi, rel=1e-9)
    assert set(parent) == set(range(len(ball.faces)))
    middle = cut.vertices[cut.faces].mean(axis=1) @ np.array([0.6, 0.0, 0.8])
    assert np.array_equal(above, middle > 0.0213)


def test_a_face_round_the_place_is_made_finer_without_gaps():
    plate = box(0.3, 0.2, 0.05)
    fine, _ = finer_near(plate, np.array([0.05, 0.02, 0.025]), 0.02, 0.002)
    after = measure_face(fine)
    assert after.watertight
    assert after.area_m2 == pytest.approx(measure_face(plate).area_m2, rel=1e-12)
    assert len(fine.faces) > 1000


def test_a_cut_out_is_cast_and_then_wasted():
    """Exact: it adds nothing to the area and is waste by the area of its cap."""
    eye = Mark((R, 0.0, 0.0), 0.03, FaceRole.CUT_AWAY)
    found = survey(sphere(R, 100), SurveyWish(marks=(eye,)))
    assert found.measures.waste_m2 == pytest.approx(cap(0.03), rel=5e-3)
    assert found.measures.area_m2 == pytest.approx(4.0 * math.pi * R * R, rel=2e-3)
    assert found.measures.openings == ()


def test_a_place_left_out_is_an_opening():
    """Exact: its edge is a circle of radius c sqrt(1 - (c / 2R)^2)."""
    chord = 0.06
    gone = Mark((0.0, 0.0, -R), chord, FaceRole.LEFT_OUT)
    found = survey(sphere(R, 100), SurveyWish(marks=(gone,)))
    assert found.measures.area_m2 == pytest.approx(4.0 * math.pi * R * R - cap(chord), rel=2e-3)
    girth = 2.0 * math.pi * chord * math.sqrt(1.0 - (chord / (2.0 * R)) ** 2)
    assert found.opening_girth_m == pytest.approx(girth, rel=3e-3)
    assert found.casting.left_out is not None
    assert found.measures.waste_m2 == 0.0


def test_the_later_of_two_marks_wins_and_a_counted_one_takes_back():
    place = ((0.0, 0.0, R), 0.04)
    marks = (Mark(*place, FaceRole.LEFT_OUT), Mark(*place, FaceRole.COUNTED))
    found = survey(sphere(R, 60), SurveyWish(marks=marks))
    assert found.measures.watertight
    assert found.casting.left_out is None


def test_a_mark_on_one_skin_leaves_the_other_alone():
    """A print's inner skin lies 4 mm behind; what is not joined to the mark's middle stays."""
    both = print_of_a_ball(math.radians(30.0), 60)
    mark = Mark((0.0, 0.0, R), 0.03, FaceRole.LEFT_OUT)
    found = survey(both, SurveyWish(skin=SkinChoice.ALL, marks=(mark,)))
    whole = measure_face(both).area_m2
    assert whole - found.measures.area_m2 == pytest.approx(cap(0.03), rel=1e-2)


@pytest.mark.parametrize(
    ("marks", "said"),
    [
        ((Mark((0.5, 0.0, 0.0), 0.02, FaceRole.CUT_AWAY),), "Mark 1 touches no face"),
        ((Mark((0.0, 0.0, R), 0.5, FaceRole.LEFT_OUT),), "leave no casting face"),
    ],
)
def test_marks_that_mark_nothing_or_all_are_told(marks, said):
    with pytest.raises(MeshFileError, match=said):
        survey(sphere(R, 40), SurveyWish(marks=marks))


def test_a_mark_without_a_size_is_refused():
    with pytest.raises(MeshFileError, match="The radius of a mark is 0 mm; give 1 mm to 500 mm"):
        Mark((0.0, 0.0, 0.0), 0.0, FaceRole.CUT_AWAY)
    with pytest.raises(MeshFileError, match="stands nowhere"):
        Mark((math.nan, 0.0, 0.0), 0.02, FaceRole.CUT_AWAY)


def test_holes_closed_are_cast_over_and_wasted():
    """A bowl with a hole in its bottom: the lid is flat, so its area is the hole's."""
    chord = 0.03
    bowl = half_sphere(R, 60)
    bottom = bowl.vertices[np.abs(bowl.vertices[:, 2]).argmax()]
    hole = Mark(tuple(bottom), chord, FaceRole.LEFT_OUT)
    wishes = (SurveyWish(marks=(hole,), close_holes=closed) for closed in (False, True))
    opened, closed = (survey(bowl, wish).measures for wish in wishes)
    flat = math.pi * (chord * math.sqrt(1.0 - (chord / (2.0 * R)) ** 2)) ** 2
    assert len(opened.openings) == 2
    assert len(closed.openings) == 1
    assert closed.waste_m2 == pytest.approx(flat, rel=1e-2)
    assert closed.area_m2 == pytest.approx(opened.area_m2 + flat, rel=1e-4)


# --- ledges, levels, centre of mass ---


def bowl():
    face = half_sphere(R, 80)
    mould = open_mould(face, rims(face))
    assert mould is not None
    return mould


def test_a_ledge_on_a_round_rim_is_a_flat_ring():
    """Exact: pi (R^2 - (R - w)^2), and the opening is left 2 pi (R - w) round."""
    found = survey(half_sphere(R, 80), SurveyWish(ledge_m=0.02))
    ring = math.pi * (R**2 - (R - 0.02) ** 2)
    assert found.measures.waste_m2 == pytest.approx(ring, rel=5e-3)
    assert found.opening_girth_m == pytest.approx(2.0 * math.pi * (R - 0.02), rel=5e-3)


def test_skirt_and_ledge_together_are_both_waste():
    found = survey(half_sphere(R, 80), SurveyWish(skirt_m=0.05, ledge_m=0.02))
    tube_area = 2.0 * math.pi * R * 0.05
    ring = math.pi * (R**2 - (R - 0.02) ** 2)
    assert found.measures.waste_m2 == pytest.approx(tube_area + ring, rel=5e-3)


def test_a_ledge_that_closes_the_opening_is_refused():
    with pytest.raises(MeshFileError, match="A ledge of 120 mm closes or divides the opening"):
        survey(half_sphere(R, 40), SurveyWish(ledge_m=0.12))


def test_a_ledge_holds_back_what_would_spill():
    """Law: just less than the ledge proposed spills, the proposed one does not."""
    mould, volume, tilt = bowl(), 0.8 * 2.0 / 3.0 * math.pi * R**3, 0.25
    tested = rim_test(mould, volume, tilt, 0.0)
    assert tested.spills
    assert 0.0 < tested.ledge_m < R
    assert not rim_test(mould.with_ledge(1.01 * tested.ledge_m), volume, tilt, 0.0).spills
    assert rim_test(mould.with_ledge(0.95 * tested.ledge_m), volume, tilt, 0.0).spills


def test_the_levels_of_a_bowl_are_those_of_a_spherical_cap():
    """Exact: V(h) = pi h^2 (3R - h) / 3."""
    levels, volumes = level_curve(bowl(), 0.0, 0.0).T
    exact = math.pi * levels**2 * (3.0 * R - levels) / 3.0
    assert volumes == pytest.approx(exact, rel=8e-3, abs=1e-9)
    assert np.all(np.diff(volumes) > 0.0)


def test_the_top_of_the_liquid_is_flat_and_as_wide_as_the_bowl_there():
    """Exact: a circle of area pi h (2R - h) at depth h."""
    mould = bowl()
    tested = rim_test(mould, 0.0006, 0.0, 0.0)
    triangles = liquid_surface(mould, tested)
    doubled = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    area = np.linalg.norm(doubled, axis=1).sum() / 2.0
    depth = tested.level_m
    assert area == pytest.approx(math.pi * depth * (2.0 * R - depth), rel=1e-2)
    assert triangles.reshape(-1, 3) @ np.array(tested.up) == pytest.approx(tested.level_along_m)


def test_the_husk_of_a_bowl_has_its_centre_where_the_formula_says():
    """Exact: half a thick ball balances 3/8 (R^4 - r^4) / (R^3 - r^3) from its middle."""
    curve = survey(half_sphere(R, 80), SurveyWish()).measures.curve
    assert curve is not None
    for wall in (0.002, 0.003, 0.006):
        r = R - wall
        exact = 3.0 / 8.0 * (R**4 - r**4) / (R**3 - r**3)
        centre = curve.centre(wall)
        assert centre is not None
        assert abs(centre[2]) == pytest.approx(exact, rel=1e-2)
        assert centre[:2] == pytest.approx((0.0, 0.0), abs=3e-4)


def test_a_tube_balances_in_its_middle():
    curve = survey(tube(0.05, 0.2), SurveyWish()).measures.curve
    assert curve is not None
    low, high = tube(0.05, 0.2).bounds
    assert curve.centre(0.003) == pytest.approx((low + high) / 2.0, abs=5e-4)
