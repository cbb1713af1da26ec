"""The wall along a part line: a board cut to the outside of the rubber, to build a shell against.

Each part line lies in a half plane from the upright axis of the mould; two opposite ones are one
plane, and their wall is cut in one arch.
"""

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.affinity import translate

from mildhusk.core.amounts import Amount, Source
from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Floats, Mesh, middle_of
from mildhusk.core.geometry.openings import rims
from mildhusk.core.geometry.sections import section, square_to
from mildhusk.core.mould.locks import MOST_PARTS
from mildhusk.core.patterns.flat import (
    Drawn,
    DrillHole,
    Label,
    Layer,
    Pattern,
    PatternKind,
    PatternMark,
    PatternPart,
    curve,
    evenly,
    figure,
    flat_part,
    place,
    polygons,
    solid,
    total_m2,
)
from mildhusk.core.wording import Unit

MARK_EVERY_M = 0.05
"""Marks that find the wall on the rubber stand so far apart. [m]"""
_ARC_SEGMENTS = 64
# A hand hole and the material round it (assumed).
_HAND_LONG_M, _HAND_HIGH_M, _HAND_ROUND_M = 0.110, 0.035, 0.020
_FOOT_HIGH_M = 0.020
_BRACKET_M = 0.080
# A bolt keeps off a bend: the line through the bolts turns by no more within so far of it.
_BEND_REACH_M, _PHASES = 0.012, 48
_END_MARGIN_M = 0.020


@dataclass(frozen=True, slots=True)
class PartLineWish:
    """What is wanted of a part-line wall.

    Parameters
    ----------
    parts : int
        Of the shell.
    clearance_m : float
        Between the rubber and the cut. [m]
    flange_m : float
        Width of the wall outside the cut: the flange of the shell. [m]
    bolt_pitch_m, bolt_m : float
        Between the bolts, and the diameter of their holes. [m]
    foot_m : float
        The wall stands so much wider on its board on each side. [m]
    turned : float
        The split is turned by so much from the one that locks least. [rad]
    aside_m : float
        The plane of a shell in two is moved so far aside. [m]
    handles : int
        Hand holes that the weight of the mould asks for.
    """

    parts: int = 2
    clearance_m: float = within(Bounds(0.0, 0.03, "The clearance", "mm", 1e3), 0.001)
    flange_m: float = within(Bounds(0.015, 0.15, "The flange", "mm", 1e3), 0.045)
    bolt_pitch_m: float = within(Bounds(0.03, 0.3, "The distance of the bolts", "mm", 1e3), 0.1)
    bolt_m: float = within(Bounds(0.003, 0.016, "A bolt's hole", "mm", 1e3), 0.0065)
    foot_m: float = within(Bounds(0.0, 0.2, "The foot", "mm", 1e3), 0.04)
    turned: float = 0.0
    aside_m: float = within(Bounds(-1.5, 1.5, "The way aside", "mm", 1e3), 0.0)
    handles: int = 0

    def __post_init__(self) -> None:
        check_bounds(self, PatternError)
        if not 2 <= self.parts <= MOST_PARTS:
            raise PatternError(
                f"A shell in {self.parts} has no part line to build a wall on; choose 2 to "
                f"{MOST_PARTS} parts.",
                "parts",
            )
        if not 0 <= self.handles <= 20:
            raise PatternError("Give 0 to 20 hand holes.", "handles")
        if self.aside_m and self.parts != 2:
            raise PatternError("Only the plane of a shell in two can be moved aside.", "aside_m")
        if not np.isfinite(self.turned):
            raise PatternError("The split is turned by no number; give degrees.", "turned")


@dataclass(frozen=True, slots=True, eq=False)
class Plane:
    """A plane along the axis of a mould: across it, upwards, and what of it belongs to a wall.

    Parameters
    ----------
    origin : (3,) float
        On the axis, on the board. [m]
    outward, up : (3,) float
        Unit vectors of the two coordinates.
    half : bool
        Only what is outward of the axis.
    on_board : bool
        Nothing is below the origin.
    """

    origin: Floats
    outward: Floats
    up: Floats
    half: bool
    on_board: bool

    def places(self, flat: Floats) -> Floats:
        """Return points of the plane in space, (n, 3). [m]"""
        made = self.origin + flat[:, :1] * self.outward + flat[:, 1:] * self.up
        return np.asarray(made)

    def region(self, rubber: Mesh) -> shapely.Geometry:
        """Return what the rubber and the piece in it fill of the plane."""
        normal = np.cross(self.outward, self.up)
        pieces = section(rubber, normal, float(self.origin @ normal)) - self.origin
        if len(pieces) == 0:
            return shapely.Polygon()
        flat = np.stack([pieces @ self.outward, pieces @ self.up], axis=-1)
        lines = [one for one in shapely.linestrings(np.round(flat, 9)) if one.length > 0.0]
        # What is open stands on the board: its two ends are joined by it.
        joined = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines)))
        closed = [shapely.Polygon(one.coords) for one in joined if len(one.coords) > 2]
        return solid(shapely.union_all([one.buffer(0.0) for one in closed]))


def part_line(rubber: Mesh, up: Floats, angle: float, wish: PartLineWish) -> Pattern:
    """Cut the walls on which a shell is built part by part.

    Parameters
    ----------
    rubber : Mesh
        Outside of the rubber, open where it stands on its board. [m]
    up : (3,) float
        Away from the board.
    angle : float
        Pull of the first part, round the axis. [rad]
    wish : PartLineWish

    Returns
    -------
    Pattern

    Raises
    ------
    PatternError
        A split that misses the mould, a clearance larger than it.
    """
    if wish.clearance_m >= 0.5 * float(rubber.extents.min()):
        raise PatternError(
            f"A clearance of {wish.clearance_m * 1e3:g} mm is larger than the mould; give less.",
            "clearance_m",
        )
    planes = _planes(rubber, up, angle, wish)
    sides = 2 if wish.parts == 2 else 1
    each = int(np.ceil(wish.handles / (len(planes) * sides)))
    parts: list[PatternPart] = []
    curves, cut_m, bolts, pitches = [], 0.0, 0, []
    for number, plane in enumerate(planes, start=1):
        region = plane.region(rubber)
        if plane.half and not region.is_empty:
            region = region.intersection(_right_of(region))
        if region.is_empty:
            raise PatternError(
                "The split misses the mould: nothing of it lies in that plane. Move it back or "
                "turn it less.",
                "aside_m",
            )
        opening = solid(region.buffer(wish.clearance_m, quad_segs=_ARC_SEGMENTS))
        made = _wall(opening, plane, wish, each)
        name = "wall" if len(planes) == 1 else f"wall {number}"
        for at, one in enumerate(made.shapes):
            whole = name if len(made.shapes) == 1 else f"{name} {'abcdefgh'[at % 8]}"
            parts.append(flat_part(whole, one, _on(one, made.drawn)))
        contour = _edge_of(opening, plane)
        curves += [curve(plane.places(shapely.get_coordinates(one))) for one in contour]
        cut_m += sum(one.length for one in contour)
        bolts += len(made.drawn.holes)
        pitches += made.pitches
    if any(plane.on_board for plane in planes):
        parts.append(_bracket(2 * sides * len(planes)))
    return Pattern(
        PatternKind.PART_LINE,
        tuple(parts),
        _figures(wish, parts, cut_m, bolts, pitches),
        curves_m=tuple(curves),
        cautions=(
            "Cutting board and ply throws fine dust and sharp edges: wear a mask and eye "
            "protection, and read the saw's own manual.",
        ),
    )


def _planes(rubber: Mesh, up: Floats, angle: float, wish: PartLineWish) -> list[Plane]:
    # The axis of the split, as it was found.
    middle = middle_of(rubber)
    on_board = bool(rims(rubber))
    low = float((rubber.vertices @ up).min())
    origin = middle + (low - float(middle @ up)) * up
    square = square_to(up)
    turn = 2.0 * np.pi / wish.parts
    borders = angle + wish.turned + turn * (np.arange(wish.parts) + 0.5)
    outward = np.c_[np.cos(borders), np.sin(borders)] @ square
    if wish.parts == 2:
        aside = np.cross(up, outward[0])
        return [Plane(origin + wish.aside_m * aside, outward[0], up, False, on_board)]
    return [Plane(origin, one, up, True, on_board) for one in outward]


@dataclass(frozen=True, slots=True, eq=False)
class _Wall:
    shapes: list[shapely.Polygon]
    drawn: Drawn
    pitches: list[float]


def _wall(opening: shapely.Geometry, plane: Plane, wish: PartLineWish, handles: int) -> _Wall:
    outside = solid(opening.buffer(wish.flange_m, quad_segs=_ARC_SEGMENTS))
    low_x, low_y, high_x, high_y = outside.bounds
    body = outside
    slots: list[shapely.Polygon] = []
    mid = solid(opening.buffer(wish.flange_m / 2.0, quad_segs=_ARC_SEGMENTS))
    for slot in _hand_holes(outside, plane, handles):
        slots.append(slot)
        body = body.union(slot.buffer(_HAND_ROUND_M))
    if plane.on_board and wish.foot_m:
        left = low_x if plane.half else low_x - wish.foot_m
        body = body.union(shapely.box(left, 0.0, high_x + wish.foot_m, _FOOT_HIGH_M))
    body = body.difference(opening).difference(shapely.union_all(slots))
    body = body.intersection(_kept(body, plane))
    bolt_lines = _edge_of(mid, plane)
    if plane.on_board or plane.half:
        shapes = polygons(body)
    else:
        # A ring goes round the rubber in two halves.
        level = (low_y + high_y) / 2.0
        left, _, right, _ = body.bounds
        halves = (
            shapely.box(left - 1.0, level, right + 1.0, high_y + 1.0),
            shapely.box(left - 1.0, low_y - 1.0, right + 1.0, level),
        )
        shapes = [one for half in halves for one in polygons(body.intersection(half))]
        bolt_lines = [
            one
            for half in halves
            for line in bolt_lines
            for one in _whole_lines(line.intersection(half))
        ]
    holes, pitches = [], []
    for line in bolt_lines:
        centres, pitch = _bolts(line, wish.bolt_pitch_m)
        holes += [DrillHole((float(x), float(y)), wish.bolt_m) for x, y in centres]
        pitches.append(pitch)
    places = plane.places(np.array([one.at_m for one in holes]).reshape(-1, 2))
    marks = [
        PatternMark(f"bolt {n}", hole.at_m, place(at))
        for n, (hole, at) in enumerate(zip(holes, places, strict=True), start=1)
    ]
    ticks: list[tuple[Layer, shapely.LineString]] = []
    labels: list[Label] = []
    count = 0
    for line in _edge_of(opening, plane):
        for tick, foot in _ticks(line, opening):
            count += 1
            ticks.append((Layer.MARK, tick))
            labels.append(Label(tick.coords[1], str(count)))
            where = place(plane.places(np.array([foot]))[0])
            marks.append(PatternMark(f"mark {count}", foot, where))
    return _Wall(shapes, Drawn(tuple(ticks), tuple(holes), tuple(labels), tuple(marks)), pitches)


def _kept(shape: shapely.Geometry, plane: Plane) -> shapely.Polygon:
    low_x, low_y, high_x, high_y = shape.bounds
    left = 0.0 if plane.half else low_x - 1.0
    bottom = 0.0 if plane.on_board else low_y - 1.0
    return shapely.box(left, bottom, high_x + 1.0, high_y + 1.0)


def _right_of(shape: shapely.Geometry) -> shapely.Polygon:
    _, low_y, high_x, high_y = shape.bounds
    return shapely.box(0.0, low_y - 1.0, max(high_x, 0.0) + 1.0, high_y + 1.0)


def _edge_of(shape: shapely.Geometry, plane: Plane) -> list[shapely.LineString]:
    """Return the outline of a shape as far as it belongs to the wall, in whole lines."""
    # Off the board and off the axis the outline is no edge of the wall.
    kept = _kept(shape, plane)
    if plane.half or plane.on_board:
        left, bottom, right, top = kept.bounds
        kept = shapely.box(
            left + (1e-6 if plane.half else 0.0), bottom + (1e-6 if plane.on_board else 0.0),
            right, top,
        )  # fmt: skip
    return _whole_lines(shapely.boundary(shape).intersection(kept))


def _whole_lines(shape: shapely.Geometry) -> list[shapely.LineString]:
    lines = [one for one in shapely.get_parts(shape) if one.length > 0.0]
    if len(lines) > 1:
        lines = list(shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines))))
    return lines


def _bolts(line: shapely.LineString, pitch_m: float) -> tuple[Floats, float]:
    """Return the centres of bolts at an even pitch along a line, off its bends, and the pitch."""
    closed = line.is_ring
    margin = 0.0 if closed else min(_END_MARGIN_M, line.length / 4.0)
    length = line.length - 2.0 * margin
    count = max(round(length / pitch_m), 2)
    pitch = length / (count if closed else max(count - 1, 1))
    # An open line has bolts at both its ends, or one less and all of them moved on together.
    tried: list[tuple[float, Floats]] = []
    for share in np.arange(_PHASES) / _PHASES:
        number = count if closed or share == 0.0 else count - 1
        at = margin + (np.arange(number) + share) * pitch
        tried.append((_worst_turn(line, at), at))
    calm = min(worst for worst, _ in tried)
    # Among those as calm the one with the most bolts stands first.
    at = next(at for worst, at in tried if worst <= calm + 0.05)
    centres = shapely.get_coordinates(shapely.line_interpolate_point(line, at))
    return centres, float(pitch)


def _worst_turn(line: shapely.LineString, at: Floats) -> float:
    """Return by how much a line turns at most within reach of places on it. [rad]"""
    reach = np.array([-_BEND_REACH_M, -1e-4, 1e-4, _BEND_REACH_M])
    wanted = at[:, None] + reach
    wanted = wanted % line.length if line.is_ring else np.clip(wanted, 0.0, line.length)
    points = shapely.get_coordinates(shapely.line_interpolate_point(line, wanted.ravel()))
    points = points.reshape(len(at), 4, 2)
    before, after = points[:, 1] - points[:, 0], points[:, 3] - points[:, 2]
    crossed = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    turn = np.arctan2(np.abs(crossed), (before * after).sum(axis=1))
    return float(turn.max())


def _hand_holes(outside: shapely.Geometry, plane: Plane, each: int) -> list[shapely.Polygon]:
    """Return slots for hands outside the flange, on each side at even heights."""
    if each == 0:
        return []
    low_x, low_y, high_x, high_y = outside.bounds
    bottom = 0.0 if plane.on_board else low_y
    # On a low mould fewer hands find room above each other.
    most = int((high_y - bottom) / (_HAND_LONG_M + _HAND_ROUND_M)) - 1
    each = min(each, max(most, 1))
    slots = []
    for side in (1.0,) if plane.half else (1.0, -1.0):
        for k in range(each):
            level = bottom + (high_y - bottom) * (k + 1.0) / (each + 1.0)
            across = outside.intersection(
                shapely.LineString([(0.5 * (low_x + high_x), level), (side * 10.0, level)])
            )
            if across.is_empty:
                continue
            reach_x = across.bounds[2] if side > 0 else across.bounds[0]
            straight = (_HAND_LONG_M - _HAND_HIGH_M) / 2.0
            middle = shapely.LineString([(0.0, -straight), (0.0, straight)])
            slot = middle.buffer(_HAND_HIGH_M / 2.0)
            high = max(level, bottom + _HAND_LONG_M / 2 + _HAND_ROUND_M)
            # Beyond the flange, so that it comes near no bolt.
            slots.append(translate(slot, reach_x + side * _HAND_HIGH_M / 2.0, high))
    return slots


def _ticks(
    line: shapely.LineString, opening: shapely.Geometry
) -> list[tuple[shapely.LineString, tuple[float, float]]]:
    """Return short lines off the cut every so far, and where they begin on it."""
    points = evenly(shapely.get_coordinates(line), MARK_EVERY_M)
    made = []
    for at in points[1:-1] if not line.is_ring else points[:-1]:
        here = line.project(shapely.Point(at))
        ends = shapely.get_coordinates(
            shapely.line_interpolate_point(line, [max(here - 1e-3, 0.0), here + 1e-3])
        )
        way = ends[1] - ends[0]
        square = np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-12)
        if opening.contains(shapely.Point(at + 2e-3 * square)):
            square = -square
        foot, tip = at + 1e-5 * square, at + 6e-3 * square
        made.append((shapely.LineString([foot, tip]), (float(at[0]), float(at[1]))))
    return made


def _on(shape: shapely.Polygon, drawn: Drawn) -> Drawn:
    """Return what is drawn on one part of a wall."""
    near = shape.buffer(1e-4)
    return Drawn(
        tuple(one for one in drawn.lines if near.contains(shapely.Point(one[1].coords[1]))),
        tuple(one for one in drawn.holes if near.contains(shapely.Point(one.at_m))),
        tuple(one for one in drawn.labels if near.contains(shapely.Point(one.at_m))),
        tuple(one for one in drawn.marks if near.contains(shapely.Point(one.at_m))),
    )


def _bracket(count: int) -> PatternPart:
    side = _BRACKET_M
    shape = shapely.Polygon([(0.0, 0.0), (side, 0.0), (0.0, side)])
    label = Label((side / 3.0, side / 3.0), "bracket")
    return flat_part("bracket", shape, Drawn(labels=(label,)), count)


def _figures(
    wish: PartLineWish, parts: list[PatternPart], cut_m: float, bolts: int, pitches: list[float]
) -> tuple[Amount, ...]:
    pitch = float(np.mean(pitches)) if pitches else 0.0
    return (
        figure("cut", "Cut along the rubber", cut_m, Unit.LENGTH, "the contour of all walls"),
        figure("board", "Board in the parts", total_m2(parts), Unit.AREA),
        figure("bolts", "Bolts", float(bolts), Unit.COUNT),
        figure(
            "pitch", "From bolt to bolt", pitch, Unit.LENGTH,
            "as near to the wished distance as comes out even",
        ),
        figure("clearance", "Clearance", wish.clearance_m, Unit.LENGTH, source=Source.WISHED),
    )  # fmt: skip
