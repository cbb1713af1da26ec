"""The life of a mould: what happened to it, its checks before a cast, its retirement."""

from collections.abc import Sequence
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session, object_session

from mildhusk.core.errors import MouldError
from mildhusk.core.mould.checks import CHECKS
from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import MouldEvent, MouldEventKind, MouldRow

_TOLD = 60
"""So much of what happened to a mould is told with it."""


def add_event(transaction: Transaction, key: UUID, kind: MouldEventKind, note: str) -> MouldRow:
    """Write down what happened to a mould; a cast asks for its checks anew."""
    row = transaction.find(MouldRow, key, "mould", lock=True)
    if row.retired_at is not None:
        raise ConflictError("This mould is retired; take it back into use first.")
    event = MouldEvent(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        mould_id=row.id,
        kind=kind,
        note=note,
    )
    transaction.session.add(event)
    if kind is MouldEventKind.CAST:
        row.checks = {}
    transaction.session.flush()
    return row


def newest_events(row: MouldRow) -> Sequence[MouldEvent]:
    """Return what happened to a mould last, the newest first."""
    return (
        _session(row)
        .scalars(
            select(MouldEvent)
            .where(MouldEvent.mould_id == row.id)
            .order_by(MouldEvent.created_at.desc(), MouldEvent.id)
            .limit(_TOLD)
        )
        .all()
    )


def casts_so_far(row: MouldRow) -> int:
    """Return how many casts a mould has made."""
    casts = select(func.count()).where(
        MouldEvent.mould_id == row.id, MouldEvent.kind == MouldEventKind.CAST
    )
    return _session(row).scalar(casts) or 0


def _session(row: MouldRow) -> Session:
    session = object_session(row)
    assert session is not None
    return session


def retire_mould(transaction: Transaction, key: UUID, *, retired: bool) -> MouldRow:
    """Retire a mould, or take it back into use."""
    row = transaction.find(MouldRow, key, "mould", lock=True)
    row.retired_at = transaction.now if retired else None
    transaction.session.flush()
    return row


def tick_check(transaction: Transaction, key: UUID, check: str, *, done: bool) -> MouldRow:
    """Tick a check before the next cast off, or take the tick back."""
    row = transaction.find(MouldRow, key, "mould", lock=True)
    if check not in {one.id for one in CHECKS}:
        raise MouldError(f"There is no check '{check}'.", "check")
    ticked = {name: at for name, at in row.checks.items() if name != check}
    if done:
        ticked[check] = transaction.now.isoformat()
    row.checks = ticked
    transaction.session.flush()
    return row
