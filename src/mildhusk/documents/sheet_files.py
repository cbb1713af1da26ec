"""A cast sheet as JSON and as CSV."""

import csv
import io
import json
from typing import Any

from mildhusk.documents.spreadsheet import harmless


def sheet_json(content: dict[str, Any]) -> bytes:
    """Return a cast sheet as indented JSON, everything in SI."""
    return json.dumps(content, indent=2, ensure_ascii=False).encode("utf-8")


def sheet_csv(content: dict[str, Any]) -> bytes:
    """Return a cast sheet as CSV, a row a coat; the unit of each column is in its name."""
    plan = content["plan"]
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(
        [
            "sheet", "piece", "resin", "coat", "charge_g", "A_g", "B_g", "A_ml", "B_ml",
            "kind", "thickener_g", "thinner_g", "powder_g", "limit",
            "starts_s", "pour_by_s", "roll_until_s", "next_from_s", "next_until_s",
        ]
    )  # fmt: skip
    for coat in plan["coats"]:
        last = coat is plan["coats"][-1]
        rows.writerow(
            [
                *(harmless(content[key]) for key in ("name", "piece", "resin")),
                coat["number"],
                f"{coat['charge_kg'] * 1e3:.2f}",
                *(f"{coat['parts_kg'][part] * 1e3:.2f}" for part in "AB"),
                *(f"{coat['parts_m3'][part] * 1e6:.1f}" for part in "AB"),
                coat["kind"],
                *(f"{coat['added_kg'][n] * 1e3:.2f}" for n in ("thickener", "thinner", "powder")),
                coat["binding_limit"],
                *(f"{coat[key]:.0f}" for key in ("starts_s", "pour_by_s", "roll_until_s")),
                *("" if last else f"{coat[k]:.0f}" for k in ("next_from_s", "next_until_s")),
            ]
        )
    # The mark lets spreadsheets see that it is UTF-8.
    return text.getvalue().encode("utf-8-sig")
