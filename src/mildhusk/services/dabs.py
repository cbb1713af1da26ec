"""Dab tests: what on what, their clock, their result, a photo."""

from collections.abc import Sequence
from datetime import timedelta
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import joinedload, undefer

from mildhusk.core.materials.compatibility import DabResult, DabTest
from mildhusk.services.errors import ConflictError, NotFoundError
from mildhusk.services.pictures import KIND, small_picture
from mildhusk.services.shelf import find_material
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DabTestRow

WAIT = timedelta(hours=24)
"""A dab is judged after a day (common practice, no source)."""


def start_dab(transaction: Transaction, first_id: UUID, second_id: UUID, note: str) -> DabTestRow:
    """Start the clock of a dab of one material on another."""
    first, second = find_material(transaction, first_id), find_material(transaction, second_id)
    dab = DabTestRow(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        first_id=first.id,
        second_id=second.id,
        result=None,
        judged_at=None,
        note=note,
        photo=None,
        photo_kind=None,
    )
    transaction.session.add(dab)
    transaction.session.flush()
    return dab


def judge_dab(transaction: Transaction, key: UUID, result: DabResult, note: str) -> DabTestRow:
    """Write down what a dab came to, once."""
    dab = transaction.find(DabTestRow, key, "dab test", lock=True)
    if dab.result is not None:
        raise ConflictError("This dab was judged already; make another one.")
    dab.result, dab.judged_at, dab.note = result, transaction.now, note
    transaction.session.flush()
    return dab


def keep_photo(transaction: Transaction, key: UUID, content: bytes) -> DabTestRow:
    """Keep a photo of a dab."""
    dab = transaction.find(DabTestRow, key, "dab test", lock=True)
    dab.photo, dab.photo_kind = small_picture(content).content, KIND
    transaction.session.flush()
    return dab


def photo_of(transaction: Transaction, key: UUID) -> tuple[bytes, str]:
    """Return the photo of a dab and its media type."""
    dab = transaction.session.get(DabTestRow, key, options=[undefer(DabTestRow.photo)])
    if (
        dab is None
        or dab.workshop_id != transaction.workshop_id
        or not dab.photo
        or not dab.photo_kind
    ):
        raise NotFoundError("There is no photo of this dab.")
    return dab.photo, dab.photo_kind


def delete_dab(transaction: Transaction, key: UUID) -> None:
    """Forget a dab test."""
    transaction.session.delete(transaction.find(DabTestRow, key, "dab test", lock=True))
    transaction.session.flush()


def list_dabs(transaction: Transaction) -> Sequence[DabTestRow]:
    """Return the dab tests, the newest first."""
    return transaction.session.scalars(
        select(DabTestRow)
        .where(DabTestRow.workshop_id == transaction.workshop_id)
        .options(joinedload(DabTestRow.first), joinedload(DabTestRow.second))
        .order_by(DabTestRow.created_at.desc())
    ).all()


def judged_dabs(transaction: Transaction) -> tuple[DabTest, ...]:
    """Return the judged dab tests as the core's values."""
    return tuple(
        DabTest(row.first.key, row.second.key, DabResult(row.result), row.judged_at.date())
        for row in list_dabs(transaction)
        if row.result is not None and row.judged_at is not None
    )
