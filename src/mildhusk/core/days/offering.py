"""So many casts by a day: what the days say to it, as they are and with a mould more."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from mildhusk.core.days.days import Days, Plan, PlanStatus
from mildhusk.core.days.following import plan_anew
from mildhusk.core.days.making import CastTimes, cast_tasks
from mildhusk.core.days.solver import Kept, plan_days
from mildhusk.core.days.tasks import After, Held, Task
from mildhusk.core.finishing.finish import FinishStep

JOB = "offer"
SECOND = "another mould"


@dataclass(frozen=True, slots=True)
class Order:
    """What is asked for.

    Parameters
    ----------
    casts : int
    mould : str
        That they are cast in.
    times : CastTimes
    finish : tuple of FinishStep
    due : datetime
    ready : int
        So many can be cast from the resin that is there.
    delivered : datetime
        When the resin for the others is there.
    """

    casts: int
    mould: str
    times: CastTimes
    finish: tuple[FinishStep, ...]
    due: datetime
    ready: int
    delivered: datetime


@dataclass(frozen=True, slots=True)
class Answered:
    """When an order is done, and what it takes.

    Parameters
    ----------
    ends : datetime or None
        When the last cast is done; None where it does not fit into the days that are planned.
    in_time : int
        So many casts are done by the day.
    hands_s : float
        Work on it, of all pairs of hands together. [s]
    evenings : int
        That it costs, beyond those already given up.
    """

    ends: datetime | None
    in_time: int
    hands_s: float
    evenings: int


def ordered_tasks(
    order: Order, build: Sequence[Task] = ()
) -> tuple[tuple[Task, ...], tuple[Held, ...]]:
    """Return the tasks of an order, and what holds its moulds.

    Parameters
    ----------
    order : Order
    build : sequence of Task
        Of another mould: every second cast comes out of it, once it is built.

    Returns
    -------
    tasks : tuple of Task
    held : tuple of Held
    """
    tasks, held = list(build), []
    for number in range(order.casts):
        is_other = bool(build) and number % 2 == 1
        made, holds = cast_tasks(
            f"{JOB} {number + 1}",
            SECOND if is_other else order.mould,
            order.times,
            order.finish,
            due=order.due,
            not_before=order.delivered if number >= order.ready else None,
        )
        if is_other:
            first = replace(made[0], after=(*made[0].after, After(build[-1].id)))
            made = (first, *made[1:])
        tasks += made
        held.append(holds)
    return tuple(tasks), tuple(held)


def answer_to(
    days: Days,
    plan: Plan,
    order: Order,
    *,
    build: Sequence[Task] = (),
    kept: Kept | None = None,
    seconds: float = 1.2,
) -> Answered:
    """Return what the days say to an order; what is planned already stays where it can.

    Parameters
    ----------
    days : Days
    plan : Plan
        Of these days; without any task where there is none.
    order : Order
    build : sequence of Task
        See `ordered_tasks`.
    kept : Kept or None
        What was done of the plan, and the time it is.
    seconds : float
        How long to look. [s]

    Returns
    -------
    Answered
        An estimate: a longer look may find a sooner end. Evenings are given up only where that
        brings more casts in time.
    """
    tasks, held = ordered_tasks(order, build)
    wider = replace(days, tasks=(*days.tasks, *tasks), held=(*days.held, *held))
    hands_s = sum(one.hands * one.duration_s for one in tasks)
    calm = _answered(_without_evenings(wider), plan, order, hands_s, kept, seconds)
    if calm.in_time == order.casts or wider == _without_evenings(wider):
        return calm
    late = _answered(wider, plan, order, hands_s, kept, seconds)
    return late if late.in_time > calm.in_time else calm


def _without_evenings(days: Days) -> Days:
    """Return days in which nobody goes on after the working hours."""
    people = tuple(
        replace(one, week={day: replace(hours, evening_h=0.0) for day, hours in one.week.items()})
        for one in days.people
    )
    return replace(days, people=people)


def _answered(
    days: Days, plan: Plan, order: Order, hands_s: float, kept: Kept | None, seconds: float
) -> Answered:
    if kept is None:
        found = plan_days(days, seconds=seconds)
    else:
        found, _ = plan_anew(days, plan, kept.done, kept.now, seconds=seconds)
    if found.standing is PlanStatus.NONE or found.cost is None:
        return Answered(None, 0, hands_s, 0)
    ends = _ends(found, order.casts)
    before = 0 if plan.cost is None else plan.cost.evenings
    return Answered(
        max(ends),
        sum(one <= order.due for one in ends),
        hands_s,
        max(0, found.cost.evenings - before),
    )


def _ends(plan: Plan, casts: int) -> list[datetime]:
    """Return when each cast of an order is done."""
    ends: dict[str, datetime] = {}
    jobs = {one.id: one.job for one in plan.tasks}
    for one in plan.planned:
        job = jobs[one.id]
        ends[job] = max(one.ends, ends.get(job, one.ends))
    return [ends[f"{JOB} {number + 1}"] for number in range(casts)]
