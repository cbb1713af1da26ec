"""The workshop itself, and the shelf it starts with."""

from datetime import datetime, timedelta
from decimal import Decimal
from uuid import UUID

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.catalogue import shipped_kits, shipped_materials
from mildhusk.core.supply.costing import DEAREST_HOUR
from mildhusk.services.shelf import new_row
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import KitOffer, Workshop
from mildhusk.store.values import EQUIPMENT

# Serialises the first start of two servers; any constant does.
_FOUNDING_LOCK = 7_340_611
_BACKUP_WITHIN = timedelta(days=3)
"""One is made every day; one that is older is warned of."""


def found_workshop(session: Session, now: datetime) -> UUID:
    """Return the workshop, made with the shipped materials on its shelf when there is none.

    Done once, when the application starts: no request waits for it.
    """
    known = session.scalars(select(Workshop.id)).one_or_none()
    if known is not None:
        return known
    session.connection().exec_driver_sql(f"SELECT pg_advisory_xact_lock({_FOUNDING_LOCK})")
    known = session.scalars(select(Workshop.id)).one_or_none()
    if known is not None:
        return known
    return new_workshop(session, now)


def new_workshop(session: Session, now: datetime, name: str = "Workshop") -> UUID:
    """Return another workshop, with the shipped materials on its shelf and nothing else."""
    workshop = Workshop(name=name, currency="EUR")
    session.add(workshop)
    session.flush()
    for material in shipped_materials():
        row = new_row(workshop.id, now, material)
        session.add(row)
        session.flush()
        session.add_all(
            KitOffer(
                workshop_id=workshop.id,
                created_at=now,
                material_id=row.id,
                name=kit.name,
                mass_kg=kit.mass_kg,
                price=kit.price,
                shelf_life_days=kit.shelf_life_days,
            )
            for kit in shipped_kits(material.key)
        )
    return workshop.id


def workshop_here(transaction: Transaction) -> Workshop:
    """Return the workshop; the session holds on to it, and fetches it once."""
    workshop = transaction.session.get_one(Workshop, transaction.workshop_id)
    transaction.session.info["workshop"] = workshop
    return workshop


def equipment_here(transaction: Transaction) -> Equipment:
    """Return what the workshop works with; what it has not said is as usual."""
    return equipment_of(workshop_here(transaction))


def equipment_of(workshop: Workshop) -> Equipment:
    """Return what a workshop works with; what it has not said is as usual."""
    return EQUIPMENT.read(workshop.equipment)


def set_equipment(transaction: Transaction, equipment: Equipment) -> Workshop:
    """Keep what the workshop works with."""
    workshop = locked_workshop(transaction)
    workshop.equipment = EQUIPMENT.write(equipment)
    transaction.session.flush()
    return workshop


def is_backup_overdue(workshop: Workshop, now: datetime) -> bool:
    """Return whether the last good backup is long ago; where none was ever made, none is due."""
    last = workshop.backed_up_at
    return last is not None and now - last > _BACKUP_WITHIN


def tables_revision(session: Session) -> str:
    """Return which revision the tables of the database are of."""
    revision = text("SELECT version_num FROM alembic_version")
    return str(session.scalars(revision).one())


def note_backup(transaction: Transaction, said: str = "") -> None:
    """Keep that a backup was made now; or why it was not, which leaves the last good one."""
    workshop = locked_workshop(transaction)
    workshop.backup_said = said[:300]
    if not said:
        workshop.backed_up_at = transaction.now
    transaction.session.flush()


def set_hour_rate(transaction: Transaction, rate: Decimal) -> Workshop:
    """Keep what an hour of work costs here."""
    if not 0 <= rate <= DEAREST_HOUR:
        raise ConditionError(
            f"An hour of work costs 0 to {DEAREST_HOUR:,}; give its rate.", "hour_rate"
        )
    workshop = locked_workshop(transaction)
    workshop.hour_rate = rate
    transaction.session.flush()
    return workshop


def locked_workshop(transaction: Transaction) -> Workshop:
    """Return the workshop, locked until the transaction ends."""
    return transaction.session.get_one(
        Workshop, transaction.workshop_id, with_for_update=True, populate_existing=True
    )
