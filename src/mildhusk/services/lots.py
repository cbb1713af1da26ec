"""Lots: what stands on the shelf, and what pours draw down."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from uuid import UUID

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import joinedload

from mildhusk.core.errors import InputError
from mildhusk.services.deleted import put_away
from mildhusk.services.errors import ConflictError
from mildhusk.services.shelf import find_material
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import LotDraw, LotRow

DEAREST = Decimal(1_000_000)


def add_lot(
    transaction: Transaction,
    material_id: UUID,
    label: str,
    bought_kg: float,
    opened_on: date | None,
    expires_on: date,
    price: Decimal | None = None,
) -> LotRow:
    """Put a lot on the shelf."""
    find_material(transaction, material_id)
    grams = (Decimal(repr(bought_kg)) * 1000).quantize(Decimal("0.01"))
    if not 0 < grams < 1_000_000:
        raise InputError("A lot weighs more than 0 and less than 1,000 kg.", "bought_kg")
    if opened_on is not None and expires_on < opened_on:
        raise InputError(
            f"The lot ends on {expires_on}, before it was opened on {opened_on}; check the dates.",
            "expires_on",
        )
    if price is not None and not 0 <= price < DEAREST:
        raise InputError("A lot costs 0 to 1,000,000; leave the price out if unknown.", "price")
    lot = LotRow(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        material_id=material_id,
        label=label,
        bought_g=grams,
        left_g=grams,
        opened_on=opened_on,
        expires_on=expires_on,
        price=price,
    )
    transaction.session.add(lot)
    transaction.session.flush()
    return lot


def list_lots(transaction: Transaction) -> Sequence[LotRow]:
    """Return the lots, those that expire first first."""
    mine = select(LotRow).where(LotRow.workshop_id == transaction.workshop_id)
    mine = mine.options(joinedload(LotRow.material))
    return transaction.session.scalars(mine.order_by(LotRow.expires_on, LotRow.label)).all()


def delete_lot(transaction: Transaction, key: UUID) -> UUID:
    """Take a lot off the shelf that no pour drew from; returns what brings it back."""
    lot = transaction.find(LotRow, key, "lot", lock=True)
    if transaction.session.scalars(
        select(LotDraw.coat).where(LotDraw.lot_id == key).limit(1)
    ).first():
        raise ConflictError("Pours drew from this lot; it is part of the log and stays.")
    kept = put_away(transaction, lot, lot.label)
    transaction.session.delete(lot)
    transaction.session.flush()
    return kept


def draw(
    transaction: Transaction, material_id: UUID, pour_id: UUID, coat: int, grams: Decimal, on: date
) -> Decimal:
    """Draw a coat from the lots in date, opened ones first; returns what no lot covered. [g]

    The rows are locked in the order of their keys, so that any number of pours at once neither
    draw a gram twice nor wait for each other in a ring.
    """
    locked = transaction.session.scalars(
        select(LotRow)
        .where(*_usable(transaction, material_id, on))
        .order_by(LotRow.id)
        .with_for_update()
        # What another pour drew while this one waited must be seen.
        .execution_options(populate_existing=True)
    ).all()
    missing = grams
    for lot in sorted(locked, key=_drawn_in_turn):
        taken = min(missing, lot.left_g)
        if taken > 0:
            lot.left_g -= taken
            lot.opened_on = lot.opened_on or on
            transaction.session.add(LotDraw(lot_id=lot.id, pour_id=pour_id, coat=coat, grams=taken))
            missing -= taken
    transaction.session.flush()
    return missing


def _usable(
    transaction: Transaction, material_id: UUID, on: date
) -> tuple[ColumnElement[bool], ...]:
    return (
        LotRow.workshop_id == transaction.workshop_id,
        LotRow.material_id == material_id,
        LotRow.expires_on >= on,
        LotRow.left_g > 0,
    )


def put_back(transaction: Transaction, pour_id: UUID, coat: int) -> None:
    """Give back what a coat drew."""
    draws = transaction.session.scalars(
        select(LotDraw)
        .where(LotDraw.pour_id == pour_id, LotDraw.coat == coat)
        .order_by(LotDraw.lot_id)
    ).all()
    for one in draws:
        lot = transaction.session.get_one(
            LotRow, one.lot_id, with_for_update=True, populate_existing=True
        )
        lot.left_g += one.grams
        transaction.session.delete(one)
    transaction.session.flush()


def usable_lots(transaction: Transaction, material_id: UUID, on: date) -> Sequence[LotRow]:
    """Return the lots of a material that are in date and not empty, as they are drawn from."""
    found = transaction.session.scalars(
        select(LotRow).where(*_usable(transaction, material_id, on))
    )
    return sorted(found, key=_drawn_in_turn)


def _drawn_in_turn(lot: LotRow) -> tuple[date, date, UUID]:
    """Opened ones first, the longest open before others, then those that expire first."""
    return (lot.opened_on or date.max, lot.expires_on, lot.id)
