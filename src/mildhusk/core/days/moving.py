"""A task that is moved by hand: what that would break."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from mildhusk.core.days.days import Days, Planned
from mildhusk.core.days.shifts import shifts_of
from mildhusk.core.days.tasks import Task


class BreakKind(StrEnum):
    """What a task breaks where it was put."""

    PAST = "past"
    TOO_SOON = "too soon"
    TOO_LATE = "too late"
    FOLLOWER = "what follows"
    HOURS = "hours"
    HANDS = "hands"
    PLACE = "place"
    DUE = "due"


@dataclass(frozen=True, slots=True)
class Break:
    """One thing that a task breaks where it was put.

    Parameters
    ----------
    kind : BreakKind
    text : str
    by : str
        The task that is in the way; empty where none is.
    at : datetime or None
        From when on, or until when, it would not be broken.
    """

    kind: BreakKind
    text: str
    by: str = ""
    at: datetime | None = None


def breaks_of(
    days: Days, planned: Mapping[str, Planned], moved: Planned, now: datetime
) -> tuple[Break, ...]:
    """Return what a task breaks where it was put, while everything else stays.

    Parameters
    ----------
    days : Days
    planned : mapping of str to Planned
        Everything, as it is planned or was done.
    moved : Planned
        Where it was put, and whose hands it takes.
    now : datetime

    Returns
    -------
    tuple of Break
        Empty where nothing is broken.
    """
    task = next(one for one in days.tasks if one.id == moved.id)
    at = {**planned, moved.id: moved}
    titles = {one.id: one.title for one in days.tasks}
    return (
        *_of_time(task, moved, now),
        *_of_order(days, task, at, titles),
        *_of_hands(days, moved, at, titles),
        *_of_places(days, task, at, titles),
    )


def _of_time(task: Task, moved: Planned, now: datetime) -> Iterator[Break]:
    if moved.starts < now:
        yield Break(BreakKind.PAST, "that time is past", at=now)
    if task.not_before is not None and moved.starts < task.not_before:
        yield Break(BreakKind.TOO_SOON, "it may not begin yet", at=task.not_before)
    if task.due is not None and moved.ends > task.due:
        yield Break(BreakKind.DUE, "it would be late", at=task.due)


def _of_order(
    days: Days, task: Task, at: Mapping[str, Planned], titles: Mapping[str, str]
) -> Iterator[Break]:
    for follower in days.tasks:
        for after in follower.after:
            if task.id not in (follower.id, after.task):
                continue
            if after.task not in at or follower.id not in at:
                continue
            opens = at[after.task].ends + timedelta(seconds=after.from_s)
            starts, other = at[follower.id].starts, after.task
            kind = BreakKind.TOO_SOON
            if follower.id != task.id:
                kind, other = BreakKind.FOLLOWER, follower.id
            if starts < opens:
                said = f"'{titles[other]}' is not over, or not ready, by then"
                if kind is BreakKind.FOLLOWER:
                    said = f"'{titles[other]}' could not begin when it is planned"
                yield Break(kind, said, other, opens)
            elif after.until_s < math.inf:
                closes = at[after.task].ends + timedelta(seconds=after.until_s)
                if starts > closes:
                    if kind is BreakKind.TOO_SOON:
                        kind = BreakKind.TOO_LATE
                    said = f"the window after '{titles[after.task]}' closes before"
                    yield Break(kind, said, other, closes)


def _of_hands(
    days: Days, moved: Planned, at: Mapping[str, Planned], titles: Mapping[str, str]
) -> Iterator[Break]:
    people = {one.name: one for one in days.people}
    for name in moved.people:
        there = shifts_of(people[name], days.begins, days.ends) if name in people else ()
        if not any(one.starts <= moved.starts and moved.ends <= one.ends for one in there):
            next_one = next((one.starts for one in there if one.starts >= moved.starts), None)
            yield Break(BreakKind.HOURS, f"{name} is not there all that time", at=next_one)
        for one in at.values():
            if one.id != moved.id and name in one.people and _overlap(one, moved):
                said = f"{name} is at '{titles.get(one.id, one.id)}' then"
                yield Break(BreakKind.HANDS, said, one.id, one.ends)


def _of_places(
    days: Days, task: Task, at: Mapping[str, Planned], titles: Mapping[str, str]
) -> Iterator[Break]:
    moved = at[task.id]
    for place in task.places:
        others = [
            at[one.id]
            for one in days.tasks
            if one.id != task.id
            and one.id in at
            and place in one.places
            and _overlap(at[one.id], moved)
        ]
        if _most_at_once(others, moved) >= days.place(place).capacity:
            said = f"the {place} is taken by '{titles[others[0].id]}'"
            yield Break(BreakKind.PLACE, said, others[0].id, others[0].ends)
    for held in days.held:
        if task.id not in (held.first, held.last):
            continue
        starts, ends = at[held.first].starts, at[held.last].ends
        over = [
            other
            for other in days.held
            if other is not held
            and other.place == held.place
            and at[other.first].starts < ends
            and starts < at[other.last].ends
        ]
        spans = [Planned(one.first, at[one.first].starts, at[one.last].ends) for one in over]
        whole = Planned(held.first, starts, ends)
        if _most_at_once(spans, whole) >= days.place(held.place).capacity:
            said = f"another cast is in the {held.place} then"
            yield Break(BreakKind.PLACE, said, spans[0].id, spans[0].ends)


def _most_at_once(others: Sequence[Planned], during: Planned) -> int:
    """Return how many of others go on at once, at most, within a stretch they all touch."""
    moments = [max(one.starts, during.starts) for one in others]
    return max(
        (sum(one.starts <= moment < one.ends for one in others) for moment in moments), default=0
    )


def _overlap(one: Planned, other: Planned) -> bool:
    return one.starts < other.ends and other.starts < one.ends
