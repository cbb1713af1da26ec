"""The answer about a pattern: its parts as they lie on sheets, and what is told of them."""

from dataclasses import dataclass

from mildhusk.core.amounts import Amount
from mildhusk.core.findings import Finding
from mildhusk.core.patterns.flat import (
    CutRow,
    DrillHole,
    FlatLine,
    Label,
    MarkHeight,
    MixRow,
    Pattern,
    PatternKind,
    PatternMark,
    PatternPart,
    Place,
)
from mildhusk.core.patterns.sheets import Layout, Placement, SheetSize, lay_out, placed


@dataclass(frozen=True, slots=True)
class PartSize:
    """A part as a list names it. [m], [m^2]"""

    name: str
    count: int
    width_m: float
    height_m: float
    area_m2: float


@dataclass(frozen=True, slots=True)
class DrawnSheet:
    """What is drawn on one sheet, from its lower left corner. [m]"""

    lines: tuple[FlatLine, ...]
    holes: tuple[DrillHole, ...]
    labels: tuple[Label, ...]
    marks: tuple[PatternMark, ...]


@dataclass(frozen=True, slots=True)
class CutPattern:
    """A pattern on its sheets; see `Pattern` and `Layout`."""

    kind: PatternKind
    figures: tuple[Amount, ...]
    parts: tuple[PartSize, ...]
    rows: tuple[CutRow, ...]
    mixes: tuple[MixRow, ...]
    findings: tuple[Finding, ...]
    cautions: tuple[str, ...]
    edges: tuple[str, ...]
    heights: tuple[MarkHeight, ...]
    curves_m: tuple[tuple[Place, ...], ...]
    sheet_width_m: float
    sheet_height_m: float
    waste: float
    sheets: tuple[DrawnSheet, ...]

    @classmethod
    def of(cls, pattern: Pattern, size: SheetSize) -> "CutPattern":
        """Lay a pattern on sheets.

        Raises
        ------
        PatternError
            More pieces than anybody cuts.
        """
        layout = lay_out(pattern.parts, size)
        return cls(
            kind=pattern.kind,
            figures=pattern.figures,
            parts=tuple(
                PartSize(one.name, one.count, *one.size_m, one.area_m2) for one in layout.parts
            ),
            rows=pattern.rows,
            mixes=pattern.mixes,
            findings=pattern.findings,
            cautions=pattern.cautions,
            edges=pattern.edges,
            heights=pattern.heights,
            curves_m=pattern.curves_m,
            sheet_width_m=size.width_m,
            sheet_height_m=size.height_m,
            waste=layout.waste,
            sheets=tuple(_sheet(layout, number) for number in range(layout.sheets)),
        )


def _sheet(layout: Layout, number: int) -> DrawnSheet:
    lines: list[FlatLine] = []
    holes: list[DrillHole] = []
    labels: list[Label] = []
    marks: list[PatternMark] = []
    named: set[int] = set()
    for one in layout.placements:
        if one.sheet != number:
            continue
        part = layout.parts[one.part]
        for line in part.lines:
            there = placed(layout, one, list(line.points_m))
            lines.append(FlatLine(line.layer, tuple(there), line.closed))
        holes += [DrillHole(_at(layout, one, hole.at_m), hole.diameter_m) for hole in part.holes]
        labels += [Label(_at(layout, one, label.at_m), label.text) for label in part.labels]
        # A place on the piece is where its first part is drawn.
        if one.part not in named:
            named.add(one.part)
            marks += [
                PatternMark(_whole(mark, part), _at(layout, one, mark.at_m), mark.place_m)
                for mark in part.marks
            ]
    return DrawnSheet(tuple(lines), tuple(holes), tuple(labels), tuple(marks))


def _whole(mark: PatternMark, part: PatternPart) -> str:
    return f"{part.name}: {mark.name}"


def _at(layout: Layout, placement: Placement, point: tuple[float, float]) -> tuple[float, float]:
    return placed(layout, placement, [point])[0]
