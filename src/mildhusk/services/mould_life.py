"""The life of a mould: what happened to it, its checks before a cast, its retirement."""

from uuid import UUID

from mildhusk.core.errors import MouldError
from mildhusk.core.mould.checks import CHECKS
from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import MouldEvent, MouldEventKind, MouldRow


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
    transaction.session.refresh(row, ["events"])
    return row


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
