"""The bench card: one sheet of paper with big numbers and boxes to tick."""

from functools import cache
from importlib.resources import files
from typing import Any

import segno
from jinja2 import Environment, FunctionLoader, StrictUndefined, Template
from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration

from mildhusk.core.wording import Quantity, Unit, in_metric, in_minutes

_FOLDER = files("mildhusk.documents")


def bench_card_pdf(content: dict[str, Any], pour_address: str) -> bytes:
    """Return the bench card of a cast sheet as PDF.

    Parameters
    ----------
    content : dict
        Name, piece, resin, wish and plan, as `sheet_json` writes them.
    pour_address : str
        Where the printed code leads: the pour of this sheet.
    """
    html = _template().render(
        sheet=content,
        plan=content["plan"],
        code=segno.make(pour_address, error="m").svg_data_uri(scale=3, border=0),
        grams=lambda kg: f"{kg * 1e3:,.1f}",
        millilitres=lambda m3: f"{m3 * 1e6:,.0f}",
        millimetres=lambda m: f"{m * 1e3:,.1f}",
        celsius=lambda kelvin: in_metric(Quantity(kelvin, Unit.TEMPERATURE)),
        minutes=in_minutes,
    )
    base = str(_FOLDER) + "/"
    fonts = FontConfiguration()
    style = CSS(filename=str(_FOLDER / "bench_card.css"), font_config=fonts)
    pdf: bytes = HTML(string=html, base_url=base).write_pdf(stylesheets=[style], font_config=fonts)
    return pdf


@cache
def _template() -> Template:
    environment = Environment(
        loader=FunctionLoader(lambda name: (_FOLDER / name).read_text("utf-8")),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    return environment.get_template("bench_card.html")
