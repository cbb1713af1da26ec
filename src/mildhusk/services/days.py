"""The days: what is to be done, who is there, the plan, and what was done of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from uuid import UUID

from sqlalchemy import delete, select

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.days.days import Days, Move, Plan, Planned, PlanStatus
from mildhusk.core.days.making import CastTimes, cast_tasks, mould_tasks
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.tasks import Held, Task, in_order
from mildhusk.core.errors import InputError
from mildhusk.core.finishing.finish import FinishStep, Husk, finish_of
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.kinds import Release
from mildhusk.documents.days_files import days_json, read_days_json
from mildhusk.services.casts import mould_for
from mildhusk.services.costs import price_mould
from mildhusk.services.errors import ConflictError
from mildhusk.services.mould_study import PlanRequest
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import castable_of, material_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import equipment_here
from mildhusk.store.tables import DayJob, DayJobKind, DayPlan, DayTick, Material, PersonRow
from mildhusk.store.values import DAY_JOBS, DAY_PLANS, DayJobRequest, KeptDayPlan

MOST_JOBS, MOST_PEOPLE = 60, 20
_FAR_DAYS = 28
_SECONDS, _TRY_SECONDS = 1.5, 0.6
"""To look for the first plan, and for that of each change that is tried. [s]"""
_SHOWN = 120
_TOLD = timedelta(minutes=5)
"""A task that moves by less is not told (assumed)."""
_ALONE = "You"
"""Who works here where nobody was named, in the workshop's hours."""


@dataclass(frozen=True, slots=True)
class NewDayJob:
    """Something to be put into the days."""

    kind: DayJobKind
    title: str
    asked: DayJobRequest
    sheet_id: UUID | None = None
    mould_id: UUID | None = None
    due: datetime | None = None


@dataclass(frozen=True, slots=True)
class DayTask:
    """A task as it stands in the days.

    Parameters
    ----------
    id, title, job_title : str
    job_id : UUID
    hands : int
    starts, ends : datetime
    people, places : tuple of str
    begun, may_begin : bool
        It was begun; what it follows is over.
    late_s : float
        It should have begun so long ago. [s]
    latest : datetime or None
        Until when it may begin, where a window closes.
    note : str
    """

    id: str
    title: str
    job_id: UUID
    job_title: str
    hands: int
    starts: datetime
    ends: datetime
    people: tuple[str, ...]
    places: tuple[str, ...]
    begun: bool
    may_begin: bool
    late_s: float
    latest: datetime | None
    note: str


@dataclass(frozen=True, slots=True)
class TaskMoved:
    """A task that is done at another time than it was planned, and why."""

    title: str
    job_title: str
    was: datetime
    now: datetime
    why: str
    by: str


@dataclass(frozen=True, slots=True)
class DayJobState:
    """What was put into the days: when it is done, and by how much that is late. [s]"""

    id: UUID
    kind: str
    title: str
    due: datetime | None
    ends: datetime | None
    late_s: float


@dataclass(frozen=True, slots=True)
class Today:
    """What is to be done now, what comes next, what goes by itself.

    Parameters
    ----------
    at : datetime
    planned : bool
        There is a plan, and it is of all that is to be done.
    standing : PlanStatus
    now, setting, to_come : tuple of DayTask
        For hands now; going on by itself; all that follows, the next first.
    following : DayTask or None
        The next that needs hands.
    missed : tuple of str
        What finds its window closed.
    moves : tuple of TaskMoved
        When it was planned last; by minutes only is not told.
    jobs : tuple of DayJobState
    evenings : int
    """

    at: datetime
    planned: bool
    standing: PlanStatus
    now: tuple[DayTask, ...]
    following: DayTask | None
    setting: tuple[DayTask, ...]
    to_come: tuple[DayTask, ...]
    missed: tuple[str, ...]
    moves: tuple[TaskMoved, ...]
    jobs: tuple[DayJobState, ...]
    evenings: int


# -- people -----------------------------------------------------------------------------------


def people_here(transaction: Transaction, zone: str = "UTC") -> tuple[Person, ...]:
    """Return who works here; where nobody was named, one person in the workshop's hours."""
    rows = transaction.session.scalars(
        select(PersonRow)
        .where(PersonRow.workshop_id == transaction.workshop_id)
        .order_by(PersonRow.created_at, PersonRow.id)
    ).all()
    if not rows:
        equipment = equipment_here(transaction)
        hours = Hours(equipment.opens_h, equipment.closes_h)
        return (Person(_ALONE, dict.fromkeys(range(7), hours), zone),)
    return tuple(_person(row) for row in rows)


def _person(row: PersonRow) -> Person:
    return Person(
        row.name,
        {int(day): Hours(*hours) for day, hours in row.week.items()},
        row.zone,
        frozenset(row.skills),
        frozenset(datetime.fromisoformat(one).date() for one in row.days_off),
    )


def set_people(transaction: Transaction, people: Sequence[Person]) -> None:
    """Say who works here, all at once."""
    if len(people) > MOST_PEOPLE:
        raise InputError(f"Up to {MOST_PEOPLE} people are planned for.", "people")
    if len({one.name for one in people}) < len(people):
        raise InputError("Two people have one name.", "people")
    transaction.session.execute(
        delete(PersonRow).where(PersonRow.workshop_id == transaction.workshop_id)
    )
    for number, one in enumerate(people):
        transaction.session.add(
            PersonRow(
                workshop_id=transaction.workshop_id,
                created_at=transaction.now + timedelta(microseconds=number),
                name=one.name,
                zone=one.zone,
                week={
                    str(day): [hours.opens_h, hours.closes_h, hours.evening_h][
                        : 3 if hours.evening_h else 2
                    ]
                    for day, hours in one.week.items()
                },
                skills=sorted(one.skills),
                days_off=[f"{day}" for day in sorted(one.days_off)],
            )
        )
    transaction.session.flush()


# -- what is to be done -----------------------------------------------------------------------


def add_job(transaction: Transaction, new: NewDayJob) -> DayJob:
    """Put something into the days.

    Raises
    ------
    InputError
        What it needs is not said, or is of another piece.
    ConflictError
        There is too much in them, or the mould's piece is not studied yet.
    """
    if len(_open_jobs(transaction)) >= MOST_JOBS:
        raise ConflictError(f"The days hold up to {MOST_JOBS} jobs; take some off first.")
    row = DayJob(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        kind=new.kind,
        title=new.title,
        sheet_id=new.sheet_id if new.kind is DayJobKind.CAST else None,
        mould_id=None if new.kind is DayJobKind.OWN else new.mould_id,
        asked=DAY_JOBS.write(new.asked),
        due=new.due,
        ended_at=None,
    )
    transaction.session.add(row)
    transaction.session.flush()
    # What cannot be made into tasks says so now.
    _tasks_of(transaction, row)
    return row


def end_job(transaction: Transaction, key: UUID) -> None:
    """Take something off the days; what was done of it stays done."""
    row = transaction.find(DayJob, key, "job", lock=True)
    row.ended_at = transaction.now
    transaction.session.flush()


def _open_jobs(transaction: Transaction) -> Sequence[DayJob]:
    return transaction.session.scalars(
        select(DayJob)
        .where(DayJob.workshop_id == transaction.workshop_id, DayJob.ended_at.is_(None))
        .order_by(DayJob.created_at, DayJob.id)
    ).all()


def _tasks_of(transaction: Transaction, job: DayJob) -> tuple[tuple[Task, ...], Held | None]:
    asked, key = DAY_JOBS.read(job.asked), str(job.id)
    match DayJobKind(job.kind):
        case DayJobKind.CAST:
            return _cast_tasks(transaction, job, asked)
        case DayJobKind.MOULD:
            if job.mould_id is None:
                raise InputError("Say which mould is to be built.", "mould_id")
            equipment = equipment_here(transaction)
            plan = price_mould(
                transaction, job.mould_id, PlanRequest(transaction.now, equipment, 0.0)
            )
            steps = [one.task for one in plan.steps]
            return mould_tasks(key, steps, due=job.due), None
        case DayJobKind.OWN:
            task = Task(
                key,
                job.title,
                key,
                asked.minutes * 60.0,
                hands=asked.hands,
                places=(asked.place,) if asked.place else (),
                due=job.due,
                interruptible=asked.interruptible,
            )
            return (task,), None


def _cast_tasks(
    transaction: Transaction, job: DayJob, asked: DayJobRequest
) -> tuple[tuple[Task, ...], Held | None]:
    if job.sheet_id is None:
        raise InputError("Say by which cast sheet it is cast.", "sheet_id")
    row = find_sheet(transaction, job.sheet_id)
    if job.mould_id is not None:
        mould_for(transaction, row.piece_id, job.mould_id)
    sheet = plan_of(transaction, row)
    on_machine = sheet.motion is not None and not motion_named(sheet.motion).by_hand
    times = CastTimes.of(sheet, on_machine=on_machine, hands=equipment_here(transaction).hands)
    steps = _finish(transaction, castable_of(row.material), sheet, asked)
    held = f"mould {job.mould_id}" if job.mould_id else f"the mould of '{row.piece.name}'"
    return cast_tasks(str(job.id), held, times, steps, due=job.due)


def _finish(
    transaction: Transaction, resin: object, sheet: CastSheet, asked: DayJobRequest
) -> tuple[FinishStep, ...]:
    if asked.finish is None or not isinstance(resin, CastingResin):
        return ()
    release = None
    if asked.release:
        row = transaction.session.scalars(
            select(Material).where(
                Material.workshop_id == transaction.workshop_id,
                Material.kind == "release",
                Material.key == asked.release,
            )
        ).first()
        found = None if row is None else material_of(row)
        if not isinstance(found, Release):
            raise InputError(f"There is no release '{asked.release}' on the shelf.", "release")
        release = found
    husk = Husk(resin, release, sheet.area_m2, sheet.demould_s, sheet.full_cure_s)
    return finish_of(husk, asked.finish)


# -- the plan ---------------------------------------------------------------------------------


def plan_days_here(transaction: Transaction, zone: str) -> None:
    """Plan the days, or what is left of them: as little as possible moves."""
    # A solver is slow to load, and few requests need it.
    from mildhusk.core.days.following import plan_anew
    from mildhusk.core.days.solver import plan_days

    tasks: list[Task] = []
    held: list[Held] = []
    for job in _open_jobs(transaction):
        made, holds = _tasks_of(transaction, job)
        tasks += made
        held += [holds] if holds is not None else []
    now = transaction.now.astimezone(UTC).replace(second=0, microsecond=0)
    people = people_here(transaction, zone)
    days = Days(tuple(tasks), people, now, held=tuple(held), days=_FAR_DAYS).cut()
    before = _kept(transaction)
    done = _done(days, _ticks(transaction), None if before is None else before.plan, now)
    moves: tuple[Move, ...] = ()
    if before is None or before.plan.standing is PlanStatus.NONE:
        plan = (
            plan_days(days, seconds=_SECONDS)
            if not done
            else plan_anew(days, Plan(PlanStatus.GOOD), done, now, seconds=_SECONDS)[0]
        )
    else:
        known = {task.id for task in days.tasks}
        stood = tuple(one for one in before.plan.planned if one.id in known)
        plan, moves = plan_anew(days, replace(before.plan, planned=stood), done, now)
    _keep(transaction, days, KeptDayPlan(replace(plan, tasks=()), moves))


def _keep(transaction: Transaction, days: Days, kept: KeptDayPlan) -> None:
    row = transaction.session.get(DayPlan, transaction.workshop_id, with_for_update=True)
    if row is None:
        row = DayPlan(
            workshop_id=transaction.workshop_id, made_at=transaction.now, days={}, plan={}
        )
        transaction.session.add(row)
    row.made_at, row.days, row.plan = transaction.now, days_json(days), DAY_PLANS.write(kept)
    transaction.session.flush()


def _kept(transaction: Transaction) -> KeptDayPlan | None:
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    return None if row is None else DAY_PLANS.read(row.plan)


def _ticks(transaction: Transaction) -> dict[str, DayTick]:
    rows = transaction.session.scalars(
        select(DayTick).where(DayTick.workshop_id == transaction.workshop_id)
    )
    return {row.task: row for row in rows}


def _done(
    days: Days, ticks: Mapping[str, DayTick], plan: Plan | None, now: datetime
) -> dict[str, Planned]:
    """Return what was done or is being done; what goes by itself begins when it may."""
    stood = {} if plan is None else plan.by_id()
    done: dict[str, Planned] = {}
    for task in in_order(days.tasks, days.held):
        tick = ticks.get(task.id)
        if tick is not None:
            ends = tick.ends or max(now, tick.starts + timedelta(seconds=task.duration_s))
            done[task.id] = Planned(task.id, tick.starts, ends, tuple(tick.people))
        elif task.hands == 0 and task.after and all(one.task in done for one in task.after):
            starts = max(done[one.task].ends + timedelta(seconds=one.from_s) for one in task.after)
            if task.id in stood and starts <= now:
                ends = starts + timedelta(seconds=task.duration_s)
                done[task.id] = Planned(task.id, starts, ends)
    return done


def tick(transaction: Transaction, task_id: str, *, done: bool, at: datetime | None) -> None:
    """Say that a task was begun, or that it is done.

    Raises
    ------
    ConflictError
        It is not in the plan, or was done already.
    InputError
        A time to come.
    """
    kept = _kept(transaction)
    planned = None if kept is None else kept.plan.by_id().get(task_id)
    if planned is None:
        raise ConflictError("This is not in the plan any more; look at it again.")
    moment = (at or transaction.now).astimezone(UTC)
    if moment > transaction.now + timedelta(minutes=2):
        raise InputError("This is still to come; say when it was.", "at")
    row = _ticks(transaction).get(task_id)
    if row is not None and row.ends is not None:
        raise ConflictError("This was done already, perhaps in another window.")
    if row is None:
        lasted = planned.ends - planned.starts
        begun = max(planned.starts, moment - lasted) if done else moment
        row = DayTick(
            workshop_id=transaction.workshop_id,
            created_at=transaction.now,
            task=task_id,
            starts=min(begun, moment),
            ends=None,
            people=list(planned.people),
        )
        transaction.session.add(row)
    if done:
        row.ends = max(moment, row.starts)
    transaction.session.flush()
    _end_what_is_done(transaction, kept)


def take_back_tick(transaction: Transaction, task_id: str) -> None:
    """Take back that a task was begun or done."""
    row = _ticks(transaction).get(task_id)
    if row is None:
        raise ConflictError("This was not begun yet.")
    transaction.session.delete(row)
    transaction.session.flush()


def _end_what_is_done(transaction: Transaction, kept: KeptDayPlan | None) -> None:
    """End the jobs of which every task that needs hands is done."""
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    if row is None or kept is None:
        return
    ticked = {key for key, one in _ticks(transaction).items() if one.ends is not None}
    left = {
        task.job
        for task in read_days_json(row.days).tasks
        if task.hands > 0 and task.id not in ticked
    }
    for job in _open_jobs(transaction):
        if str(job.id) not in left and any(key.startswith(str(job.id)) for key in ticked):
            job.ended_at = transaction.now
    transaction.session.flush()


# -- today ------------------------------------------------------------------------------------


def today(transaction: Transaction) -> Today:
    """Return what is to be done now, what comes next, and what goes by itself."""
    jobs = {str(job.id): job for job in _open_jobs(transaction)}
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    now = transaction.now.astimezone(UTC)
    if row is None:
        return _nothing_planned(now, jobs)
    kept, days = DAY_PLANS.read(row.plan), read_days_json(row.days)
    tasks = {task.id: task for task in days.tasks if task.job in jobs}
    at, ticks = kept.plan.by_id(), _ticks(transaction)
    done = _done(days, ticks, kept.plan, now)
    shown = [
        _day_task(tasks[one.id], one, jobs, at, ticks, done, now)
        for one in kept.plan.planned
        if one.id in tasks and not _is_over(tasks[one.id], done, ticks, now)
    ]
    hands = [one for one in shown if one.hands > 0]
    going = [one for one in shown if one.hands == 0 and one.id in done]
    at_hand = [one for one in hands if one.begun or one.starts <= now]
    to_come = [one for one in shown if one not in at_hand and one not in going]
    return Today(
        at=now,
        planned=set(jobs) <= {task.job for task in tasks.values()},
        standing=kept.plan.standing,
        now=tuple(at_hand),
        following=next((one for one in to_come if one.hands > 0), None),
        setting=tuple(going),
        to_come=tuple(to_come[:_SHOWN]),
        missed=tuple(tasks[key].title for key in kept.plan.missed if key in tasks),
        moves=tuple(
            _moved(one, tasks, jobs)
            for one in kept.moves
            if one.id in tasks and abs(one.now.starts - one.before.starts) >= _TOLD
        ),
        jobs=tuple(
            sorted(
                (_job_state(job, at, tasks) for job in jobs.values()),
                key=lambda one: (one.ends is None, one.ends or now, one.title),
            )
        ),
        evenings=0 if kept.plan.cost is None else kept.plan.cost.evenings,
    )


def _nothing_planned(now: datetime, jobs: Mapping[str, DayJob]) -> Today:
    states = tuple(_job_state(job, {}, {}) for job in jobs.values())
    return Today(now, not jobs, PlanStatus.NONE, (), None, (), (), (), (), states, 0)


def _is_over(
    task: Task, done: Mapping[str, Planned], ticks: Mapping[str, DayTick], now: datetime
) -> bool:
    if task.id in ticks:
        return ticks[task.id].ends is not None
    return task.id in done and done[task.id].ends <= now


def _day_task(
    task: Task,
    one: Planned,
    jobs: Mapping[str, DayJob],
    at: Mapping[str, Planned],
    ticks: Mapping[str, DayTick],
    done: Mapping[str, Planned],
    now: datetime,
) -> DayTask:
    closes = [
        at[after.task].ends + timedelta(seconds=after.until_s)
        for after in task.after
        if after.task in at and after.until_s < 60 * 86_400.0
    ]
    begun = task.id in ticks
    late_s = 0.0 if begun or task.hands == 0 else max(0.0, (now - one.starts).total_seconds())
    job = jobs[task.job]
    return DayTask(
        task.id, task.title, job.id, job.title, task.hands, one.starts, one.ends, one.people,
        task.places, begun, _may_begin(task, done, now), late_s,
        min(closes) if closes and task.hands else None, task.note,
    )  # fmt: skip


def _may_begin(task: Task, done: Mapping[str, Planned], now: datetime) -> bool:
    """Return whether all is over that a task follows, with the wait after it."""
    return all(
        one.task in done and done[one.task].ends + timedelta(seconds=one.from_s) <= now
        for one in task.after
    )


def _moved(one: Move, tasks: Mapping[str, Task], jobs: Mapping[str, DayJob]) -> TaskMoved:
    by = tasks.get(one.by)
    return TaskMoved(
        tasks[one.id].title,
        jobs[tasks[one.id].job].title,
        one.before.starts,
        one.now.starts,
        one.why,
        "" if by is None else by.title,
    )


def _job_state(job: DayJob, at: Mapping[str, Planned], tasks: Mapping[str, Task]) -> DayJobState:
    ends = [at[key].ends for key, task in tasks.items() if task.job == str(job.id) and key in at]
    last = max(ends, default=None)
    late_s = 0.0
    if job.due is not None and last is not None:
        late_s = max(0.0, (last - job.due).total_seconds())
    return DayJobState(job.id, job.kind, job.title, job.due, last, late_s)


@dataclass(frozen=True, slots=True)
class WayOut:
    """A change with which nothing is late, and when all is done then."""

    kind: str
    text: str
    ends: datetime
    evenings: int


@dataclass(frozen=True, slots=True)
class WhatCollides:
    """Wishes that cannot be kept together, and changes that were tried and free them."""

    collides: tuple[str, ...]
    ways_out: tuple[WayOut, ...]


def what_collides(transaction: Transaction) -> WhatCollides:
    """Return which wishes cannot be kept together, and what frees them; nothing where all can."""
    from mildhusk.core.days.collisions import changes_that_free, colliding

    row = transaction.session.get(DayPlan, transaction.workshop_id)
    if row is None:
        return WhatCollides((), ())
    days, plan = read_days_json(row.days), DAY_PLANS.read(row.plan).plan
    if plan.standing is not PlanStatus.NONE and plan.cost is not None and plan.cost.late_s == 0.0:
        return WhatCollides((), ())
    titles = {str(job.id): job.title for job in _open_jobs(transaction)}

    def named(text: str) -> str:
        for key, title in titles.items():
            text = text.replace(key, title)
        return text

    found = changes_that_free(days, plan, seconds=_TRY_SECONDS)
    return WhatCollides(
        tuple(named(one.text) for one in colliding(days, seconds=_TRY_SECONDS) or ()),
        tuple(
            WayOut(
                one.kind,
                named(one.text),
                max(done.ends for done in one.plan.planned),
                0 if one.plan.cost is None else one.plan.cost.evenings,
            )
            for one in found
            if one.plan.planned
        ),
    )
