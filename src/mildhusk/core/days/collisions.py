"""What collides where days cannot be kept, and which change frees it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from itertools import combinations
from zoneinfo import ZoneInfo

from mildhusk.core.days.days import Days, Plan, PlanStatus
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.solver import can_be_planned, plan_days
from mildhusk.core.days.standing import late_tasks
from mildhusk.core.days.tasks import Place, Task

_LARGEST = 3
"""Larger sets are shrunk from all wishes, and need not be the smallest."""
_MOST_TRIED = 300
_ALWAYS = {day: Hours(0.0, 24.0) for day in range(7)}


class WishKind(StrEnum):
    """What a maker wishes of the days."""

    DUE = "due"
    HOURS = "hours"
    DAYS_OFF = "days off"


@dataclass(frozen=True, slots=True)
class DayWish:
    """A wish that could be given up: `of` is the task that is due, or the person.

    Parameters
    ----------
    kind : WishKind
    of, text : str
    """

    kind: WishKind
    of: str
    text: str


def wishes_of(days: Days) -> tuple[DayWish, ...]:
    """Return all that a maker wishes of the days: due dates, working hours, days off."""
    found = [
        DayWish(WishKind.DUE, task.id, _due_in_words(days, task, task.due))
        for task in days.tasks
        if task.due is not None
    ]
    for person in days.people:
        found.append(DayWish(WishKind.HOURS, person.name, f"the working hours of {person.name}"))
        if person.days_off:
            text = f"the days off of {person.name}"
            found.append(DayWish(WishKind.DAYS_OFF, person.name, text))
    return tuple(found)


def _due_in_words(days: Days, task: Task, due: datetime) -> str:
    because = f" ({task.due_by})" if task.due_by else ""
    return f"'{task.title}' of {task.job} by {_told(days, due)}{because}"


def _told(days: Days, at: datetime) -> str:
    """Return a time as the clock on the wall of the first person tells it."""
    zone = ZoneInfo(days.people[0].zone) if days.people else UTC
    return f"{at.astimezone(zone):%d %b %H:%M}"


def without(days: Days, given_up: Sequence[DayWish]) -> Days:
    """Return days in which some wishes are given up."""
    due = {one.of for one in given_up if one.kind is WishKind.DUE}
    hours = {one.of for one in given_up if one.kind is WishKind.HOURS}
    off = {one.of for one in given_up if one.kind is WishKind.DAYS_OFF}

    def freed(person: Person) -> Person:
        if person.name in off:
            person = replace(person, days_off=frozenset())
        return replace(person, week=_ALWAYS, extra={}) if person.name in hours else person

    return replace(
        days,
        tasks=tuple(replace(one, due=None) if one.id in due else one for one in days.tasks),
        people=tuple(map(freed, days.people)),
    )


def colliding(
    days: Days,
    *,
    seconds: float = 2.0,
) -> tuple[DayWish, ...] | None:
    """Return a smallest set of wishes that cannot be kept together, whatever becomes of the others.

    Parameters
    ----------
    days : Days
    seconds : float
        To look at each set. [s]

    Returns
    -------
    tuple of DayWish or None
        Empty where no wish is in the way: what is to be done cannot be done at all. None where
        nothing collides. Of more than three, or of very many, a set of which none can be left
        out, which need not be the smallest.

    Notes
    -----
    Sets are tried by their size; past `_LARGEST` wishes are left out one by one while the rest
    still collide (deletion filter).

    References
    ----------
    J. W. Chinneck, Feasibility and Infeasibility in Optimization (2008), 6.2. From memory.
    """
    wishes = wishes_of(days)
    tried = 0

    def collide(kept: Sequence[DayWish]) -> bool:
        freed = without(days, [one for one in wishes if one not in kept])
        return can_be_planned(freed, strict=True, seconds=seconds) is False

    if not collide(wishes):
        return None
    for size in range(min(_LARGEST, len(wishes)) + 1):
        for kept in combinations(wishes, size):
            tried += 1
            if tried > _MOST_TRIED:
                break
            if collide(kept):
                return kept
    left = list(wishes)
    for one in wishes:
        fewer = [other for other in left if other is not one]
        if collide(fewer):
            left = fewer
    return tuple(left)


class ChangeKind(StrEnum):
    """What may free days that collide."""

    LATER = "a later date"
    HELPER = "a helper"
    SECOND_MOULD = "a second mould"
    RESIN = "another resin"
    EVENINGS = "evenings"


@dataclass(frozen=True, slots=True)
class Candidate:
    """A change that may free the days.

    Parameters
    ----------
    kind : ChangeKind
    of, text : str
        Which job, place, person or resin, and what is said.
    days : Days
        As they would be.
    """

    kind: ChangeKind
    of: str
    text: str
    days: Days


@dataclass(frozen=True, slots=True)
class Change:
    """A change with which nothing is late, and the plan that it makes."""

    made: Candidate
    plan: Plan


def changes_that_free(
    days: Days,
    plan: Plan,
    *,
    seconds: float = 2.0,
    evening_h: float = 22.0,
    others: Sequence[Candidate] = (),
) -> tuple[Change, ...]:
    """Return changes with which nothing is late, the least of a change first.

    Parameters
    ----------
    days : Days
    plan : Plan
        The best that was found of them; late, or none.
    seconds : float
        To look at each. [s]
    evening_h : float
        Until when one would work of an evening. [h]
    others : sequence of Candidate
        That the days alone do not tell, as another resin.

    Returns
    -------
    tuple of Change
        Each was planned; those that free nothing are left out.
    """
    found = []
    for one in (*_candidates(days, plan, evening_h), *others):
        tried = plan_days(one.days, seconds=seconds)
        if tried.standing is not PlanStatus.NONE and tried.cost and tried.cost.late_s == 0.0:
            found.append(Change(one, tried))
    return tuple(found)


def _candidates(days: Days, plan: Plan, evening_h: float) -> Iterator[Candidate]:
    stands = plan.by_id()
    for task in late_tasks(days.tasks, stands):
        if task.due_by:
            # What expires does so, whatever one wishes.
            continue
        by = stands[task.id].ends
        assert task.due is not None
        moved = tuple(replace(one, due=by) if one.id == task.id else one for one in days.tasks)
        text = f"{task.job} by {_told(days, by)} instead of {_told(days, task.due)}"
        yield Candidate(ChangeKind.LATER, task.job, text, replace(days, tasks=moved))
    for person in days.people:
        longer = {
            day: replace(hours, evening_h=max(hours.ends_h, evening_h))
            for day, hours in person.week.items()
            if hours.closes_h < evening_h
        }
        if longer:
            people = tuple(
                replace(one, week={**one.week, **longer}) if one is person else one
                for one in days.people
            )
            text = f"{person.name} works until {evening_h:.0f}:00 where need be"
            yield Candidate(ChangeKind.EVENINGS, person.name, text, replace(days, people=people))
    if days.people:
        like = days.people[0]
        for day in range(7):
            at = days.begins.date() + timedelta(days=day)
            hours = like.week.get(at.weekday())
            if hours is not None:
                name = f"helper on {at:%A}"
                helper = replace(like, name=name, week={}, days_off=frozenset(), extra={at: hours})
                people = (*days.people, helper)
                yield Candidate(
                    ChangeKind.HELPER,
                    f"{at}",
                    f"a {name}, {at:%d %b}",
                    replace(days, people=people),
                )
    for name in dict.fromkeys(one.place for one in days.held):
        place = days.place(name)
        more = (
            *(one for one in days.places if one.name != name),
            Place(name, place.capacity + 1, place.temperature_k),
        )
        changed = replace(days, places=more)
        yield Candidate(ChangeKind.SECOND_MOULD, name, f"another {name}", changed)
