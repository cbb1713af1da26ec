"""Cast sheets: wishes kept, plans computed from them."""

from collections.abc import Sequence
from dataclasses import asdict
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import joinedload

from mildhusk.core.planning.sheet import CastSheet, plan_cast
from mildhusk.core.planning.wish import CastWish
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.services.pieces import face_of, find_piece
from mildhusk.services.shelf import find_material, resin_of
from mildhusk.store.tables import CastSheetRow, Pour


def preview_sheet(desk: Desk, piece_id: UUID, material_id: UUID, wish: CastWish) -> CastSheet:
    """Plan a cast without keeping anything."""
    piece, material = find_piece(desk, piece_id), find_material(desk, material_id)
    return plan_cast(face_of(piece), resin_of(material), wish)


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


def plan_of(row: CastSheetRow) -> CastSheet:
    """Return the plan of a kept cast sheet."""
    return plan_cast(face_of(row.piece), resin_of(row.material), CastWish(**row.wish))


def delete_sheet(desk: Desk, key: UUID) -> None:
    """Delete a cast sheet that was never poured."""
    row = desk.find(CastSheetRow, key, "cast sheet", lock=True)
    if desk.session.scalars(select(Pour.id).where(Pour.sheet_id == key).limit(1)).first():
        raise ConflictError("This cast sheet was poured and is part of the log; it stays.")
    desk.session.delete(row)
    desk.session.flush()
