"""What stands in a hot box keeps it, and what is cast from a lot is begun while that is good."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from core.checked_days import faults_of
from mildhusk.core.days.collisions import ChangeKind, WishKind, changes_that_free, wishes_of
from mildhusk.core.days.days import Days
from mildhusk.core.days.expiry import StandingLot, begun_in_date, first_to_expire
from mildhusk.core.days.first_come import first_come
from mildhusk.core.days.making import CastTimes, cast_tasks, finish_tasks
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.solver import plan_days
from mildhusk.core.days.standing import late_tasks
from mildhusk.core.days.tasks import Place, Task
from mildhusk.core.finishing.finish import FinishStep

H = 3600.0
MONDAY = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
YESTERDAY = MONDAY - timedelta(days=1)
ADA = Person("Ada", {day: Hours(8.0, 18.0) for day in range(5)})
BO = Person("Bo", ADA.week)


def step(name, minutes, *, from_s=0.0, place="", stands_s=0.0):
    return FinishStep(
        name, name, "", "", "", minutes * 60.0, from_s, None, place, 0.0, False, (), stands_s
    )


# Ten minutes of hands to put it in, three hours in which it stands there.
WARM = (
    step("post-cure", 10, place="hot box", stands_s=3 * H),
    step("edges", 15, from_s=3 * H),
)


def when(plan, key):
    return next(one for one in plan.planned if one.id == key)


@pytest.mark.parametrize("planner", [first_come, lambda days: plan_days(days, seconds=5.0)])
@pytest.mark.parametrize(("boxes", "apart_s"), [(1, 3 * H + 600.0), (2, 0.0)])
def test_a_hot_box_is_taken_as_long_as_something_stands_in_it(planner, boxes, apart_s):
    tasks = tuple(task for job in ("one", "two") for task in finish_tasks(job, WARM, YESTERDAY))
    days = Days(tasks, (ADA, BO), MONDAY, (Place("hot box", boxes),))
    plan = planner(days)
    assert faults_of(days, plan.planned) == []
    first, second = sorted(when(plan, f"{job}: post-cure").starts for job in ("one", "two"))
    assert (second - first).total_seconds() >= apart_s
    if boxes == 2:
        assert (second - first).total_seconds() < 3 * H
    for job in ("one", "two"):
        put, goes_on = when(plan, f"{job}: post-cure"), when(plan, f"{job}: edges")
        # It is waited for once, not twice.
        assert goes_on.starts - put.ends >= timedelta(hours=3)
        assert goes_on.starts - put.ends <= timedelta(hours=8)


def test_casts_draw_on_lots_in_turn_and_know_which_ends_first():
    """Two lots of 1.0 and 0.5 kg; casts of 0.4, 0.4, 0.4 and 0.9 kg, counted out by hand."""
    opened = StandingLot("A", 1.0, MONDAY + timedelta(days=9))
    fresh = StandingLot("B", 0.5, MONDAY + timedelta(days=4))
    # The third takes 0.2 kg of each; the fourth what is left, 0.3 kg, and waits for the rest.
    assert first_to_expire([0.4, 0.4, 0.4, 0.9], [opened, fresh]) == (opened, opened, fresh, fresh)
    # 0.4, then the last 0.6 and 0.5: nothing is left for a third.
    assert first_to_expire([0.4, 1.1, 0.2], [opened, fresh]) == (opened, fresh, None)
    assert first_to_expire([1.5, 0.1], [opened, fresh]) == (fresh, None)
    assert first_to_expire([0.2], []) == (None,)


def test_the_last_day_of_a_lot_is_the_one_on_its_label_wherever_it_stands():
    # Good until the end of 4 March in a zone five hours behind: 5 March, 05:00 UTC.
    ends = datetime(2026, 3, 5, tzinfo=ZoneInfo("America/New_York"))
    lot = StandingLot("L7", 2.0, ends)
    task = begun_in_date(Task("a", "roll", "a", H, note="Nothing else fits."), lot)
    assert task.due == datetime(2026, 3, 5, 6, 0, tzinfo=UTC)
    assert task.note == "Nothing else fits. Its resin, lot L7, expires on 04 Mar."


def test_what_expires_goes_first_and_no_later_date_is_offered_for_it():
    # It stays in the mould overnight: one cast a day.
    times = CastTimes(1.0 * H, 0.5 * H, 20.0 * H)
    lot = StandingLot("L7", 2.0, datetime(2026, 3, 3, tzinfo=UTC))
    first, _ = cast_tasks("lasting", "mould", times)
    (roll, *rest), held = cast_tasks("expiring", "mould", times)
    kept = (*first, begun_in_date(roll, lot), *rest)
    _, other = cast_tasks("lasting", "mould", times)
    days = Days(kept, (ADA,), MONDAY, (), (other, held))
    plan = plan_days(days, seconds=5.0)
    assert faults_of(days, plan.planned) == []
    assert when(plan, "expiring: roll").starts < when(plan, "lasting: roll").starts
    assert late_tasks(days.tasks, plan.by_id()) == ()
    # Too late to be kept, it says what it is due by; a later date would not make it good.
    gone = StandingLot("L8", 2.0, MONDAY - timedelta(hours=8))
    late = Days((begun_in_date(roll, gone), *rest), (ADA,), MONDAY, (), (held,))
    (wish, *_) = wishes_of(late)
    assert wish.kind is WishKind.DUE
    assert "lot L8, expires on 01 Mar" in wish.text
    spoilt = plan_days(late, seconds=2.0)
    assert [task.id for task in late_tasks(late.tasks, spoilt.by_id())] == ["expiring: roll"]
    assert ChangeKind.LATER not in {
        one.made.kind for one in changes_that_free(late, spoilt, seconds=0.3)
    }
