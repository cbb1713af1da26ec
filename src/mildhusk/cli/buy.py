"""The command `husk buy`."""

import argparse
from datetime import date
from decimal import Decimal
from typing import Any

from mildhusk.cli.output import plain
from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import shipped_kits, shipped_material
from mildhusk.core.supply.buying import Purchase, plan_purchase, pooled
from mildhusk.quantities import read_quantity


def add_words(buy: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    buy.add_argument("--need", required=True, action="append", metavar="KEY=4.1kg")


def run(given: argparse.Namespace) -> tuple[dict[str, Any], list[str]]:
    """Say which kits to buy at the least cost."""
    purchases: list[tuple[str, Purchase]] = []
    for key, need in pooled(map(_need_of, given.need)).items():
        offers = shipped_kits(shipped_material(key).key)
        # The command line knows no lots; they are the workshop's.
        purchases.append((key, plan_purchase(need, (), offers, date.max)))
    total = sum((one.cost for _, one in purchases), Decimal("0.00"))
    lines = []
    for key, one in purchases:
        kits = ", ".join(f"{k.count} x {k.name} {k.mass_kg} kg" for k in one.kits)
        lines.append(f"{key}: {kits} for {one.cost}, {one.left_over_kg:.2f} kg left over")
        lines.append(f"    {one.why_not_bigger}")
    told = [{"key": key, **plain(one)} for key, one in purchases]
    return {"purchases": told, "cost": str(total)}, [*lines, f"together {total}"]


def _need_of(words: str) -> tuple[str, float]:
    key, equals, amount = words.partition("=")
    if not equals:
        raise InputError(
            f"'{words}' is not KEY=AMOUNT; write for instance polyester=1.5kg.", "need"
        )
    return key, read_quantity(amount, "kg", "kg", name=f"The need of {key}", field="need")
