"""A cast sheet as JSON and as CSV."""

import csv
import io
from dataclasses import dataclass

from pydantic import TypeAdapter

from mildhusk.core.casting.plan import CastPlan
from mildhusk.core.casting.wish import CastWish
from mildhusk.documents.spreadsheet import harmless


@dataclass(frozen=True, slots=True)
class SheetFile:
    """A kept cast sheet as it leaves: its names, what was wished, its plan; everything in SI."""

    name: str
    piece: str
    resin: str
    wish: CastWish
    plan: CastPlan


_FILE = TypeAdapter(SheetFile)


def sheet_json(sheet: SheetFile) -> bytes:
    """Return a cast sheet as indented JSON."""
    return _FILE.dump_json(sheet, indent=2)


def sheet_csv(sheet: SheetFile) -> bytes:
    """Return a cast sheet as CSV, a row a coat; the unit of each column is in its name."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(
        [
            "sheet", "piece", "resin", "coat", "charge_g", "A_g", "B_g", "A_ml", "B_ml",
            "kind", "thickener_g", "thinner_g", "powder_g", "limit",
            "starts_s", "pour_by_s", "roll_until_s", "next_from_s", "next_until_s",
            "turned", "stands_on",
        ]
    )  # fmt: skip
    coats = sheet.plan.coats
    for coat in coats:
        window = (coat.next_from_s, coat.next_until_s)
        added = coat.added_kg
        rows.writerow(
            [
                *map(harmless, (sheet.name, sheet.piece, sheet.resin)),
                coat.number,
                _grams(coat.charge_kg),
                _grams(coat.parts_kg.A),
                _grams(coat.parts_kg.B),
                f"{coat.parts_m3.A * 1e6:.1f}",
                f"{coat.parts_m3.B * 1e6:.1f}",
                coat.kind,
                *map(_grams, (added.thickener, added.thinner, added.powder)),
                coat.binding_limit,
                *(f"{one:.0f}" for one in (coat.starts_s, coat.pour_by_s, coat.roll_until_s)),
                *("" if coat is coats[-1] else f"{one:.0f}" for one in window),
                coat.motion,
                sheet.plan.stands_on,
            ]
        )
    # The mark lets spreadsheets see that it is UTF-8.
    return text.getvalue().encode("utf-8-sig")


def _grams(kg: float) -> str:
    # Finer than any scale in use, so that parts add up whatever they were weighed on.
    return f"{kg * 1e3:.3f}"
