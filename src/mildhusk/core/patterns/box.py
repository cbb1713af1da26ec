"""The box round a block mould: its outline, its flashing with bends, rubber, level, old rubber."""

from dataclasses import dataclass

import numpy as np
import shapely

from mildhusk.core.amounts import Source
from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import PatternError
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.geometry.sections import outline_along, square_to
from mildhusk.core.mould.estimate import THICKEST_RUBBER_M
from mildhusk.core.mould.outside import Standing, rubber_curve
from mildhusk.core.mould.poured import block
from mildhusk.core.patterns.flat import (
    Drawn,
    Label,
    Layer,
    Pattern,
    PatternKind,
    PatternMark,
    PatternPart,
    along,
    curve,
    evenly,
    figure,
    flat_part,
    place,
    total_m2,
)
from mildhusk.core.wording import Unit, sentence

FREEBOARD_M = 0.02
"""The box stands so much higher than the rubber (assumed). [m]"""
PACKED_SHARE = 0.5
"""Of the room where chunks of old rubber may lie, chunks; the rest is poured (assumed). [1]"""
_MARK_EVERY_M = 0.05
_BEND_FROM = np.radians(12.0)
_OUTLINE_TOLERANCE_M = 0.0015
_BUTTRESS_EVERY_M, _BUTTRESS_SHARE = 0.15, 0.5


@dataclass(frozen=True, slots=True)
class BoxWish:
    """What is wanted of a box.

    Parameters
    ----------
    margin_m : float
        Of rubber round and over the piece. [m]
    following : bool
        Along the outline; else straight.
    overlap_m : float
        Of the flashing on itself. [m]
    density_kg_m3 : float
        Of the rubber. [kg/m^3]
    chunks_off_m : float
        Chunks of old rubber stay so far from the piece. [m]
    """

    margin_m: float = within(Bounds(0.005, 0.1, "The margin", "mm", 1e3), 0.02)
    following: bool = True
    overlap_m: float = within(Bounds(0.0, 0.2, "The overlap", "mm", 1e3), 0.03)
    density_kg_m3: float = within(Bounds(500.0, 3000.0, "The density", "kg/m³"), 1080.0)
    chunks_off_m: float = within(Bounds(0.002, 0.1, "The distance of chunks", "mm", 1e3), 0.01)

    def __post_init__(self) -> None:
        check_bounds(self, PatternError)


def box(piece: Standing, wish: BoxWish, curve_of_rubber: VolumeCurve | None = None) -> Pattern:
    """Draw the box round a block mould.

    Parameters
    ----------
    piece : Standing
    wish : BoxWish
    curve_of_rubber : VolumeCurve or None
        What a wall of rubber takes, where it is known; measured here else, which takes seconds.

    Returns
    -------
    Pattern
    """
    seen = outline_along(piece.closed, piece.up)
    around = seen.buffer(wish.margin_m, quad_segs=32)
    shape = around if wish.following else around.minimum_rotated_rectangle
    if not isinstance(shape, shapely.Polygon):
        shape = shape.convex_hull
    shape = shapely.simplify(shapely.Polygon(shape.exterior), _OUTLINE_TOLERANCE_M)
    # Anticlockwise from above: to the right for who looks at the flashing from outside.
    shape = shapely.orient_polygons(shape)
    level = float((piece.face.vertices @ piece.up).max()) - piece.board_m + wish.margin_m
    planned = block(piece, wish.margin_m)
    rubber = planned.outline_m3 if wish.following else planned.box_m3
    saved = _chunks(piece, wish, rubber, curve_of_rubber)
    height = level + FREEBOARD_M
    corners = shapely.get_coordinates(shape.exterior)[:-1]
    base = _base(piece, shape)
    flashing, bends = _flashing(piece, corners, height, wish.overlap_m)
    side = _BUTTRESS_SHARE * height
    count = max(round(shape.exterior.length / _BUTTRESS_EVERY_M), 4)
    triangle = shapely.Polygon([(0.0, 0.0), (side, 0.0), (0.0, side)])
    buttress = flat_part(
        "buttress", triangle, Drawn(labels=(Label((side / 3.0, side / 3.0), "buttress"),)), count
    )
    parts = (base, flashing, buttress)
    findings = []
    if saved > 0.0:
        findings.append(
            Finding(
                "chunks",
                Severity.NOTE,
                sentence(
                    "Chunks of old rubber of the same cure, kept {off} off the piece, save about "
                    "{kg}: half of the room they may lie in is taken as filled.",
                    off=(wish.chunks_off_m, Unit.LENGTH),
                    kg=(saved * wish.density_kg_m3, Unit.MASS),
                ),
            )
        )
    else:
        findings.append(
            Finding(
                "no-chunks",
                Severity.NOTE,
                sentence(
                    "No chunk of old rubber fits in: {off} off the piece is outside the box.",
                    off=(wish.chunks_off_m, Unit.LENGTH),
                ),
            )
        )
    ring = np.r_[corners, corners[:1]]
    return Pattern(
        PatternKind.BOX,
        parts,
        (
            figure(
                "rubber", "Rubber to fill it", rubber * wish.density_kg_m3, Unit.MASS,
                "box less piece, to the level of the pour; what stays in the bucket comes on top",
            ),
            figure("volume", "Volume of rubber", rubber, Unit.VOLUME),
            figure("level", "Level of the pour above the board", level, Unit.LENGTH),
            figure(
                "flashing", "Flashing", shape.exterior.length + wish.overlap_m, Unit.LENGTH,
                "once round, and the overlap",
            ),
            figure("bends", "Bends", float(bends), Unit.COUNT),
            figure("margin", "Margin", wish.margin_m, Unit.LENGTH, source=Source.WISHED),
            figure("chunks", "Saved by old rubber", saved * wish.density_kg_m3, Unit.MASS),
            figure("material", "Material", total_m2(parts), Unit.AREA),
        ),
        findings=tuple(findings),
        curves_m=(curve(_on_board(piece, ring, 0.0)), curve(_on_board(piece, ring, level))),
        cautions=(
            "Sheet metal cuts: wear gloves and break its edges. A full box is heavy and presses "
            "outwards: seal and strap it before the pour, and lift with help.",
        ),
    )  # fmt: skip


def _chunks(piece: Standing, wish: BoxWish, rubber_m3: float, known: VolumeCurve | None) -> float:
    """Return the rubber that chunks save. [m^3]"""
    if wish.chunks_off_m >= wish.margin_m and wish.following:
        return 0.0
    off = min(wish.chunks_off_m, THICKEST_RUBBER_M)
    near = (known or rubber_curve(piece)).volume(off)
    return PACKED_SHARE * max(rubber_m3 - near, 0.0)


def _on_board(piece: Standing, flat: Floats, height_m: float) -> Floats:
    square = square_to(piece.up)
    return np.asarray(flat @ square + (piece.board_m + height_m) * piece.up)


def _base(piece: Standing, shape: shapely.Polygon) -> PatternPart:
    low_x, low_y, high_x, high_y = shape.bounds
    middle = ((low_x + high_x) / 2.0, (low_y + high_y) / 2.0)
    ring = evenly(shapely.get_coordinates(shape.exterior), _MARK_EVERY_M)[:-1]
    places = _on_board(piece, ring, 0.0)
    marks = tuple(
        PatternMark(f"mark {n}", (float(at[0]), float(at[1])), place(where))
        for n, (at, where) in enumerate(zip(ring, places, strict=True), start=1)
    )
    return flat_part("base", shape, Drawn(labels=(Label(middle, "base"),), marks=marks))


def _flashing(
    piece: Standing, corners: Floats, height_m: float, overlap_m: float
) -> tuple[PatternPart, int]:
    # It begins in the middle of the longest straight, where an overlap is clamped best.
    sides = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
    longest = int(sides.argmax())
    start = (corners[longest] + corners[(longest + 1) % len(corners)]) / 2.0
    line = np.r_[[start], np.roll(corners, -longest - 1, axis=0), [start]]
    at = along(line)
    way = np.diff(line, axis=0)
    heading = np.arctan2(way[:, 1], way[:, 0])
    turn = np.abs((np.diff(heading) + np.pi) % (2.0 * np.pi) - np.pi)
    bends = at[1:-1][turn > _BEND_FROM]
    length = float(at[-1]) + overlap_m
    lines = [(Layer.BEND, shapely.LineString([(x, 0.0), (x, height_m)])) for x in bends]
    if overlap_m:
        end = float(at[-1])
        lines.append((Layer.MARK, shapely.LineString([(end, 0.0), (end, height_m)])))
    labels, marks = [], []
    for number, far in enumerate(np.arange(0.0, at[-1], _MARK_EVERY_M), start=1):
        spot = np.array([np.interp(far, at, line[:, k]) for k in range(2)])
        lines.append((Layer.MARK, shapely.LineString([(far, 0.0), (far, 0.006)])))
        labels.append(Label((float(far) + 0.001, 0.008), str(number)))
        where = place(_on_board(piece, spot[None], 0.0)[0])
        marks.append(PatternMark(f"along {number}", (float(far), 0.0), where))
    shape = shapely.box(0.0, 0.0, length, height_m)
    return flat_part("flashing", shape, Drawn(tuple(lines), (), tuple(labels), tuple(marks))), len(
        bends
    )
