"""Charges split so that they can be read off and add up; cups filled to a mark."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from core.plans import BY_VOLUME, RESIN
from mildhusk.core.errors import ConditionError
from mildhusk.core.mixing.cup import MIXING_CUP, Cup, fill_height
from mildhusk.core.mixing.split import split_charge, weight_of

GRAM, TENTH = 1e-3, 1e-4
ML = 1e-6


def test_a_charge_by_weight_is_split_in_the_ratio():
    charge = split_charge(RESIN, 0.150, TENTH, ML)
    assert (charge.a_kg, charge.b_kg) == pytest.approx((0.100, 0.050))


def test_practice_check_of_100_to_10():
    """330 g of A take 33 g of B at 100 : 10 (common practice, no source)."""
    resin = replace(RESIN, parts_a=100.0, parts_b=10.0)
    charge = split_charge(resin, 0.363, TENTH, ML)
    assert (charge.a_kg, charge.b_kg) == pytest.approx((0.330, 0.033))


def test_a_charge_by_volume_is_equal_in_millilitres_and_not_in_grams():
    charge = split_charge(BY_VOLUME, 0.225, TENTH, ML)
    assert (charge.a_m3, charge.b_m3) == pytest.approx((100 * ML, 100 * ML))
    assert (charge.a_kg, charge.b_kg) == pytest.approx((0.100, 0.125))


def test_weight_and_volume_ratios_convert_by_the_densities():
    """Law: 1 : 1 by volume is 1000 : 1250 by weight at those densities."""
    by_weight = replace(RESIN, parts_a=100.0, parts_b=125.0)
    assert by_weight.weight_share_b == pytest.approx(BY_VOLUME.weight_share_b)


@given(
    wanted=st.floats(0.001, 10.0),
    part_b=st.floats(0.5, 200.0),
    step=st.sampled_from([GRAM, TENTH, 1e-5]),
)
def test_parts_are_whole_steps_are_enough_and_exceed_by_less_than_one_step_each(
    wanted, part_b, step
):
    charge = split_charge(replace(RESIN, parts_b=part_b), wanted, step, ML)
    for part in (charge.a_kg, charge.b_kg):
        assert part / step == pytest.approx(round(part / step), abs=1e-6)
    assert -1e-5 * step <= charge.total_kg - wanted <= 2 * step * (1 + 1e-6)


@given(wanted=st.floats(0.001, 10.0))
def test_what_is_shown_in_tenths_of_a_gram_adds_up_as_shown(wanted):
    charge = split_charge(RESIN, wanted, TENTH, ML)
    shown = [round(kg * 1e4) for kg in (charge.a_kg, charge.b_kg, charge.total_kg)]
    assert shown[0] + shown[1] == shown[2]


@pytest.mark.parametrize("wanted", [0.0, -1.0, math.nan, math.inf])
def test_a_charge_must_be_something(wanted):
    with pytest.raises(ConditionError, match="The charge"):
        split_charge(RESIN, wanted, TENTH, ML)


def test_volume_becomes_weight_by_the_density_of_its_part():
    assert weight_of(80 * ML, BY_VOLUME.density_b_kg_m3) == pytest.approx(0.100)


def test_a_straight_cup_fills_as_a_cylinder():
    cup = Cup(0.08, 0.08, 0.1)
    assert fill_height(cup, math.pi * 0.04**2 * 0.05) == pytest.approx(0.05)


@given(share=st.floats(0.01, 1.0))
def test_the_mark_in_a_tapered_cup_holds_what_it_says(share):
    """Independent check: the area over the height, integrated by a general library."""
    height = fill_height(MIXING_CUP, share * MIXING_CUP.capacity_m3)
    assert height is not None
    low, high = MIXING_CUP.bottom_diameter_m / 2, MIXING_CUP.top_diameter_m / 2

    def section(z):
        return math.pi * (low + (high - low) * z / MIXING_CUP.height_m) ** 2

    assert quad(section, 0.0, height)[0] == pytest.approx(share * MIXING_CUP.capacity_m3, rel=1e-9)


def test_more_than_the_cup_holds_has_no_mark():
    assert fill_height(MIXING_CUP, MIXING_CUP.capacity_m3 * 1.001) is None


@pytest.mark.parametrize(
    ("bottom", "top", "height"), [(0.1, 0.05, 0.1), (0, 0.1, 0.1), (0.1, 0.1, 0)]
)
def test_a_cup_that_cannot_be_is_refused(bottom, top, height):
    with pytest.raises(ConditionError, match="cup"):
        Cup(bottom, top, height)
