"""The workshop itself, and the shelf it starts with."""

from dataclasses import asdict
from datetime import datetime, timedelta
from decimal import Decimal
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from mildhusk.core.bench import Bench
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.catalogue import shipped_kits, shipped_materials
from mildhusk.core.mixing.cup import Cup
from mildhusk.core.planning.costing import DEAREST_HOUR
from mildhusk.core.planning.document import material_document
from mildhusk.store.tables import KitOffer, Material, Workshop

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
    for material in shipped_materials():
        row = Material(workshop_id=workshop.id, created_at=now, **material_document(material))
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


def bench_of(workshop: Workshop) -> Bench:
    """Return what a workshop works with; what it has not said is as usual."""
    kept = dict(workshop.bench)
    for name in ("opens", "closes"):
        if name in kept:
            kept[name] = timedelta(seconds=kept[name])
    if "cup" in kept:
        kept["cup"] = Cup(**kept["cup"])
    return Bench(**kept)


def bench_here(session: Session) -> Bench:
    """Return what the one workshop works with."""
    return bench_of(session.scalars(select(Workshop)).one())


def set_bench(session: Session, bench: Bench) -> Workshop:
    """Keep what the workshop works with."""
    workshop = session.scalars(select(Workshop).with_for_update()).one()
    kept = asdict(bench)
    for name in ("opens", "closes"):
        kept[name] = kept[name].total_seconds()
    workshop.bench = kept
    session.flush()
    return workshop


def set_hour_rate(session: Session, rate: Decimal) -> Workshop:
    """Keep what an hour of work costs here."""
    if not 0 <= rate <= DEAREST_HOUR:
        raise ConditionError(
            f"An hour of work costs 0 to {DEAREST_HOUR:,}; give its rate.", "hour_rate"
        )
    workshop = session.scalars(select(Workshop).with_for_update()).one()
    workshop.hour_rate = rate
    session.flush()
    return workshop
