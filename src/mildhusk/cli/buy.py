"""The command `husk buy`."""

import argparse
from datetime import UTC, date, datetime
from decimal import Decimal, InvalidOperation
from typing import Any

from mildhusk.cli.output import plain
from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import shipped_kits, shipped_material
from mildhusk.core.supply.buying import Lot, Needed, plan_order, pooled
from mildhusk.quantities import read_quantity


def add_words(buy: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    buy.add_argument("--need", required=True, action="append", metavar="KEY=4.1kg")
    buy.add_argument(
        "--lot",
        action="append",
        default=[],
        metavar="KEY=0.4kg@2027-03-31",
        help="what is at hand, and until when it keeps; without a date it keeps",
    )
    buy.add_argument("--minimum", default="0", metavar="60", help="least order the shop takes")


def run(given: argparse.Namespace) -> tuple[dict[str, Any], list[str]]:
    """Say which kits to buy at the least cost."""
    needs = pooled(_amount_of(one, "need") for one in given.need)
    lots = [_lot_of(one, number) for number, one in enumerate(given.lot, 1)]
    unwanted = next((key for key, _ in lots if key not in needs), None)
    if unwanted is not None:
        raise InputError(f"There is a lot of '{unwanted}', but no need of it.", "lot")
    order = plan_order(
        [
            Needed(
                key,
                kg,
                tuple(lot for of, lot in lots if of == key),
                shipped_kits(shipped_material(key).key),
            )
            for key, kg in needs.items()
        ],
        datetime.now(UTC).date(),
        _money(given.minimum),
    )
    lines = []
    for key, one in zip(needs, order.purchases, strict=True):
        taken = ", ".join(f"{lot.kg:g} kg from {lot.lot}" for lot in one.from_lots)
        kits = ", ".join(f"{k.count} x {k.name} {k.mass_kg} kg" for k in one.kits)
        bought = f"{kits} for {one.cost}, {one.left_over_kg:.2f} kg left over" if kits else ""
        lines.append(f"{key}: {'; '.join(part for part in (taken, bought) if part)}")
        lines.append(f"    {one.why_not_bigger}")
    told = [{"key": key, **plain(one)} for key, one in zip(needs, order.purchases, strict=True)]
    if order.raised_by:
        lines.append(f"the smallest order adds {order.raised_by}, for more of the same")
    if order.short_by:
        lines.append(f"the order is {order.short_by} short of the smallest the shop takes")
    document = {
        "purchases": told, "cost": str(order.cost), "raised_by": str(order.raised_by),
        "short_by": str(order.short_by),
    }  # fmt: skip
    return document, [*lines, f"together {order.cost}"]


def _amount_of(words: str, field: str) -> tuple[str, float]:
    key, equals, amount = words.partition("=")
    if not equals:
        raise InputError(f"'{words}' is not KEY=AMOUNT; write for instance polyester=1.5kg.", field)
    return key, read_quantity(amount, "kg", "kg", name=f"The {field} of {key}", field=field)


def _lot_of(words: str, number: int) -> tuple[str, Lot]:
    named, _, until = words.partition("@")
    key, kg = _amount_of(named, "lot")
    try:
        expires = date.fromisoformat(until) if until else date.max
    except ValueError:
        raise InputError(f"'{until}' is no date; write for instance 2027-03-31.", "lot") from None
    return key, Lot(f"lot {number}", kg, None, expires)


def _money(words: str) -> Decimal:
    try:
        money = Decimal(words)
    except InvalidOperation:
        money = Decimal("NaN")
    if not money.is_finite():
        raise InputError(f"'{words}' is no price; write for instance 60 or 59.90.", "minimum")
    return money
