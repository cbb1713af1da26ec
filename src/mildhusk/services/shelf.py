"""The shelf: materials with their data sheets, shipped and own."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, delete, func, or_, select
from sqlalchemy.exc import IntegrityError

from mildhusk.core.cure.model import cure_model
from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.casting_resin import CastingResin, Origin
from mildhusk.core.materials.catalogue import AnyMaterial, read_material
from mildhusk.core.planning.document import material_document
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.store.tables import (
    CastSheetRow,
    DabTestRow,
    KitOffer,
    LotRow,
    Material,
    MouldPatch,
    MouldRow,
)

CASTING_RESIN = "casting-resin"


@dataclass(frozen=True, slots=True)
class Listed:
    """The materials found, as far as they were asked for, and how many there are in all."""

    rows: Sequence[Material]
    total: int


def list_resins(desk: Desk, search: str, limit: int) -> Listed:
    """Return the casting resins with some words in their name, by name."""
    return _listed(desk, Material.kind == CASTING_RESIN, search, limit)


def list_supplies(desk: Desk, kind: str | None, search: str, limit: int) -> Listed:
    """Return what is no casting resin, of a kind or of all, by kind and name."""
    wanted = Material.kind != CASTING_RESIN if kind is None else Material.kind == kind
    return _listed(desk, wanted, search, limit)


def _listed(desk: Desk, wanted: ColumnElement[bool], search: str, limit: int) -> Listed:
    matching = (
        Material.workshop_id == desk.workshop_id,
        wanted,
        Material.name.icontains(search, autoescape=True),
    )
    total = desk.session.scalar(select(func.count()).select_from(Material).where(*matching))
    rows = desk.session.scalars(
        select(Material).where(*matching).order_by(Material.kind, Material.name).limit(limit)
    ).all()
    return Listed(rows, total or 0)


def find_material(desk: Desk, key: UUID) -> Material:
    """Return one material."""
    return desk.find(Material, key, "material")


def add_material(desk: Desk, kind: str, name: str, values: dict[str, Any]) -> Material:
    """Put an own material on the shelf; its key is made from its name."""
    key = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or kind
    made = _own(kind, key, name, values)
    material = Material(
        workshop_id=desk.workshop_id, created_at=desk.now, **material_document(made)
    )
    desk.session.add(material)
    try:
        desk.session.flush()
    except IntegrityError as error:
        raise ConflictError(
            f"There is a material '{name}' on the shelf already; give this one another name."
        ) from error
    return material


def edit_material(
    desk: Desk, key: UUID, version: int, name: str, values: dict[str, Any]
) -> Material:
    """Change a data sheet; from then on it is the workshop's own."""
    material = desk.find_version(Material, key, version, "material")
    made = _own(material.kind, material.key, name, values)
    material.name, material.sheet = name, material_document(made)["sheet"]
    desk.session.flush()
    return material


def _own(kind: str, key: str, name: str, values: dict[str, Any]) -> AnyMaterial:
    made = read_material(kind, {**values, "key": key, "name": name, "origin": Origin.OWN_SHEET})
    if isinstance(made, CastingResin):
        # Times and a peak that no cure fits are refused here, and not on every sheet.
        cure_model(made)
    return made


def delete_material(desk: Desk, key: UUID) -> None:
    """Take a material off the shelf that no cast sheet uses."""
    material = desk.find(Material, key, "material", lock=True)
    used_by = desk.session.scalars(
        select(CastSheetRow.name).where(CastSheetRow.material_id == key).limit(1)
    ).first()
    if used_by is not None:
        raise ConflictError(f"The cast sheet '{used_by}' uses it; delete the sheet first.")
    built = desk.session.scalars(
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
    if desk.session.scalars(select(LotRow.id).where(LotRow.material_id == key).limit(1)).first():
        raise ConflictError("There are lots of it on the shelf; take them off first.")
    dabbed = or_(DabTestRow.first_id == key, DabTestRow.second_id == key)
    desk.session.execute(delete(DabTestRow).where(dabbed))
    desk.session.execute(delete(KitOffer).where(KitOffer.material_id == key))
    desk.session.delete(material)
    desk.session.flush()


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
