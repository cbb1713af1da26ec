"""Laying parts on sheets: what is larger is cut in pieces, the rest is placed with little waste."""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from rectpack import PackingMode, newPacker

from mildhusk.core.checks import Bounds
from mildhusk.core.errors import PatternError
from mildhusk.core.patterns.flat import (
    Drawn,
    FlatPoint,
    Label,
    Layer,
    PatternPart,
    flat_part,
    outline_of,
    polygons,
    total_m2,
)

GAP_M = 0.005
"""Between parts, and to the edge of the sheet. [m]"""
_JOINT_LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"
_MOST_PARTS = 400
# Pieces touch where they are as near as this, and are joined where they touch for so long.
_TOUCHES_M, _JOINT_M, _LETTER_OFF_M, _CRUMB_M2 = 1e-6, 0.001, 0.006, 1e-6
_UNIT_M = 1e-4
_SIDE = Bounds(0.1, 5.0, "A side of the sheet", "mm", 1e3)


@dataclass(frozen=True, slots=True)
class SheetSize:
    """A sheet that parts are cut from; the smallest is as large as a hand. [m]"""

    width_m: float = 1.0
    height_m: float = 0.7

    def __post_init__(self) -> None:
        for name, side in (("width", self.width_m), ("height", self.height_m)):
            _SIDE.check(side, f"sheet_{name}_m", PatternError)


@dataclass(frozen=True, slots=True)
class Placement:
    """Where a part lies.

    Parameters
    ----------
    part : int
        Its number among the parts of the layout.
    sheet : int
    at_m : tuple of 2 floats
        Its lower left corner. [m]
    turned : bool
        By a right angle, anticlockwise.
    """

    part: int
    sheet: int
    at_m: FlatPoint
    turned: bool


@dataclass(frozen=True, slots=True)
class Layout:
    """Parts on sheets.

    Parameters
    ----------
    size : SheetSize
    parts : tuple of PatternPart
        As they are cut: what was larger than a sheet is in pieces.
    placements : tuple of Placement
        As many of a part as it is cut.
    sheets : int
    waste : float
        Share of the sheets that is in no part. [1]
    """

    size: SheetSize
    parts: tuple[PatternPart, ...]
    placements: tuple[Placement, ...]
    sheets: int
    waste: float


def lay_out(parts: tuple[PatternPart, ...], size: SheetSize) -> Layout:
    """Lay parts on as few sheets as their boxes fit on.

    Parameters
    ----------
    parts : tuple of PatternPart
    size : SheetSize

    Returns
    -------
    Layout

    Raises
    ------
    PatternError
        More parts than anybody cuts.
    """
    cut = tuple(piece for part in parts for piece in in_pieces(part, size))
    if not cut:
        return Layout(size, (), (), 0, 0.0)
    if sum(one.count for one in cut) > _MOST_PARTS:
        raise PatternError(
            f"On sheets of {size.width_m * 1e3:,.0f} by {size.height_m * 1e3:,.0f} mm it would be "
            f"more than {_MOST_PARTS} pieces; take larger sheets.",
            "sheet",
        )
    packer = newPacker(mode=PackingMode.Offline, rotation=True)
    for number, part in enumerate(cut):
        for _ in range(part.count):
            packer.add_rect(*(_units(side + GAP_M) for side in part.size_m), rid=number)
    count = sum(one.count for one in cut)
    packer.add_bin(_units(size.width_m - GAP_M) + 1, _units(size.height_m - GAP_M) + 1, count=count)
    packer.pack()
    placements = []
    for sheet, x, y, width, _, number in packer.rect_list():
        turned = width != _units(cut[number].size_m[0] + GAP_M)
        at = (x * _UNIT_M + GAP_M, y * _UNIT_M + GAP_M)
        placements.append(Placement(int(number), int(sheet), at, turned))
    placements.sort(key=lambda one: (one.sheet, one.part, one.at_m))
    used = len(packer)
    waste = 1.0 - total_m2(cut) / (used * size.width_m * size.height_m)
    return Layout(size, cut, tuple(placements), used, waste)


def in_pieces(part: PatternPart, size: SheetSize) -> tuple[PatternPart, ...]:
    """Return a part, or the pieces it is cut in to fit on a sheet, their joints lettered.

    Parameters
    ----------
    part : PatternPart
    size : SheetSize

    Returns
    -------
    tuple of PatternPart
    """
    room = (size.width_m - 2.0 * GAP_M, size.height_m - 2.0 * GAP_M)
    wide, high = part.size_m
    if _fits((wide, high), room):
        return (part,)
    columns, rows = min(
        (
            (columns, rows)
            for columns in range(1, math.ceil(wide / min(room)) + 2)
            for rows in range(1, math.ceil(high / min(room)) + 2)
            if _fits((wide / columns, high / rows), room)
        ),
        key=lambda one: (one[0] * one[1], abs(wide / one[0] - high / one[1])),
    )
    outline = outline_of(part)
    across, up = wide / columns, high / rows
    shapes = [
        piece
        for row in range(rows)
        for column in range(columns)
        for piece in polygons(
            outline.intersection(
                shapely.box(column * across, row * up, (column + 1) * across, (row + 1) * up)
            ),
            _CRUMB_M2,
        )
    ]
    joints = _joints(shapes)
    return tuple(
        _piece(part, shape, f"{part.name}, piece {number}", joints[number - 1])
        for number, shape in enumerate(shapes, start=1)
    )


def _fits(box: FlatPoint, room: FlatPoint) -> bool:
    wide, high = (side - 1e-9 for side in box)
    return (wide <= room[0] and high <= room[1]) or (wide <= room[1] and high <= room[0])


def _joints(shapes: list[shapely.Polygon]) -> list[list[Label]]:
    """Return the letters of each piece at its joints: the same on both sides of one."""
    made: list[list[Label]] = [[] for _ in shapes]
    number = 0
    for at, one in enumerate(shapes):
        for other in range(at + 1, len(shapes)):
            shared = one.boundary.intersection(shapes[other].buffer(_TOUCHES_M))
            lines = [line for line in shapely.get_parts(shared) if line.length > _JOINT_M]
            if not lines:
                continue
            letter = _JOINT_LETTERS[number % len(_JOINT_LETTERS)]
            number += 1
            middle = max(lines, key=lambda line: line.length).interpolate(0.5, normalized=True)
            made[at].append(Label(_beside(one, middle), letter))
            made[other].append(Label(_beside(shapes[other], middle), letter))
    return made


def _beside(shape: shapely.Polygon, joint: shapely.Point) -> FlatPoint:
    """Return the place in a piece nearest to the middle of its joint, a little inside."""
    inner = shape.buffer(-_LETTER_OFF_M)
    if inner.is_empty:
        at = shape.representative_point()
        return (at.x, at.y)
    x, y = shapely.get_coordinates(shapely.shortest_line(inner, joint))[0]
    return (float(x), float(y))


def _piece(
    part: PatternPart, shape: shapely.Polygon, name: str, joints: list[Label]
) -> PatternPart:
    near = shape.buffer(1e-6)
    lines = []
    for one in part.lines:
        if one.layer is not Layer.CUT:
            points = [*one.points_m, one.points_m[0]] if one.closed else list(one.points_m)
            inside = shapely.LineString(points).intersection(near)
            lines += [(one.layer, line) for line in shapely.get_parts(inside) if line.length > 0.0]
    drawn = Drawn(
        tuple(lines),
        tuple(one for one in part.holes if near.contains(shapely.Point(one.at_m))),
        (*(one for one in part.labels if near.contains(shapely.Point(one.at_m))), *joints),
        tuple(one for one in part.marks if near.contains(shapely.Point(one.at_m))),
    )
    return flat_part(name, shape, drawn, part.count)


def placed(layout: Layout, placement: Placement, points: list[FlatPoint]) -> list[FlatPoint]:
    """Return points of a part where they lie on its sheet.

    Parameters
    ----------
    layout : Layout
    placement : Placement
    points : list of 2 floats
        In the frame of the part. [m]

    Returns
    -------
    list of 2 floats
        From the lower left corner of the sheet. [m]
    """
    x, y = placement.at_m
    array = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    if placement.turned:
        high = layout.parts[placement.part].size_m[1]
        array = np.c_[high - array[:, 1], array[:, 0]]
    return [(float(a) + x, float(b) + y) for a, b in array]


def _units(length_m: float) -> int:
    return math.ceil(length_m / _UNIT_M - 1e-6)
