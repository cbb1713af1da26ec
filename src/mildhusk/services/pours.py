"""Pours: started from a sheet, ticked off step by step, closed once, read in the log."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, Select, case, func, or_, select, true
from sqlalchemy.dialects.postgresql import aggregate_order_by

from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.errors import InputError
from mildhusk.core.materials.cautions import (
    CASTING,
    USUAL_CAUTION,
    OperationCautions,
    cautions_for,
    too_damp_from,
)
from mildhusk.core.mixing.split import weight_of
from mildhusk.core.pouring.faults import fault_of, faults
from mildhusk.core.pouring.steps import (
    CoatRecord,
    NextStep,
    PourStep,
    last_step,
    next_step,
    step_time,
)
from mildhusk.services.casts import mould_for, note_cast, usual_mould
from mildhusk.services.days.bench import pour_began, pour_ended, pour_went_on
from mildhusk.services.errors import ConflictError
from mildhusk.services.learning import learn_soon, unlearn
from mildhusk.services.lots import draw, put_back
from mildhusk.services.pour_facts import followed_by, kilograms, records_of
from mildhusk.services.room import room_here
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import castable_of
from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.store.live import announce
from mildhusk.store.tables import (
    NumberedCast,
    Pour,
    PouredCoat,
    PourFault,
    PourPress,
    PourStatus,
)
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
    """What was really measured out of A and B: by weight [kg] or by volume [m^3], as the plan.

    What a scale read is by weight whatever the plan.
    """

    a: float
    b: float
    by_weight: bool = False


def start_pour(transaction: Transaction, sheet_id: UUID, mould_id: UUID | None = None) -> Pour:
    """Start a pour; it keeps the plan as it is now, whatever becomes of the sheet.

    Where no mould is said it is the newest one of the piece that is in use.
    """
    row = find_sheet(transaction, sheet_id)
    if mould_id is None:
        mould = usual_mould(transaction, row.piece_id)
    else:
        mould = mould_for(transaction, row.piece_id, mould_id)
    plan = PourPlan.of(plan_of(transaction, row))
    pour = Pour(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        sheet_id=row.id,
        piece_id=row.piece_id,
        mould_id=None if mould is None else mould.id,
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
    pour_began(transaction, pour)
    return _changed(transaction, pour, Press())


@dataclass(frozen=True, slots=True)
class PourSummary:
    """What a list tells of a pour.

    `next_coat` is None when every coat is ticked off; `cast_number` is that of its mould.
    """

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
    cast_number: int | None
    faults: tuple[str, ...]


def list_pours(
    transaction: Transaction, page: Page, status: PourStatus | None = None
) -> Listed[PourSummary]:
    """Return a page of the pours, the newest first: two statements, whatever there is.

    Words are looked for in the names of sheet, piece and resin, in the note, and in the faults.
    """
    matching = _with_words(page.search)
    if status is not None:
        matching.append(Pour.status == status)
    listed = (
        select(Pour.id)
        .where(Pour.workshop_id == transaction.workshop_id, *matching)
        .order_by(Pour.created_at.desc(), Pour.id)
        .limit(page.limit)
        .offset(page.offset)
    )
    rows = transaction.session.execute(_summaries(transaction, [Pour.id.in_(listed)]))
    return Listed(tuple(map(_summary, rows)), transaction.count(Pour, *matching))


def every_pour(transaction: Transaction) -> Iterator[PourSummary]:
    """Return all the pours there are, the newest first, one after another."""
    rows = transaction.session.execute(
        _summaries(transaction, []), execution_options={"yield_per": 500}
    )
    return map(_summary, rows)


def summaries_of(transaction: Transaction, keys: Sequence[UUID]) -> tuple[PourSummary, ...]:
    """Return what a list tells of some pours, in their order."""
    rows = transaction.session.execute(_summaries(transaction, [Pour.id.in_(keys)]))
    found = {row[0]: _summary(row) for row in rows}
    return tuple(found[key] for key in keys)


def _with_words(words: str) -> list[ColumnElement[bool]]:
    if not words:
        return []
    kinds = [one.id for one in faults() if words.lower() in one.title.lower()]
    at_fault = select(PourFault.pour_id).where(
        or_(PourFault.place.icontains(words, autoescape=True), PourFault.kind.in_(kinds))
    )
    named = (Pour.sheet_name, Pour.piece_name, Pour.resin_name, Pour.note)
    found = [one.icontains(words, autoescape=True) for one in named]
    return [or_(*found, Pour.id.in_(at_fault))]


def _summaries(
    transaction: Transaction, matching: Sequence[ColumnElement[bool]]
) -> Select[tuple[Any, ...]]:
    """Return what asks for the summaries of some pours, the newest first."""
    coat = PouredCoat
    poured = case((coat.poured_at.is_not(None), coat.a_g + coat.b_g), else_=0)
    unfinished = case((coat.gelled_at.is_(None), coat.number))
    # Of each pour that is listed, not of all there are.
    per_pour = (
        select(
            func.count().label("coats"),
            func.sum(poured).label("poured_g"),
            func.min(unfinished).label("next_coat"),
        )
        .where(coat.pour_id == Pour.id)
        .lateral()
    )
    fault = (
        select(func.array_agg(aggregate_order_by(PourFault.kind, PourFault.created_at)))
        .where(PourFault.pour_id == Pour.id)
        .scalar_subquery()
    )
    return (
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
            NumberedCast.number,
            fault,
        )
        .select_from(Pour)
        .join(per_pour, true())
        .outerjoin(NumberedCast, NumberedCast.pour_id == Pour.id)
        .where(Pour.workshop_id == transaction.workshop_id, *matching)
        .order_by(Pour.created_at.desc(), Pour.id)
    )


def _summary(row: Sequence[Any]) -> PourSummary:
    (
        key, sheet_id, sheet, piece, resin, status, started, closed, coats, next_coat,
        planned_kg, poured_g, planned_cast_kg, cast_g, number, kinds,
    ) = row  # fmt: skip
    return PourSummary(
        key, sheet_id, sheet, piece, resin, PourStatus(status), started, closed, coats, next_coat,
        planned_kg, kilograms(poured_g) or 0.0, planned_cast_kg, kilograms(cast_g), number,
        tuple(fault_of(kind).title for kind in kinds or ()),
    )  # fmt: skip


def find_pour(transaction: Transaction, key: UUID) -> Pour:
    """Return one pour."""
    return transaction.find(Pour, key, "pour")


@dataclass(frozen=True, slots=True)
class Press:
    """A press of a button at the bench: its own key, so that it counts once, and when it was."""

    key: UUID | None = None
    at: datetime | None = None


def record_step(
    transaction: Transaction,
    key: UUID,
    coat: int,
    step: PourStep,
    press: Press,
    parts: WeighedParts | None,
) -> Pour:
    """Tick off the next step, when it was pressed or now; out of turn it is refused."""
    pour = _locked(transaction, key)
    if _was_taken(transaction, pour, press):
        return pour
    _require_open(pour)
    records = records_of(pour)
    expected = next_step(records)
    if expected is None or (expected.coat, expected.step) != (coat, step):
        raise _out_of_turn(records, coat, step)
    moment = step_time(records, press.at, transaction.now, opened=pour.created_at)
    row = pour.coats[coat - 1]
    if step is PourStep.WEIGH:
        if parts is None:
            raise InputError("Type in what was weighed of A and of B.", "parts")
        plan = followed_by(pour)
        densities = plan.densities_kg_m3
        by_volume = plan.ratio_basis == "volume" and not parts.by_weight
        row.a_g = _grams("a", parts.a, densities.A if by_volume else None)
        # What has one part has nothing of B.
        one_part = len(plan.measured_parts) == 1
        row.b_g = (
            Decimal(0) if one_part else _grams("b", parts.b, densities.B if by_volume else None)
        )
        draw(transaction, pour.material_id, pour.id, coat, row.a_g + row.b_g, moment.date())
    if step in (PourStep.MIX, PourStep.GEL):
        row.room_k = room_here(transaction) or row.room_k
    setattr(row, _DONE_COLUMN[step], moment)
    unlearn(pour)
    transaction.session.flush()
    pour_went_on(transaction, pour)
    return _changed(transaction, pour, press)


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


def _grams(part: str, measured: float, density_kg_m3: float | None) -> Decimal:
    if density_kg_m3 is not None:
        measured = weight_of(measured, density_kg_m3)
    grams = (Decimal(repr(measured)) * 1000).quantize(_CENTIGRAM)
    if not 0 < grams < _HEAVIEST_G:
        raise InputError(
            f"Part {part.upper()} is {grams} g; give what was really weighed, above 0 and below "
            "100 kg.",
            f"parts.{part}",
        )
    return grams


def take_back_step(
    transaction: Transaction, key: UUID, press: Press, meant: NextStep | None = None
) -> Pour:
    """Undo the last tick; where it is said which one is meant, no other."""
    pour = _locked(transaction, key)
    if _was_taken(transaction, pour, press):
        return pour
    _require_open(pour)
    last = last_step(records_of(pour))
    if last is None:
        raise ConflictError("Nothing has been ticked off yet.")
    if meant is not None and meant != last:
        raise ConflictError(
            f"Coat {meant.coat} being {_DONE_WORD[meant.step]} is not the last tick any more: coat "
            f"{last.coat} was {_DONE_WORD[last.step]} since, perhaps in another window."
        )
    row = pour.coats[last.coat - 1]
    setattr(row, _DONE_COLUMN[last.step], None)
    if last.step is PourStep.WEIGH:
        row.a_g = row.b_g = None
        put_back(transaction, pour.id, last.coat)
    unlearn(pour)
    transaction.session.flush()
    pour_went_on(transaction, pour)
    return _changed(transaction, pour, press)


@dataclass(frozen=True, slots=True)
class Ending:
    """How a pour ended: its husk's weight [kg], or None of one that was spoilt."""

    status: PourStatus
    cast_kg: float | None = None
    note: str = ""


def close_pour(transaction: Transaction, key: UUID, press: Press, ending: Ending) -> Pour:
    """Close a pour, once: with the weight of the husk, or as spoilt."""
    pour = _locked(transaction, key)
    if _was_taken(transaction, pour, press):
        return pour
    _require_open(pour)
    status, cast_kg = ending.status, ending.cast_kg
    if status is PourStatus.CAST:
        step = next_step(records_of(pour))
        # Between two coats one may stop; what is begun is finished first.
        if step is not None and (step.coat == 1 or step.step is not PourStep.WEIGH):
            raise ConflictError(
                "A coat is not ticked off yet; tick it off, or close the pour as spoilt."
            )
        if cast_kg is None or not 0.0 < cast_kg < 100.0:
            raise InputError("Weigh the cast: above 0 and below 100 kg.", "cast_kg")
        pour.cast_g = (Decimal(repr(cast_kg)) * 1000).quantize(_CENTIGRAM)
    closed_at = step_time(records_of(pour), press.at, transaction.now, opened=pour.created_at)
    pour.status, pour.note, pour.closed_at = status, ending.note, closed_at
    note_cast(transaction, pour)
    unlearn(pour)
    learn_soon(transaction, pour)
    transaction.session.flush()
    pour_ended(transaction, pour)
    return _changed(transaction, pour, press)


def weigh_offcuts(transaction: Transaction, key: UUID, offcuts_kg: float | None) -> Pour:
    """Say what was cut away before the cast was weighed; None takes it back."""
    pour = _locked(transaction, key)
    if pour.status != PourStatus.CAST:
        raise ConflictError("No cast came of this pour yet; close it with its weight first.")
    if offcuts_kg is not None and not 0.0 < offcuts_kg < 100.0:
        raise InputError("Offcuts weigh above 0 and below 100 kg.", "offcuts_kg")
    grams = None if offcuts_kg is None else (Decimal(repr(offcuts_kg)) * 1000)
    pour.offcuts_g = None if grams is None else grams.quantize(_CENTIGRAM)
    unlearn(pour)
    learn_soon(transaction, pour)
    return _changed(transaction, pour, Press())


def edit_note(transaction: Transaction, key: UUID, note: str) -> Pour:
    """Change the note of a pour; open or closed."""
    pour = _locked(transaction, key)
    pour.note = note
    return _changed(transaction, pour, Press())


def _locked(transaction: Transaction, key: UUID) -> Pour:
    """Return a pour, locked, so that of two windows the second one sees what the first did."""
    return transaction.find(Pour, key, "pour", lock=True)


def _was_taken(transaction: Transaction, pour: Pour, press: Press) -> bool:
    """Whether a press was taken before, and only its answer was lost; of a locked pour.

    Raises
    ------
    InputError
        Its key is that of a press of another pour.
    """
    taken = None if press.key is None else transaction.session.get(PourPress, press.key)
    if taken is not None and taken.pour_id != pour.id:
        raise InputError(
            "The key of this press is that of another pour's; take a new one.", "press"
        )
    return taken is not None


def _changed(transaction: Transaction, pour: Pour, press: Press) -> Pour:
    """Note a press as taken, and tell every screen that the pour has changed."""
    if press.key is not None:
        taken = PourPress(id=press.key, pour_id=pour.id, taken_at=transaction.now)
        transaction.session.add(taken)
    transaction.session.flush()
    announce(transaction.session, {"topic": "pour", "id": str(pour.id)})
    return pour


def _require_open(pour: Pour) -> None:
    if pour.status != PourStatus.OPEN:
        assert pour.closed_at is not None
        raise ConflictError(
            f"This pour was closed at {pour.closed_at:%H:%M:%S} UTC already, perhaps in another "
            "window; nothing was changed."
        )


def cautions_of(pour: Pour) -> tuple[tuple[str, ...], tuple[OperationCautions, ...]]:
    """Return what to take care of with what is poured, and in each operation."""
    material = castable_of(pour.material)
    return (*material.hazards, USUAL_CAUTION), cautions_for(CASTING, (material,))


def too_damp_for(pour: Pour) -> float | None:
    """Return the relative humidity from which what is poured foams; None where it does not."""
    return too_damp_from(castable_of(pour.material))
