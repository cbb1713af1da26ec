"""Casts: which mould a pour is of, the number of what came out, and what became of it."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import func, select

from mildhusk.core.errors import InputError
from mildhusk.services.errors import ConflictError
from mildhusk.services.learning import unlearn
from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.store.tables import (
    CastState,
    MouldEvent,
    MouldEventKind,
    MouldRow,
    NumberedCast,
    Pour,
    PourStatus,
)


@dataclass(frozen=True, slots=True)
class CastSummary:
    """What a list tells of a cast; its weight is of the whole cast. [kg]"""

    pour_id: UUID
    number: int
    state: CastState
    for_whom: str
    place: str
    poured_at: datetime
    sheet_name: str
    resin_name: str
    planned_kg: float
    cast_kg: float | None


def usual_mould(transaction: Transaction, piece_id: UUID) -> MouldRow | None:
    """Return the mould a piece is most likely cast in: the newest in use; None where none is."""
    return transaction.session.scalars(
        select(MouldRow)
        .where(
            MouldRow.workshop_id == transaction.workshop_id,
            MouldRow.piece_id == piece_id,
            MouldRow.retired_at.is_(None),
        )
        .order_by(MouldRow.created_at.desc(), MouldRow.id)
        .limit(1)
    ).first()


def mould_for(transaction: Transaction, piece_id: UUID, mould_id: UUID) -> MouldRow:
    """Return a mould that a piece is to be cast in.

    Raises
    ------
    InputError
        It is of another piece.
    """
    mould = transaction.find(MouldRow, mould_id, "mould", lock=True)
    if mould.piece_id != piece_id:
        raise InputError(
            f"The mould '{mould.name}' is of another piece; choose one of this piece.", "mould_id"
        )
    return mould


def note_cast(transaction: Transaction, pour: Pour) -> None:
    """Number what came out of a pour's mould when it is closed; the mould's life goes on."""
    if pour.mould_id is None or pour.closed_at is None:
        return
    mould = transaction.find(MouldRow, pour.mould_id, "mould", lock=True)
    if pour.status == PourStatus.CAST:
        _number(transaction, pour, mould)
    said = f"{pour.sheet_name}, spoilt" if pour.status == PourStatus.SPOILT else pour.sheet_name
    event = MouldEvent(
        workshop_id=transaction.workshop_id,
        created_at=pour.closed_at,
        mould_id=mould.id,
        kind=MouldEventKind.CAST,
        note=said,
    )
    transaction.session.add(event)
    # Each cast asks for the checks of its mould anew.
    mould.checks = {}
    transaction.session.flush()


def _number(transaction: Transaction, pour: Pour, mould: MouldRow) -> None:
    """Give a cast the next number of its mould, which is locked."""
    last = transaction.session.scalar(
        select(func.max(NumberedCast.number)).where(NumberedCast.mould_id == mould.id)
    )
    pour.cast = NumberedCast(
        workshop_id=transaction.workshop_id,
        created_at=pour.closed_at or transaction.now,
        mould_id=mould.id,
        number=(last or 0) + 1,
        state=CastState.OUT,
        for_whom="",
        place="",
    )
    transaction.session.flush()


def say_mould(transaction: Transaction, pour_id: UUID, mould_id: UUID) -> Pour:
    """Say which mould a pour is of; one that is closed already becomes a cast of that mould."""
    pour = transaction.find(Pour, pour_id, "pour", lock=True)
    if pour.cast is not None and pour.mould is not None:
        raise ConflictError(f"This is cast {pour.cast.number} of '{pour.mould.name}' already.")
    if pour.status != PourStatus.OPEN and pour.mould_id is not None:
        raise ConflictError("This pour is closed, and its mould is known already.")
    mould = mould_for(transaction, pour.piece_id, mould_id)
    pour.mould_id = mould.id
    unlearn(pour)
    transaction.session.flush()
    transaction.session.refresh(pour, ["mould"])
    if pour.status != PourStatus.OPEN:
        note_cast(transaction, pour)
    return pour


def edit_cast(
    transaction: Transaction, pour_id: UUID, state: CastState, for_whom: str, place: str
) -> Pour:
    """Write down what became of a cast, who it is for and where it is."""
    pour = transaction.find(Pour, pour_id, "pour", lock=True)
    if pour.cast is None:
        raise ConflictError("No cast of a mould came of this pour; say which mould it was in.")
    pour.cast.state, pour.cast.for_whom, pour.cast.place = state, for_whom, place
    transaction.session.flush()
    return pour


def list_casts(transaction: Transaction, mould_id: UUID, page: Page) -> Listed[CastSummary]:
    """Return a page of the casts of a mould, the newest first: two statements."""
    transaction.find(MouldRow, mould_id, "mould")
    cast = NumberedCast
    matching = [cast.mould_id == mould_id]
    if page.search:
        words = (cast.for_whom, cast.place, cast.state)
        found = [one.icontains(page.search, autoescape=True) for one in words]
        matching.append(found[0] | found[1] | found[2])
    rows = transaction.session.execute(
        select(
            cast.pour_id, cast.number, cast.state, cast.for_whom, cast.place, Pour.created_at,
            Pour.sheet_name, Pour.resin_name, Pour.plan["cast_kg"].as_float(), Pour.cast_g,
        )
        .join(Pour, Pour.id == cast.pour_id)
        .where(*matching)
        .order_by(cast.number.desc())
        .limit(page.limit)
        .offset(page.offset)
    )  # fmt: skip
    summaries = tuple(
        CastSummary(
            pour_id, number, CastState(state), for_whom, place, poured, sheet, resin, planned_kg,
            None if grams is None else float(grams) / 1e3,
        )
        for pour_id, number, state, for_whom, place, poured, sheet, resin, planned_kg, grams in rows
    )  # fmt: skip
    return Listed(summaries, transaction.count(cast, *matching))
