"""Pours: started from a sheet, ticked off step by step, closed once, read in the log."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import selectinload

from mildhusk.core.errors import InputError
from mildhusk.core.mixing.split import weight_of
from mildhusk.core.planning.coats import CoatKind
from mildhusk.core.planning.document import sheet_document
from mildhusk.core.planning.pouring import (
    CoatRecord,
    Comparison,
    PourStep,
    check_time,
    compare,
    last_step,
    next_step,
)
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.stock import draw, put_back
from mildhusk.store.tables import Pour, PouredCoat, PourStatus

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


def start_pour(desk: Desk, sheet_id: UUID) -> Pour:
    """Start a pour; it keeps the plan as it is now, whatever becomes of the sheet."""
    row = find_sheet(desk, sheet_id)
    plan = plan_of(desk, row)
    document = sheet_document(plan)
    pour = Pour(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        sheet_id=row.id,
        material_id=row.material_id,
        sheet_name=row.name,
        piece_name=row.piece.name,
        resin_name=row.material.name,
        plan=document,
        densities_kg_m3={"A": plan.resin.density_a_kg_m3, "B": plan.resin.density_b_kg_m3},
        status=PourStatus.OPEN,
        closed_at=None,
        cast_g=None,
        note="",
        coats=[PouredCoat(number=coat["number"]) for coat in document["coats"]],
    )
    desk.session.add(pour)
    desk.session.flush()
    return pour


def list_pours(desk: Desk) -> Sequence[Pour]:
    """Return all pours, the newest first."""
    return desk.session.scalars(
        select(Pour)
        .where(Pour.workshop_id == desk.workshop_id)
        .options(selectinload(Pour.coats))
        .order_by(Pour.created_at.desc())
    ).all()


def find_pour(desk: Desk, key: UUID) -> Pour:
    """Return one pour."""
    return desk.find(Pour, key, "pour")


def record_step(
    desk: Desk,
    key: UUID,
    coat: int,
    step: PourStep,
    at: datetime | None,
    parts: WeighedParts | None,
) -> Pour:
    """Tick off the next step, at a given time or now; out of turn it is refused."""
    pour = _open_pour(desk, key)
    records = records_of(pour)
    expected = next_step(records)
    if expected is None or (expected.coat, expected.step) != (coat, step):
        raise _out_of_turn(records, coat, step)
    moment = at or desk.now
    check_time(records, moment, desk.now)
    row = pour.coats[coat - 1]
    if step is PourStep.WEIGH:
        if parts is None:
            raise InputError("Type in what was weighed of A and of B.", "parts")
        row.a_g = _grams(pour, "A", parts.a)
        # Melted clay has one part.
        clay = pour.plan["coats"][coat - 1].get("kind") == CoatKind.CLAY
        row.b_g = Decimal(0) if clay else _grams(pour, "B", parts.b)
        draw(desk, pour.material_id, pour.id, coat, row.a_g + row.b_g, moment.date())
    setattr(row, _DONE_COLUMN[step], moment)
    desk.session.flush()
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


def _grams(pour: Pour, part: str, measured: float) -> Decimal:
    if pour.plan["ratio_basis"] == "volume":
        measured = weight_of(measured, pour.densities_kg_m3[part])
    grams = (Decimal(repr(measured)) * 1000).quantize(_CENTIGRAM)
    if not 0 < grams < _HEAVIEST_G:
        raise InputError(
            f"Part {part} is {grams} g; give what was really weighed, above 0 and below 100 kg.",
            f"parts.{part.lower()}",
        )
    return grams


def take_back_step(desk: Desk, key: UUID) -> Pour:
    """Undo the last tick."""
    pour = _open_pour(desk, key)
    last = last_step(records_of(pour))
    if last is None:
        raise ConflictError("Nothing has been ticked off yet.")
    row = pour.coats[last.coat - 1]
    setattr(row, _DONE_COLUMN[last.step], None)
    if last.step is PourStep.WEIGH:
        row.a_g = row.b_g = None
        put_back(desk, pour.id, last.coat)
    desk.session.flush()
    return pour


def close_pour(desk: Desk, key: UUID, status: PourStatus, cast_kg: float | None, note: str) -> Pour:
    """Close a pour, once: with the weight of the husk, or as spoilt."""
    pour = _open_pour(desk, key)
    if status is PourStatus.CAST:
        if next_step(records_of(pour)) is not None:
            raise ConflictError(
                "Not every coat is ticked off yet; tick them off, or close the pour as spoilt."
            )
        if cast_kg is None or not 0.0 < cast_kg < 100.0:
            raise InputError("Weigh the cast: above 0 and below 100 kg.", "cast_kg")
        pour.cast_g = (Decimal(repr(cast_kg)) * 1000).quantize(_CENTIGRAM)
    pour.status, pour.closed_at, pour.note = status, desk.now, note
    desk.session.flush()
    return pour


def edit_note(desk: Desk, key: UUID, note: str) -> Pour:
    """Change the note of a pour; open or closed."""
    pour = desk.find(Pour, key, "pour", lock=True)
    pour.note = note
    desk.session.flush()
    return pour


def _open_pour(desk: Desk, key: UUID) -> Pour:
    """Return the pour, locked, so that of two windows the second one sees what the first did."""
    pour = desk.find(Pour, key, "pour", lock=True)
    if pour.status != PourStatus.OPEN:
        assert pour.closed_at is not None
        raise ConflictError(
            f"This pour was closed at {pour.closed_at:%H:%M:%S} UTC already, perhaps in another "
            "window; nothing was changed."
        )
    return pour


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
    return compare(
        pour.plan["total_charge_kg"],
        pour.plan["cast_kg"],
        records_of(pour),
        _kilograms(pour.cast_g),
    )


def _kilograms(grams: Decimal | None) -> float | None:
    return None if grams is None else float(grams / 1000)
