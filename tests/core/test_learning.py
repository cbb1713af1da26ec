"""What pours teach: pooling against closed forms, lessons against invented truths."""

import math
from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import multivariate_normal

from core.plans import FACE, RESIN, WISH, planned
from core.shapes import half_sphere
from core.taught import COVERED, DAY, HERE, LOST, SLOWER, poured, taught
from mildhusk.core.casting.charges import Charge, CoatingSetup
from mildhusk.core.casting.findings import Known, sheet_findings
from mildhusk.core.casting.learned_bands import LearnedBands
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.settling import bare_mould, land_charges
from mildhusk.core.coating.motion import machine, motion_of_coat
from mildhusk.core.coating.turning import Pour
from mildhusk.core.errors import InputError
from mildhusk.core.learning import learned as values
from mildhusk.core.learning.learned import MOST_POURS, Taught, Value, learn
from mildhusk.core.learning.lesson import Lesson, Told
from mildhusk.core.learning.pooling import Level, Observed, Prior, pooled
from mildhusk.core.learning.readings import ReadBy, WallReading, read_ratio
from mildhusk.core.learning.viscosity import FACTORS, fitted_viscosity, told_alone
from mildhusk.core.pouring.lessons import lesson_of

SURE = 1e9
"""Of so many pours the noise is known: then the pooled value is that of known variances."""


def of(*values, groups=HERE):
    return [
        Observed(value, groups, DAY + timedelta(days=at), f"pour {at}")
        for at, value in enumerate(values)
    ]


# --- pooling ---


def test_one_group_is_the_normal_mean_of_known_variances():
    """Closed form: precisions add, A. Gelman et al., Bayesian Data Analysis (2013), 2.5."""
    prior = Prior(0.1, {Level.MOULD: 0.3}, 0.2, worth=SURE)
    found = pooled(prior, of(0.5, 0.3, 0.4), HERE)
    precision = 1 / 0.3**2 + 3 / 0.2**2
    assert found.value == pytest.approx((0.1 / 0.3**2 + 1.2 / 0.2**2) / precision)
    assert found.high - found.value == pytest.approx(1.6448536 / math.sqrt(precision), rel=1e-6)
    # One more pour moves it by the gain times what a pour scatters about it.
    gain = (1 / 0.2**2) / (precision + 1 / 0.2**2)
    scatter = math.sqrt(1 / precision + 0.2**2)
    assert found.moves == pytest.approx(gain * scatter)


def test_a_new_mould_learns_from_its_neighbours_as_far_as_they_are_alike():
    """Closed form: the hierarchical normal model of known variances, ibid. 5.4."""
    shop, mould, noise = 0.2, 0.1, 0.15
    prior = Prior(0.0, {Level.WORKSHOP: shop, Level.MOULD: mould}, noise, worth=SURE)
    a, b = (
        of(*values, groups={Level.WORKSHOP: "here", Level.MOULD: name})
        for name, values in (("a", (0.4, 0.5)), ("b", (0.2,)))
    )
    fresh = pooled(prior, [*a, *b], {Level.WORKSHOP: "here", Level.MOULD: "c"})
    # Each mould's mean has its own variance about the workshop's mean.
    variances = np.array([mould**2 + noise**2 / 2, mould**2 + noise**2])
    precision = 1 / shop**2 + (1 / variances).sum()
    assert fresh.value == pytest.approx((np.array([0.45, 0.2]) / variances).sum() / precision)
    assert fresh.high - fresh.value == pytest.approx(
        1.6448536 * math.sqrt(1 / precision + mould**2), rel=1e-6
    )


def test_crossed_levels_are_those_of_a_general_normal():
    """Against conditioning a multivariate normal, whose density is a general library's."""
    spreads = {Level.WORKSHOP: 0.1, Level.RESIN: 0.3, Level.LOT: 0.2}
    prior = Prior(1.0, spreads, 0.25, worth=SURE)
    groups = [("fast", "blue"), ("fast", "red"), ("slow", "blue"), ("fast", "blue")]
    values = [1.4, 1.1, 0.8, 1.5]
    observed = [
        Observed(v, {Level.WORKSHOP: "here", Level.RESIN: r, Level.LOT: lot}, DAY, noise=n)
        for v, (r, lot), n in zip(values, groups, (1.0, 2.0, 0.5, 1.0), strict=True)
    ]
    wanted = {Level.WORKSHOP: "here", Level.RESIN: "fast", Level.LOT: "blue"}
    whole = [*groups, ("fast", "blue")]
    covariance = np.array(
        [
            [0.1**2 + 0.3**2 * (r == q) + 0.2**2 * (k == m) for q, m in whole]
            for r, k in whole
        ]
    )  # fmt: skip
    covariance[:4, :4] += np.diag((0.25 * np.array([1.0, 2.0, 0.5, 1.0])) ** 2)
    law = multivariate_normal(np.ones(5), covariance)
    grid = np.linspace(0.0, 3.0, 6001)
    density = law.pdf(np.column_stack([np.tile(values, (len(grid), 1)), grid]))
    mean = (grid * density).sum() / density.sum()
    deviation = math.sqrt(((grid - mean) ** 2 * density).sum() / density.sum())
    found = pooled(prior, observed, wanted)
    assert found.value == pytest.approx(mean, abs=1e-6)
    assert found.high - found.low == pytest.approx(2 * 1.6448536 * deviation, rel=1e-5)


def test_a_pour_far_off_counts_for_less_and_is_named():
    prior = Prior(0.0, {Level.LOT: 0.14}, 0.06)
    plain = pooled(prior, of(-0.12, -0.14, -0.13), HERE)
    found = pooled(prior, of(-0.12, -0.14, -0.13, 0.5), HERE)
    assert not plain.outliers
    assert [one.name for one in found.outliers] == ["pour 3"]
    assert found.outliers[0].weight < 0.1
    assert found.value == pytest.approx(plain.value, abs=0.02)
    assert found.pours == 4


@given(st.lists(st.floats(-0.3, 0.3), min_size=1, max_size=12), st.randoms())
def test_the_order_of_pours_is_nothing_and_a_band_holds_its_value(values, chance):
    prior = Prior(0.0, {Level.WORKSHOP: 0.05, Level.LOT: 0.1}, 0.05)
    found = pooled(prior, of(*values), HERE)
    turned = list(values)
    chance.shuffle(turned)
    assert found.low < found.value < found.high
    assert pooled(prior, of(*turned), HERE).value == pytest.approx(found.value, abs=1e-9)
    assert abs(found.value) <= max(map(abs, values)) + 1e-9


# --- lessons ---


def test_a_pour_tells_the_truths_it_was_poured_with():
    """Law: without noise the lesson is the truth, whatever the plan was made with."""
    for taken in ({}, {"loss": 0.2, "area_factor": 1.2, "time_factor": 1.4}):
        told = lesson_of(*poured(planned(**taken)))
        assert told.loss.value == pytest.approx(LOST, abs=1e-9)
        assert told.area_factor.value == pytest.approx(COVERED, rel=1e-9)
        assert told.time_factor.value == pytest.approx(SLOWER, rel=1e-5)
        assert told.by_hand


def test_what_cannot_be_is_no_lesson():
    plan, records, cast_kg, readings = poured(planned())
    assert lesson_of(plan, records, 3.0 * cast_kg, readings).loss is None
    assert lesson_of(plan, records, None, readings).loss is None
    assert lesson_of(plan, records, cast_kg, readings[:2]).area_factor is None
    late = [replace(one, gelled_at=DAY + timedelta(hours=9)) for one in records]
    assert lesson_of(plan, late, cast_kg).time_factor is None
    foam = PourPlan.of(planned(school="paste", coats=None))
    assert lesson_of(foam, records, cast_kg).loss is None


def test_evenness_is_the_slope_of_read_on_simulated_walls():
    """Closed form: the least-squares slope of a straight line is the line's."""
    simulated = np.array([1.0, 1.4, 2.0, 2.4, 3.0]) * 1e-3
    read = 0.9 * simulated**1.3
    readings = [
        WallReading(ReadBy.HOLE, wall * 2.0, None, place, 0.2)
        for wall, place in zip(read, simulated, strict=True)
    ]
    plan, records, cast_kg, _ = poured(planned())
    assert lesson_of(plan, records, cast_kg, readings).evenness.value == pytest.approx(1.3)
    alike = [replace(one, simulated_m=2e-3) for one in readings]
    assert lesson_of(plan, records, cast_kg, alike).evenness is None


def test_a_wall_simulated_as_uneven_as_it_was_planned_teaches_the_same():
    simulated = np.array([1.0, 1.4, 2.0, 2.4, 3.0]) * 1e-3
    for taken in (1.0, 1.4):
        plan, records, cast_kg, _ = poured(planned(evenness=taken))
        readings = [
            WallReading(ReadBy.HOLE, float(wall), None, float(place), 0.2)
            for wall, place in zip(simulated**1.3, simulated**taken, strict=True)
        ]
        told = lesson_of(
            plan, records, cast_kg, [replace(r, wall_m=90 * r.wall_m) for r in readings]
        )
        assert told.evenness.value == pytest.approx(1.3)


def test_a_wall_as_uneven_as_hands_are_keeps_its_resin():
    """Law: of as much resin, ln(wall / mean) of every face by the factor, but for one constant."""
    face = half_sphere(0.1, 24)
    bare = bare_mould(face, 0.02, capped=True)
    plain = CoatingSetup(0.003, 0.05, 1100.0, 296.15, 296.15, 1, None, True, Pour.RIM)
    charges = [Charge(0.06, motion_of_coat(machine(8.0, 3.1), n), 296.15) for n in (1, 2)]
    even = land_charges(bare, RESIN, plain, charges, 0.02).mould
    uneven = land_charges(bare, RESIN, replace(plain, evenness=1.3), charges, 0.02).mould
    on_face = ~even.grid.lid & (even.wall_m > 0.0)
    assert uneven.wall_m @ even.grid.area == pytest.approx(even.wall_m @ even.grid.area)
    logs = [np.log(one.wall_m[on_face]) for one in (even, uneven)]
    slope, _ = np.polyfit(*logs, 1)
    assert slope == pytest.approx(1.3)
    assert np.allclose(uneven.wall_m, sum(run.wall_m for run in uneven.coats))
    assert (uneven.wall_m[~on_face] == even.wall_m[~on_face]).all()
    # A plan for such hands pours more.
    turned = {"motion": "machine", "lid": True}
    assert planned(evenness=1.3, **turned).total_charge_kg > planned(**turned).total_charge_kg


# --- what is learned, and taken ---


def test_bands_of_nine_tenths_hold_the_truths():
    """Three repeats of three values: seven of nine or more. A hundred repeats are bench/'s."""
    truths = {Value.LOSS: LOST, Value.AREA: COVERED, Value.TIME: SLOWER}
    held = 0
    for seed in (1, 2, 3):
        pours = taught(np.random.default_rng(seed), 6)
        for key, truth in truths.items():
            found = learn(key, pours, HERE)
            held += found.low < truth < found.high
            assert found.low < found.value < found.high
            assert found.high - found.low < 0.7 * (found.before.high - found.before.low)
    assert held >= 7


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_six_pours_bring_the_planned_grams_to_a_third_of_their_error(seed):
    pours = taught(np.random.default_rng(seed), 6)
    learned = {key: learn(key, pours, HERE) for key in (Value.LOSS, Value.AREA)}
    need = planned(loss=LOST, area_factor=COVERED).total_charge_kg
    first = abs(planned().total_charge_kg - need)
    then = planned(loss=learned[Value.LOSS].value, area_factor=learned[Value.AREA].value)
    assert abs(then.total_charge_kg - need) < first / 3.0


def test_a_plan_made_with_learned_values_is_not_learned_from_twice():
    """Twelve times over: each plan takes what was learned of all before it."""
    rng, pours, wish = np.random.default_rng(4), [], {}
    for at in range(12):
        told = lesson_of(*poured(planned(**wish), rng))
        pours.append(Taught(told, HERE, DAY + timedelta(days=at)))
        learned = {key: learn(key, pours, HERE).value for key in (Value.LOSS, Value.AREA)}
        wish = {str(key): value for key, value in learned.items()}
    assert learned[Value.LOSS] == pytest.approx(LOST, abs=0.012)
    assert learned[Value.AREA] == pytest.approx(COVERED, abs=0.02)


def test_what_was_learned_is_offered_and_never_taken_unasked():
    pours = taught(np.random.default_rng(5), 8)
    learned = {key: learn(key, pours, HERE) for key in Value}
    offers = {
        one.id: one.action
        for one in sheet_findings(planned(), Known(learned=learned))
        if one.id.startswith("learned")
    }
    # Hands as even as they are simulated are no news.
    assert set(offers) == {"learned-times", "learned-loss", "learned-area"}
    assert offers["learned-loss"].field == "loss"
    assert offers["learned-loss"].value == pytest.approx(LOST, abs=0.012)
    taken = planned(**{one.field: one.value for one in offers.values()})
    again = sheet_findings(taken, Known(learned=learned))
    assert not [one.id for one in again if one.id.startswith("learned")]
    few = {key: learn(key, pours[:1], HERE) for key in Value}
    assert "learned-loss" not in {one.id for one in sheet_findings(planned(), Known(learned=few))}


def test_the_bands_of_a_sheet_are_those_of_what_was_learned():
    wish = replace(WISH, loss=0.07, area_factor=1.06)
    wide = plan_cast(FACE, RESIN, wish)
    sure = plan_cast(FACE, RESIN, wish, bands=LearnedBands(loss=0.004, area_factor=0.006))
    assert sure.total_charge_kg == wide.total_charge_kg
    half = [0.5 * (high - low) for low, high in (one.total_charge_band_kg for one in (wide, sure))]
    # To first order: loss and area, independent of each other.
    kg = sure.total_charge_kg
    assert half[1] == pytest.approx(kg * math.hypot(0.004 / 0.93, 0.006 / 1.06), rel=0.03)
    assert half[1] < 0.5 * half[0]
    sources = {
        term.name: term.source
        for figure in sure.figures if figure.key in ("total_charge", "shell_volume")
        for term in _terms(figure)
    }  # fmt: skip
    assert sources["loss"] == sources["the shape as measured"] == "learned from your pours"


def _terms(amount):
    yield amount
    for one in amount.terms:
        yield from _terms(one)


def test_only_the_newest_pours_count_and_the_course_ends_where_it_stands():
    pours = [
        Taught(Lesson(loss=Told(0.2 if at < 5 else 0.06)), HERE, DAY + timedelta(days=at))
        for at in range(MOST_POURS + 5)
    ]
    found = learn(Value.LOSS, pours, HERE, course=4)
    assert found.pours == MOST_POURS
    assert found.since == DAY + timedelta(days=5)
    assert found.value == pytest.approx(0.06, abs=0.001)
    assert len(found.course) == 4
    assert found.course[-1] == values.Known(found.low, found.value, found.high)


# --- readings and viscosity ---


def test_between_readings_the_wall_goes_by_those_near_by():
    places = np.array([[0.0, 0.0, 0.0], [0.2, 0.0, 0.0]])
    at = np.array([[0.0, 0.0, 0.0], [0.1, 0.0, 0.0], [0.2, 0.0, 0.0]])
    near, between, other = read_ratio(places, [1.3, 0.8], at)
    assert near == pytest.approx(1.3, abs=0.06)
    assert other == pytest.approx(0.8, abs=0.06)
    assert other < between < near
    assert read_ratio(places, [1.0, 1.0], at) == pytest.approx(1.0)


@pytest.mark.parametrize("wall_m", [-0.001, 0.4, 0.0, float("nan")])
def test_a_wall_that_cannot_be_is_refused(wall_m):
    with pytest.raises(InputError):
        WallReading(ReadBy.CALIPER, wall_m)


def test_a_reading_of_nothing_is_refused():
    with pytest.raises(InputError, match="Say the wall"):
        WallReading(ReadBy.HOLE)
    with pytest.raises(InputError, match="whether light comes through"):
        WallReading(ReadBy.LIGHT)


@pytest.mark.parametrize("truth", [0.7, 1.0, 1.3])
def test_a_viscosity_is_found_again_from_walls_that_follow_it(truth):
    """Walls that go with a power of the viscosity, of a cast that is a tenth too thick in all."""
    powers = np.array([0.5, -0.4, 0.2, -0.3, 0.6, -0.1])
    base = np.array([1.0, 2.0, 1.5, 3.0, 0.8, 2.2]) * 1e-3
    walls = base * np.array(FACTORS)[:, None] ** powers
    noisy = np.random.default_rng(7).normal(1.0, 0.02, 6)
    found = fitted_viscosity(walls, 1.1 * base * truth**powers * noisy)
    assert abs(math.log(found.value / truth)) < 1.7 * found.noise
    assert found.value == pytest.approx(truth, rel=0.15)
    with pytest.raises(InputError, match="5 or more"):
        fitted_viscosity(walls[:, :4], [1e-3] * 4)


@pytest.mark.parametrize("truth", [0.8, 1.25])
def test_casts_that_are_pooled_tell_what_one_cast_with_all_their_readings_tells(truth):
    """Law: what was vaguely known before is counted once, however the readings are divided."""
    rng = np.random.default_rng(3)
    powers = np.tile([0.4, -0.3, 0.25, -0.35, 0.1, -0.1], 4)
    base = rng.uniform(0.8e-3, 3e-3, len(powers))
    walls = base * np.array(FACTORS)[:, None] ** powers
    read = base * truth**powers * rng.lognormal(0.0, 0.02, len(powers))
    divided = [slice(0, 12), slice(12, 24)]
    casts = [told_alone(fitted_viscosity(walls[:, one], read[one])) for one in divided]
    vague = 1.0 / 0.7**2
    told = sum(1.0 / one.noise**2 for one in casts)
    mean = sum(math.log(one.value) / one.noise**2 for one in casts) / (told + vague)
    whole = fitted_viscosity(walls, read)
    assert mean == pytest.approx(math.log(whole.value), abs=0.2 * whole.noise)
    assert (told + vague) ** -0.5 == pytest.approx(whole.noise, rel=0.06)


def test_what_was_told_without_a_deviation_stays():
    assert told_alone(Told(1.2)) == Told(1.2)
    # A cast that tells next to nothing is near nothing, and never beyond what can be.
    vague = told_alone(Told(1.9, 0.69))
    assert vague.noise == pytest.approx(2.0)
    assert vague.value <= 4.0
