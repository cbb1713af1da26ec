"""Heat: a film on rubber beside conduction in fine layers, limits that cups and puddles pass."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from core.plans import RESIN, WISH
from core.shapes import sphere
from mildhusk.core.casting.findings import sheet_findings
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.cure.classes import Danger, class_of, cure_classes
from mildhusk.core.cure.heat import DEEPEST_M, passed_in_cup, puddle_limit
from mildhusk.core.cure.model import CureSetup, cure, cure_model
from mildhusk.core.equipment import Equipment
from mildhusk.core.findings import Severity
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.materials.catalogue import shipped_resin, shipped_resins

ROOM = 296.15


def setup_of(grams=100.0, film_mm=1.0, kelvin=ROOM):
    return CureSetup(grams / 1e3, kelvin, kelvin, kelvin, film_mm / 1e3)


def conducted(resin, film_m):
    """Gel time [s] and hottest place [K] of a film on 10 mm of rubber, both in fine layers.

    The same cure by finite volumes through the depth of the film and of the rubber, air on both
    sides, solved by BDF.
    """
    model, of_film, of_rubber = cure_model(resin), 12, 24
    k, all_of = model.kinetics, 36
    capacity = np.r_[
        np.full(of_film, resin.density_cured_kg_m3 * k.heat_capacity_j_kg_k),
        np.full(of_rubber, 1100.0 * 1350.0),
    ]
    conductivity = np.r_[np.full(of_film, 0.2), np.full(of_rubber, 0.22)]
    deep = np.r_[np.full(of_film, film_m / of_film), np.full(of_rubber, 0.01 / of_rubber)]
    half = 0.5 * deep / conductivity
    rise = k.heat_j_kg / k.heat_capacity_j_kg_k

    def right(_t, y):
        temperature, reduced = y[:all_of], y[all_of : all_of + of_film]
        a = np.clip(y[all_of + of_film :], 0.0, 1.0)
        rate = k.rate_1_s * np.exp(
            -k.activation_j_mol / 8.314462618 * (1.0 / temperature[:of_film] - 1.0 / k.reference_k)
        )
        inhibitor = np.clip(1.0 - reduced / k.induction, 0.0, 1.0) if k.induction else 0.0
        da = rate * (k.c + a**k.m) * (1.0 - a) ** k.n / (1.0 + 50.0 * inhibitor)
        through = (temperature[:-1] - temperature[1:]) / (half[:-1] + half[1:])
        out = [(temperature[at] - ROOM) / (half[at] + 1.0 / 9.0) for at in (0, -1)]
        warmer = (np.r_[-out[0], through] - np.r_[through, out[1]]) / (capacity * deep)
        warmer[:of_film] += rise * da
        return np.r_[warmer, rate, da]

    start = np.r_[np.full(all_of, ROOM), np.zeros(2 * of_film)]
    until = 2.0 * cure(resin, setup_of(film_mm=film_m * 1e3)).gel_film_s
    at = np.linspace(0.0, until, 3001)
    solved = solve_ivp(right, (0.0, until), start, "BDF", at, rtol=1e-6, atol=1e-8)
    reduced = solved.y[all_of : all_of + of_film].mean(axis=0)
    return float(np.interp(model.gel, reduced, at)), float(solved.y[:of_film].max())


@pytest.mark.parametrize("film_mm", [0.5, 1.0, 3.0])
@pytest.mark.parametrize("key", ["pu-fast-rigid", "pu-clear-tintable", "polyester", "epoxy-slow"])
def test_a_film_gels_as_conduction_in_fine_layers_says(key, film_mm):
    """Independent: 36 finite volumes through film and rubber, by a stiff solver."""
    resin = shipped_resin(key)
    found = cure(resin, setup_of(film_mm=film_mm))
    gels, hottest = conducted(resin, film_mm / 1e3)
    assert found.gel_film_s == pytest.approx(gels, rel=0.02)
    assert found.peak_film_k == pytest.approx(hottest, abs=3.0)


@pytest.mark.parametrize("key", ["pu-fast-rigid", "polyester"])
def test_the_middle_of_a_puddle_is_at_most_ten_degrees_warmer_than_is_told(key):
    resin = shipped_resin(key)
    found = cure(resin, setup_of(film_mm=10.0))
    gels, hottest = conducted(resin, 0.01)
    assert found.gel_film_s == pytest.approx(gels, rel=0.02)
    assert -3.0 < hottest - found.peak_film_k < 10.0


@pytest.mark.parametrize("resin", shipped_resins(), ids=lambda one: one.key)
def test_a_cup_passes_its_limits_in_order_and_a_small_one_fewer(resin):
    small, big = (
        passed_in_cup(resin, cure(resin, setup_of(grams)).cup) for grams in (10.0, 5000.0)
    )
    assert [one.limit for one in small] == [one.limit for one in big[: len(small)]]
    for passed in (small, big):
        kelvin = [one.limit.temperature_k for one in passed]
        after = [one.after_s for one in passed]
        assert kelvin == sorted(kelvin)
        assert after == sorted(after)
    for one in small:
        assert one.after_s >= next(two for two in big if two.limit == one.limit).after_s


def test_styrene_boils_and_a_bucket_of_epoxy_smokes():
    """Styrene boils at 145 C (CRC Handbook, from memory); a kilogram of epoxy smokes (common
    practice, no source); plaster stays below the boil."""
    polyester, epoxy, gypsum = (
        shipped_resin(key) for key in ("polyester", "epoxy-slow", "gypsum-acrylic")
    )

    def dangers(resin, grams):
        return {one.limit.danger for one in passed_in_cup(resin, cure(resin, setup_of(grams)).cup)}

    assert Danger.BOILS in dangers(polyester, 100.0)
    assert Danger.SCORCHES not in dangers(epoxy, 100.0)
    assert Danger.SCORCHES in dangers(epoxy, 1000.0)
    assert dangers(gypsum, 20_000.0) == set()
    boils = next(one for one in class_of(polyester).heat_limits if one.danger is Danger.BOILS)
    assert boils.temperature_k == pytest.approx(418.15)


@pytest.mark.parametrize("resin", shipped_resins(), ids=lambda one: one.key)
def test_a_puddle_a_little_deeper_than_allowed_is_too_hot(resin):
    limit = puddle_limit(resin, ROOM, ROOM)
    if limit is None:
        deepest = cure(resin, setup_of(film_mm=1e3 * DEEPEST_M)).peak_film_k
        assert deepest <= class_of(resin).heat_limits[0].temperature_k
        return
    shallow, deep = (
        cure(resin, setup_of(film_mm=1e3 * times * limit.depth_m)).peak_film_k
        for times in (1.0, 1.1)
    )
    assert shallow <= limit.limit.temperature_k < deep
    # A warm mould takes less of it.
    warm = puddle_limit(resin, ROOM + 10.0, ROOM + 10.0)
    assert warm is not None
    assert warm.depth_m < limit.depth_m


def test_every_value_of_a_class_says_where_it_comes_from():
    for of_class in cure_classes().values():
        assert {"heat", "activation", "rate", "gel"} <= set(of_class.sources)
        assert all(one.source for one in of_class.heat_limits)


@pytest.mark.parametrize(
    ("key", "severity"),
    [("pu-fast-rigid", Severity.NOTE), ("polyester", Severity.WARNING), ("gypsum-acrylic", None)],
)
def test_a_sheet_says_how_long_a_full_cup_may_stand_and_how_deep_a_puddle_may_lie(key, severity):
    face = measure_face(sphere(0.1))
    sheet = plan_cast(face, shipped_resin(key), replace(WISH, wall_m=0.003), Equipment())
    hot = [one for one in sheet_findings(sheet) if one.id == "hot-mix"]
    assert [one.severity for one in hot] == ([] if severity is None else [severity])
    for one in hot:
        values = one.sentence.values
        assert values["after"].value < 3600.0
        assert values["limit"].value < values["peak"].value
        assert 0.0005 < values["depth"].value < 0.02


def test_times_that_were_learned_move_how_long_a_cup_may_stand():
    face = measure_face(sphere(0.1))

    def after(factor):
        sheet = plan_cast(face, RESIN, replace(WISH, time_factor=factor), Equipment())
        (hot,) = (one for one in sheet_findings(sheet) if one.id == "hot-mix")
        return hot.sentence.values["after"].value

    assert after(1.5) == pytest.approx(1.5 * after(1.0), rel=0.1)
