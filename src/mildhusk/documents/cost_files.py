"""The cost of a run as CSV."""

import csv
import io

from mildhusk.core.supply.costing import Cost
from mildhusk.documents.spreadsheet import harmless


def cost_csv(sheet_name: str, mould_name: str | None, cost: Cost) -> bytes:
    """Return a cost as CSV: a row a line, the sums in the last row."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(
        [
            "sheet", "mould", "group", "line", "quantity", "unit", "rate", "rate_per",
            "shared_by", "one_cast", f"run_of_{cost.casts}", "source",
        ]
    )  # fmt: skip
    named = [harmless(sheet_name), harmless(mould_name or "")]
    for line in cost.lines:
        quantity, rate = line.quantity, line.rate
        rows.writerow(
            [
                *named,
                line.group,
                harmless(line.label),
                f"{quantity.value:.6g}",
                quantity.unit,
                f"{rate.amount:.2f}",
                rate.per,
                line.shared_by,
                line.each,
                line.run,
                rate.source,
            ]
        )
    rows.writerow([*named, "sum", "", "", "", "", "", "", cost.each, cost.run, ""])
    return text.getvalue().encode("utf-8-sig")
