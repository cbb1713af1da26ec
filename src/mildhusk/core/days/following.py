"""A plan follows what happens: as few tasks as possible move, and each move says why."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from mildhusk.core.days.days import Days, Plan, Planned
from mildhusk.core.days.solver import Kept, plan_days
from mildhusk.core.days.tasks import Task


class Why(StrEnum):
    """Why a task moves."""

    LATE = "it should have begun"
    AFTER = "what it follows ends later"
    SOONER = "what it follows ended sooner, and its window would close"
    HANDS = "the hands are needed elsewhere"
    PLACE = "its place is taken"
    ROOM = "to make room"


@dataclass(frozen=True, slots=True)
class Move:
    """A task that is done at another time, or by somebody else, than it was planned.

    Parameters
    ----------
    id : str
    before, now : Planned
    why : Why
    by : str
        The task that is in the way; empty where it is nobody's.
    """

    id: str
    before: Planned
    now: Planned
    why: Why
    by: str = ""


def plan_anew(
    days: Days,
    plan: Plan,
    done: Mapping[str, Planned],
    now: datetime,
    *,
    seconds: float = 0.8,
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

    Returns
    -------
    plan : Plan
    moves : tuple of Move
        In the order of the plan; what could stay is not among them.
    """
    before = {
        one.id: one for one in plan.planned if one.id not in done and one.starts >= days.begins
    }
    anew = plan_days(days, seconds=seconds, kept=Kept(done, before, now))
    return anew, tuple(_moves(anew, before, done, now))


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
