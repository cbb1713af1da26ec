"""The clock of a coat: the data sheet at its own temperature, doubled and halved around it."""

from dataclasses import fields, replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.plans import RESIN
from mildhusk.core.cure.clock import coat_clock
from mildhusk.core.errors import ConditionError

AT_SHEET = RESIN.standard_temperature_k


def test_at_the_data_sheets_temperature_the_times_are_the_data_sheets():
    clock = coat_clock(RESIN, AT_SHEET)
    assert clock.working_time_s == RESIN.working_time_s
    assert clock.roll_until_s == RESIN.gel_s
    assert (clock.next_from_s, clock.next_until_s) == (RESIN.tack_from_s, RESIN.tack_until_s)
    assert (clock.demould_s, clock.full_cure_s) == (RESIN.demould_s, RESIN.full_cure_s)


def test_ten_degrees_warmer_halves_the_time():
    """Common practice, no source: 10 degrees double the rate."""
    cool, warm = coat_clock(RESIN, AT_SHEET - 5), coat_clock(RESIN, AT_SHEET + 5)
    assert cool.roll_until_s == pytest.approx(2 * warm.roll_until_s)


def test_pouring_leaves_time_to_cover_the_mould():
    assert coat_clock(RESIN, AT_SHEET).pour_by_s == RESIN.working_time_s - 60.0
    short = replace(RESIN, working_time_s=80.0)
    assert coat_clock(short, AT_SHEET).pour_by_s == 40.0


@given(st.floats(278.15, 318.15), st.floats(278.15, 318.15))
def test_colder_is_never_faster_and_the_order_of_the_times_holds(one, other):
    cold, warm = sorted((one, other))
    slow, fast = coat_clock(RESIN, cold), coat_clock(RESIN, warm)
    for field in fields(slow):
        assert getattr(slow, field.name) >= getattr(fast, field.name)
    assert slow.pour_by_s < slow.working_time_s <= slow.roll_until_s <= slow.next_from_s
    assert slow.next_from_s < slow.next_until_s


@pytest.mark.parametrize("temperature", [0.0, 21.0, 278.0, 319.0, float("nan")])
def test_temperatures_the_rule_does_not_cover_are_refused(temperature):
    with pytest.raises(ConditionError, match=r"give 5 °C to 45 °C") as caught:
        coat_clock(RESIN, temperature)
    assert caught.value.field == "room_temperature_k"
