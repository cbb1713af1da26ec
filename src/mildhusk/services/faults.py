"""Faults of what came of a pour: their likely causes, the verdict, and the sheet mended."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import func, select

from mildhusk.core.errors import InputError
from mildhusk.core.pouring.faults import Cause, RankedCause, fault_of, ranked_causes, signs
from mildhusk.core.pouring.mends import Mend, mended_wish
from mildhusk.core.pouring.signs import PourFacts, longest_still, signs_of
from mildhusk.services.errors import ConflictError
from mildhusk.services.pour_facts import followed_by, records_of
from mildhusk.services.pours import find_pour
from mildhusk.services.sheets import SheetQuestion, edit_sheet, find_sheet, plan_of, question_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.turning import readings_of, recorded_lengths
from mildhusk.store.tables import (
    CastSheetRow,
    LotDraw,
    LotRow,
    MouldEvent,
    MouldEventKind,
    Pour,
    PourFault,
    PourStatus,
)

MOST_FAULTS = 40
"""Of one pour."""


@dataclass(frozen=True, slots=True)
class LikelyCause:
    """A cause, how likely it is here, and what it changes of the sheet, where that mends it."""

    ranked: RankedCause
    mend: Mend | None


@dataclass(frozen=True, slots=True)
class KnownFault:
    """A fault of a pour with its causes, the likeliest first."""

    row: PourFault
    causes: tuple[LikelyCause, ...]


def list_faults(transaction: Transaction, pour_id: UUID) -> list[KnownFault]:
    """Return the faults of a pour in the order they were found."""
    pour = find_pour(transaction, pour_id)
    rows = transaction.session.scalars(
        select(PourFault)
        .where(PourFault.pour_id == pour_id)
        .order_by(PourFault.created_at, PourFault.id)
    ).all()
    if not rows:
        return []
    seen = signs_of(facts_of(transaction, pour))
    sheet = _sheet_as_poured(transaction, pour)
    mend = _mender(transaction, pour, sheet)
    found = []
    for row in rows:
        ranked = ranked_causes(row.kind, {**seen, **row.told}, _verdicts(transaction, row))
        causes = tuple(LikelyCause(one, mend(one.cause)) for one in ranked)
        found.append(KnownFault(row, causes))
    return found


def add_fault(
    transaction: Transaction, pour_id: UUID, kind: str, place: str, told: Mapping[str, bool]
) -> PourFault:
    """Note a fault of a closed pour."""
    fault_of(kind)
    _check_told(told)
    pour = transaction.find(Pour, pour_id, "pour", lock=True)
    if pour.status == PourStatus.OPEN:
        raise ConflictError("This pour is not closed yet; close it, then note what is wrong.")
    if transaction.count(PourFault, PourFault.pour_id == pour_id) >= MOST_FAULTS:
        raise ConflictError(f"{MOST_FAULTS} faults are noted of this pour already.")
    row = PourFault(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        pour_id=pour_id,
        kind=kind,
        place=place,
        told=dict(told),
        verdict="",
    )
    transaction.session.add(row)
    transaction.session.flush()
    return row


def change_fault(
    transaction: Transaction, key: UUID, place: str, told: Mapping[str, bool], verdict: str
) -> PourFault:
    """Change what is known of a fault, or say what caused it; no cause is no verdict."""
    row = transaction.find(PourFault, key, "fault", lock=True)
    _check_told(told)
    if verdict:
        _cause_of(row, verdict)
    row.place, row.told, row.verdict = place, dict(told), verdict
    transaction.session.flush()
    return row


def remove_fault(transaction: Transaction, key: UUID) -> None:
    """Take a fault off the log."""
    transaction.session.delete(transaction.find(PourFault, key, "fault", lock=True))
    transaction.session.flush()


def mend_sheet(transaction: Transaction, key: UUID, cause: str) -> CastSheetRow:
    """Change the sheet of a pour as a cause asks for it.

    Raises
    ------
    ConflictError
        Nothing of the sheet mends it, or the sheet is of another resin or piece by now.
    """
    row = transaction.find(PourFault, key, "fault")
    meant = _cause_of(row, cause)
    sheet = _sheet_as_poured(transaction, row.pour)
    if sheet is None:
        raise ConflictError(
            "The sheet of this pour is of another resin or piece by now; change it by hand."
        )
    mend = _mender(transaction, row.pour, sheet)(meant)
    if mend is None:
        raise ConflictError("Nothing of the sheet mends that, or the sheet has it already.")
    question = SheetQuestion(sheet.piece_id, sheet.material_id, mend.wish)
    return edit_sheet(transaction, sheet.id, sheet.version, sheet.name, question)


def _mender(
    transaction: Transaction, pour: Pour, sheet: CastSheetRow | None
) -> Callable[[Cause], Mend | None]:
    """Return what tells how a cause changes a sheet; nothing does where there is none."""
    if sheet is None:
        return lambda _: None
    wish, plan = question_of(sheet).wish, plan_of(transaction, sheet)
    rooms = [one.room_k for one in pour.coats if one.room_k is not None]
    room_k = sum(rooms) / len(rooms) if rooms else None
    return lambda cause: mended_wish(cause, wish, plan, room_k)


def _cause_of(row: PourFault, cause: str) -> Cause:
    found = next((one for one in fault_of(row.kind).causes if one.id == cause), None)
    if found is None:
        raise InputError(f"'{cause}' is no cause of that fault.", "verdict")
    return found


def _check_told(told: Mapping[str, bool]) -> None:
    unknown = set(told) - {one.id for one in signs() if one.told}
    if unknown:
        raise InputError(f"There is no sign '{min(unknown)}' to tell of.", "told")


def _verdicts(transaction: Transaction, row: PourFault) -> dict[str, int]:
    """Return how often each cause was found to be it in this workshop, but for this fault."""
    counted = transaction.session.execute(
        select(PourFault.verdict, func.count())
        .where(
            PourFault.workshop_id == transaction.workshop_id,
            PourFault.kind == row.kind,
            PourFault.verdict != "",
            PourFault.id != row.id,
        )
        .group_by(PourFault.verdict)
    )
    return {verdict: int(count) for verdict, count in counted}


def _sheet_as_poured(transaction: Transaction, pour: Pour) -> CastSheetRow | None:
    """Return the sheet of a pour, where it is still of its resin and piece."""
    sheet = find_sheet(transaction, pour.sheet_id)
    is_same = sheet.material_id == pour.material_id and sheet.piece_id == pour.piece_id
    return sheet if is_same else None


def facts_of(transaction: Transaction, pour: Pour) -> PourFacts:
    """Return what is known of a pour."""
    still_s = None
    for coat in recorded_lengths(transaction, pour.id):
        readings = readings_of(transaction, pour.id, coat)
        still_s = max(still_s or 0.0, longest_still(readings[:, 0], readings[:, 1:]))
    begun = pour.created_at.date()
    lots = transaction.session.scalars(
        select(LotRow)
        .join(LotDraw, LotDraw.lot_id == LotRow.id)
        .where(LotDraw.pour_id == pour.id)
        .distinct()
    ).all()
    opened = [(begun - lot.opened_on).days for lot in lots if lot.opened_on is not None]
    return PourFacts(
        plan=followed_by(pour),
        records=records_of(pour),
        rooms_k=tuple(one.room_k for one in pour.coats),
        closed_at=pour.closed_at,
        still_s=still_s,
        lot_open_days=max(opened, default=None),
        lot_expired=any(lot.expires_on < begun for lot in lots) if lots else None,
        mould_used=_mould_used(transaction, pour),
    )


def _mould_used(transaction: Transaction, pour: Pour) -> float | None:
    """Return what part of its life the mould had behind it when this came out. [1]"""
    if pour.mould is None:
        return None
    casts = transaction.count(
        MouldEvent,
        MouldEvent.mould_id == pour.mould_id,
        MouldEvent.kind == MouldEventKind.CAST,
        MouldEvent.created_at <= (pour.closed_at or transaction.now),
    )
    return casts / pour.mould.life_casts
