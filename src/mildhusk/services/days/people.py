"""Who works here and when, and of which places there are several."""

import secrets
from collections.abc import Sequence
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.tasks import Place
from mildhusk.core.errors import InputError
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import equipment_here, locked_workshop, workshop_here
from mildhusk.store.tables import PersonRow, Workshop

MOST_PEOPLE, MOST_OF_A_PLACE, MOST_PLACES = 20, 20, 100
_ALONE = "You"
"""Who works here where nobody was named, in the workshop's hours."""


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
        {datetime.fromisoformat(day).date(): Hours(*hours) for day, hours in row.extra.items()},
    )


def set_people(transaction: Transaction, people: Sequence[Person]) -> None:
    """Say who works here, all at once."""
    if len(people) > MOST_PEOPLE:
        raise InputError(f"Up to {MOST_PEOPLE} people are planned for.", "people")
    if len({one.name for one in people}) < len(people):
        raise InputError("Two people have one name.", "people")
    # Row by row, so that the trail tells how it was before.
    for row in transaction.session.scalars(
        select(PersonRow).where(PersonRow.workshop_id == transaction.workshop_id)
    ):
        transaction.session.delete(row)
    transaction.session.flush()
    for number, one in enumerate(people):
        transaction.session.add(
            PersonRow(
                workshop_id=transaction.workshop_id,
                created_at=transaction.now + timedelta(microseconds=number),
                name=one.name,
                zone=one.zone,
                week={str(day): _kept(hours) for day, hours in one.week.items()},
                skills=sorted(one.skills),
                days_off=[f"{day}" for day in sorted(one.days_off)],
                extra={f"{day}": _kept(hours) for day, hours in one.extra.items()},
            )
        )
    transaction.session.flush()


def _kept(hours: Hours) -> list[float]:
    return [hours.opens_h, hours.closes_h, *([hours.evening_h] if hours.evening_h else [])]


def places_here(transaction: Transaction) -> tuple[Place, ...]:
    """Return the places of which there are several; of every other there is one."""
    kept = workshop_here(transaction).day_places
    return tuple(Place(name, count) for name, count in sorted(kept.items()))


def set_place(transaction: Transaction, name: str, count: int) -> None:
    """Say how many there are of a place."""
    if not 1 <= count <= MOST_OF_A_PLACE:
        raise InputError(f"There are 1 to {MOST_OF_A_PLACE} of a place.", "count")
    workshop = locked_workshop(transaction)
    others = {key: value for key, value in workshop.day_places.items() if key != name}
    if count > 1 and len(others) >= MOST_PLACES:
        raise InputError(f"Up to {MOST_PLACES} places are known.", "name")
    workshop.day_places = {**others, name: count} if count > 1 else others
    transaction.session.flush()


def calendar_secret(transaction: Transaction) -> str | None:
    """Return what stands in the address a calendar reads; None where there is none."""
    return workshop_here(transaction).calendar_secret


def set_calendar_secret(transaction: Transaction, *, wanted: bool) -> str | None:
    """Make an address for calendars, instead of any before; or end it."""
    workshop = locked_workshop(transaction)
    workshop.calendar_secret = secrets.token_urlsafe(24) if wanted else None
    transaction.session.flush()
    return workshop.calendar_secret


def workshop_of_calendar(session: Session, secret: str) -> UUID | None:
    """Return the workshop whose days calendars may read at an address; None where there is none."""
    return session.scalar(select(Workshop.id).where(Workshop.calendar_secret == secret))
