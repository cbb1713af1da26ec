"""A task put elsewhere by hand: what that breaks, told by other code than ours."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from core.checked_days import faults_of
from core.random_days import MONDAY, larger, small
from mildhusk.core.days.days import Days, Planned, PlanStatus
from mildhusk.core.days.first_come import first_come
from mildhusk.core.days.moving import BreakKind, breaks_of
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.tasks import After, Held, Task

HOUR = timedelta(hours=1)
EIGHT = MONDAY + 8 * HOUR


@pytest.mark.parametrize("seed", range(8))
def test_a_move_breaks_something_just_where_the_plan_holds_no_more(seed):
    """Of 600 moves a seed some break nothing and many do; a check of the whole plan agrees."""
    rng = np.random.default_rng([5, seed])
    broken = held = 0
    for number in range(120):
        days = (larger if number % 2 else small)(rng)
        plan = first_come(days)
        if plan.standing is PlanStatus.NONE:
            continue
        days = replace(days, tasks=plan.tasks)
        at = plan.by_id()
        hands = [task for task in days.tasks if task.hands]
        for _ in range(5 if hands else 0):
            task = hands[int(rng.integers(len(hands)))]
            by = timedelta(minutes=int(rng.integers(-300, 300)))
            moved = replace(at[task.id], starts=at[task.id].starts + by, ends=at[task.id].ends + by)
            breaks = [
                one
                for one in breaks_of(days, at, moved, days.begins)
                # What is late breaks nothing, and is told all the same.
                if one.kind is not BreakKind.DUE
            ]
            faults = faults_of(days, [*(one for one in at.values() if one.id != task.id), moved])
            assert bool(breaks) == bool(faults), (breaks, faults)
            broken, held = broken + bool(breaks), held + (not breaks)
    assert broken > 100
    assert held > 20


def day(*tasks, people=1, held=()):
    there = tuple(
        Person(name, {d: Hours(8.0, 18.0) for d in range(5)}) for name in ("Ada", "Bo")[:people]
    )
    return Days(tasks, there, EIGHT, held=held)


def planned(task, at_h, lasts_h=1.0, who=("Ada",)):
    starts = EIGHT + at_h * HOUR
    return Planned(task, starts, starts + lasts_h * HOUR, who)


@pytest.mark.parametrize(
    ("at_h", "who", "kind", "said", "by", "from_h"),
    [
        (1.0, ("Ada",), BreakKind.TOO_SOON, "'Mix' is not over", "mix", 2.0),
        (4.0, ("Ada",), BreakKind.TOO_LATE, "window after 'Mix' closes", "mix", 3.0),
        (9.5, ("Ada",), BreakKind.HOURS, "Ada is not there", "", 24.0),
        (-1.0, ("Ada",), BreakKind.PAST, "past", "", 0.0),
        (2.5, ("Bo",), BreakKind.HANDS, "Bo is at 'Sand' then", "sand", 5.0),
    ],
)
def test_each_break_says_what_is_in_the_way_and_from_when_on_it_is_not(
    at_h, who, kind, said, by, from_h
):
    """A coat goes on an hour to two after the last was mixed; Bo sands until one."""
    tasks = (
        Task("mix", "Mix", "a", 3600.0),
        Task("coat", "Coat", "a", 3600.0, after=(After("mix", 3600.0, 7200.0),)),
        Task("sand", "Sand", "b", 4 * 3600.0),
    )
    at = {
        "mix": planned("mix", 0.0),
        "coat": planned("coat", 2.0),
        "sand": planned("sand", 1.0, 4.0, ("Bo",)),
    }
    found = breaks_of(day(*tasks, people=2), at, planned("coat", at_h, 1.0, who), EIGHT)
    one = next(one for one in found if one.kind is kind)
    assert said in one.text
    assert (one.by, one.at) == (by, EIGHT + from_h * HOUR)
    assert breaks_of(day(*tasks, people=2), at, planned("coat", 2.25), EIGHT) == ()


def test_what_follows_a_moved_task_and_a_mould_that_is_taken_are_named():
    roll = [Task(f"roll {n}", f"Roll {n}", f"cast {n}", 3600.0) for n in (1, 2)]
    out = [
        Task(f"out {n}", f"Out {n}", f"cast {n}", 3600.0, after=(After(f"roll {n}", 7200.0),))
        for n in (1, 2)
    ]
    held = tuple(Held("mould", f"roll {n}", f"out {n}") for n in (1, 2))
    at = {
        "roll 1": planned("roll 1", 0.0), "out 1": planned("out 1", 3.0),
        "roll 2": planned("roll 2", 4.0), "out 2": planned("out 2", 7.0),
    }  # fmt: skip
    days = day(*roll, *out, held=held)
    later = breaks_of(days, at, planned("roll 1", 1.0), EIGHT)
    assert [(one.kind, one.by) for one in later] == [(BreakKind.FOLLOWER, "out 1")]
    sooner = breaks_of(days, at, planned("roll 2", 2.0), EIGHT)
    assert [(one.kind, one.by) for one in sooner] == [(BreakKind.PLACE, "roll 1")]
    assert sooner[0].at == at["out 1"].ends
