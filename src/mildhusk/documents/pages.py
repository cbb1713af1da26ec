"""Pages of paper: a template and its style, made into PDF with the shipped typeface."""

from functools import cache
from importlib.resources import files
from typing import Any

from jinja2 import Environment, FunctionLoader, StrictUndefined, Template
from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration

_FOLDER = files("mildhusk.documents")


def page_pdf(name: str, **content: Any) -> bytes:
    """Return the page `name`.html with what it names, styled by `name`.css, as PDF."""
    fonts = FontConfiguration()
    style = CSS(filename=str(_FOLDER / f"{name}.css"), font_config=fonts)
    page = HTML(string=_template(name).render(**content), base_url=str(_FOLDER) + "/")
    pdf: bytes = page.write_pdf(stylesheets=[style], font_config=fonts)
    return pdf


def template_text(file: str) -> str:
    """Return a template of the documents, by its file name."""
    return (_FOLDER / file).read_text("utf-8")


@cache
def _template(name: str) -> Template:
    environment = Environment(
        loader=FunctionLoader(template_text),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    return environment.get_template(f"{name}.html")
