"""A plan follows what happens: as few tasks as possible move, and each move says why."""

import math
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta

from mildhusk.core.days.days import Days, Move, Plan, Planned, PlanStatus, Why
from mildhusk.core.days.first_come import repaired
from mildhusk.core.days.solver import MISSED_S, MOVED_S, Kept, plan_days
from mildhusk.core.days.standing import late_tasks
from mildhusk.core.days.tasks import Task, in_order

_SOON = timedelta(days=2)
_AROUND = (timedelta(hours=6), timedelta(days=1), timedelta(days=3))
"""So far ahead the first guess lets others make room, where not all can stay (assumed)."""
_LONGER_S = 8 * 3600.0
"""A plan that ends later by more than a day of work is worth that others move (assumed). [s]"""
_STAGES = (0.3, 0.5, 1.0)
"""What of the time goes into moving what has to, then also what is to begin soon, then all. [1]"""


def plan_anew(
    days: Days,
    plan: Plan,
    done: Mapping[str, Planned],
    now: datetime,
    *,
    seconds: float = 0.8,
    first: str = "",
    wishes_changed: bool = False,
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
    wishes_changed : bool
        Dates, hours, hands, places or resins are others now: what is late is looked at again, and
        everything may move for it.

    Returns
    -------
    plan : Plan
    moves : tuple of Move
        In the order of the plan; what could stay is not among them.

    Notes
    -----
    The first guess puts each task as soon as it can follow: into the gaps between all others, then
    with those in its way moving on that begin within hours, a day, three days, at last any. Then
    only jobs that cannot stay may move, then also what is to begin within two days; the next is
    tried only where something more would be late or missed, or all would end later by more than a
    day of work.
    """
    here = {one.name for one in days.people}
    before = {
        one.id: one
        for one in plan.planned
        if one.id not in done and one.starts >= days.begins and set(one.people) <= here
    }
    tasks = days.cut().tasks
    jobs = _disturbed(days, tasks, before, done, now)
    jobs |= _crowded_out(days, tasks, before, done, now, first)
    if wishes_changed:
        jobs |= {task.job for task in late_tasks(tasks, before)}
    late_s = plan.cost.late_s if plan.cost is not None and not wishes_changed else 0.0
    # What is new may go into evenings or wait for the next day: whichever costs less.
    is_new = any(task.id not in before and task.id not in done for task in tasks)
    stays = frozenset(task.id for task in tasks if task.id in before and task.job not in jobs)
    cut = days.cut()
    best = min(
        (
            repaired(cut, before, done, now, evenings=evenings, first=first, stays=kept)
            for evenings in ((True, False) if is_new else (True,))
            for kept in _staying(tasks, before, stays, now)
        ),
        key=lambda found: _worth(found, before),
    )
    may_move: list[set[str]] = [
        {task.id for task in tasks if task.job in jobs},
        {
            task.id
            for task in tasks
            if task.job in jobs or (task.id in before and before[task.id].starts < now + _SOON)
        },
    ]
    if wishes_changed:
        may_move.append(set(before))
    for free, share in zip(may_move, _STAGES, strict=False):
        fixed = frozenset(before.keys() - free)
        found = plan_days(days, seconds=share * seconds, kept=Kept(done, before, now, fixed))
        if _worth(found, before) < _worth(best, before):
            best = found
        if best.cost is None or best.cost.late_s > late_s:
            continue
        if plan.cost is not None and best.cost.lasts_s > plan.cost.lasts_s + _LONGER_S:
            continue
        if not set(best.missed) - set(plan.missed):
            break
    return best, tuple(_moves(best, before, done, now))


def _staying(
    tasks: Sequence[Task], before: Mapping[str, Planned], stays: frozenset[str], now: datetime
) -> Iterable[frozenset[str]]:
    """Yield what stays where it stood: all that can, then what begins later, then nothing."""
    yield _closed(tasks, before, stays)
    for soon in _AROUND:
        later = frozenset(key for key in stays if before[key].starts > now + soon)
        yield _closed(tasks, before, later)
    yield frozenset()


def _closed(
    tasks: Sequence[Task], before: Mapping[str, Planned], stays: frozenset[str]
) -> frozenset[str]:
    """Return what of it can stay: nothing that follows a task that may move."""
    kept: set[str] = set()
    for task in in_order(tasks):
        waits = any(one.task in before and one.task not in kept for one in task.after)
        if task.id in stays and not waits:
            kept.add(task.id)
    return frozenset(kept)


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
    return jobs


def _crowded_out(
    days: Days,
    tasks: Sequence[Task],
    before: Mapping[str, Planned],
    done: Mapping[str, Planned],
    now: datetime,
    first: str,
) -> set[str]:
    """Return the jobs of which something stands where hands, a place or a mould are taken."""
    at = {**before, **{key: one for key, one in done.items() if one.ends > now}}
    # Whoever it is that is taken, from when to when, by what; of two at once the first to begin
    # stays, and of two that begin at once the one that was put there by hand.
    taken: dict[tuple[str, str], list[tuple[datetime, bool, datetime, str]]] = {}
    for task in tasks:
        one = at.get(task.id)
        if one is None:
            continue
        stretch = (one.starts, task.id != first, one.ends, task.job)
        for name in one.people:
            taken.setdefault(("person", name), []).append(stretch)
        for place in task.places:
            taken.setdefault(("place", place), []).append(stretch)
    of = {task.id: task.job for task in tasks}
    ever = {**before, **done}
    for held in days.held:
        if held.first in ever and held.last in ever and ever[held.last].ends > now:
            stretch = (ever[held.first].starts, held.first != first, ever[held.last].ends,
                       of[held.first])  # fmt: skip
            taken.setdefault(("mould", held.place), []).append(stretch)
    jobs = set()
    for (kind, name), stretches in taken.items():
        room = 1 if kind == "person" else days.place(name).capacity
        there: list[datetime] = []
        for starts, _, ends, job in sorted(stretches):
            there = [until for until in there if until > starts]
            if len(there) < room:
                there.append(ends)
            else:
                jobs.add(job)
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
