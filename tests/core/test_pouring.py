"""A pour as it happens: order of the steps, times that fit, comparison with the plan."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from mildhusk.core.errors import InputError
from mildhusk.core.pouring.steps import (
    CoatRecord,
    NextStep,
    PourStep,
    coat_times,
    compare,
    last_step,
    next_step,
    step_time,
)

NOON = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)
FIELDS = {
    PourStep.WEIGH: "weighed_at",
    PourStep.MIX: "mixed_at",
    PourStep.POUR: "poured_at",
    PourStep.GEL: "gelled_at",
}


def test_steps_follow_each_other_coat_by_coat_to_the_end():
    records = (CoatRecord(1), CoatRecord(2))
    walked = []
    moment = NOON
    while (due := next_step(records)) is not None:
        walked.append((due.coat, due.step))
        done = replace(records[due.coat - 1], **{FIELDS[due.step]: moment})
        records = (*records[: due.coat - 1], done, *records[due.coat :])
        assert last_step(records) == due
        moment += timedelta(minutes=1)
    assert walked == [(coat, step) for coat in (1, 2) for step in PourStep]


def test_before_the_first_tick_there_is_nothing_to_take_back():
    assert last_step((CoatRecord(1),)) is None
    assert next_step((CoatRecord(1),)) == NextStep(1, PourStep.WEIGH)


def test_a_time_in_the_future_or_before_the_step_before_is_refused():
    records = (CoatRecord(1, weighed_at=NOON),)
    opened = NOON - timedelta(hours=1)

    def check(at, records=records):
        return step_time(records, at, NOON, opened=opened)

    assert check(NOON) == check(None) == NOON
    late = NOON + timedelta(seconds=4)
    assert check(late) == late
    with pytest.raises(InputError, match="in the future"):
        check(NOON + timedelta(minutes=1))
    with pytest.raises(InputError, match="weigh of coat 1"):
        check(NOON - timedelta(seconds=1))
    with pytest.raises(InputError, match="before this pour was opened"):
        check(datetime(1, 1, 1, tzinfo=UTC), records=())


def test_a_clock_that_was_put_back_holds_nobody_up():
    """Whoever stands at the mould goes on; no two steps change places."""
    records = (CoatRecord(1, weighed_at=NOON, mixed_at=NOON + timedelta(minutes=1)),)
    for back in (timedelta(seconds=1), timedelta(hours=2), timedelta(days=400)):
        now = NOON + timedelta(minutes=1) - back
        # A press tells the time that it is by that clock, or none.
        for at in (None, now, now + timedelta(seconds=3)):
            assert step_time(records, at, now, opened=NOON) == records[0].mixed_at
    # The first step of a pour that was opened while the clock was ahead.
    opened = NOON + timedelta(hours=3)
    assert step_time((CoatRecord(1),), None, NOON, opened=opened) == NOON + timedelta(hours=2)
    # Once it is past that again, a time that is wrong is refused as before.
    later = NOON + timedelta(minutes=2)
    with pytest.raises(InputError, match="mix of coat 1"):
        step_time(records, NOON, later, opened=NOON)


def test_the_clocks_of_a_coat_run_from_its_mixing():
    times = coat_times(
        NOON, pour_by_s=60, roll_until_s=120, next_from_s=180, next_until_s=240, demould_s=3600
    )
    assert times.pour_by == NOON + timedelta(minutes=1)
    assert times.demould == NOON + timedelta(hours=1)


def test_the_comparison_counts_what_was_poured_and_not_what_stands_in_the_cup():
    poured = CoatRecord(1, a_kg=0.1, b_kg=0.05, weighed_at=NOON, mixed_at=NOON, poured_at=NOON)
    cup = CoatRecord(2, a_kg=0.1, b_kg=0.05, weighed_at=NOON)
    comparison = compare(0.3, 0.28, (poured, cup), 0.135)
    assert comparison.poured_kg == pytest.approx(0.15)
    assert comparison.stayed_share == pytest.approx(0.9)


def test_without_a_cast_nothing_is_claimed_to_have_stayed():
    assert compare(0.3, 0.28, (CoatRecord(1),), None).stayed_share is None
    assert compare(0.3, 0.28, (CoatRecord(1),), 0.2).stayed_share is None
