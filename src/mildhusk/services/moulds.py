"""Moulds: what they are built of, and what that takes."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import joinedload

from mildhusk.core.errors import MouldError
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.mould.estimate import MouldBuild, MouldEstimate, estimate_mould
from mildhusk.services.desk import Desk
from mildhusk.services.pieces import face_of, find_piece
from mildhusk.services.shelf import find_material, material_of
from mildhusk.store.tables import Material, MouldRow


@dataclass(frozen=True, slots=True)
class MouldAsked:
    """What is kept of a mould."""

    name: str
    piece_id: UUID
    rubber_id: UUID
    shell_id: UUID
    rubber_wall_m: float
    life_casts: int


def preview_mould(desk: Desk, asked: MouldAsked) -> MouldEstimate:
    """Estimate a mould without keeping it."""
    piece = find_piece(desk, asked.piece_id)
    rubber, shell = find_material(desk, asked.rubber_id), find_material(desk, asked.shell_id)
    build = _build(rubber, shell, asked.rubber_wall_m, asked.life_casts)
    return estimate_mould(face_of(piece), build)


def add_mould(desk: Desk, asked: MouldAsked) -> MouldRow:
    """Keep a mould that can be estimated."""
    preview_mould(desk, asked)
    row = MouldRow(workshop_id=desk.workshop_id, created_at=desk.now, **_columns(asked))
    desk.session.add(row)
    desk.session.flush()
    return row


def edit_mould(desk: Desk, key: UUID, version: int, asked: MouldAsked) -> MouldRow:
    """Change a mould."""
    row = desk.find_version(MouldRow, key, version, "mould")
    preview_mould(desk, asked)
    for column, value in _columns(asked).items():
        setattr(row, column, value)
    desk.session.flush()
    desk.session.refresh(row)
    return row


def _columns(asked: MouldAsked) -> dict[str, object]:
    return {name: getattr(asked, name) for name in MouldAsked.__slots__}


def list_moulds(desk: Desk) -> Sequence[MouldRow]:
    """Return all moulds, the newest first."""
    return desk.session.scalars(
        select(MouldRow)
        .where(MouldRow.workshop_id == desk.workshop_id)
        .options(
            joinedload(MouldRow.piece), joinedload(MouldRow.rubber), joinedload(MouldRow.shell)
        )
        .order_by(MouldRow.created_at.desc(), MouldRow.name)
    ).all()


def find_mould(desk: Desk, key: UUID) -> MouldRow:
    """Return one mould."""
    return desk.find(MouldRow, key, "mould")


def delete_mould(desk: Desk, key: UUID) -> None:
    """Delete a mould."""
    desk.session.delete(desk.find(MouldRow, key, "mould", lock=True))
    desk.session.flush()


def build_of(row: MouldRow) -> MouldBuild:
    """Return how a kept mould is built, as the core's value."""
    return _build(row.rubber, row.shell, row.rubber_wall_m, row.life_casts)


def estimate_of(row: MouldRow) -> MouldEstimate:
    """Return what a kept mould takes."""
    return estimate_mould(face_of(row.piece), build_of(row))


def _build(rubber: Material, shell: Material, wall_m: float, life_casts: int) -> MouldBuild:
    of_rubber, of_shell = material_of(rubber), material_of(shell)
    if not isinstance(of_rubber, Rubber):
        raise MouldError(f"'{rubber.name}' is no mould rubber; choose one.", "rubber_id")
    if not isinstance(of_shell, ShellMaterial):
        raise MouldError(f"'{shell.name}' is no shell material; choose one.", "shell_id")
    return MouldBuild(of_rubber, wall_m, of_shell, life_casts)
