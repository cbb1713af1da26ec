"""The bench card: one sheet of paper with big numbers and boxes to tick."""

from typing import Any

import segno

from mildhusk.core.wording import Quantity, Unit, in_metric, in_minutes
from mildhusk.documents.pages import page_pdf


def bench_card_pdf(content: dict[str, Any], pour_address: str) -> bytes:
    """Return the bench card of a cast sheet as PDF.

    Parameters
    ----------
    content : dict
        Name, piece, resin, wish and plan, as `sheet_json` writes them.
    pour_address : str
        Where the printed code leads: the pour of this sheet.
    """
    return page_pdf(
        "bench_card",
        sheet=content,
        plan=content["plan"],
        code=segno.make(pour_address, error="m").svg_data_uri(scale=3, border=0),
        grams=lambda kg: f"{kg * 1e3:,.1f}",
        millilitres=lambda m3: f"{m3 * 1e6:,.0f}",
        millimetres=lambda m: f"{m * 1e3:,.1f}",
        celsius=lambda kelvin: in_metric(Quantity(kelvin, Unit.TEMPERATURE)),
        minutes=in_minutes,
    )
