"""The bench card: one sheet of paper with big numbers and boxes to tick."""

import segno

from mildhusk.core.casting.plan import CoatPlan
from mildhusk.core.coating.motion import motion_words
from mildhusk.core.wording import Quantity, Unit, in_metric, in_minutes, weighed
from mildhusk.documents.pages import page_pdf
from mildhusk.documents.sheet_files import SheetFile


def bench_card_pdf(sheet: SheetFile, pour_address: str) -> bytes:
    """Return the bench card of a cast sheet as PDF.

    Parameters
    ----------
    sheet : SheetFile
    pour_address : str
        Where the printed code leads: the pour of this sheet.
    """
    return page_pdf(
        "bench_card",
        sheet=sheet,
        plan=sheet.plan,
        code=segno.make(pour_address, error="m").svg_data_uri(scale=3, border=0),
        grams=lambda kg: weighed(kg, sheet.plan.scale_step_kg),
        millilitres=lambda m3: f"{m3 * 1e6:,.0f}",
        millimetres=lambda m: f"{m * 1e3:,.1f}",
        celsius=lambda kelvin: in_metric(Quantity(kelvin, Unit.TEMPERATURE)),
        minutes=in_minutes,
        turned=motion_words,
        added=_added,
        one_part=len(sheet.plan.measured_parts) == 1,
    )


def _added(coat: CoatPlan) -> list[tuple[str, float]]:
    """What goes into a charge beside A and B, and how much of it. [kg]"""
    named = (
        ("thickener", coat.added_kg.thickener),
        ("thinner", coat.added_kg.thinner),
        ("powder", coat.added_kg.powder),
    )
    return [(name, kg) for name, kg in named if kg]
