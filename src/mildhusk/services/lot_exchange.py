"""Lots in and out as CSV and JSON; an import takes every row or none."""

import csv
import io
import json
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation
from typing import Any

from sqlalchemy import select

from mildhusk.core.errors import InputError
from mildhusk.documents.spreadsheet import as_typed, harmless
from mildhusk.services.lots import add_lot, list_lots
from mildhusk.services.rows import Row, is_text, read_rows
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import NAME_LENGTH, LotRow, Material

_COLUMNS = ("material", "label", "bought_kg", "left_kg", "opened_on", "expires_on", "price")


@dataclass(frozen=True, slots=True)
class _ReadLot:
    material: Material
    label: str
    bought_kg: Decimal
    left_kg: Decimal
    opened_on: date | None
    expires_on: date
    price: Decimal | None


def export_lots_json(transaction: Transaction) -> bytes:
    """Return all lots as JSON; weights and money as text, so that no gram is lost."""
    return json.dumps(
        {"lots": list(_documents(transaction))}, indent=2, ensure_ascii=False
    ).encode()


def export_lots_csv(transaction: Transaction) -> bytes:
    """Return all lots as CSV."""
    text = io.StringIO()
    rows = csv.DictWriter(text, _COLUMNS)
    rows.writeheader()
    for one in _documents(transaction):
        rows.writerow({name: harmless(value or "") for name, value in one.items()})
    return text.getvalue().encode("utf-8-sig")


def _documents(transaction: Transaction) -> Iterator[dict[str, str | None]]:
    for lot in list_lots(transaction):
        yield {
            "material": lot.material.key,
            "label": lot.label,
            "bought_kg": str(lot.bought_g / 1000),
            "left_kg": str(lot.left_g / 1000),
            "opened_on": None if lot.opened_on is None else lot.opened_on.isoformat(),
            "expires_on": lot.expires_on.isoformat(),
            "price": None if lot.price is None else str(lot.price),
        }


def import_lots(transaction: Transaction, content: bytes) -> int:
    """Put every lot of a file on the shelf, or none; returns how many."""
    mine = select(Material).where(Material.workshop_id == transaction.workshop_id)
    shelf = {row.key: row for row in transaction.session.scalars(mine)}
    known = {
        (key, label)
        for key, label in transaction.session.execute(
            select(Material.key, LotRow.label)
            .join_from(LotRow, Material)
            .where(LotRow.workshop_id == transaction.workshop_id)
        )
    }

    def take(row: Row) -> LotRow:
        lot = _read(row, shelf)
        if (lot.material.key, lot.label) in known:
            raise InputError(f"A lot '{lot.label}' of this material is on the shelf already.")
        known.add((lot.material.key, lot.label))
        made = add_lot(
            transaction,
            lot.material.id,
            lot.label,
            float(lot.bought_kg),
            lot.opened_on,
            lot.expires_on,
            lot.price,
        )
        made.left_g = lot.left_kg * 1000
        return made

    taken = read_rows(content, "lots", ("material", "label", "bought_kg", "expires_on"), take)
    transaction.session.flush()
    return len(taken)


def _read(row: Row, shelf: dict[str, Material]) -> _ReadLot:
    if None in row:
        raise InputError("It has more cells than there are columns.")
    unknown = sorted(row.keys() - set(_COLUMNS))
    if unknown:
        raise InputError(f"'{unknown[0]}' is no column of a lot.")
    cells = {name: _cell(row.get(name)) for name in _COLUMNS}
    if not cells["label"] or len(cells["label"]) > NAME_LENGTH or not is_text(cells["label"]):
        raise InputError(f"The label has to be text of 1 to {NAME_LENGTH} characters.")
    if cells["material"] not in shelf:
        raise InputError(f"There is no material '{cells['material']}' on the shelf.")
    bought = _number("bought_kg", cells["bought_kg"])
    left = bought if not cells["left_kg"] else _number("left_kg", cells["left_kg"])
    if not 0 <= left <= bought:
        raise InputError(f"{left} kg cannot be left of {bought} kg.")
    return _ReadLot(
        material=shelf[cells["material"]],
        label=cells["label"],
        bought_kg=bought,
        left_kg=left,
        opened_on=_day("opened_on", cells["opened_on"]) if cells["opened_on"] else None,
        expires_on=_day("expires_on", cells["expires_on"]),
        price=_number("price", cells["price"]) if cells["price"] else None,
    )


def _cell(value: Any) -> str:
    return "" if value is None else as_typed(str(value)).strip()


def _number(column: str, text: str) -> Decimal:
    try:
        read = Decimal(text)
    except InvalidOperation as error:
        raise InputError(f"The {column} is '{text}', which is not a number.") from error
    if not read.is_finite():
        raise InputError(f"The {column} is '{text}', which is not a number.")
    return read


def _day(column: str, text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise InputError(f"The {column} is '{text}'; write the day as 2027-05-31.") from error
