"""The clock of a coat: the data sheet in its own cup, and order and laws away from it."""

from dataclasses import fields, replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.plans import RESIN
from mildhusk.core.cure.clock import CoatClock, Conditions, coat_clock
from mildhusk.core.errors import ConditionError

AT_SHEET = RESIN.standard_temperature_k
MASS, FILM = RESIN.standard_mass_kg, 0.001


def clock_of(resin=RESIN, kelvin: float = AT_SHEET) -> CoatClock:
    return coat_clock(resin, Conditions.even(kelvin), resin.standard_mass_kg, FILM)


def test_in_the_data_sheets_cup_the_working_time_is_the_data_sheets():
    assert clock_of().working_time_s == pytest.approx(RESIN.working_time_s, rel=5e-3)


def test_a_film_gels_later_than_the_sheets_cup_and_the_rest_follows_at_its_intervals():
    """Common practice, no source: a film runs cooler than the cup; intervals are the sheet's."""
    clock = clock_of()
    assert RESIN.gel_s < clock.roll_until_s < 2.0 * RESIN.gel_s
    for value, sheet in (
        (clock.next_from_s, RESIN.tack_from_s),
        (clock.next_until_s, RESIN.tack_until_s),
        (clock.demould_s, RESIN.demould_s),
    ):
        assert value - clock.roll_until_s == pytest.approx(sheet - RESIN.gel_s, rel=2e-2)


def test_ten_degrees_warmer_about_halves_the_time():
    """Common practice, no source: 10 degrees about double the rate."""
    cool, warm = clock_of(kelvin=AT_SHEET - 5), clock_of(kelvin=AT_SHEET + 5)
    assert 1.7 < cool.roll_until_s / warm.roll_until_s < 2.4


@pytest.mark.parametrize("off_k", [-6.0, 0.0, 6.0])
def test_full_cure_is_as_many_demoulds_away_as_on_the_sheet(off_k):
    """Exact: it keeps the sheet's ratio to demould, and counts from the first contact."""
    clock = clock_of(kelvin=AT_SHEET + off_k)
    assert clock.full_cure_s / clock.demould_s == pytest.approx(
        RESIN.full_cure_s / RESIN.demould_s, rel=1e-9
    )


def test_two_cups_are_worked_as_long_as_one_of_half_the_charge():
    """Law: what matters is what stands in a cup."""
    even = Conditions.even(AT_SHEET)
    two = coat_clock(RESIN, replace(even, cups=2), 2.0 * MASS, FILM)
    assert two.working_time_s == coat_clock(RESIN, even, MASS, FILM).working_time_s
    assert two.working_time_s > coat_clock(RESIN, even, 2.0 * MASS, FILM).working_time_s


def test_pouring_leaves_time_to_cover_the_mould():
    clock = clock_of()
    assert clock.pour_by_s == clock.working_time_s - 60.0
    short = clock_of(replace(RESIN, working_time_s=80.0))
    assert short.pour_by_s == short.working_time_s / 2.0


def test_a_bigger_charge_leaves_less_time():
    small, big = (coat_clock(RESIN, Conditions.even(AT_SHEET), mass, FILM) for mass in (0.05, 0.5))
    assert big.pour_by_s < small.pour_by_s
    assert big.roll_until_s == small.roll_until_s


@settings(max_examples=40, deadline=None)
@given(st.floats(278.15, 318.15), st.floats(278.15, 318.15))
def test_colder_is_never_faster_and_the_order_of_the_times_holds(one, other):
    cold, warm = sorted((one, other))
    slow, fast = clock_of(kelvin=cold), clock_of(kelvin=warm)
    for field in fields(slow):
        # Interpolated between steps: equal to a thousandth is equal.
        assert getattr(slow, field.name) >= 0.999 * getattr(fast, field.name)
    assert slow.pour_by_s < slow.working_time_s <= slow.roll_until_s < slow.next_from_s
    assert slow.next_from_s < slow.next_until_s


def test_a_gel_that_comes_long_after_the_working_time_is_kept_too():
    slow = replace(
        RESIN, working_time_s=10.0, gel_s=900_000.0, tack_from_s=900_001.0, tack_until_s=900_002.0,
        demould_s=900_003.0, full_cure_s=950_000.0,
    )  # fmt: skip
    clock = clock_of(slow)
    assert clock.working_time_s == pytest.approx(10.0, rel=5e-3)
    assert clock.roll_until_s >= 900_000.0


@pytest.mark.parametrize("temperature", [0.0, 21.0, 278.0, 319.0, float("nan")])
def test_temperatures_without_a_clock_are_refused(temperature):
    with pytest.raises(ConditionError, match=r"give 5 °C to 45 °C") as caught:
        clock_of(kelvin=temperature)
    assert caught.value.field == "room_temperature_k"
