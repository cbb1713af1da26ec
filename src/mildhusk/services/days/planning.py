"""The plan of the days: made, made anew after what happened, and ticked off."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select

from mildhusk.core.days.days import Days, Move, Plan, Planned, PlanStatus
from mildhusk.core.days.expiry import StandingLot, begun_in_date, first_to_expire
from mildhusk.core.days.tasks import After, Task, in_order
from mildhusk.core.errors import InputError
from mildhusk.core.progress import Tell
from mildhusk.documents.days_files import days_json, read_days_json
from mildhusk.services.days.jobs import JobTasks, open_jobs, tasks_of
from mildhusk.services.days.people import people_here, places_here
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import newest_jobs, put_job
from mildhusk.services.lots import usable_lots
from mildhusk.services.mould_life import casts_so_far
from mildhusk.services.moulds import find_mould
from mildhusk.services.transaction import Transaction
from mildhusk.store.live import announce
from mildhusk.store.tables import DayJob, DayJobKind, DayPlan, DayTick, JobKind, JobStatus
from mildhusk.store.values import DAY_PLANS, KeptDayPlan

_FAR_DAYS = 28
_SECONDS = 1.5
"""To look for a first plan. [s]"""
_AGAIN = "plan the days again"


@dataclass(frozen=True, slots=True)
class DaysProblem:
    """What is to be planned: the days, the plan as it stood, and what was done.

    Parameters
    ----------
    days : Days
        With long tasks cut.
    before : Plan or None
    done : dict of str to Planned
    now : datetime
    pins : dict of str to datetime
        See `KeptDayPlan`.
    made_at : datetime or None
        When the plan was made that stood.
    first : str
        A task that was just put somewhere by hand: others make room for it.
    wishes_changed : bool
        Something else than time went on: what is late is looked at again.
    """

    days: Days
    before: Plan | None
    done: dict[str, Planned]
    now: datetime
    pins: dict[str, datetime] = field(default_factory=dict)
    made_at: datetime | None = None
    first: str = ""
    wishes_changed: bool = False


def problem_here(
    transaction: Transaction, zone: str | None = None, *, freed: str = ""
) -> DaysProblem:
    """Return what is to be planned; in the zone of the plan that stands, where none is said.

    A task that is freed is held by no place it was given by hand.
    """
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    kept = None if row is None else DAY_PLANS.read(row.plan)
    if zone is None:
        zone = "UTC" if row is None else read_days_json(row.days).people[0].zone
    jobs = open_jobs(transaction)
    made = {job: tasks_of(transaction, job) for job in jobs}
    tasks = _after_their_moulds(transaction, made, _in_date(transaction, made, zone))
    held = tuple(one.held for one in made.values() if one.held is not None)
    now = transaction.now.astimezone(UTC).replace(second=0, microsecond=0)
    people, places = people_here(transaction, zone), places_here(transaction)
    days = Days(tasks, people, now, places, held, days=_FAR_DAYS).cut()
    pins = {} if kept is None else {key: at for key, at in kept.pins.items() if key != freed}
    days = pinned(days, pins)
    before = None if kept is None else kept.plan
    return DaysProblem(
        days,
        before,
        done_of(days, ticks_here(transaction), before, now),
        now,
        {task.id: pins[task.id] for task in days.tasks if task.id in pins},
        None if row is None else row.made_at,
    )


def _in_date(
    transaction: Transaction, made: Mapping[DayJob, JobTasks], zone: str
) -> tuple[Task, ...]:
    """Return all tasks; casts that draw on a lot that expires soon are to be begun before that."""
    first: dict[str, StandingLot] = {}
    today = transaction.now.astimezone(ZoneInfo(zone)).date()
    for material_id in {one.material_id for one in made.values() if one.material_id is not None}:
        casts = [one for one in made.values() if one.material_id == material_id]
        lots = [
            StandingLot(lot.label, float(lot.left_g) / 1e3, _day_ends(lot.expires_on, zone))
            for lot in usable_lots(transaction, material_id, today)
        ]
        drawn = first_to_expire([one.resin_kg for one in casts], lots)
        for one, lot in zip(casts, drawn, strict=True):
            if lot is not None and lot.expires < transaction.now + timedelta(days=_FAR_DAYS):
                first[one.tasks[0].id] = lot
    return tuple(
        begun_in_date(task, first[task.id]) if task.id in first else task
        for one in made.values()
        for task in one.tasks
    )


def _day_ends(day: date, zone: str) -> datetime:
    return datetime.combine(day + timedelta(days=1), time(), ZoneInfo(zone))


def _after_their_moulds(
    transaction: Transaction, made: Mapping[DayJob, JobTasks], tasks: Sequence[Task]
) -> tuple[Task, ...]:
    """Return tasks in which what is cast in a mould that is still to be built waits for it."""
    built = {
        job.mould_id: one.tasks[-1].id
        for job, one in made.items()
        if job.kind == DayJobKind.MOULD and job.mould_id is not None and one.tasks
        # One that gave casts already is built once more beside them.
        and not casts_so_far(find_mould(transaction, job.mould_id))
    }  # fmt: skip
    waits = {
        one.tasks[0].id: built[job.mould_id]
        for job, one in made.items()
        if job.kind == DayJobKind.CAST and job.pour_id is None and job.mould_id in built
    }
    return tuple(
        replace(task, after=(*task.after, After(waits[task.id]))) if task.id in waits else task
        for task in tasks
    )


def pinned(days: Days, pins: Mapping[str, datetime]) -> Days:
    """Return days in which tasks that were put somewhere by hand begin no sooner."""
    tasks = tuple(
        replace(task, not_before=max(task.not_before or pins[task.id], pins[task.id]))
        if task.id in pins
        else task
        for task in days.tasks
    )
    return replace(days, tasks=tasks)


def solved(problem: DaysProblem) -> KeptDayPlan:
    """Return the plan of the days, or of what is left of them: as little as possible moves."""
    # A solver is slow to load, and few requests need it.
    from mildhusk.core.days.following import plan_anew
    from mildhusk.core.days.solver import plan_days

    days, before, done = problem.days, problem.before, problem.done
    moves: tuple[Move, ...] = ()
    if before is None or before.standing is PlanStatus.NONE:
        plan = (
            plan_days(days, seconds=_SECONDS)
            if not done
            else plan_anew(days, Plan(PlanStatus.GOOD), done, problem.now, seconds=_SECONDS)[0]
        )
    else:
        known = {task.id for task in days.tasks}
        stood = tuple(one for one in before.planned if one.id in known)
        stands = replace(before, planned=stood)
        plan, moves = plan_anew(
            days,
            stands,
            done,
            problem.now,
            first=problem.first,
            wishes_changed=problem.wishes_changed,
        )
    return KeptDayPlan(replace(plan, tasks=()), moves, problem.pins)


def plan_days_here(
    transaction: Transaction, zone: str | None = None, *, wishes_changed: bool = False
) -> None:
    """Plan the days, or what is left of them; see `DaysProblem` for wishes that changed."""
    problem = replace(problem_here(transaction, zone), wishes_changed=wishes_changed)
    keep(transaction, problem.days, solved(problem))


def keep(transaction: Transaction, days: Days, kept: KeptDayPlan) -> None:
    """Keep a plan, and tell every screen."""
    row = transaction.session.get(DayPlan, transaction.workshop_id, with_for_update=True)
    if row is None:
        row = DayPlan(
            workshop_id=transaction.workshop_id, made_at=transaction.now, days={}, plan={}
        )
        transaction.session.add(row)
    row.made_at, row.days, row.plan = transaction.now, days_json(days), DAY_PLANS.write(kept)
    transaction.session.flush()
    announce(transaction.session, {"topic": "days"})


def plan_soon(transaction: Transaction) -> None:
    """Ask a worker to plan the days again: whoever presses at the bench does not wait for it."""
    if transaction.queue is None:
        return
    waiting = newest_jobs(transaction, JobKind.DAYS, [_AGAIN]).get(_AGAIN)
    if waiting is None or waiting.status is not JobStatus.WAITING:
        put_job(transaction, JobKind.DAYS, "Days", {}, _AGAIN)


@dataclass(frozen=True, slots=True)
class DaysTask:
    """What a worker plans again after something happened at the bench."""

    problem: DaysProblem

    @classmethod
    def read(cls, transaction: Transaction, _asked: dict[str, Any]) -> "DaysTask":
        """Return what is to be planned."""
        return cls(problem_here(transaction))

    def compute(self, tell: Tell) -> KeptDayPlan:
        """Plan it."""
        tell(0.0, "planning the days again")
        return solved(self.problem)

    def write(
        self, transaction: Transaction, _asked: dict[str, Any], found: KeptDayPlan
    ) -> dict[str, Any]:
        """Keep the plan; where another was made meanwhile, it is made once more from that one."""
        row = transaction.session.get(DayPlan, transaction.workshop_id, with_for_update=True)
        if row is not None and row.made_at != self.problem.made_at:
            plan_days_here(transaction)
        else:
            keep(transaction, self.problem.days, found)
        return {"planned": len(found.plan.planned)}


# -- what was done ----------------------------------------------------------------------------


def kept_plan(transaction: Transaction) -> KeptDayPlan | None:
    """Return the plan that stands."""
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    return None if row is None else DAY_PLANS.read(row.plan)


def ticks_here(transaction: Transaction) -> dict[str, DayTick]:
    """Return what was begun or done, by task."""
    rows = transaction.session.scalars(
        select(DayTick).where(DayTick.workshop_id == transaction.workshop_id)
    )
    return {row.task: row for row in rows}


def done_of(
    days: Days, ticks: Mapping[str, DayTick], plan: Plan | None, now: datetime
) -> dict[str, Planned]:
    """Return what was done or is being done; what goes by itself begins when it may."""
    stood = {} if plan is None else plan.by_id()
    done: dict[str, Planned] = {}
    for task in in_order(days.tasks, days.held):
        tick = ticks.get(task.id)
        if tick is not None:
            expected = tick.expected or tick.starts + timedelta(seconds=task.duration_s)
            ends = tick.ends or max(now, expected)
            done[task.id] = Planned(task.id, tick.starts, ends, tuple(tick.people))
        elif task.hands == 0 and task.after and all(one.task in done for one in task.after):
            starts = max(done[one.task].ends + timedelta(seconds=one.from_s) for one in task.after)
            if task.id in stood and starts <= now:
                ends = starts + timedelta(seconds=task.duration_s)
                done[task.id] = Planned(task.id, starts, ends)
    return done


def is_over(
    key: str, done: Mapping[str, Planned], ticks: Mapping[str, DayTick], now: datetime
) -> bool:
    """Return whether a task is over: ticked off, or gone by itself."""
    if key in ticks:
        return ticks[key].ends is not None
    return key in done and done[key].ends <= now


def tick(transaction: Transaction, task_id: str, *, done: bool, at: datetime | None) -> None:
    """Say that a task was begun, or that it is done.

    Raises
    ------
    ConflictError
        It is not in the plan, or was done already.
    InputError
        A time to come.
    """
    kept = kept_plan(transaction)
    planned = None if kept is None else kept.plan.by_id().get(task_id)
    if planned is None:
        raise ConflictError("This is not in the plan any more; look at it again.")
    moment = (at or transaction.now).astimezone(UTC)
    if moment > transaction.now + timedelta(minutes=2):
        raise InputError("This is still to come; say when it was.", "at")
    row = ticks_here(transaction).get(task_id)
    if row is not None and row.ends is not None:
        raise ConflictError("This was done already, perhaps in another window.")
    if row is None:
        lasted = planned.ends - planned.starts
        begun = max(planned.starts, moment - lasted) if done else moment
        row = begin_tick(transaction, task_id, min(begun, moment), planned.people)
    if done:
        row.ends = max(moment, row.starts)
    transaction.session.flush()
    end_what_is_done(transaction)


def begin_tick(
    transaction: Transaction, task_id: str, starts: datetime, people: tuple[str, ...] = ()
) -> DayTick:
    """Note that a task was begun."""
    row = DayTick(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        task=task_id,
        starts=starts,
        ends=None,
        people=list(people),
    )
    transaction.session.add(row)
    return row


def take_back_tick(transaction: Transaction, task_id: str) -> None:
    """Take back that a task was begun or done."""
    row = ticks_here(transaction).get(task_id)
    if row is None:
        raise ConflictError("This was not begun yet.")
    transaction.session.delete(row)
    transaction.session.flush()


def end_what_is_done(transaction: Transaction) -> None:
    """End the jobs of which every task that needs hands is done."""
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    if row is None:
        return
    ticked = {key for key, one in ticks_here(transaction).items() if one.ends is not None}
    left = {
        task.job
        for task in read_days_json(row.days).tasks
        if task.hands > 0 and task.id not in ticked
    }
    for job in open_jobs(transaction):
        if str(job.id) not in left and any(key.startswith(str(job.id)) for key in ticked):
            job.ended_at = transaction.now
    transaction.session.flush()
