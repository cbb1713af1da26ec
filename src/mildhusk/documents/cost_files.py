"""The cost of a run as CSV."""

import csv
import io
from typing import Any

from mildhusk.documents.spreadsheet import harmless


def cost_csv(sheet_name: str, mould_name: str | None, cost: dict[str, Any]) -> bytes:
    """Return a cost as CSV: a row a line, the sums in the last row."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(
        [
            "sheet", "mould", "group", "line", "quantity", "unit", "rate", "rate_per",
            "shared_by", "one_cast", f"run_of_{cost['casts']}", "source",
        ]
    )  # fmt: skip
    named = [harmless(sheet_name), harmless(mould_name or "")]
    for line in cost["lines"]:
        quantity = line["quantity"]
        rows.writerow(
            [
                *named,
                line["group"],
                harmless(line["label"]),
                f"{quantity['value']:.6g}",
                quantity["unit"],
                line["rate"],
                line["rate_per"],
                line["shared_by"],
                line["each"],
                line["run"],
                line["source"],
            ]
        )
    rows.writerow([*named, "sum", "", "", "", "", "", "", cost["each"], cost["run"], ""])
    return text.getvalue().encode("utf-8-sig")
