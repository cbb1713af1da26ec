"""Today: what to do now, what comes next, what goes by itself."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from uuid import UUID

from mildhusk.core.days.days import Days, Move, Planned, PlanStatus
from mildhusk.core.days.standing import late_tasks, may_begin, window_of
from mildhusk.core.days.tasks import Task
from mildhusk.documents.days_files import read_days_json
from mildhusk.services.days.jobs import open_jobs
from mildhusk.services.days.planning import done_of, is_over, ticks_here
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayJob, DayJobKind, DayPlan, DayTick
from mildhusk.store.values import DAY_PLANS

_SHOWN = 120
_TOLD = timedelta(minutes=5)
"""A task that moves by less is not told (assumed)."""


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
    sheet_id, pour_id : UUID or None
        Of a cast, what it is poured by, and its pour once that was begun.
    pours : bool
        Doing it is a pour: it is begun and done at the bench.
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
    sheet_id: UUID | None
    pour_id: UUID | None
    pours: bool


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
    """What was put into the days: when it is done, and by how much that is late. [s]

    `pour_id` is of a cast that was poured.
    """

    id: UUID
    kind: str
    title: str
    due: datetime | None
    ends: datetime | None
    late_s: float
    pour_id: UUID | None


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
    meanwhile : tuple of DayTask
        What may be begun now and is over, or can be put down, before hands are needed next.
    ready_at : datetime or None
        When the first is there again who works here; None while somebody is.
    missed : tuple of str
        What finds its window closed.
    expiring : tuple of str
        What is planned for later than what it is made from is good.
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
    meanwhile: tuple[DayTask, ...]
    ready_at: datetime | None
    setting: tuple[DayTask, ...]
    to_come: tuple[DayTask, ...]
    missed: tuple[str, ...]
    expiring: tuple[str, ...]
    moves: tuple[TaskMoved, ...]
    jobs: tuple[DayJobState, ...]
    evenings: int


def today(transaction: Transaction) -> Today:
    """Return what is to be done now, what comes next, and what goes by itself."""
    jobs = {str(job.id): job for job in open_jobs(transaction)}
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    now = transaction.now.astimezone(UTC)
    if row is None:
        return _nothing_planned(now, jobs)
    kept, days = DAY_PLANS.read(row.plan), read_days_json(row.days)
    tasks = {task.id: task for task in days.tasks if task.job in jobs}
    at, ticks = kept.plan.by_id(), ticks_here(transaction)
    done = done_of(days, ticks, kept.plan, now)
    shown = [
        _day_task(tasks[one.id], one, jobs, at, ticks, done, now)
        for one in kept.plan.planned
        if one.id in tasks and not is_over(one.id, done, ticks, now)
    ]
    hands = [one for one in shown if one.hands > 0]
    going = [one for one in shown if one.hands == 0 and one.id in done]
    at_hand = [one for one in hands if one.begun or one.starts <= now]
    to_come = [one for one in shown if one not in at_hand and one not in going]
    following = next((one for one in to_come if one.hands > 0), None)
    return Today(
        at=now,
        planned=set(jobs) <= {task.job for task in tasks.values()},
        standing=kept.plan.standing,
        now=tuple(at_hand),
        following=following,
        meanwhile=tuple(_meanwhile(at_hand, to_come, tasks, now)),
        ready_at=_ready_at(days, now),
        setting=tuple(going),
        to_come=tuple(to_come[:_SHOWN]),
        missed=tuple(tasks[key].title for key in kept.plan.missed if key in tasks),
        expiring=tuple(
            f"{jobs[task.job].title}: {task.due_by}"
            for task in late_tasks(tasks.values(), at)
            if task.due_by and task.id not in done
        ),
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
    return Today(now, not jobs, PlanStatus.NONE, (), None, (), None, (), (), (), (), (), states, 0)


def _meanwhile(
    at_hand: Sequence[DayTask],
    to_come: Sequence[DayTask],
    tasks: Mapping[str, Task],
    now: datetime,
) -> Iterator[DayTask]:
    """Return what may be begun before hands are needed next, and left when they are."""
    hands = [one for one in to_come if one.hands > 0]
    if any(one.begun for one in at_hand) or len(hands) < 2:
        return
    # What comes next stands for itself: it is for the others to be over before it.
    until = at_hand[0].starts if at_hand else hands[0].starts
    for one in hands[0 if at_hand else 1 :]:
        if one.may_begin and (
            now + (one.ends - one.starts) <= until or tasks[one.id].interruptible
        ):
            yield one


def _ready_at(days: Days, now: datetime) -> datetime | None:
    """Return when the first comes again, where nobody is there now."""
    shifts = [one for there in days.shifts().values() for one in there]
    if any(one.starts <= now < one.closes for one in shifts):
        return None
    return min((one.starts for one in shifts if one.starts > now), default=None)


def _day_task(
    task: Task,
    one: Planned,
    jobs: Mapping[str, DayJob],
    at: Mapping[str, Planned],
    ticks: Mapping[str, DayTick],
    done: Mapping[str, Planned],
    now: datetime,
) -> DayTask:
    begun = task.id in ticks
    late_s = 0.0 if begun or task.hands == 0 else max(0.0, (now - one.starts).total_seconds())
    job = jobs[task.job]
    return DayTask(
        task.id, task.title, job.id, job.title, task.hands, one.starts, one.ends, one.people,
        task.places, begun, may_begin(task, done, now), late_s,
        window_of(task, {**at, **done})[1], task.note, job.sheet_id, job.pour_id,
        job.kind == DayJobKind.CAST and task.id == f"{job.id}: roll",
    )  # fmt: skip


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
    return DayJobState(job.id, job.kind, job.title, job.due, last, late_s, job.pour_id)
