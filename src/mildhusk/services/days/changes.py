"""What of the days cannot be kept, and the changes that free it; one press makes one of them."""

from dataclasses import dataclass, replace
from datetime import date, datetime
from uuid import UUID

from mildhusk.core.days.collisions import ChangeKind
from mildhusk.core.days.days import PlanStatus
from mildhusk.core.days.shifts import Person
from mildhusk.documents.days_files import read_days_json
from mildhusk.services.days.jobs import open_jobs
from mildhusk.services.days.people import people_here, places_here, set_people, set_place
from mildhusk.services.days.resins import cast_in, in_other_resins
from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayJob, DayPlan
from mildhusk.store.values import DAY_PLANS

_TRY_SECONDS = 0.6
"""To look for the plan of each change that is tried. [s]"""
_EVENING_H = 22.0


@dataclass(frozen=True, slots=True)
class WayOut:
    """A change with which nothing is late, and when all is done then.

    Parameters
    ----------
    kind : str
    of : str
        The job, person, day or place that is changed, or sheet and resin.
    text : str
    ends : datetime
    evenings : int
    """

    kind: str
    of: str
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
    titles = {str(job.id): job.title for job in open_jobs(transaction)}

    def named(text: str) -> str:
        for key, title in titles.items():
            text = text.replace(key, title)
        return text

    others = in_other_resins(transaction, days, plan)
    found = changes_that_free(
        days, plan, seconds=_TRY_SECONDS, evening_h=_EVENING_H, others=others
    )  # fmt: skip
    return WhatCollides(
        tuple(named(one.text) for one in colliding(days, seconds=_TRY_SECONDS) or ()),
        tuple(
            WayOut(
                one.made.kind,
                one.made.of,
                named(one.made.text),
                max(done.ends for done in one.plan.planned),
                0 if one.plan.cost is None else one.plan.cost.evenings,
            )
            for one in found
            if one.plan.planned
        ),
    )


def make_change(transaction: Transaction, kind: ChangeKind, of: str) -> None:
    """Make a change that frees the days; the plan is made anew by whoever asked.

    Raises
    ------
    ConflictError
        What it is about is not in the days any more.
    """
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    if row is None:
        raise _gone()
    match kind:
        case ChangeKind.LATER:
            _later(transaction, row, of)
        case ChangeKind.EVENINGS:
            _evenings(transaction, row, of)
        case ChangeKind.HELPER:
            _helper(transaction, row, of)
        case ChangeKind.SECOND_MOULD:
            have = {one.name: one.capacity for one in places_here(transaction)}
            set_place(transaction, of, have.get(of, 1) + 1)
        case ChangeKind.RESIN:
            cast_in(transaction, of)


def _later(transaction: Transaction, row: DayPlan, of: str) -> None:
    days, plan = read_days_json(row.days), DAY_PLANS.read(row.plan).plan
    of_job = {task.id for task in days.tasks if task.job == of}
    ends = [one.ends for one in plan.planned if one.id in of_job]
    if not ends:
        raise _gone()
    job = transaction.find(DayJob, UUID(of), "job", lock=True)
    if job.ended_at is not None:
        raise _gone()
    job.due = max(ends)
    transaction.session.flush()


def _evenings(transaction: Transaction, row: DayPlan, of: str) -> None:
    def longer(person: Person) -> Person:
        if person.name != of:
            return person
        week = {
            day: replace(hours, evening_h=max(hours.ends_h, _EVENING_H))
            for day, hours in person.week.items()
        }
        return replace(person, week=week)

    people = _people(transaction, row)
    if all(one.name != of for one in people):
        raise _gone()
    set_people(transaction, [longer(one) for one in people])


def _helper(transaction: Transaction, row: DayPlan, of: str) -> None:
    people = _people(transaction, row)
    try:
        day = date.fromisoformat(of)
    except ValueError as error:
        raise _gone() from error
    hours = people[0].week.get(day.weekday())
    if hours is None:
        raise _gone()
    name = f"helper on {day:%A}, {day:%d %b}"
    if any(one.name == name for one in people):
        raise ConflictError(f"There is a {name} already.")
    helper = replace(people[0], name=name, week={}, days_off=frozenset(), extra={day: hours})
    set_people(transaction, [*people, helper])


def _people(transaction: Transaction, row: DayPlan) -> tuple[Person, ...]:
    """Return who works here, in the zone of the plan where nobody was named."""
    return people_here(transaction, read_days_json(row.days).people[0].zone)


def _gone() -> ConflictError:
    return ConflictError("This changed meanwhile; look at the days again.")
