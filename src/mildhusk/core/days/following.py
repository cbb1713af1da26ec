"""A plan follows what happens: as few tasks as possible move, and each move says why."""

import math
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta

from mildhusk.core.days.days import Days, Move, Plan, Planned, PlanStatus, Why
from mildhusk.core.days.first_come import repaired
from mildhusk.core.days.solver import (
    MISSED_S,
    MOVED_S,
    RESTLESS_S,
    Kept,
    most_restless,
    plan_days,
)
from mildhusk.core.days.standing import late_tasks
from mildhusk.core.days.tasks import Task, with_followers

_SOON = timedelta(days=2)
_AROUND = timedelta(days=3)
"""So far ahead a guess lets others make room, where not all can stay (assumed)."""
_LONGER_S = 8 * 3600.0
"""A plan that ends later by more than a day of work is worth that others move (assumed). [s]"""
_STAGES, _PATIENT = (0.2, 0.3, 1.0), 2.0
"""What of the time goes into moving what has to, then also what is to begin soon, then all; the
guesses take the rest. Where too much would move still, it is looked for so much longer, which is
seldom. [1]"""


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
    The first guess is the best of some: what cannot stay goes round all that can; or it goes first,
    with what follows what happened, and what is in its way goes round it; or all that begins within
    days makes room, or all. Tasks that windows tie together go together. Then the solver moves only
    jobs that cannot stay, then also what is to begin within two days; the next is tried only where
    something more would be late or missed, all would end later by more than a day of work, or more
    would move than a tenth of what is not touched by what happened.
    """
    here = {one.name for one in days.people}
    before = {
        one.id: one
        for one in plan.planned
        if one.id not in done and one.starts >= days.begins and set(one.people) <= here
    }
    tasks = days.cut().tasks
    disturbed = _disturbed(days, tasks, before, done, now)
    disturbed |= _crowded_out(days, tasks, before, done, now, first)
    jobs = {task.job for task in tasks if task.id in disturbed}
    if wishes_changed:
        jobs |= {task.job for task in late_tasks(tasks, before)}
    late_s = plan.cost.late_s if plan.cost is not None and not wishes_changed else 0.0
    touched = _touched(tasks, plan.by_id(), done, now)
    calm = frozenset[str]()
    if touched and not wishes_changed and not first:
        calm = frozenset(before.keys() - touched)
    # What is new may go into evenings or wait for the next day: whichever costs less.
    is_new = any(task.id not in before and task.id not in done for task in tasks)
    cut, undisturbed = days.cut(), frozenset(before.keys() - disturbed)
    nothing = frozenset[str]()
    later = frozenset(key for key in undisturbed if before[key].starts > now + _AROUND)
    # What stays where it can, and what goes before it.
    guesses = [
        (undisturbed, nothing),
        (undisturbed, touched.difference(done)),
        (undisturbed, with_followers(tasks, touched | disturbed).difference(done)),
        (later, nothing),
        (nothing, nothing),
    ]
    best = min(
        (
            repaired(
                cut, before, done, now, evenings=evenings, first=first, stays=kept, leads=leads
            )
            for evenings in ((True, False) if is_new else (True,))
            for kept, leads in dict.fromkeys(guesses)
        ),
        key=lambda found: _worth(found, before, calm),
    )
    best = _drawn_up(cut, best, before, done, now, calm)
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
    stages = [*zip(may_move, _STAGES, strict=False), (may_move[-1], _PATIENT)]
    for number, (free, share) in enumerate(stages):
        if number == len(may_move) and not _is_restless(best, before, calm):
            break
        fixed = frozenset(before.keys() - free)
        found = plan_days(
            days,
            seconds=share * seconds,
            kept=Kept(done, before, now, fixed, calm),
            near=best.by_id(),
        )
        found = _drawn_up(cut, found, before, done, now, calm)
        if _worth(found, before, calm) < _worth(best, before, calm):
            best = found
        if best.cost is None or best.cost.late_s > late_s:
            continue
        if plan.cost is not None and best.cost.lasts_s > plan.cost.lasts_s + _LONGER_S:
            continue
        if _is_restless(best, before, calm):
            continue
        if not set(best.missed) - set(plan.missed):
            break
    if calm:
        # What was put off until last comes as soon as there is room again.
        best = _drawn_up(cut, best, before, done, now, calm, _last_job(best))
    return best, tuple(_moves(best, before, done, now))


def _touched(
    tasks: Sequence[Task],
    planned: Mapping[str, Planned],
    done: Mapping[str, Planned],
    now: datetime,
) -> frozenset[str]:
    """Return what went otherwise than it was planned or was not begun, and all that follows it."""
    touched = {key for key, one in done.items() if planned.get(key) != one}
    touched |= {key for key, one in planned.items() if key not in done and one.starts < now}
    return with_followers(tasks, touched)


def _moved(plan: Plan, before: Mapping[str, Planned]) -> set[str]:
    """Return what is at another time than before, or by others."""
    return {
        one.id
        for one in plan.planned
        if one.id in before
        and (one.starts, set(one.people)) != (before[one.id].starts, set(before[one.id].people))
    }


def _is_restless(plan: Plan, before: Mapping[str, Planned], calm: frozenset[str]) -> bool:
    """Whether more moves than a tenth of what is not touched by what happened."""
    return len(_moved(plan, before) & calm) > most_restless(calm)


def _last_job(plan: Plan) -> frozenset[str]:
    """Return the tasks of the job that ends last."""
    last = max(plan.planned, key=lambda one: one.ends, default=None)
    if last is None:
        return frozenset()
    (job,) = (task.job for task in plan.tasks if task.id == last.id)
    return frozenset(task.id for task in plan.tasks if task.job == job)


def _drawn_up(
    days: Days,
    plan: Plan,
    before: Mapping[str, Planned],
    done: Mapping[str, Planned],
    now: datetime,
    calm: frozenset[str],
    also: frozenset[str] = frozenset(),
) -> Plan:
    """Return a plan with what moved, and more, as soon as the rest lets it, where that is better.

    What is found in a short time may stand where nothing asks it to.
    """
    at = plan.by_id()
    soonest = frozenset(at.keys() - before.keys() | _moved(plan, before) | also) - done.keys()
    if plan.standing is PlanStatus.NONE or not soonest:
        return plan
    stays = frozenset(at.keys() - soonest - done.keys())
    sooner = (
        repaired(days, at, done, now, evenings=evenings, stays=stays, soonest=soonest)
        for evenings in (True, False)
    )
    return min(plan, *sooner, key=lambda found: _worth(found, before, calm))


def _worth(plan: Plan, before: Mapping[str, Planned], calm: frozenset[str]) -> float:
    """Return what a plan costs with what moved and what was missed; the less the better. [s]"""
    if plan.standing is PlanStatus.NONE or plan.cost is None:
        return math.inf
    moved = _moved(plan, before)
    restless = max(0, len(moved & calm) - most_restless(calm))
    apart = MOVED_S * len(moved) + RESTLESS_S * restless + MISSED_S * len(plan.missed)
    return plan.cost.whole_s + apart


def _disturbed(
    days: Days,
    tasks: Sequence[Task],
    before: Mapping[str, Planned],
    done: Mapping[str, Planned],
    now: datetime,
) -> set[str]:
    """Return the tasks that cannot stay where they were, or that are new."""
    at = {**before, **done}
    found, shifts = set(), days.shifts()
    for task in tasks:
        one = before.get(task.id)
        if task.id in done:
            continue
        if one is None or one.starts < now:
            found.add(task.id)
            continue
        for name in one.people:
            if not any(s.starts <= one.starts and one.ends <= s.ends for s in shifts[name]):
                found.add(task.id)
        for after in task.after:
            gap = (one.starts - at[after.task].ends).total_seconds() if after.task in at else -1.0
            if not after.from_s <= gap <= after.until_s:
                found.add(task.id)
    return found


def _crowded_out(
    days: Days,
    tasks: Sequence[Task],
    before: Mapping[str, Planned],
    done: Mapping[str, Planned],
    now: datetime,
    first: str,
) -> set[str]:
    """Return the tasks that stand where hands, a place or a mould are taken."""
    at = {**before, **{key: one for key, one in done.items() if one.ends > now}}
    # Whoever it is that is taken, from when to when, by what; of two at once the first to begin
    # stays, and of two that begin at once the one that was put there by hand.
    taken: dict[tuple[str, str], list[tuple[datetime, bool, datetime, str]]] = {}
    for task in tasks:
        one = at.get(task.id)
        if one is None:
            continue
        stretch = (one.starts, task.id != first, one.ends, task.id)
        for name in one.people:
            taken.setdefault(("person", name), []).append(stretch)
        for place in task.places:
            taken.setdefault(("place", place), []).append(stretch)
    ever = {**before, **done}
    for held in days.held:
        if held.first in ever and held.last in ever and ever[held.last].ends > now:
            stretch = (ever[held.first].starts, held.first != first, ever[held.last].ends,
                       held.first)  # fmt: skip
            taken.setdefault(("mould", held.place), []).append(stretch)
    found = set()
    for (kind, name), stretches in taken.items():
        room = 1 if kind == "person" else days.place(name).capacity
        there: list[datetime] = []
        for starts, _, ends, key in sorted(stretches):
            there = [until for until in there if until > starts]
            if len(there) < room:
                there.append(ends)
            else:
                found.add(key)
    return found


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
