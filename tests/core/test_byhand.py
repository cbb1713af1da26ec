"""Pieces by tape, filling, clay and weighing, rims and heads, against closed forms."""

import math

import numpy as np
import pytest
from scipy.special import elliprg

from core.shapes import half_sphere, sphere, tube
from mildhusk.core.errors import ConditionError, TapeError
from mildhusk.core.geometry.byhand import (
    AreaMeasure,
    Outline,
    Station,
    Taping,
    area_of_cast,
    area_of_clay,
    ball_zone,
    better_of,
    ellipse_perimeter,
    filled,
    loft,
    semi_axes,
    taping_band,
)
from mildhusk.core.geometry.level import OpenMould, Vessel, capacity, rim_test
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.openings import open_mould, rims
from mildhusk.core.geometry.survey import survey_made
from mildhusk.core.geometry.wearing import HEADS, Head, fit_of

R = 0.1
UP = np.array([0.0, 0.0, 1.0])


def ball_stations(count, half=False):
    rises = np.linspace(0.0, 0.95, count)
    round_it = math.pi if half else 2.0 * math.pi
    return tuple(Station(float(R * z), float(round_it * R * math.sqrt(1 - z * z))) for z in rises)


def test_the_perimeter_of_an_ellipse_is_the_elliptic_integral():
    """Published: for a = 1, b = 1/2 it is 4.84422 (Abramowitz and Stegun, E(3/4) = 1.21105603)."""
    assert ellipse_perimeter(1.0, 0.5) == pytest.approx(4 * 1.21105603, rel=1e-8)
    assert ellipse_perimeter(0.5, 1.0) == ellipse_perimeter(1.0, 0.5)
    assert ellipse_perimeter(0.3, 0.3) == pytest.approx(2 * math.pi * 0.3)


@pytest.mark.parametrize("half", [False, True])
@pytest.mark.parametrize("width", [None, 0.16])
def test_semi_axes_give_back_girth_and_width(half, width):
    a, b = semi_axes(0.3 if half else 0.6, width, half=half, outline=Outline.ROUND)
    assert ellipse_perimeter(a, b) == pytest.approx(0.6)
    assert width is None or 2 * a == pytest.approx(width)


@pytest.mark.parametrize("count", [5, 9, 17])
def test_half_a_ball_by_tape_is_half_a_ball(count):
    """Exact: 2 pi R^2; the band holds what the stations miss."""
    taping = Taping(ball_stations(count), R)
    area = measure_face(loft(taping)).area_m2
    assert area == pytest.approx(2.0 * math.pi * R * R, rel=taping_band(taping))
    assert area == pytest.approx(2.0 * math.pi * R * R, rel=0.02)


def test_an_egg_by_tape_has_carlsons_area():
    """Half of an ellipsoid of 0.07, 0.0896 (a head's ratio), 0.12: DLMF 19.33.1."""
    a, c = 0.07, 0.12
    b = a * 1.28
    rises = np.linspace(0.0, 0.97, 15)
    stations = tuple(
        Station(float(c * z), ellipse_perimeter(a, b) * math.sqrt(1 - z * z)) for z in rises
    )
    area = measure_face(loft(Taping(stations, c, outline=Outline.HEAD))).area_m2
    exact = 2.0 * math.pi * elliprg((a * b) ** 2, (a * c) ** 2, (b * c) ** 2)
    assert area == pytest.approx(exact, rel=0.01)


def test_a_mask_by_tape_is_open_behind():
    """Exact: a quarter of a ball has half its half's area, pi R^2."""
    found = survey_made(loft(Taping(ball_stations(9, half=True), R, half=True)), 0.03)
    assert found.measures.area_m2 == pytest.approx(math.pi * R * R, rel=0.02)
    assert len(found.measures.openings) == 1
    assert found.measures.band >= 0.03


def test_more_stations_make_the_band_smaller():
    bands = [taping_band(Taping(ball_stations(count), R)) for count in (3, 5, 9, 17)]
    assert bands == sorted(bands, reverse=True)


def test_a_drum_by_tape_is_a_drum():
    girth = 2 * math.pi * 0.05
    face = measure_face(loft(Taping((Station(0.0, girth), Station(0.2, girth)), None)))
    assert face.area_m2 == pytest.approx(girth * 0.2, rel=2e-3)
    assert len(face.openings) == 2


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"stations": (Station(0.0, 0.5),)}, "at least two girths"),
        ({"stations": (Station(0.1, 0.5), Station(0.1, 0.5))}, "heights must rise"),
        ({"stations": (Station(0.0, 0.5), Station(0.1, 0.0))}, "girth of station 2 is 0 mm"),
        ({"stations": (Station(0.0, 0.5, 0.3), Station(0.1, 0.5))}, "width of 300 mm does not go"),
        ({"top_m": 0.05}, "The top must be above"),
        ({"stations": (Station(0.0, math.nan), Station(0.1, 0.5))}, "not a number"),
    ],
)
def test_a_taping_that_does_not_go_together_is_told(change, said):
    stations = (Station(0.0, 0.5), Station(0.1, 0.5))
    with pytest.raises(TapeError, match=said):
        Taping(**{"stations": stations, "top_m": 0.2, **change})


def test_a_filled_half_ball_is_half_a_ball():
    """Exact: 2/3 pi R^3 in, height R, opening 2 pi R."""
    mesh = filled(2 / 3 * math.pi * R**3, R, Outline.ROUND, 2 * math.pi * R)
    face = measure_face(mesh)
    assert face.area_m2 == pytest.approx(2 * math.pi * R * R, rel=0.02)
    assert face.volume_m3 == pytest.approx(2 / 3 * math.pi * R**3, rel=0.02)


def test_a_filling_is_found_again_in_the_mesh():
    face = measure_face(filled(0.004, 0.22, Outline.HEAD, 0.40))
    assert face.volume_m3 == pytest.approx(0.004, rel=0.02)
    assert face.openings[0].perimeter_m == pytest.approx(0.40, rel=5e-3)
    assert face.extents_m[2] == pytest.approx(0.22, rel=5e-3)


def test_a_filling_that_does_not_go_with_its_height_is_told():
    with pytest.raises(TapeError, match="do not go with a height of 300 mm"):
        filled(0.0002, 0.3, Outline.ROUND, 0.4)


@pytest.mark.parametrize("thickness", [0.003, 0.010])
def test_clay_and_cast_of_a_ball_give_its_area(thickness):
    """Exact but for the third power: shells outside and inside of a ball."""
    shell = 4 / 3 * math.pi * abs((R + thickness) ** 3 - R**3)
    assert area_of_clay(shell, thickness) == pytest.approx(4 * math.pi * R * R, rel=5e-3)
    inside = 4 / 3 * math.pi * (R**3 - (R - thickness) ** 3)
    area, _ = area_of_cast(inside, (thickness, thickness, thickness))
    assert area == pytest.approx(4 * math.pi * R * R, rel=5e-3)


def test_uneven_readings_make_a_wide_band():
    _, even = area_of_cast(1e-4, (0.003, 0.003, 0.003, 0.003))
    _, uneven = area_of_cast(1e-4, (0.002, 0.004, 0.003, 0.005))
    assert even == 0.01
    # Exact: twice the standard error of the mean by the mean.
    assert uneven == pytest.approx(2 * np.std([2, 4, 3, 5], ddof=1) / 3.5 / 2)
    with pytest.raises(TapeError, match="at least three readings"):
        area_of_cast(1e-4, (0.003, 0.003))


def test_a_ball_zone_has_the_area_asked_for():
    assert measure_face(ball_zone(0.12)).area_m2 == pytest.approx(0.12, rel=0.01)


def test_of_two_measures_the_surer_is_proposed_and_a_quarrel_is_told():
    tape, scan = AreaMeasure("tape", 0.10, 0.05), AreaMeasure("file", 0.103, 0.005)
    best, reason = better_of(tape, scan)
    assert best is scan
    assert "they agree, 2.9 % apart" in reason
    assert "measure one of them again" in better_of(AreaMeasure("tape", 0.2, 0.05), scan)[1]


# --- levels, rims ---


def half_ball():
    """Half a ball as a bowl: open above once its opening is up."""
    mesh = half_sphere(R, 60)
    mould = open_mould(mesh, rims(mesh))
    assert isinstance(mould, OpenMould)
    return mould


@pytest.mark.parametrize("depth", [0.02, 0.05, 0.08])
def test_a_bowl_holds_a_spherical_cap(depth):
    """Exact: pi d^2 (3R - d) / 3 (Archimedes)."""
    exact = math.pi * depth**2 * (3 * R - depth) / 3
    tested = rim_test(half_ball(), exact, 0.0, 0.0)
    assert tested.level_m == pytest.approx(depth, rel=5e-3)
    assert not tested.spills
    assert tested.skirt_m == 0.0


@pytest.mark.parametrize("degrees", [10, 30, 60])
def test_a_tilted_bowl_holds_the_cap_that_is_left(degrees):
    """Exact: a half ball tilted by a spills at a depth of R (1 - sin a)."""
    tilt = math.radians(degrees)
    depth = R * (1 - math.sin(tilt))
    exact = math.pi * depth**2 * (3 * R - depth) / 3
    for heading in (0.0, 2.0):
        assert capacity(half_ball(), tilt, heading) == pytest.approx(exact, rel=1e-2)


def test_the_largest_tilt_is_where_the_bowl_runs_over():
    tilt = math.radians(25)
    volume = capacity(half_ball(), tilt, 0.0)
    assert rim_test(half_ball(), volume, 0.0, 0.0).largest_tilt == pytest.approx(tilt, abs=0.01)


def test_a_skirt_holds_what_would_spill():
    """Law: with the skirt that is proposed it just holds."""
    mould, tilt = half_ball(), math.radians(40)
    volume = 1.3 * capacity(mould, tilt, 0.0)
    tested = rim_test(mould, volume, tilt, 0.0)
    assert tested.spills
    assert capacity(mould.with_skirt(tested.skirt_m), tilt, 0.0) >= volume * 0.999
    assert capacity(mould.with_skirt(tested.skirt_m - 0.002), tilt, 0.0) < volume


def test_an_upright_skirt_adds_a_drum():
    """Exact: pi R^2 s."""
    mould = half_ball()
    more = capacity(mould.with_skirt(0.05), 0.0, 0.0) - capacity(mould, 0.0, 0.0)
    assert more == pytest.approx(math.pi * R * R * 0.05, rel=5e-3)


def test_volume_below_rises_to_the_whole_and_the_level_is_its_inverse():
    vessel = Vessel.of(sphere(R, 60), UP)
    volumes = [vessel.volume_below(z) for z in np.linspace(-R, R, 21)]
    assert volumes == sorted(volumes)
    assert volumes[-1] == pytest.approx(measure_face(sphere(R, 60)).volume_m3, rel=1e-9)
    assert vessel.level_of(volumes[10]) == pytest.approx(0.0, abs=1e-9)
    with pytest.raises(ConditionError, match="do not fit"):
        vessel.level_of(1.0)


def test_a_tube_open_at_both_ends_is_tested_at_its_longer_rim():
    mesh = tube(0.05, 0.2)
    mould = open_mould(mesh, rims(mesh))
    assert capacity(mould, 0.0, 0.0) == pytest.approx(math.pi * 0.05**2 * 0.2, rel=1e-3)


@pytest.mark.parametrize(("volume", "tilt", "said"), [(0.0, 0.0, "charge"), (1e-4, 3.0, "tilt")])
def test_a_rim_test_of_nothing_is_told(volume, tilt, said):
    with pytest.raises(ConditionError, match=said):
        rim_test(half_ball(), volume, tilt, 0.0)


# --- heads ---


def test_a_head_in_a_round_husk_has_the_room_of_two_circles():
    """Exact: circles of radius 110 mm and 90 mm leave 20 mm; a wall of 4 mm leaves 16."""
    head = Head("round", 2 * math.pi * 0.09, 0.18, 0.18)
    fit = fit_of(head, 2 * math.pi * 0.11, 2 * math.pi * 0.1, 0.004)
    assert fit.clearance_m == pytest.approx(0.016)
    assert fit.passes_opening
    assert fit.opening_spare_m == pytest.approx(2 * math.pi * 0.006)
    assert not fit_of(head, 2 * math.pi * 0.11, 0.56, 0.004).passes_opening


def test_heads_are_longer_than_broad_and_rounder_than_their_ellipse():
    """Law: a head's girth lies near that of the ellipse of its breadth and length."""
    for head in HEADS:
        ellipse = ellipse_perimeter(head.breadth_m / 2, head.length_m / 2)
        assert head.length_m > head.breadth_m
        assert head.girth_m == pytest.approx(ellipse, rel=0.09)
    with pytest.raises(ConditionError, match="girth of the head"):
        Head("tiny", 0.2, 0.15, 0.2)
