"""Cast sheets: wishes kept, plans computed from them."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal
from hashlib import sha256
from uuid import UUID

from sqlalchemy import Text, case, cast, func, or_, select
from sqlalchemy.orm import joinedload

from mildhusk.core.casting.findings import Known, with_findings
from mildhusk.core.casting.learned_bands import NOTHING_LEARNED, LearnedBands
from mildhusk.core.casting.limits import Limit
from mildhusk.core.casting.plan import CastSheet, plan_cast
from mildhusk.core.casting.schools import SCHOOLS
from mildhusk.core.casting.schools.base import SchoolWords
from mildhusk.core.casting.unevenness import with_turning
from mildhusk.core.casting.wish import CastWish, CoatSchool
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import InputError
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.learning.learned import Learned, Value
from mildhusk.core.learning.offers import OFFERED
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import CastingMaterial, record_of
from mildhusk.services.casts import usual_mould
from mildhusk.services.deleted import put_away
from mildhusk.services.errors import ConflictError
from mildhusk.services.learning import bands_of, learned_values, mould_group
from mildhusk.services.pieces import face_of, find_piece
from mildhusk.services.shelf import CASTING_KINDS, castable_of, find_material
from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.services.workshop import equipment_here
from mildhusk.store.kept import facts
from mildhusk.store.tables import (
    CastRun,
    CastSheetRow,
    CoatRunRow,
    DayJob,
    DayOffer,
    Material,
    Piece,
    PieceSource,
    Pour,
)
from mildhusk.store.values import SHEET_FIGURES, WALLS, WISHES, KeptPlan, SheetFigures

_MOST_PROPOSED = 200
PLAN = 4
"""Another number when plans come out differently, so that no list tells an old one."""
MODEL = 8
"""Another number when the simulation changes, so that nothing old is taken for it."""
LOOK = "look-"
"""Keys of first looks begin so."""
SHAPED = (PieceSource.FILE, PieceSource.TAPE)
"""Pieces whose shape is known, and not only their size."""


@dataclass(frozen=True, slots=True)
class SheetQuestion:
    """Piece, material and wish: all a plan needs."""

    piece_id: UUID
    material_id: UUID
    wish: CastWish


def plan_sheet(transaction: Transaction, asked: SheetQuestion) -> CastSheet:
    """Plan a cast with what is found of it, without keeping anything.

    The one way in which screen, card, files, calendar and pour come to a plan.
    """
    piece = find_piece(transaction, asked.piece_id)
    material = find_material(transaction, asked.material_id)
    equipment = equipment_here(transaction)
    learned = learned_for(transaction, asked, OFFERED)
    sheet = planned(
        transaction, asked, face_of(piece), castable_of(material), equipment,
        bands_of(learned, asked.wish),
    )  # fmt: skip
    return with_findings(sheet, Known(lambda: _castables(transaction), learned))


def learned_for(
    transaction: Transaction,
    asked: SheetQuestion,
    values: Sequence[Value] = tuple(Value),
    *,
    course: int = 0,
) -> dict[Value, Learned]:
    """Return what pours taught of a resin in the usual mould of a piece; see `learned_values`."""
    mould = usual_mould(transaction, asked.piece_id)
    group = mould_group(asked.piece_id, None if mould is None else mould.id)
    face = face_of(find_piece(transaction, asked.piece_id))
    motion = with_turning(asked.wish, face, equipment_here(transaction)).motion
    return learned_values(
        transaction,
        asked.material_id,
        group,
        values,
        by_hand=motion is None or motion_named(motion).by_hand,
        course=course,
    )


def planned(
    transaction: Transaction,
    asked: SheetQuestion,
    face: FaceMeasures,
    material: CastingMaterial,
    equipment: Equipment,
    bands: LearnedBands = NOTHING_LEARNED,
) -> CastSheet:
    """Plan a cast by what its coats were simulated to leave, where that is known; no findings."""
    key = settling_key(transaction, asked)
    kept = None if key is None else _simulated(transaction, key)
    if kept is None:
        return plan_cast(face, material, asked.wish, equipment, bands=bands)
    sheet = plan_cast(face, material, asked.wish, equipment, kept.uneven, bands)
    return replace(sheet, wall=kept.wall, estimate=kept.estimate)


def settling_key(transaction: Transaction, asked: SheetQuestion) -> str | None:
    """Return what hashes all that a settled plan is made from; None for what is not simulated."""
    piece = find_piece(transaction, asked.piece_id)
    row = find_material(transaction, asked.material_id)
    material = castable_of(row)
    simulated = piece.source in SHAPED and isinstance(material, CastingResin)
    if asked.wish.motion is None or not simulated:
        return None
    equipment = equipment_here(transaction)
    wish = with_turning(asked.wish, face_of(piece), equipment)
    whole = (
        "plan", PLAN, MODEL, str(piece.id), piece.version, record_of(material).sheet, facts(wish),
        repr(equipment),
    )  # fmt: skip
    return sha256(json.dumps(whole, default=str, sort_keys=True).encode()).hexdigest()


def first_look_key(key: str) -> str:
    """Return the key of the first look at a plan that is settled under a key."""
    return f"{LOOK}{key[: 64 - len(LOOK)]}"


def _simulated(transaction: Transaction, key: str) -> KeptPlan | None:
    """Return the plan that was settled, else what a first look at it came to."""
    look = first_look_key(key)
    rows = transaction.session.execute(
        select(CoatRunRow.key, CoatRunRow.figures).where(
            CoatRunRow.workshop_id == transaction.workshop_id, CoatRunRow.key.in_([key, look])
        )
    )
    found = {row.key: row.figures for row in rows}
    figures = found.get(key) or found.get(look)
    return None if figures is None else WALLS.read(figures).plan


def _castables(transaction: Transaction) -> tuple[CastingMaterial, ...]:
    rows = transaction.session.scalars(
        select(Material)
        .where(Material.workshop_id == transaction.workshop_id, Material.kind.in_(CASTING_KINDS))
        .order_by(Material.name)
        .limit(_MOST_PROPOSED)
    )
    return tuple(castable_of(row) for row in rows)


def question_of(row: CastSheetRow) -> SheetQuestion:
    """Return what a kept sheet asks."""
    return SheetQuestion(row.piece_id, row.material_id, WISHES.read(row.wish))


def plan_of(transaction: Transaction, row: CastSheetRow) -> CastSheet:
    """Return the plan of a kept cast sheet."""
    return plan_sheet(transaction, question_of(row))


@dataclass(frozen=True, slots=True)
class SchoolPlan:
    """What a cast comes to by a school; `said` is why it cannot be planned so."""

    key: CoatSchool
    name: str
    when: str
    coats: int
    total_charge_kg: float
    cast_kg: float
    hands_on_s: float
    out_after_s: float
    fits: bool
    binding_limit: Limit | None
    said: str


def by_school(transaction: Transaction, asked: SheetQuestion) -> tuple[SchoolPlan, ...]:
    """Plan a cast by every school its material is poured by, side by side."""
    face = face_of(find_piece(transaction, asked.piece_id))
    material = castable_of(find_material(transaction, asked.material_id))
    equipment = equipment_here(transaction)
    plans = []
    for school in SCHOOLS.values():
        if not school.takes(material):
            continue
        wish = replace(asked.wish, school=school.key)
        try:
            question = replace(asked, wish=wish)
            plans.append(_school_plan(planned(transaction, question, face, material, equipment)))
        except InputError as error:
            plans.append(_not_so(school.words, str(error)))
    return tuple(plans)


def _school_plan(sheet: CastSheet) -> SchoolPlan:
    words = sheet.school
    return SchoolPlan(
        words.key,
        words.name,
        words.when,
        len(sheet.coats),
        sheet.total_charge_kg,
        sheet.cast_kg,
        sheet.hands_on_s,
        sheet.out_after_s,
        sheet.fits,
        (sheet.broken or sheet.heaviest).binding_limit,
        "",
    )


def _not_so(words: SchoolWords, said: str) -> SchoolPlan:
    return SchoolPlan(
        words.key, words.name, words.when, 0, 0.0, 0.0, 0.0, 0.0, False, None, said
    )  # fmt: skip


def add_sheet(transaction: Transaction, name: str, asked: SheetQuestion) -> CastSheetRow:
    """Keep a cast sheet that can be planned."""
    sheet = plan_sheet(transaction, asked)
    row = CastSheetRow(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        name=name,
        piece_id=asked.piece_id,
        material_id=asked.material_id,
        wish=WISHES.write(asked.wish),
        summary=SHEET_FIGURES.write(_figures(sheet)),
        summary_of="",
    )
    transaction.session.add(row)
    transaction.session.flush()
    return row


def edit_sheet(
    transaction: Transaction, key: UUID, version: int, name: str, asked: SheetQuestion
) -> CastSheetRow:
    """Change a cast sheet; pours already started keep the plan they began with."""
    row = transaction.find_version(CastSheetRow, key, version, "cast sheet")
    sheet = plan_sheet(transaction, asked)
    row.name, row.piece_id, row.material_id = name, asked.piece_id, asked.material_id
    row.wish = WISHES.write(asked.wish)
    row.summary, row.summary_of = SHEET_FIGURES.write(_figures(sheet)), ""
    transaction.session.flush()
    transaction.session.refresh(row)
    return row


@dataclass(frozen=True, slots=True)
class SheetSummary:
    """What a list tells of a sheet; `refused` says why it cannot be planned any more."""

    id: UUID
    version: int
    name: str
    piece_id: UUID
    piece_name: str
    material_id: UUID
    resin_name: str
    wall_m: float
    coats: int
    total_charge_kg: float
    cast_kg: float
    out_after_s: float
    cost: Decimal
    refused: str
    created_at: datetime
    picture: str


def list_sheets(transaction: Transaction, page: Page) -> Listed[SheetSummary]:
    """Return a page of the cast sheets, the newest first.

    Three statements, and two more where figures no longer hold: those are made anew once.
    """
    equipment = repr(equipment_here(transaction))
    # What a plan is made from, told by versions.
    made_of = func.concat_ws(
        ":", CastSheetRow.version, Piece.version, Material.version, _mark(equipment)
    )
    matching = or_(
        *(
            name.icontains(page.search, autoescape=True)
            for name in (CastSheetRow.name, Piece.name, Material.name)
        )
    )
    rows = transaction.session.execute(
        select(
            CastSheetRow.id,
            CastSheetRow.version,
            CastSheetRow.name,
            CastSheetRow.piece_id,
            Piece.name,
            CastSheetRow.material_id,
            Material.name,
            CastSheetRow.wish["wall_m"].as_float(),
            case((CastSheetRow.summary_of == made_of, CastSheetRow.summary)),
            made_of,
            CastSheetRow.created_at,
            CastSheetRow.picture,
            CastSheetRow.picture_of,
            # A plan that was settled has other figures, and a wall to draw.
            func.concat_ws(":", made_of, func.left(func.md5(cast(CastSheetRow.summary, Text)), 12)),
        )
        .join(Piece, Piece.id == CastSheetRow.piece_id)
        .join(Material, Material.id == CastSheetRow.material_id)
        .where(CastSheetRow.workshop_id == transaction.workshop_id, matching)
        .order_by(*page.ordered(CastSheetRow, CastSheetRow.name.expression))
        .limit(page.limit)
        .offset(page.offset)
    ).all()
    fresh = _made_anew(transaction, {row[0]: row[9] for row in rows if row[8] is None})
    listed = []
    for (
        key, version, name, piece_id, piece, material_id, resin, wall_m, kept, _, created, picture,
        _, _,
    ) in rows:  # fmt: skip
        told = fresh[key] if kept is None else SHEET_FIGURES.read(kept)
        listed.append(
            SheetSummary(
                key,
                version,
                name,
                piece_id,
                piece,
                material_id,
                resin,
                wall_m,
                told.coats,
                told.total_charge_kg,
                told.cast_kg,
                told.out_after_s,
                Decimal(told.cost),
                told.refused,
                created,
                picture,
            )
        )
    undrawn = {row[0]: row[13] for row in rows if row[12] != row[13]}
    total = transaction.session.scalar(
        select(func.count())
        .select_from(CastSheetRow)
        .join(Piece, Piece.id == CastSheetRow.piece_id)
        .join(Material, Material.id == CastSheetRow.material_id)
        .where(CastSheetRow.workshop_id == transaction.workshop_id, matching)
    )
    return Listed(tuple(listed), total or 0, undrawn)


def _mark(equipment: str) -> str:
    return sha256(f"{PLAN} {equipment}".encode()).hexdigest()[:12]


def _made_anew(transaction: Transaction, stale: dict[UUID, str]) -> dict[UUID, SheetFigures]:
    """Plan the sheets whose figures no longer hold, and keep what a list tells of them."""
    if not stale:
        return {}
    equipment = equipment_here(transaction)
    rows = transaction.session.scalars(
        select(CastSheetRow)
        .where(CastSheetRow.id.in_(list(stale)))
        .options(joinedload(CastSheetRow.piece), joinedload(CastSheetRow.material))
    )
    made = {}
    for row in rows:
        try:
            face, material = face_of(row.piece), castable_of(row.material)
            sheet = planned(transaction, question_of(row), face, material, equipment)
            made[row.id] = _figures(sheet)
        except InputError as error:
            made[row.id] = SheetFigures(0, 0.0, 0.0, 0.0, "0.00", str(error))
    written = {key: SHEET_FIGURES.write(told) for key, told in made.items()}
    transaction.keep_figures(CastSheetRow.summary, CastSheetRow.summary_of, written, stale)
    return made


def _figures(sheet: CastSheet) -> SheetFigures:
    return SheetFigures(
        len(sheet.coats),
        sheet.total_charge_kg,
        sheet.cast_kg,
        sheet.out_after_s,
        str(sheet.cost),
    )


def find_sheet(transaction: Transaction, key: UUID) -> CastSheetRow:
    """Return one cast sheet."""
    return transaction.find(CastSheetRow, key, "cast sheet")


def delete_sheet(transaction: Transaction, key: UUID) -> UUID:
    """Delete a cast sheet that was never poured; returns what brings it back."""
    row = transaction.find(CastSheetRow, key, "cast sheet", lock=True)
    poured = select(Pour.id).where(Pour.sheet_id == key).limit(1)
    if transaction.session.scalars(poured).first():
        raise ConflictError("This cast sheet was poured and is part of the log; it stays.")
    if transaction.count(CastRun, CastRun.sheet_id == key):
        raise ConflictError("A run is cast by this sheet; delete the run first.")
    if transaction.count(DayOffer, DayOffer.sheet_id == key):
        raise ConflictError("An offer stands on this cast sheet; delete the offer first.")
    if transaction.count(DayJob, DayJob.sheet_id == key):
        raise ConflictError("The days have a cast by this sheet; take it off them first.")
    kept = put_away(transaction, row, row.name)
    transaction.session.delete(row)
    transaction.session.flush()
    return kept
