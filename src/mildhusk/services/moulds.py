"""Moulds on the shelf: estimated, kept, edited, listed."""

from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from uuid import UUID

from sqlalchemy import case, func, select
from sqlalchemy.orm import aliased, joinedload, selectinload, undefer

from mildhusk.core.equipment import Equipment
from mildhusk.core.mould.estimate import MouldEstimate, estimate_mould
from mildhusk.core.mould.plan import plan_mould
from mildhusk.services.deleted import put_away
from mildhusk.services.errors import ConflictError
from mildhusk.services.mould_build import (
    MouldRequest,
    PatchRequest,
    build_from,
    build_of,
    kept_build_of,
    patch_from,
    place_of,
    wish_from,
    wish_of,
)
from mildhusk.services.mould_study import ask_study, is_studied, study_of
from mildhusk.services.pieces import face_of, find_piece
from mildhusk.services.shelf import find_material
from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.store.kept import Json, facts
from mildhusk.store.tables import (
    CastRun,
    DayJob,
    KeptPattern,
    Material,
    MouldEvent,
    MouldEventKind,
    MouldPatch,
    MouldRow,
    Piece,
    Pour,
)
from mildhusk.store.values import BUILDS, TAKES

PLAN = 1
"""Another number when moulds come out differently, so that no list tells an old one."""


def preview_mould(transaction: Transaction, asked: MouldRequest) -> MouldEstimate:
    """Estimate a mould without keeping it."""
    piece = find_piece(transaction, asked.piece_id)
    rubber, shell = (
        find_material(transaction, asked.rubber_id),
        find_material(transaction, asked.shell_id),
    )
    build = build_from(rubber, shell, asked.rubber_wall_m, asked.life_casts)
    patches = tuple(
        patch_from(one.name, one.place, find_material(transaction, one.rubber_id))
        for one in asked.patches
    )
    wish_from(build, asked.build, patches)
    return estimate_mould(face_of(piece), build)


def add_mould(transaction: Transaction, asked: MouldRequest) -> MouldRow:
    """Keep a mould that can be estimated, and ask for its study where there is a worker."""
    preview_mould(transaction, asked)
    row = _kept(transaction, asked, {}, b"")
    if transaction.queue is not None:
        ask_study(transaction, row)
    return row


def add_mould_like(transaction: Transaction, key: UUID, name: str) -> MouldRow:
    """Keep another mould, built like one that is there; what was studied of that holds for it."""
    like = find_mould(transaction, key)
    patches = tuple(PatchRequest(one.name, place_of(one), one.rubber_id) for one in like.patches)
    asked = MouldRequest(
        name, like.piece_id, like.rubber_id, like.shell_id, like.rubber_wall_m, like.life_casts,
        kept_build_of(like), patches,
    )  # fmt: skip
    return _kept(transaction, asked, like.study, like.study_model)


def _kept(
    transaction: Transaction, asked: MouldRequest, study: Json, study_model: bytes
) -> MouldRow:
    row = MouldRow(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        study=study,
        study_model=study_model,
        checks={},
        **_columns(asked),
        patches=_patch_rows(transaction, asked),
    )
    transaction.session.add(row)
    transaction.session.flush()
    return row


def edit_mould(transaction: Transaction, key: UUID, version: int, asked: MouldRequest) -> MouldRow:
    """Change a mould; what was found of its piece is found again when it no longer holds."""
    row = transaction.find_version(MouldRow, key, version, "mould")
    preview_mould(transaction, asked)
    for column, value in _columns(asked).items():
        setattr(row, column, value)
    row.patches = _patch_rows(transaction, asked)
    transaction.session.flush()
    transaction.session.refresh(row)
    if transaction.queue is not None and not is_studied(row):
        ask_study(transaction, row)
    return row


def _columns(asked: MouldRequest) -> dict[str, object]:
    plain = ("name", "piece_id", "rubber_id", "shell_id", "rubber_wall_m", "life_casts")
    columns: dict[str, object] = {name: getattr(asked, name) for name in plain}
    columns["build"] = BUILDS.write(asked.build)
    return columns


def _patch_rows(transaction: Transaction, asked: MouldRequest) -> list[MouldPatch]:
    return [
        MouldPatch(
            workshop_id=transaction.workshop_id,
            created_at=transaction.now,
            number=number,
            name=one.name,
            rubber_id=one.rubber_id,
            place=facts(one.place),
        )
        for number, one in enumerate(asked.patches, start=1)
    ]


@dataclass(frozen=True, slots=True)
class MouldSummary:
    """What a list tells of a mould; `studied`: what it takes is planned, not estimated."""

    id: UUID
    name: str
    piece_id: UUID
    piece_name: str
    rubber_name: str
    shell_name: str
    rubber_wall_m: float
    life_casts: int
    casts_so_far: int
    retired_at: datetime | None
    studied: bool
    takes: MouldEstimate
    picture: str


def list_moulds(transaction: Transaction, page: Page) -> Listed[MouldSummary]:
    """Return a page of the moulds, the newest first.

    Two statements, and more where figures no longer hold: those are made anew once.
    """
    rubber, shell = aliased(Material), aliased(Material)
    casts = (
        select(func.count())
        .where(MouldEvent.mould_id == MouldRow.id, MouldEvent.kind == MouldEventKind.CAST)
        .scalar_subquery()
    )
    soft = (
        select(func.coalesce(func.sum(Material.version), 0))
        .join(MouldPatch, MouldPatch.rubber_id == Material.id)
        .where(MouldPatch.mould_id == MouldRow.id)
        .scalar_subquery()
    )
    studied = func.md5(MouldRow.study.op("->>")("of"))
    # What its figures are made from, told by versions.
    made_of = func.concat_ws(
        ":", PLAN, MouldRow.version, Piece.version, rubber.version, shell.version, soft,
        func.left(studied, 12),
    )  # fmt: skip
    matching = MouldRow.name.icontains(page.search, autoescape=True)
    rows = transaction.session.execute(
        select(
            MouldRow.id,
            MouldRow.name,
            MouldRow.piece_id,
            Piece.name,
            rubber.name,
            shell.name,
            MouldRow.rubber_wall_m,
            MouldRow.life_casts,
            casts,
            MouldRow.retired_at,
            case((MouldRow.takes_of == made_of, MouldRow.takes)),
            made_of,
            MouldRow.picture,
            MouldRow.picture_of,
        )
        .join(Piece, Piece.id == MouldRow.piece_id)
        .join(rubber, rubber.id == MouldRow.rubber_id)
        .join(shell, shell.id == MouldRow.shell_id)
        .where(MouldRow.workshop_id == transaction.workshop_id, matching)
        .order_by(*page.ordered(MouldRow, MouldRow.name.expression))
        .limit(page.limit)
        .offset(page.offset)
    ).all()
    fresh = _made_anew(transaction, {row[0]: row[11] for row in rows if row[10] is None})
    listed = []
    for row in rows:
        (
            key,
            name,
            piece_id,
            piece,
            of_rubber,
            of_shell,
            wall,
            life,
            cast,
            retired,
            kept,
            _,
            picture,
            _,
        ) = row
        told: Json = fresh[key] if kept is None else kept
        listed.append(
            MouldSummary(
                key,
                name,
                piece_id,
                piece,
                of_rubber,
                of_shell,
                wall,
                life,
                cast,
                retired,
                told["studied"],
                TAKES.read(told["takes"]),
                picture,
            )
        )
    undrawn = {row[0]: row[11] for row in rows if row[13] != row[11]}
    return Listed(tuple(listed), transaction.count(MouldRow, matching), undrawn)


def _made_anew(transaction: Transaction, stale: dict[UUID, str]) -> dict[UUID, Json]:
    """Estimate or plan the moulds whose figures no longer hold, and keep what a list tells."""
    if not stale:
        return {}
    rows = transaction.session.scalars(
        select(MouldRow)
        .where(MouldRow.id.in_(list(stale)))
        .options(
            joinedload(MouldRow.piece),
            joinedload(MouldRow.rubber),
            joinedload(MouldRow.shell),
            selectinload(MouldRow.patches).joinedload(MouldPatch.rubber),
            undefer(MouldRow.study),
            undefer(MouldRow.study_model),
        )
    ).all()
    made: dict[UUID, Json] = {
        row.id: {"studied": is_studied(row), "takes": TAKES.write(estimate_of(row))} for row in rows
    }
    transaction.keep_figures(MouldRow.takes, MouldRow.takes_of, made, stale)
    return made


def find_mould(transaction: Transaction, key: UUID) -> MouldRow:
    """Return one mould."""
    return transaction.find(MouldRow, key, "mould")


def delete_mould(transaction: Transaction, key: UUID) -> UUID:
    """Delete a mould that nothing was poured in; returns what brings it back."""
    row = transaction.find(MouldRow, key, "mould", lock=True)
    if transaction.count(Pour, Pour.mould_id == key):
        raise ConflictError(
            f"'{row.name}' was poured and its casts are in the log; retire it instead."
        )
    if transaction.count(CastRun, CastRun.mould_ids.contains([str(key)])):
        raise ConflictError(f"A run is cast in '{row.name}'; delete the run first.")
    if transaction.count(DayJob, DayJob.mould_id == key):
        raise ConflictError(f"'{row.name}' is in the days to come; take it off them first.")
    hanging = (
        (MouldPatch, MouldPatch.mould_id == key),
        (MouldEvent, MouldEvent.mould_id == key),
        (KeptPattern, KeptPattern.mould_id == key),
    )
    kept = put_away(transaction, row, row.name, hanging)
    transaction.session.delete(row)
    transaction.session.flush()
    return kept


def estimate_of(row: MouldRow) -> MouldEstimate:
    """Return what a kept mould takes: by its plan once its piece is studied, else estimated."""
    if not is_studied(row):
        return estimate_mould(face_of(row.piece), build_of(row))
    # Neither price nor day changes what it takes.
    plan = plan_mould(
        study_of(row),
        wish_of(row),
        shells=(),
        rubber_price_per_kg=Decimal(0),
        begins=row.created_at,
        equipment=Equipment(),
    )
    return plan.estimate
