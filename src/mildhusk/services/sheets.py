"""Cast sheets: wishes kept, plans computed from them."""

from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Any
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import joinedload

from mildhusk.core.errors import InputError
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.planning.paste import PastePlace
from mildhusk.core.planning.sheet import CastSheet, plan_cast
from mildhusk.core.planning.wish import CastWish, CoatSchool
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.services.pieces import face_of, find_piece
from mildhusk.services.shelf import CASTING_RESIN, find_material, resin_of
from mildhusk.services.workshop import bench_here
from mildhusk.store.tables import CastSheetRow, Material, Pour

_MOST_PROPOSED = 200


def preview_sheet(desk: Desk, piece_id: UUID, material_id: UUID, wish: CastWish) -> CastSheet:
    """Plan a cast without keeping anything."""
    piece, material = find_piece(desk, piece_id), find_material(desk, material_id)
    return plan_cast(face_of(piece), resin_of(material), wish, bench_here(desk.session))


def by_school(
    desk: Desk, piece_id: UUID, material_id: UUID, wish: CastWish
) -> dict[CoatSchool, CastSheet | InputError]:
    """Plan a cast by every school, side by side; what a school cannot do says why."""
    piece, material = find_piece(desk, piece_id), find_material(desk, material_id)
    face, resin, bench = face_of(piece), resin_of(material), bench_here(desk.session)
    plans: dict[CoatSchool, CastSheet | InputError] = {}
    for school in CoatSchool:
        try:
            plans[school] = plan_cast(face, resin, replace(wish, school=school), bench)
        except InputError as error:
            plans[school] = error
    return plans


def wish_of(kept: dict[str, Any]) -> CastWish:
    """Return a kept wish; one of an earlier version has what is usual where it said nothing."""
    values = dict(kept)
    values["school"] = CoatSchool(values.get("school", CoatSchool.EQUAL))
    if values.get("measure") is not None:
        values["measure"] = RatioBasis(values["measure"])
    values["paste_places"] = tuple(PastePlace(**one) for one in values.get("paste_places", ()))
    return CastWish(**values)


def resins_here(desk: Desk) -> tuple[CastingResin, ...]:
    """Return the casting resins on the shelf: what a finding may propose."""
    rows = desk.session.scalars(
        select(Material)
        .where(Material.workshop_id == desk.workshop_id, Material.kind == CASTING_RESIN)
        .order_by(Material.name)
        .limit(_MOST_PROPOSED)
    )
    return tuple(resin_of(row) for row in rows)


def add_sheet(
    desk: Desk, name: str, piece_id: UUID, material_id: UUID, wish: CastWish
) -> CastSheetRow:
    """Keep a cast sheet that can be planned."""
    preview_sheet(desk, piece_id, material_id, wish)
    row = CastSheetRow(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        name=name,
        piece_id=piece_id,
        material_id=material_id,
        wish=asdict(wish),
    )
    desk.session.add(row)
    desk.session.flush()
    return row


def edit_sheet(
    desk: Desk,
    key: UUID,
    version: int,
    name: str,
    piece_id: UUID,
    material_id: UUID,
    wish: CastWish,
) -> CastSheetRow:
    """Change a cast sheet; pours already started keep the plan they began with."""
    row = desk.find_version(CastSheetRow, key, version, "cast sheet")
    preview_sheet(desk, piece_id, material_id, wish)
    row.name, row.piece_id, row.material_id = name, piece_id, material_id
    row.wish = asdict(wish)
    desk.session.flush()
    desk.session.refresh(row)
    return row


def list_sheets(desk: Desk) -> Sequence[CastSheetRow]:
    """Return all cast sheets, the newest first, with their piece and resin."""
    return desk.session.scalars(
        select(CastSheetRow)
        .where(CastSheetRow.workshop_id == desk.workshop_id)
        .options(joinedload(CastSheetRow.piece), joinedload(CastSheetRow.material))
        .order_by(CastSheetRow.created_at.desc(), CastSheetRow.name)
    ).all()


def find_sheet(desk: Desk, key: UUID) -> CastSheetRow:
    """Return one cast sheet."""
    return desk.find(CastSheetRow, key, "cast sheet")


def plan_of(desk: Desk, row: CastSheetRow) -> CastSheet:
    """Return the plan of a kept cast sheet."""
    bench = bench_here(desk.session)
    return plan_cast(face_of(row.piece), resin_of(row.material), wish_of(row.wish), bench)


def delete_sheet(desk: Desk, key: UUID) -> None:
    """Delete a cast sheet that was never poured."""
    row = desk.find(CastSheetRow, key, "cast sheet", lock=True)
    if desk.session.scalars(select(Pour.id).where(Pour.sheet_id == key).limit(1)).first():
        raise ConflictError("This cast sheet was poured and is part of the log; it stays.")
    desk.session.delete(row)
    desk.session.flush()
