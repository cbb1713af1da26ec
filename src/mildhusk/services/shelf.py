"""The shelf: materials with their data sheets, shipped and own."""

import re
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, delete, or_, select
from sqlalchemy.exc import IntegrityError

from mildhusk.core.amounts import Origin
from mildhusk.core.casting.schools import SCHOOLS
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import (
    KINDS,
    AnyMaterial,
    CastingMaterial,
    read_material,
    record_of,
)
from mildhusk.services.deleted import put_away
from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.store.tables import (
    CastSheetRow,
    DabTestRow,
    KitOffer,
    LotRow,
    Material,
    MouldPatch,
    MouldRow,
    Pour,
)

CASTING_RESIN, MELTED_CLAY = "casting-resin", "melted-clay"
CASTING_KINDS = (CASTING_RESIN, MELTED_CLAY)
_MOST_CASTABLES = 500


def list_resins(transaction: Transaction, page: Page) -> Listed[Material]:
    """Return the casting resins with some words in their name, by name."""
    return _listed(transaction, Material.kind == CASTING_RESIN, page)


def list_supplies(transaction: Transaction, kind: str | None, page: Page) -> Listed[Material]:
    """Return what is no casting resin, of a kind or of all, by kind and name."""
    wanted = Material.kind != CASTING_RESIN if kind is None else Material.kind == kind
    return _listed(transaction, wanted, page)


def _listed(transaction: Transaction, wanted: ColumnElement[bool], page: Page) -> Listed[Material]:
    matching = (wanted, Material.name.icontains(page.search, autoescape=True))
    rows = transaction.session.scalars(
        select(Material)
        .where(Material.workshop_id == transaction.workshop_id, *matching)
        .order_by(Material.kind, Material.name, Material.id)
        .limit(page.limit)
        .offset(page.offset)
    )
    return Listed(tuple(rows), transaction.count(Material, *matching))


@dataclass(frozen=True, slots=True)
class Castable:
    """Something a husk can be made of, and the schools it is poured by, the usual one first."""

    id: UUID
    key: str
    name: str
    schools: tuple[CoatSchool, ...]


def list_castables(transaction: Transaction) -> tuple[Castable, ...]:
    """Return what a husk can be made of, resins first."""
    rows = transaction.session.execute(
        select(Material.id, Material.key, Material.name, Material.kind)
        .where(Material.workshop_id == transaction.workshop_id, Material.kind.in_(CASTING_KINDS))
        .order_by(Material.kind, Material.name)
        .limit(_MOST_CASTABLES)
    )
    ways = {
        kind: tuple(key for key, one in SCHOOLS.items() if issubclass(KINDS[kind], one.pours))
        for kind in CASTING_KINDS
    }
    return tuple(Castable(key, code, name, ways[kind]) for key, code, name, kind in rows)


def find_material(transaction: Transaction, key: UUID) -> Material:
    """Return one material."""
    return transaction.find(Material, key, "material")


def add_material(
    transaction: Transaction, kind: str, name: str, values: dict[str, Any]
) -> Material:
    """Put an own material on the shelf; its key is made from its name."""
    key = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or kind
    made = _own(kind, key, name, values)
    material = new_row(transaction.workshop_id, transaction.now, made)
    transaction.session.add(material)
    try:
        transaction.session.flush()
    except IntegrityError as error:
        raise ConflictError(
            f"There is a material '{name}' on the shelf already; give this one another name."
        ) from error
    return material


def edit_material(
    transaction: Transaction, key: UUID, version: int, name: str, values: dict[str, Any]
) -> Material:
    """Change a data sheet; from then on it is the workshop's own."""
    material = transaction.find_version(Material, key, version, "material")
    made = _own(material.kind, material.key, name, values)
    material.name, material.sheet = name, record_of(made).sheet
    transaction.session.flush()
    return material


def new_row(workshop_id: UUID, now: datetime, material: AnyMaterial) -> Material:
    """Return a material as a new row."""
    record = record_of(material)
    return Material(
        workshop_id=workshop_id,
        created_at=now,
        kind=record.kind,
        key=record.key,
        name=record.name,
        sheet=record.sheet,
    )


def _own(kind: str, key: str, name: str, values: dict[str, Any]) -> AnyMaterial:
    made = read_material(kind, {**values, "key": key, "name": name, "origin": Origin.OWN_SHEET})
    if isinstance(made, CastingResin):
        # The solver is slow to load.
        from mildhusk.core.cure.model import cure_model

        # Times and a peak that no cure fits are refused here, and not on every sheet.
        cure_model(made)
    return made


def delete_material(transaction: Transaction, key: UUID) -> UUID:
    """Take a material off the shelf that no cast sheet uses; returns what brings it back."""
    material = transaction.find(Material, key, "material", lock=True)
    used_by = transaction.session.scalars(
        select(CastSheetRow.name).where(CastSheetRow.material_id == key).limit(1)
    ).first()
    if used_by is not None:
        raise ConflictError(f"The cast sheet '{used_by}' uses it; delete the sheet first.")
    if transaction.session.scalars(select(Pour.id).where(Pour.material_id == key).limit(1)).first():
        raise ConflictError("A pour was made with it; it is part of the log and stays.")
    built = transaction.session.scalars(
        select(MouldRow.name)
        .outerjoin(MouldRow.patches)
        .where(
            or_(
                MouldRow.rubber_id == key,
                MouldRow.shell_id == key,
                MouldPatch.rubber_id == key,
            )
        )
        .limit(1)
    ).first()
    if built is not None:
        raise ConflictError(f"The mould '{built}' is built of it; delete the mould first.")
    if transaction.session.scalars(
        select(LotRow.id).where(LotRow.material_id == key).limit(1)
    ).first():
        raise ConflictError("There are lots of it on the shelf; take them off first.")
    dabbed = or_(DabTestRow.first_id == key, DabTestRow.second_id == key)
    hanging = ((KitOffer, KitOffer.material_id == key), (DabTestRow, dabbed))
    kept = put_away(transaction, material, material.name, hanging)
    transaction.session.execute(delete(DabTestRow).where(dabbed))
    transaction.session.execute(delete(KitOffer).where(KitOffer.material_id == key))
    transaction.session.delete(material)
    transaction.session.flush()
    return kept


def material_of(material: Material) -> AnyMaterial:
    """Return a material of any kind as the core's value."""
    values = {**material.sheet, "key": material.key, "name": material.name}
    return read_material(material.kind, values)


def resin_of(material: Material) -> CastingResin:
    """Return a material as the core's casting resin."""
    made = material_of(material)
    if not isinstance(made, CastingResin):
        raise MaterialError(f"'{material.name}' is no casting resin; choose one.", "material_id")
    return made


def castable_of(material: Material) -> CastingMaterial:
    """Return a material as something a husk can be made of."""
    made = material_of(material)
    if not isinstance(made, CastingMaterial):
        raise MaterialError(f"No husk is made of '{material.name}'; choose a resin.", "material_id")
    return made
