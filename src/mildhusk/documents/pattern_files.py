"""Patterns as files at 1:1: SVG and DXF in millimetres, PDF in tiles for a desk printer."""

import io
import math
from dataclasses import dataclass
from enum import StrEnum
from functools import partial

import shapely
from ezdxf import units
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment
from jinja2 import Environment, FunctionLoader

from mildhusk.core.patterns.answer import CutPattern, DrawnSheet
from mildhusk.core.patterns.flat import Layer
from mildhusk.core.wording import Quantity, in_metric
from mildhusk.documents.pages import page_pdf, template_text

_BETWEEN_MM = 20.0
_TEXT_MM = 4.0
SHEET_LAYER = "sheet"
# Colours of the drawing exchange format's own numbering: red, green, blue, magenta, grey.
_DXF_COLOURS = {Layer.CUT: 1, Layer.BEND: 3, Layer.MARK: 5, Layer.DRILL: 6, SHEET_LAYER: 8}
KIND_TITLES = {
    "part-line": "Part-line wall",
    "skirt": "Skirt round the rim",
    "box": "Box round a block mould",
    "visor": "Visor or lens",
    "strips": "Strips for the shell",
    "trim": "Stencils to trim by",
}


class Paper(StrEnum):
    """Paper that a desk printer takes."""

    A4 = "a4"
    A3 = "a3"
    LETTER = "letter"

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height, upright. [mm]"""
        sizes = {"a4": (210.0, 297.0), "a3": (297.0, 420.0), "letter": (215.9, 279.4)}
        return sizes[self.value]


MARGIN_MM, OVERLAP_MM, HEAD_MM = 10.0, 10.0, 8.0
"""What a printer leaves white; what neighbouring pages both show; the line of words on a page."""
SQUARE_MM = 100.0
_EDGE_MM = 3.0


def pattern_svg(pattern: CutPattern) -> bytes:
    """Return the sheets of a pattern side by side as SVG in millimetres, a group for each layer."""
    wide, high = _whole_mm(pattern)
    shapes = [_shapes_of(sheet, at, high) for sheet, at in _side_by_side(pattern)]
    text = _svg_template().render(
        wide=wide,
        high=high,
        title=KIND_TITLES[pattern.kind],
        sheets=[
            (at, 0.0, pattern.sheet_width_m * 1e3, pattern.sheet_height_m * 1e3)
            for _, at in _side_by_side(pattern)
        ],
        layers={layer: [one.layers[layer] for one in shapes] for layer in Layer},
        texts=[text for one in shapes for text in one.texts],
        text_mm=_TEXT_MM,
    )
    return text.encode("utf-8")


def pattern_dxf(pattern: CutPattern) -> bytes:
    """Return the sheets of a pattern side by side as DXF in millimetres, in layers."""
    drawing = Drawing.new("R2010")
    drawing.units = units.MM
    for layer in (*Layer, SHEET_LAYER):
        drawing.layers.add(str(layer), color=_DXF_COLOURS[layer])
    space = drawing.modelspace()
    wide, high = pattern.sheet_width_m * 1e3, pattern.sheet_height_m * 1e3
    for sheet, at in _side_by_side(pattern):
        corners = [(at, 0.0), (at + wide, 0.0), (at + wide, high), (at, high)]
        space.add_lwpolyline(corners, close=True, dxfattribs={"layer": SHEET_LAYER})
        for line in sheet.lines:
            points = [(at + x * 1e3, y * 1e3) for x, y in line.points_m]
            space.add_lwpolyline(points, close=line.closed, dxfattribs={"layer": str(line.layer)})
        for hole in sheet.holes:
            x, y = hole.at_m
            space.add_circle(
                (at + x * 1e3, y * 1e3),
                hole.diameter_m * 500.0,
                dxfattribs={"layer": str(Layer.DRILL)},
            )
        for label in sheet.labels:
            x, y = label.at_m
            text = space.add_text(
                label.text, height=_TEXT_MM, dxfattribs={"layer": str(Layer.MARK)}
            )
            text.set_placement((at + x * 1e3, y * 1e3), align=TextEntityAlignment.MIDDLE_CENTER)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode("utf-8")


@dataclass(frozen=True, slots=True)
class Tile:
    """A page: which sheet, column and row, and the corner of what it shows. [mm]"""

    sheet: int
    column: int
    row: int
    x: float
    y: float

    @property
    def name(self) -> str:
        """What is written on it."""
        return f"{self.sheet + 1}-{'ABCDEFGHJKLMNPRSTUVWXYZ'[self.column % 23]}{self.row + 1}"


def tiles_of(pattern: CutPattern, paper: Paper) -> tuple[tuple[Tile, ...], tuple[float, float]]:
    """Return the pages that show something of a pattern, and the size of what each shows. [mm]

    Neighbours both show a strip of `OVERLAP_MM`.
    """
    page = paper.size_mm
    shown = (page[0] - 2.0 * MARGIN_MM, page[1] - 2.0 * MARGIN_MM - HEAD_MM)
    step = (shown[0] - OVERLAP_MM, shown[1] - OVERLAP_MM)
    high = pattern.sheet_height_m * 1e3
    made = []
    for number, drawn in enumerate(pattern.sheets):
        ink = shapely.union_all(
            [shapely.LineString([*one.points_m, one.points_m[0]]) for one in drawn.lines]
        )
        # Downwards from the top of the sheet, as pages are laid; only what is used.
        low_x, low_y, high_x, high_y = (1e3 * one for one in ink.bounds)
        left, top = low_x - _EDGE_MM, high - high_y - _EDGE_MM
        used = (high_x + _EDGE_MM - left, high - low_y + _EDGE_MM - top)
        shapely.prepare(ink)
        for row in range(max(math.ceil((used[1] - OVERLAP_MM) / step[1]), 1)):
            for column in range(max(math.ceil((used[0] - OVERLAP_MM) / step[0]), 1)):
                x, y = left + column * step[0], top + row * step[1]
                window = shapely.box(x, high - y - shown[1], x + shown[0], high - y)
                if ink.intersects(shapely.transform(window, lambda points: points / 1e3)):
                    made.append(Tile(number, column, row, x, y))
    return tuple(made), shown


def pattern_pdf(pattern: CutPattern, paper: Paper, name: str) -> bytes:
    """Return a pattern as PDF in pages of a paper: a first page with a map, then the tiles at 1:1.

    Parameters
    ----------
    pattern : CutPattern
    paper : Paper
    name : str
        Of the piece or the mould.
    """
    tiles, shown = tiles_of(pattern, paper)
    wide, high = pattern.sheet_width_m * 1e3, pattern.sheet_height_m * 1e3
    shapes = [_shapes_of(sheet, 0.0, high) for sheet in pattern.sheets]
    return page_pdf(
        "pattern",
        called=name,
        title=KIND_TITLES[pattern.kind],
        paper=paper.size_mm,
        margin=MARGIN_MM,
        head=HEAD_MM,
        overlap=OVERLAP_MM,
        square=SQUARE_MM,
        shown=shown,
        tiles=tiles,
        sheets=[
            {
                "shapes": one,
                "tiles": [tile for tile in tiles if tile.sheet == number],
                "number": number + 1,
            }
            for number, one in enumerate(shapes)
        ],
        sheet=(wide, high),
        figures=[
            (one.name, in_metric(Quantity(one.value, one.unit)), one.words)
            for one in pattern.figures
        ],
        parts=pattern.parts,
        rows=pattern.rows,
        mixes=pattern.mixes,
        heights=pattern.heights,
        lying="".join(one.words for one in pattern.figures if one.key == "clay"),
        findings=[one.text for one in pattern.findings],
        cautions=pattern.cautions,
        waste=pattern.waste,
        layers=list(Layer),
        text_mm=_TEXT_MM,
        millimetres=lambda metres: f"{metres * 1e3:,.0f}",
    )


def _side_by_side(pattern: CutPattern) -> list[tuple[DrawnSheet, float]]:
    step = pattern.sheet_width_m * 1e3 + _BETWEEN_MM
    return [(sheet, number * step) for number, sheet in enumerate(pattern.sheets)]


def _whole_mm(pattern: CutPattern) -> tuple[float, float]:
    count = max(len(pattern.sheets), 1)
    wide = count * pattern.sheet_width_m * 1e3 + (count - 1) * _BETWEEN_MM
    return wide, pattern.sheet_height_m * 1e3


@dataclass(frozen=True, slots=True)
class _LayerShapes:
    """Path data and circles (across, down, radius) of a layer. [mm]"""

    paths: list[str]
    holes: list[tuple[float, float, float]]


@dataclass(frozen=True, slots=True)
class _SheetShapes:
    """A sheet's lines by layer, and its words (across, down, text). [mm]"""

    layers: dict[Layer, _LayerShapes]
    texts: list[tuple[float, float, str]]


def _shapes_of(sheet: DrawnSheet, at: float, high: float) -> _SheetShapes:
    """Return what is drawn on a sheet, `at` so far to the right, downwards from the top. [mm]"""

    def there(point: tuple[float, float]) -> tuple[float, float]:
        return (round(at + point[0] * 1e3, 4), round(high - point[1] * 1e3, 4))

    made = {layer: _LayerShapes([], []) for layer in Layer}
    for line in sheet.lines:
        points = " L".join(f"{x} {y}" for x, y in map(there, line.points_m))
        made[line.layer].paths.append(f"M{points}{' Z' if line.closed else ''}")
    for one in sheet.holes:
        x, y = there(one.at_m)
        made[Layer.DRILL].holes.append((x, y, round(one.diameter_m * 500.0, 4)))
    return _SheetShapes(made, [(*there(one.at_m), one.text) for one in sheet.labels])


_svg_template = partial(
    Environment(loader=FunctionLoader(template_text), autoescape=True).get_template,
    "pattern.svg.jinja",
)
