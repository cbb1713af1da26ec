"""Pattern files read back by other libraries: the same lengths, and pages true to size."""

import io

import numpy as np
import pypdfium2
import pytest
import shapely
import svgelements
import trimesh

from core import practice_shapes, shapes
from mildhusk.core.errors import PatternError
from mildhusk.core.mould.locks import best_split
from mildhusk.core.patterns.answer import CutPattern
from mildhusk.core.patterns.flat import Layer, outline_of
from mildhusk.core.patterns.part_line import PartLineWish, part_line
from mildhusk.core.patterns.sheets import SheetSize, in_pieces, lay_out
from mildhusk.core.patterns.skirt import SkirtWish, skirt
from mildhusk.documents.pattern_files import (
    MARGIN_MM,
    OVERLAP_MM,
    Paper,
    pattern_dxf,
    pattern_pdf,
    pattern_svg,
    tiles_of,
)

UP = np.array([0.0, 0.0, 1.0])
DPI = 300


@pytest.fixture(scope="module")
def walls() -> CutPattern:
    rubber = shapes.turned([(0.07, 0.0), (0.1, 0.12), (0.05, 0.25), (0.0, 0.26)])
    split = best_split(rubber, UP, 3)
    wish = PartLineWish(3, handles=3)
    return CutPattern.of(part_line(rubber, UP, split.angle, wish), SheetSize(0.6, 0.4))


def lengths(pattern: CutPattern, layer: Layer) -> list[float]:
    """Lengths of the lines of a layer as drawn. [mm]"""
    made = []
    for sheet in pattern.sheets:
        for line in sheet.lines:
            if line.layer is layer:
                points = [*line.points_m, line.points_m[0]] if line.closed else line.points_m
                made.append(shapely.LineString(points).length * 1e3)
    return sorted(made)


def read_dxf(content: bytes) -> dict[str, list[float]]:
    """Lengths of what another library reads, by layer; its words have none there."""
    read = trimesh.load_path(io.BytesIO(content), file_type="dxf")
    made: dict[str, list[float]] = {}
    for one in read.entities:
        if one.layer is not None:
            made.setdefault(str(one.layer).lower(), []).append(float(one.length(read.vertices)))
    return {layer: sorted(found) for layer, found in made.items()}


@pytest.mark.parametrize("layer", [Layer.CUT, Layer.MARK])
def test_dxf_has_the_same_lengths_in_millimetres(walls, layer):
    found = read_dxf(pattern_dxf(walls))[layer]
    assert found == pytest.approx(lengths(walls, layer), abs=0.01)


def test_dxf_drills_every_hole_where_it_is(walls):
    drilled = read_dxf(pattern_dxf(walls))["drill"]
    holes = [hole for sheet in walls.sheets for hole in sheet.holes]
    assert len(drilled) == len(holes) > 6
    # The reader's circles are polygons.
    assert drilled == pytest.approx([np.pi * 6.5] * len(holes), rel=1e-3)


@pytest.mark.parametrize("layer", [Layer.CUT, Layer.MARK])
def test_svg_has_the_same_lengths_in_millimetres(walls, layer):
    # A pixel of the reader is a millimetre.
    read = svgelements.SVG.parse(io.BytesIO(pattern_svg(walls)), ppi=25.4)
    (group,) = [one for one in read.elements() if getattr(one, "id", None) == str(layer)]
    found = sorted(
        float(one.length(error=1e-7)) for one in group if isinstance(one, svgelements.Path)
    )
    assert found == pytest.approx(lengths(walls, layer), abs=0.01)
    assert float(read.width) == pytest.approx(
        len(walls.sheets) * 600.0 + (len(walls.sheets) - 1) * 20.0, abs=0.01
    )


@pytest.mark.parametrize("paper", list(Paper))
def test_every_page_has_a_square_of_100_mm(walls, paper):
    pdf = pypdfium2.PdfDocument(pattern_pdf(walls, paper, "Spindle"))
    tiles, _ = tiles_of(walls, paper)
    assert len(pdf) == len(tiles) + 1
    for number in range(len(pdf)):
        page = _page(pdf, number)
        wide, high = (np.array(page.shape)[::-1] / DPI * 25.4).tolist()
        assert [wide, high] == pytest.approx(paper.size_mm, abs=0.1)
        for across in (page, page.T):
            edges = _long_lines(across)
            gaps = np.abs(np.subtract.outer(edges, edges))
            assert np.abs(gaps - 100.0).min() < 0.2


def _page(pdf: pypdfium2.PdfDocument, number: int) -> np.ndarray:
    """A page as darkness from 0 to 1."""
    grey = pdf[number].render(scale=DPI / 72.0, grayscale=True).to_numpy()
    return 1.0 - np.asarray(grey, dtype=np.float64).reshape(grey.shape[:2]) / 255.0


def _long_lines(page: np.ndarray) -> np.ndarray:
    """Where lines run down a page for about 100 mm without a break. [mm]"""
    dark = page > 0.12
    need = round(98.0 / 25.4 * DPI)
    found = []
    for column in np.flatnonzero(dark.sum(axis=0) >= need):
        runs = np.diff(np.flatnonzero(np.diff(np.r_[0, dark[:, column].astype(int), 0])))[::2]
        if runs.max() >= need:
            found.append(column)
    columns = np.array(found)
    groups = np.split(columns, np.flatnonzero(np.diff(columns) > 2) + 1)
    return np.array([group.mean() / DPI * 25.4 for group in groups])


def test_tiles_meet(walls):
    paper = Paper.A4
    pdf = pypdfium2.PdfDocument(pattern_pdf(walls, paper, "Spindle"))
    tiles, shown = tiles_of(walls, paper)
    at = {(one.sheet, one.column, one.row): n + 1 for n, one in enumerate(tiles)}
    looked_at = 0
    for (sheet, column, row), number in at.items():
        other = at.get((sheet, column + 1, row))
        if other is None:
            continue
        left, right = _page(pdf, number), _page(pdf, other)
        strip = round(OVERLAP_MM / 25.4 * DPI)
        right_edge = round((MARGIN_MM + shown[0]) / 25.4 * DPI)
        left_edge = round(MARGIN_MM / 25.4 * DPI)
        # Below the head, and off the outermost pixels.
        rows = slice(round(30.0 / 25.4 * DPI), -round(15.0 / 25.4 * DPI))
        one = left[rows, right_edge - strip + 3 : right_edge - 3]
        two = right[rows, left_edge + 3 : left_edge + strip - 3]
        if one.sum() < 50:
            continue
        looked_at += 1
        fits = {
            (dx, dy): float((np.roll(two, (dy, dx), axis=(0, 1)) * one).sum())
            for dx in range(-6, 7)
            for dy in range(-6, 7)
        }
        best = max(fits, key=fits.__getitem__)
        # 0.2 mm are 2.4 pixels.
        assert np.hypot(*best) <= 2.0
    assert looked_at >= 1


def test_the_first_page_says_what_is_cut_and_how_large(walls):
    text = pypdfium2.PdfDocument(pattern_pdf(walls, Paper.A4, "Spindle"))[0].get_textpage()
    said = text.get_text_range().replace("\r\n", " ")
    for words in ("Part-line wall", "Spindle", "wall 1", "bracket", "100 mm", "Print at 100 %"):
        assert words in said


def test_what_is_larger_than_a_sheet_comes_in_pieces_that_add_up():
    pattern = skirt(practice_shapes.helmet(), SkirtWish(0.15, flare=np.radians(20.0)))
    size = SheetSize(0.3, 0.2)
    for part in pattern.parts:
        pieces = in_pieces(part, size)
        assert len(pieces) > 1
        whole = outline_of(part)
        assert sum(outline_of(one).area for one in pieces) == pytest.approx(whole.area, rel=1e-4)
        for one in pieces:
            assert min(one.size_m) <= 0.2
            assert max(one.size_m) <= 0.3
        letters = [label.text for one in pieces for label in one.labels if label.text.isalpha()]
        # Every joint is lettered on both of its sides.
        assert letters
        assert all(letters.count(one) >= 2 for one in letters)
        marks = sorted(mark.name for one in pieces for mark in one.marks)
        assert {mark.name for mark in part.marks} == set(marks)


def test_parts_lie_on_their_sheets_and_not_on_each_other(walls):
    size = SheetSize(0.6, 0.4)
    sheet = shapely.box(0.0, 0.0, 0.6, 0.4)
    laid = 0
    for drawn in walls.sheets:
        rings = [shapely.Polygon(one.points_m) for one in drawn.lines if one.layer is Layer.CUT]
        outer = [
            one
            for one in rings
            if not any(one.within(other) for other in rings if other is not one)
        ]
        assert all(sheet.contains(one) for one in outer)
        laid += len(outer)
        assert shapely.union_all(outer).area == pytest.approx(
            sum(one.area for one in outer), rel=1e-6
        )
    # None is left behind.
    assert laid == sum(one.count for one in walls.parts)
    cut = sum(one.count * one.area_m2 for one in walls.parts)
    used = len(walls.sheets) * size.width_m * size.height_m
    assert walls.waste == pytest.approx(1.0 - cut / used, abs=1e-9)


def test_a_sheet_smaller_than_a_hand_is_refused():
    with pytest.raises(PatternError, match="side of the sheet is 50 mm; give 100 mm"):
        SheetSize(0.05, 0.2)


def test_nothing_to_cut_takes_no_sheet():
    assert lay_out((), SheetSize()).sheets == 0
