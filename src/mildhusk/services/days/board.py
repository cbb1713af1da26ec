"""The board of days: by people, moulds and places; a task is moved on it by hand."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from mildhusk.core.days.days import Days, Planned
from mildhusk.core.days.moving import Break, breaks_of
from mildhusk.core.days.shifts import Shift
from mildhusk.core.days.standing import window_of
from mildhusk.core.errors import InputError
from mildhusk.documents.days_files import read_days_json
from mildhusk.services.days.jobs import open_jobs
from mildhusk.services.days.planning import (
    done_of,
    is_over,
    keep,
    pinned,
    problem_here,
    solved,
    ticks_here,
)
from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayPlan
from mildhusk.store.values import DAY_PLANS, KeptDayPlan

_ALONE = "sets, dries"


@dataclass(frozen=True, slots=True)
class BoardTask:
    """A task on the board.

    Parameters
    ----------
    id, title, job_title : str
    starts, ends : datetime
    opens, closes : datetime or None
        Its window, where what it follows has one.
    people : tuple of str
    hands : int
    begun, done, pinned, missed : bool
        It was begun, is over, was put there by hand, finds its window closed.
    note : str
    """

    id: str
    title: str
    job_title: str
    starts: datetime
    ends: datetime
    opens: datetime | None
    closes: datetime | None
    people: tuple[str, ...]
    hands: int
    begun: bool
    done: bool
    pinned: bool
    missed: bool
    note: str


@dataclass(frozen=True, slots=True)
class LaneBlock:
    """A stretch on a lane: a task, or what holds a mould from one task to another."""

    task: str
    title: str
    starts: datetime
    ends: datetime


@dataclass(frozen=True, slots=True)
class Lane:
    """A person, mould or place: when it is there, and what takes it up.

    Parameters
    ----------
    kind : str
        person, mould, place, or alone: what goes by itself.
    name : str
    count : int
        So many of it there are.
    open : tuple of LaneBlock
        When a person is there; an evening is called so.
    blocks : tuple of LaneBlock
    """

    kind: str
    name: str
    count: int
    open: tuple[LaneBlock, ...]
    blocks: tuple[LaneBlock, ...]


@dataclass(frozen=True, slots=True)
class Board:
    """The board of days."""

    at: datetime
    begins: datetime
    ends: datetime
    lanes: tuple[Lane, ...]
    tasks: tuple[BoardTask, ...]


def board(transaction: Transaction) -> Board:
    """Return the board of the days that are planned."""
    now = transaction.now.astimezone(UTC)
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    if row is None:
        return Board(now, now, now, (), ())
    kept, days = DAY_PLANS.read(row.plan), read_days_json(row.days)
    titles = {str(job.id): job.title for job in open_jobs(transaction)}
    ticks = ticks_here(transaction)
    done = done_of(days, ticks, kept.plan, now)
    at = {**kept.plan.by_id(), **done}
    tasks = [task for task in days.tasks if task.job in titles and task.id in at]
    shown = tuple(
        BoardTask(
            task.id,
            task.title,
            titles[task.job],
            at[task.id].starts,
            at[task.id].ends,
            *window_of(task, at),
            at[task.id].people,
            task.hands,
            task.id in done,
            is_over(task.id, done, ticks, now),
            task.id in kept.pins,
            task.id in kept.plan.missed,
            task.note,
        )
        for task in sorted(tasks, key=lambda task: at[task.id].starts)
    )
    begins = min((one.starts for one in shown), default=now)
    ends = max((one.ends for one in shown), default=now)
    return Board(now, min(begins, now), ends, _lanes(days, shown, at), shown)


def _lanes(days: Days, tasks: Sequence[BoardTask], at: Mapping[str, Planned]) -> tuple[Lane, ...]:
    shifts = days.shifts()
    places: dict[str, list[LaneBlock]] = {}
    known = {task.id: task for task in days.tasks}
    for one in tasks:
        for place in known[one.id].places:
            places.setdefault(place, []).append(_block(one))
    moulds: dict[str, list[LaneBlock]] = {}
    shown = {one.id: one for one in tasks}
    for held in days.held:
        if held.first in shown and held.last in at:
            title = shown[held.first].job_title
            block = LaneBlock(held.first, title, at[held.first].starts, at[held.last].ends)
            moulds.setdefault(held.place, []).append(block)
    people = [
        Lane(
            "person",
            name,
            1,
            tuple(_open(shifts.get(name, ()))),
            tuple(_block(one) for one in tasks if name in one.people),
        )
        for name in dict.fromkeys((*shifts, *(name for one in tasks for name in one.people)))
    ]
    alone = tuple(_block(one) for one in tasks if one.hands == 0)
    return (
        *people,
        *((Lane("alone", _ALONE, 1, (), alone),) if alone else ()),
        *_of_kind(days, "mould", moulds),
        *_of_kind(days, "place", places),
    )


def _of_kind(days: Days, kind: str, blocks: Mapping[str, Sequence[LaneBlock]]) -> Iterable[Lane]:
    for name in sorted(blocks):
        in_order = tuple(sorted(blocks[name], key=lambda one: one.starts))
        yield Lane(kind, name, days.place(name).capacity, (), in_order)


def _block(task: BoardTask) -> LaneBlock:
    return LaneBlock(task.id, task.title, task.starts, task.ends)


def _open(shifts: Iterable[Shift]) -> Iterable[LaneBlock]:
    for one in shifts:
        yield LaneBlock("", "", one.starts, one.closes)
        if one.ends > one.closes:
            yield LaneBlock("", "evening", one.closes, one.ends)


# -- moved by hand ----------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class MoveTried:
    """Where a task was put, and what that breaks while everything else stays."""

    task: str
    starts: datetime
    ends: datetime
    people: tuple[str, ...]
    breaks: tuple[Break, ...]


def try_move(
    transaction: Transaction, task_id: str, starts: datetime, person: str = ""
) -> MoveTried:
    """Return what a task breaks where it is put; nothing is changed.

    Raises
    ------
    ConflictError
        It is not in the plan any more, or was begun.
    InputError
        Nobody has that name.
    """
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    if row is None:
        raise _gone()
    kept, days = DAY_PLANS.read(row.plan), read_days_json(row.days)
    now = transaction.now.astimezone(UTC)
    done = done_of(days, ticks_here(transaction), kept.plan, now)
    moved = _put(days, kept, done, task_id, starts, person)
    # A place it was given by hand before binds it no more.
    days = replace(
        days,
        tasks=tuple(
            replace(one, not_before=None) if one.id == task_id and task_id in kept.pins else one
            for one in days.tasks
        ),
    )
    broken = breaks_of(days, {**kept.plan.by_id(), **done}, moved, now)
    return MoveTried(moved.id, moved.starts, moved.ends, moved.people, broken)


def move(transaction: Transaction, task_id: str, starts: datetime, person: str = "") -> None:
    """Put a task somewhere; the rest is planned again round it."""
    problem = problem_here(transaction, freed=task_id)
    kept = KeptDayPlan(problem.before, (), problem.pins) if problem.before is not None else None
    if kept is None:
        raise _gone()
    moved = _put(problem.days, kept, problem.done, task_id, starts, person)
    now = problem.now
    if moved.starts < now:
        raise InputError("That time is past; put it where it can still be done.", "starts")
    pins = {**problem.pins, task_id: moved.starts}
    before = replace(
        kept.plan,
        planned=tuple(moved if one.id == task_id else one for one in kept.plan.planned),
    )
    days = pinned(problem.days, {task_id: moved.starts})
    put = replace(problem, days=days, before=before, pins=pins, first=task_id)
    keep(transaction, days, solved(put))


def free(transaction: Transaction, task_id: str) -> None:
    """Let a task be planned again that was put somewhere by hand."""
    row = transaction.session.get(DayPlan, transaction.workshop_id, with_for_update=True)
    if row is None:
        raise _gone()
    kept = DAY_PLANS.read(row.plan)
    pins = {key: at for key, at in kept.pins.items() if key != task_id}
    row.plan = DAY_PLANS.write(replace(kept, pins=pins))
    transaction.session.flush()


def _put(
    days: Days,
    kept: KeptDayPlan,
    done: Mapping[str, Planned],
    task_id: str,
    starts: datetime,
    person: str,
) -> Planned:
    stood = kept.plan.by_id().get(task_id)
    task = next((one for one in days.tasks if one.id == task_id), None)
    if stood is None or task is None:
        raise _gone()
    if task_id in done:
        raise ConflictError("This was begun already; it stays where it is.")
    people = stood.people
    if person and task.hands == 1:
        if person not in {one.name for one in days.able(task)}:
            raise InputError(f"{person} cannot do this; choose somebody who can.", "person")
        people = (person,)
    at = starts.astimezone(UTC).replace(second=0, microsecond=0)
    return Planned(task_id, at, at + timedelta(seconds=task.duration_s), people)


def _gone() -> ConflictError:
    return ConflictError("This is not in the plan any more; look at it again.")
