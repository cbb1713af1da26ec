"""Pours: started from a sheet, ticked off step by step, closed once, read in the log."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from sqlalchemy import case, func, select

from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.errors import InputError
from mildhusk.core.materials.cautions import (
    CASTING,
    USUAL_CAUTION,
    OperationCautions,
    cautions_for,
)
from mildhusk.core.mixing.split import weight_of
from mildhusk.core.pouring.steps import (
    CoatRecord,
    Comparison,
    PourStep,
    check_time,
    compare,
    last_step,
    next_step,
)
from mildhusk.services.errors import ConflictError
from mildhusk.services.lots import draw, put_back
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import castable_of
from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.store.tables import Pour, PouredCoat, PourStatus
from mildhusk.store.values import POUR_PLANS

_CENTIGRAM = Decimal("0.01")
_HEAVIEST_G = Decimal("100000")
_DONE_COLUMN = {
    PourStep.WEIGH: "weighed_at",
    PourStep.MIX: "mixed_at",
    PourStep.POUR: "poured_at",
    PourStep.GEL: "gelled_at",
}
_DONE_WORD = {
    PourStep.WEIGH: "weighed",
    PourStep.MIX: "mixed",
    PourStep.POUR: "poured",
    PourStep.GEL: "ticked as gelled",
}


@dataclass(frozen=True, slots=True)
class WeighedParts:
    """What was really measured out of A and B: by weight [kg] or by volume [m^3], as the plan."""

    a: float
    b: float


def start_pour(transaction: Transaction, sheet_id: UUID) -> Pour:
    """Start a pour; it keeps the plan as it is now, whatever becomes of the sheet."""
    row = find_sheet(transaction, sheet_id)
    plan = PourPlan.of(plan_of(transaction, row))
    pour = Pour(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        sheet_id=row.id,
        material_id=row.material_id,
        sheet_name=row.name,
        piece_name=row.piece.name,
        resin_name=row.material.name,
        plan=POUR_PLANS.write(plan),
        status=PourStatus.OPEN,
        closed_at=None,
        cast_g=None,
        note="",
        coats=[PouredCoat(number=coat.number) for coat in plan.coats],
    )
    transaction.session.add(pour)
    transaction.session.flush()
    return pour


@dataclass(frozen=True, slots=True)
class PourSummary:
    """What a list tells of a pour; `next_coat` is None when every coat is ticked off."""

    id: UUID
    sheet_id: UUID
    sheet_name: str
    piece_name: str
    resin_name: str
    status: PourStatus
    started_at: datetime
    closed_at: datetime | None
    coats: int
    next_coat: int | None
    planned_kg: float
    poured_kg: float
    planned_cast_kg: float
    cast_kg: float | None


def list_pours(
    transaction: Transaction, page: Page, status: PourStatus | None = None
) -> Listed[PourSummary]:
    """Return a page of the pours, the newest first: two statements, whatever there is."""
    matching = [Pour.sheet_name.icontains(page.search, autoescape=True)]
    if status is not None:
        matching.append(Pour.status == status)
    coat = PouredCoat
    poured = case((coat.poured_at.is_not(None), coat.a_g + coat.b_g), else_=0)
    unfinished = case((coat.gelled_at.is_(None), coat.number))
    per_pour = (
        select(
            coat.pour_id,
            func.count().label("coats"),
            func.sum(poured).label("poured_g"),
            func.min(unfinished).label("next_coat"),
        )
        .group_by(coat.pour_id)
        .subquery()
    )
    rows = transaction.session.execute(
        select(
            Pour.id,
            Pour.sheet_id,
            Pour.sheet_name,
            Pour.piece_name,
            Pour.resin_name,
            Pour.status,
            Pour.created_at,
            Pour.closed_at,
            per_pour.c.coats,
            per_pour.c.next_coat,
            Pour.plan["total_charge_kg"].as_float(),
            per_pour.c.poured_g,
            Pour.plan["cast_kg"].as_float(),
            Pour.cast_g,
        )
        .join(per_pour, per_pour.c.pour_id == Pour.id)
        .where(Pour.workshop_id == transaction.workshop_id, *matching)
        .order_by(Pour.created_at.desc(), Pour.id)
        .limit(page.limit)
        .offset(page.offset)
    )
    return Listed(tuple(map(_summary, rows)), transaction.count(Pour, *matching))


def _summary(row: Sequence[Any]) -> PourSummary:
    (
        key, sheet_id, sheet, piece, resin, status, started, closed, coats, next_coat,
        planned_kg, poured_g, planned_cast_kg, cast_g,
    ) = row  # fmt: skip
    return PourSummary(
        key, sheet_id, sheet, piece, resin, PourStatus(status), started, closed, coats, next_coat,
        planned_kg, _kilograms(poured_g) or 0.0, planned_cast_kg, _kilograms(cast_g),
    )  # fmt: skip


def find_pour(transaction: Transaction, key: UUID) -> Pour:
    """Return one pour."""
    return transaction.find(Pour, key, "pour")


def record_step(
    transaction: Transaction,
    key: UUID,
    coat: int,
    step: PourStep,
    at: datetime | None,
    parts: WeighedParts | None,
) -> Pour:
    """Tick off the next step, at a given time or now; out of turn it is refused."""
    pour = _open_pour(transaction, key)
    records = records_of(pour)
    expected = next_step(records)
    if expected is None or (expected.coat, expected.step) != (coat, step):
        raise _out_of_turn(records, coat, step)
    moment = at or transaction.now
    check_time(records, moment, transaction.now, opened=pour.created_at)
    row = pour.coats[coat - 1]
    if step is PourStep.WEIGH:
        if parts is None:
            raise InputError("Type in what was weighed of A and of B.", "parts")
        plan = followed_by(pour)
        densities = plan.densities_kg_m3
        row.a_g = _grams(plan, "a", parts.a, densities.A)
        # What has one part has nothing of B.
        one_part = len(plan.measured_parts) == 1
        row.b_g = Decimal(0) if one_part else _grams(plan, "b", parts.b, densities.B)
        draw(transaction, pour.material_id, pour.id, coat, row.a_g + row.b_g, moment.date())
    setattr(row, _DONE_COLUMN[step], moment)
    transaction.session.flush()
    return pour


def _out_of_turn(
    records: tuple[CoatRecord, ...], coat: int, step: PourStep
) -> ConflictError | InputError:
    if not 1 <= coat <= len(records):
        return InputError(f"This pour has coats 1 to {len(records)}, not {coat}.", "coat")
    done = records[coat - 1].done_at(step)
    if done is not None:
        return ConflictError(
            f"Coat {coat} was {_DONE_WORD[step]} at {done:%H:%M:%S} UTC already, perhaps in "
            "another window; the page shows the pour as it stands."
        )
    return ConflictError(f"Coat {coat} cannot be {_DONE_WORD[step]} yet; do the step before first.")


def _grams(plan: PourPlan, part: str, measured: float, density_kg_m3: float) -> Decimal:
    if plan.ratio_basis == "volume":
        measured = weight_of(measured, density_kg_m3)
    grams = (Decimal(repr(measured)) * 1000).quantize(_CENTIGRAM)
    if not 0 < grams < _HEAVIEST_G:
        raise InputError(
            f"Part {part.upper()} is {grams} g; give what was really weighed, above 0 and below "
            "100 kg.",
            f"parts.{part}",
        )
    return grams


def take_back_step(transaction: Transaction, key: UUID) -> Pour:
    """Undo the last tick."""
    pour = _open_pour(transaction, key)
    last = last_step(records_of(pour))
    if last is None:
        raise ConflictError("Nothing has been ticked off yet.")
    row = pour.coats[last.coat - 1]
    setattr(row, _DONE_COLUMN[last.step], None)
    if last.step is PourStep.WEIGH:
        row.a_g = row.b_g = None
        put_back(transaction, pour.id, last.coat)
    transaction.session.flush()
    return pour


def close_pour(
    transaction: Transaction, key: UUID, status: PourStatus, cast_kg: float | None, note: str
) -> Pour:
    """Close a pour, once: with the weight of the husk, or as spoilt."""
    pour = _open_pour(transaction, key)
    if status is PourStatus.CAST:
        if next_step(records_of(pour)) is not None:
            raise ConflictError(
                "Not every coat is ticked off yet; tick them off, or close the pour as spoilt."
            )
        if cast_kg is None or not 0.0 < cast_kg < 100.0:
            raise InputError("Weigh the cast: above 0 and below 100 kg.", "cast_kg")
        pour.cast_g = (Decimal(repr(cast_kg)) * 1000).quantize(_CENTIGRAM)
    pour.status, pour.closed_at, pour.note = status, transaction.now, note
    transaction.session.flush()
    return pour


def edit_note(transaction: Transaction, key: UUID, note: str) -> Pour:
    """Change the note of a pour; open or closed."""
    pour = transaction.find(Pour, key, "pour", lock=True)
    pour.note = note
    transaction.session.flush()
    return pour


def _open_pour(transaction: Transaction, key: UUID) -> Pour:
    """Return the pour, locked, so that of two windows the second one sees what the first did."""
    pour = transaction.find(Pour, key, "pour", lock=True)
    if pour.status != PourStatus.OPEN:
        assert pour.closed_at is not None
        raise ConflictError(
            f"This pour was closed at {pour.closed_at:%H:%M:%S} UTC already, perhaps in another "
            "window; nothing was changed."
        )
    return pour


def followed_by(pour: Pour) -> PourPlan:
    """Return the plan a pour follows."""
    return POUR_PLANS.read(pour.plan)


def cautions_of(pour: Pour) -> tuple[tuple[str, ...], tuple[OperationCautions, ...]]:
    """Return what to take care of with what is poured, and in each operation."""
    material = castable_of(pour.material)
    return (*material.hazards, USUAL_CAUTION), cautions_for(CASTING, (material,))


def records_of(pour: Pour) -> tuple[CoatRecord, ...]:
    """Return what has been done, as the core's values."""
    return tuple(
        CoatRecord(
            number=row.number,
            a_kg=_kilograms(row.a_g),
            b_kg=_kilograms(row.b_g),
            weighed_at=row.weighed_at,
            mixed_at=row.mixed_at,
            poured_at=row.poured_at,
            gelled_at=row.gelled_at,
        )
        for row in pour.coats
    )


def comparison_of(pour: Pour) -> Comparison:
    """Return the pour beside its plan."""
    plan = followed_by(pour)
    return compare(
        plan.total_charge_kg,
        plan.cast_kg,
        records_of(pour),
        _kilograms(pour.cast_g),
    )


def _kilograms(grams: Decimal | None) -> float | None:
    return None if grams is None else float(grams / 1000)
