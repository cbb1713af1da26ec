"""A plan follows what happens: as few tasks as possible move, and each move says why."""

import math
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta

from mildhusk.core.days.days import Days, Move, Plan, Planned, PlanStatus, Why
from mildhusk.core.days.first_come import repaired
from mildhusk.core.days.solver import MISSED_S, MOVED_S, Kept, plan_days
from mildhusk.core.days.tasks import Task

_SOON = timedelta(days=2)
_STAGES = (0.35, 0.65)
"""What of the time goes into moving what has to, and then also what is to begin soon. [1]"""


def plan_anew(
    days: Days,
    plan: Plan,
    done: Mapping[str, Planned],
    now: datetime,
    *,
    seconds: float = 0.8,
    first: str = "",
) -> tuple[Plan, tuple[Move, ...]]:
    """Plan the rest of the days after something happened.

    Parameters
    ----------
    days : Days
        As they are now: tasks may have come or gone.
    plan : Plan
        As it stood.
    done : mapping of str to Planned
        What was done, when; what is being done ends when it will.
    now : datetime
    seconds : float
        How long to look. [s]
    first : str
        A task that was put where it is by hand: others make room for it.

    Returns
    -------
    plan : Plan
    moves : tuple of Move
        In the order of the plan; what could stay is not among them.

    Notes
    -----
    The first guess puts each task as soon as it can follow. Then only jobs that cannot stay may
    move, then also what is to begin within two days; the next is tried only where something more
    would be late or missed.
    """
    here = {one.name for one in days.people}
    before = {
        one.id: one
        for one in plan.planned
        if one.id not in done and one.starts >= days.begins and set(one.people) <= here
    }
    tasks = days.cut().tasks
    jobs = _disturbed(days, tasks, before, done, now)
    may_move: list[set[str]] = [
        {task.id for task in tasks if task.job in jobs},
        {
            task.id
            for task in tasks
            if task.job in jobs or (task.id in before and before[task.id].starts < now + _SOON)
        },
    ]
    late_s = plan.cost.late_s if plan.cost is not None else 0.0
    # What is new may go into evenings or wait for the next day: whichever costs less.
    is_new = any(task.id not in before and task.id not in done for task in tasks)
    best = min(
        (
            repaired(days.cut(), before, done, now, evenings=evenings, first=first)
            for evenings in ((True, False) if is_new else (True,))
        ),
        key=lambda plan: _worth(plan, before),
    )
    for free, share in zip(may_move, _STAGES, strict=True):
        fixed = frozenset(before.keys() - free)
        found = plan_days(days, seconds=share * seconds, kept=Kept(done, before, now, fixed))
        if _worth(found, before) < _worth(best, before):
            best = found
        if best.cost is None or best.cost.late_s > late_s:
            continue
        if not set(best.missed) - set(plan.missed):
            break
    return best, tuple(_moves(best, before, done, now))


def _worth(plan: Plan, before: Mapping[str, Planned]) -> float:
    """Return what a plan costs with what moved and what was missed; the less the better. [s]"""
    if plan.standing is PlanStatus.NONE or plan.cost is None:
        return math.inf
    moved = sum(
        one.id in before
        and (one.starts, set(one.people)) != (before[one.id].starts, set(before[one.id].people))
        for one in plan.planned
    )
    return plan.cost.whole_s + MOVED_S * moved + MISSED_S * len(plan.missed)


def _disturbed(
    days: Days,
    tasks: Sequence[Task],
    before: Mapping[str, Planned],
    done: Mapping[str, Planned],
    now: datetime,
) -> set[str]:
    """Return the jobs of which something cannot stay where it was, or that are new."""
    at = {**before, **done}
    goes_on = [one for one in done.values() if one.ends > now]
    jobs, shifts = set(), days.shifts()
    for task in tasks:
        one = before.get(task.id)
        if task.id in done:
            continue
        if one is None or one.starts < now:
            jobs.add(task.job)
            continue
        for name in one.people:
            if not any(s.starts <= one.starts and one.ends <= s.ends for s in shifts[name]):
                jobs.add(task.job)
        for after in task.after:
            gap = (one.starts - at[after.task].ends).total_seconds() if after.task in at else -1.0
            if not after.from_s <= gap <= after.until_s:
                jobs.add(task.job)
        if any(
            other.ends > one.starts and set(other.people) & set(one.people) for other in goes_on
        ):
            jobs.add(task.job)
    return jobs


def _moves(
    plan: Plan, before: Mapping[str, Planned], done: Mapping[str, Planned], now: datetime
) -> Iterable[Move]:
    tasks = {one.id: one for one in plan.tasks}
    stands = plan.by_id()
    for one in plan.planned:
        was = before.get(one.id)
        if one.id in done or was is None:
            continue
        if was.starts != one.starts or set(was.people) != set(one.people):
            why, by = _why(tasks[one.id], was, now, tasks, stands)
            yield Move(one.id, was, one, why, by)


def _why(
    task: Task,
    was: Planned,
    now: datetime,
    tasks: Mapping[str, Task],
    stands: Mapping[str, Planned],
) -> tuple[Why, str]:
    """Return why a task cannot stay, and what is in its way."""
    for after in task.after:
        ended = stands[after.task].ends
        if was.starts < ended + timedelta(seconds=after.from_s):
            return Why.AFTER, after.task
        gap = (was.starts - ended).total_seconds()
        if gap > after.until_s:
            return Why.SOONER, after.task
    if was.starts < now:
        return Why.LATE, ""
    over = [
        one
        for one in stands.values()
        if one.id != task.id and one.starts < was.ends and was.starts < one.ends
    ]
    for one in over:
        if set(one.people) & set(was.people):
            return Why.HANDS, one.id
    for one in over:
        if set(tasks[one.id].places) & set(task.places):
            return Why.PLACE, one.id
    return Why.ROOM, ""
