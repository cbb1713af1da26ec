"""Control charts and the life of moulds, against a handbook and a general statistics library."""

import math

import numpy as np
import pytest
from scipy.stats import CensoredData, lomax, weibull_min

from mildhusk.core.learning.control import ChartRule, control_chart
from mildhusk.core.mould.lasting import SHAPE, MouldInUse, WornMould, lasting, rotation

FLOW = [49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1]
"""NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2, worked example (from memory)."""


def test_the_handbooks_worked_example_of_an_individuals_chart():
    chart = control_chart(FLOW)
    assert chart.middle == pytest.approx(50.81)
    assert chart.mean_range == pytest.approx(1.8778, abs=5e-5)
    assert chart.high == pytest.approx(55.8041, abs=5e-5)
    assert chart.low == pytest.approx(45.8159, abs=5e-5)
    assert chart.most_range == pytest.approx(3.267 * 1.8778, abs=5e-4)
    # The handbook: the process is in control, as no point lies outside the limits.
    assert not chart.signals


@pytest.mark.parametrize(
    ("tail", "rule"),
    [
        ([3.4], ChartRule.BEYOND_3),
        ([2.2, 0.1, 2.3], ChartRule.TWO_OF_3),
        ([1.2, 1.3, -0.2, 1.1, 1.4], ChartRule.FOUR_OF_5),
        ([-0.3, -0.2, -0.4, -0.1, -0.3, -0.2, -0.4, -0.2], ChartRule.EIGHT),
    ],
)
def test_each_rule_of_the_handbook_is_told_where_it_is_broken(tail, rule):
    """Rules of 6.3.2: of values about 0 whose moving ranges are those of a sigma of 1."""
    calm = [0.564, -0.564] * 200
    chart = control_chart([*calm, *tail])
    assert (chart.high - chart.middle) / 3.0 == pytest.approx(1.0, abs=0.03)
    broken = {one.at: one.rule for one in chart.signals}
    assert broken[len(calm) + len(tail) - 1] is rule
    assert all(at >= len(calm) for at in broken)
    turned = control_chart([-one for one in (*calm, *tail)])
    assert [one.at for one in turned.signals] == [one.at for one in chart.signals]


def test_a_jump_is_told_by_its_range():
    chart = control_chart([*([0.1, -0.1] * 30), 0.29, -0.49])
    assert {one.at: one.rule for one in chart.signals}[61] is ChartRule.RANGE


def test_a_drift_is_told_with_what_it_gained():
    """Rubber that swells: every cast an eighth of a per cent heavier, weighed to a gram."""
    weights = [250.0 * (1.0 + 0.0015 * at) + (0.2, -0.3, 0.1)[at % 3] for at in range(9)]
    drift = control_chart(weights).drift
    assert drift.share == pytest.approx(0.012, abs=0.001)
    assert drift.low < 0.012 < drift.high
    assert control_chart([250.0, 251.0, 249.5, 250.5, 250.2, 249.9]).drift is None
    assert control_chart([1.0, 2.0, 3.0]) is None
    assert control_chart([2.0] * 6).signals == ()


# --- the life of a mould ---

MOULDS = [(34, True), (52, True), (41, True), (18, False), (60, False), (47, True), (29, False)]
"""Casts made, and whether it tore."""


def test_without_a_prior_the_hazard_is_the_one_of_greatest_likelihood():
    """Against a general library's Weibull fit of the same shape to censored data."""
    found = lasting([WornMould(casts, 50.0, ended) for casts, ended in MOULDS], worth=0.0)
    data = CensoredData(
        uncensored=[casts / 50.0 for casts, ended in MOULDS if ended],
        right=[casts / 50.0 for casts, ended in MOULDS if not ended],
    )
    _, _, scale = weibull_min.fit(data, f0=SHAPE, floc=0.0)
    # The mode of a gamma posterior under a flat prior of the log hazard is its shape over its rate.
    assert (found.worn / found.exposed) ** (-1.0 / SHAPE) == pytest.approx(scale, rel=1e-3)


def test_the_chance_is_the_librarys_lomax_law_in_the_casts_power():
    found = lasting([WornMould(casts, 50.0, ended) for casts, ended in MOULDS])
    for casts in (5.0, 30.0, 80.0):
        law = lomax.sf((casts / 50.0) ** SHAPE, found.worn, scale=found.exposed)
        assert found.chance(0.0, casts, 50.0) == pytest.approx(law)
    # What it has made already counts: P(a + b) = P(a) P(b | a).
    whole = found.chance(0.0, 30.0, 50.0)
    assert whole == pytest.approx(lomax.sf(0.6**SHAPE, found.worn, scale=found.exposed))
    assert found.chance(20.0, 10.0, 50.0) < found.chance(0.0, 10.0, 50.0)


def test_casts_of_a_chance_and_the_chance_of_casts_are_each_others_inverse():
    found = lasting([WornMould(34, 50, True)])
    for made, chance in ((0.0, 0.8), (25.0, 0.5), (49.0, 0.95)):
        more = found.lasts(made, 50.0, chance)
        assert found.chance(made, more, 50.0) == pytest.approx(chance)


def test_the_prior_is_what_was_expected_and_worn_moulds_move_it():
    rng = np.random.default_rng(3)
    nothing = lasting([])
    life = nothing.mean_life(40.0)
    assert life.low < 40.0 < life.high
    assert life.middle == pytest.approx(40.0, rel=0.12)
    scale = 25.0 / math.gamma(1.0 + 1.0 / SHAPE)
    lives = scale * rng.weibull(SHAPE, 40)
    life = lasting([WornMould(one, 40.0, True) for one in lives]).mean_life(40.0)
    assert life.low < 25.0 < life.high
    assert life.high - life.low < 10.0


def test_a_rotation_shares_the_casts_and_its_chance_is_that_of_all_its_moulds():
    found = lasting([])
    moulds = [MouldInUse(0, 40), MouldInUse(20, 40)]
    shared = rotation(found, moulds, 60, 0.8)
    assert sum(shared.shares) == 60
    assert shared.shares[0] > shared.shares[1] > 0
    each = [found.chance(one.casts, n, 40) for one, n in zip(moulds, shared.shares, strict=True)]
    assert shared.chance == pytest.approx(math.prod(each))
    before = rotation(found, moulds, shared.next_mould_before - 1, 0.8)
    assert before.chance >= 0.8 > rotation(found, moulds, shared.next_mould_before, 0.8).chance
    assert rotation(found, [], 5, 0.8).shares == ()
