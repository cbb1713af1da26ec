"""The workshop itself, and the shelf it starts with."""

from datetime import datetime
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from mildhusk.core.materials.catalogue import shipped_resins
from mildhusk.core.planning.document import material_document
from mildhusk.store.tables import Material, Workshop

# Serialises the first start of two servers; any constant does.
_FOUNDING_LOCK = 7_340_611


def the_workshop(session: Session) -> Workshop | None:
    """Return the one workshop there is."""
    return session.scalars(select(Workshop)).one_or_none()


def found_workshop(session: Session, now: datetime) -> UUID:
    """Return the workshop, made with the shipped materials on its shelf when there is none."""
    session.connection().exec_driver_sql(f"SELECT pg_advisory_xact_lock({_FOUNDING_LOCK})")
    known = the_workshop(session)
    if known is not None:
        return known.id
    workshop = Workshop(name="Workshop", currency="EUR")
    session.add(workshop)
    session.flush()
    session.add_all(
        Material(workshop_id=workshop.id, created_at=now, **material_document(resin))
        for resin in shipped_resins()
    )
    return workshop.id
