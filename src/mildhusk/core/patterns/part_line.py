"""The wall along a part line: a board cut to the outside of the rubber, to build a shell against.

Each part line lies in a half plane from the upright axis of the mould; two opposite ones are one
plane, and their wall is cut in one arch. A line that leaves its plane turns about lines that point
outward, so that its wall is a chain of flat pieces and lies flat without stretching.
"""

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.affinity import translate

from mildhusk.core.amounts import Amount, Source
from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import PatternError
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.geometry.mesh import Floats, Mesh, middle_of
from mildhusk.core.geometry.openings import rims
from mildhusk.core.mould.locks import MOST_PARTS, locked_area
from mildhusk.core.patterns.chain import Chain
from mildhusk.core.patterns.flat import (
    Drawn,
    DrillHole,
    Label,
    Layer,
    MarkHeight,
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
from mildhusk.core.patterns.part_path import borders, follow, parts_of
from mildhusk.core.wording import Unit, sentence

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
    following : bool
        The line leaves its plane where the shell leans back less for it.
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
    following: bool = False

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
        if self.aside_m and self.following:
            raise PatternError(
                "Only a part line in one plane can be moved aside; the one that follows the rubber "
                "finds its own way.",
                "aside_m",
            )
        if not np.isfinite(self.turned):
            raise PatternError("The split is turned by no number; give degrees.", "turned")


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
    chains, locked = _chains(rubber, up, angle + wish.turned, wish)
    sides = 1 if chains[0].half else 2
    each = int(np.ceil(wish.handles / (len(chains) * sides)))
    parts: list[PatternPart] = []
    heights: list[MarkHeight] = []
    curves, cut_m, bolts, pitches = [], 0.0, 0, []
    for number, chain in enumerate(chains, start=1):
        region = chain.region(rubber)
        if chain.half and not region.is_empty:
            region = region.intersection(_right_of(region))
        if region.is_empty:
            raise PatternError(
                "The split misses the mould: nothing of it lies in that plane. Move it back or "
                "turn it less.",
                "aside_m",
            )
        opening = solid(region.buffer(wish.clearance_m, quad_segs=_ARC_SEGMENTS))
        made = _wall(opening, chain, wish, each)
        named = "wall" if len(chains) == 1 else f"wall {number}"
        of_chain = [
            flat_part(name, one, _on(one, made.drawn)) for name, one in _named(named, made.panels)
        ]
        parts += of_chain
        if wish.following:
            lying = chains[0].aside if wish.parts == 2 else chain.aside
            heights += _clay_heights(of_chain, rubber, lying)
        contour = _edge_of(opening, chain)
        curves += [
            curve(chain.places(chain.with_hinges(shapely.get_coordinates(one)))) for one in contour
        ]
        cut_m += sum(one.length for one in contour)
        bolts += len(made.drawn.holes)
        pitches += made.pitches
    if any(chain.on_board for chain in chains):
        parts.append(_bracket(2 * sides * len(chains)))
    figures = _figures(wish, parts, cut_m, bolts, pitches)
    if wish.following:
        # The part before a line has the number of its wall; two walls stand over one part.
        lying_on = "part 1" if wish.parts == 2 else "the part of its wall's number"
        figures += (
            figure("locked", "Locked area, this line", min(locked), Unit.AREA),
            figure("locked-plane", "Locked area, flat plane", locked[0], Unit.AREA),
            figure(
                "clay", "Clay under the part line, at its highest",
                max((one.height_m for one in heights), default=0.0), Unit.LENGTH,
                f"with the mould lying on {lying_on}",
            ),
        )  # fmt: skip
    return Pattern(
        PatternKind.PART_LINE,
        tuple(parts),
        figures,
        findings=_stays_plane(chains) if wish.following else (),
        curves_m=tuple(curves),
        heights=tuple(heights),
        cautions=(
            "Cutting board and ply throws fine dust and sharp edges: wear a mask and eye "
            "protection, and read the saw's own manual.",
        ),
    )


def _chains(
    rubber: Mesh, up: Floats, angle: float, wish: PartLineWish
) -> tuple[list[Chain], list[float]]:
    """Return the walls, and of ones that follow the rubber what locks in a plane and along them."""
    # The axis of the split, as it was found.
    middle = middle_of(rubber)
    on_board = bool(rims(rubber))
    height = rubber.vertices @ up
    low, high = float(height.min()), float(height.max())
    origin = middle + (low - float(middle @ up)) * up
    lines = borders(up, angle, wish.parts)
    straight = np.array([[0.0, 0.0], [0.0, high - low]])
    paths, locked, is_plane = [straight] * wish.parts, [], True
    if wish.following:
        found = follow(rubber, up, angle, wish.parts, wish.flange_m, on_board)
        pulls = np.array([one.before for one in lines])
        locked = [
            locked_area(rubber, up, parts_of(rubber, up, angle, one), pulls)
            for one in (paths, found)
        ]
        # What leans is not all that locks: rubber in the way out is only seen now.
        if locked[1] < locked[0]:
            paths, is_plane = found, False
    if wish.parts == 2 and is_plane:
        # Two opposite ones in one plane are cut in one arch.
        moved, one = straight + np.array([wish.aside_m, 0.0]), lines[0]
        return [Chain(origin, one.outward, one.aside, up, moved, False, on_board)], locked
    chains = [
        Chain(origin, one.outward, one.aside, up, path, True, on_board)
        for one, path in zip(lines, paths, strict=True)
    ]
    return chains, locked


def _stays_plane(chains: list[Chain]) -> tuple[Finding, ...]:
    if any(len(one.hinges) for one in chains):
        return ()
    text = sentence("No other line locks less than a plane here; the wall is flat.")
    return (Finding("part-line-plane", Severity.NOTE, text),)


def _named(wall: str, panels: list[list[shapely.Polygon]]) -> list[tuple[str, shapely.Polygon]]:
    """Return the pieces of a wall, numbered by panel from below; pieces of one panel lettered."""
    made = []
    for number, pieces in enumerate(panels, start=1):
        name = wall
        if len(panels) > 1:
            name = f"{wall}.{number}" if wall[-1].isdigit() else f"{wall} {number}"
        for at, one in enumerate(pieces):
            made.append((name if len(pieces) == 1 else f"{name} {'abcdefgh'[at % 8]}", one))
    return made


def _clay_heights(parts: list[PatternPart], rubber: Mesh, lying: Floats) -> list[MarkHeight]:
    lowest = float((rubber.vertices @ lying).min())
    return [
        MarkHeight(f"{part.name}: {mark.name}", float(np.array(mark.place_m) @ lying) - lowest)
        for part in parts
        for mark in part.marks
        if mark.name.startswith("mark")
    ]


@dataclass(frozen=True, slots=True, eq=False)
class _Wall:
    panels: list[list[shapely.Polygon]]
    drawn: Drawn
    pitches: list[float]


def _wall(opening: shapely.Geometry, chain: Chain, wish: PartLineWish, handles: int) -> _Wall:
    outside = solid(opening.buffer(wish.flange_m, quad_segs=_ARC_SEGMENTS))
    low_x, low_y, high_x, high_y = outside.bounds
    body = outside
    slots: list[shapely.Polygon] = []
    mid = solid(opening.buffer(wish.flange_m / 2.0, quad_segs=_ARC_SEGMENTS))
    for slot in _hand_holes(outside, chain, handles):
        slots.append(slot)
        body = body.union(slot.buffer(_HAND_ROUND_M))
    if chain.on_board and wish.foot_m:
        left = low_x if chain.half else low_x - wish.foot_m
        body = body.union(shapely.box(left, 0.0, high_x + wish.foot_m, _FOOT_HIGH_M))
    body = body.difference(opening).difference(shapely.union_all(slots))
    body = body.intersection(_kept(body, chain))
    bolt_lines = _edge_of(mid, chain)
    if chain.on_board or chain.half:
        low_s, high_s = body.bounds[1] - 1.0, body.bounds[3] + 1.0
        panels = [polygons(body.intersection(one)) for one in chain.panels(low_s, high_s)]
        panels = [one for one in panels if one]
    else:
        # A ring goes round the rubber in two halves.
        level = (low_y + high_y) / 2.0
        left, _, right, _ = body.bounds
        halves = (
            shapely.box(left - 1.0, level, right + 1.0, high_y + 1.0),
            shapely.box(left - 1.0, low_y - 1.0, right + 1.0, level),
        )
        panels = [[one for half in halves for one in polygons(body.intersection(half))]]
        bolt_lines = [
            one
            for half in halves
            for line in bolt_lines
            for one in _whole_lines(line.intersection(half))
        ]
    holes, pitches = [], []
    for line in bolt_lines:
        centres, pitch = _bolts(line, wish.bolt_pitch_m, chain.hinges)
        holes += [DrillHole((float(x), float(y)), wish.bolt_m) for x, y in centres]
        pitches.append(pitch)
    places = chain.places(np.array([one.at_m for one in holes]).reshape(-1, 2))
    marks = [
        PatternMark(f"bolt {n}", hole.at_m, place(at))
        for n, (hole, at) in enumerate(zip(holes, places, strict=True), start=1)
    ]
    ticks: list[tuple[Layer, shapely.LineString]] = []
    labels: list[Label] = []
    count = 0
    for line in _edge_of(opening, chain):
        for tick, foot in _ticks(line, opening):
            count += 1
            ticks.append((Layer.MARK, tick))
            labels.append(Label(tick.coords[1], str(count)))
            where = place(chain.places(np.array([foot]))[0])
            marks.append(PatternMark(f"mark {count}", foot, where))
    labels += _turn_labels(body, chain)
    return _Wall(panels, Drawn(tuple(ticks), tuple(holes), tuple(labels), tuple(marks)), pitches)


def _turn_labels(body: shapely.Geometry, chain: Chain) -> list[Label]:
    """Return by how much two panels turn against each other, written under their joint."""
    labels = []
    for hinge, turn in zip(chain.hinges, chain.turns, strict=True):
        across = shapely.linestrings([[-1.0, hinge - 0.004], [1.0, hinge - 0.004]])
        for one in _whole_lines(body.intersection(across)):
            middle = one.interpolate(0.5, normalized=True)
            labels.append(Label((middle.x, middle.y), f"turns {abs(np.degrees(turn)):.0f}°"))
    return labels


def _kept(shape: shapely.Geometry, chain: Chain) -> shapely.Polygon:
    low_x, low_y, high_x, high_y = shape.bounds
    left = 0.0 if chain.half else low_x - 1.0
    bottom = 0.0 if chain.on_board else low_y - 1.0
    return shapely.box(left, bottom, high_x + 1.0, high_y + 1.0)


def _right_of(shape: shapely.Geometry) -> shapely.Polygon:
    _, low_y, high_x, high_y = shape.bounds
    return shapely.box(0.0, low_y - 1.0, max(high_x, 0.0) + 1.0, high_y + 1.0)


def _edge_of(shape: shapely.Geometry, chain: Chain) -> list[shapely.LineString]:
    """Return the outline of a shape as far as the wall has it, in whole lines, from below."""
    # Off the board and off the axis the outline is no edge of the wall.
    kept = _kept(shape, chain)
    if chain.half or chain.on_board:
        left, bottom, right, top = kept.bounds
        kept = shapely.box(
            left + (1e-6 if chain.half else 0.0), bottom + (1e-6 if chain.on_board else 0.0),
            right, top,
        )  # fmt: skip
    lines = _whole_lines(shapely.boundary(shape).intersection(kept))
    ends = [shapely.get_coordinates(one)[[0, -1], 1] for one in lines]
    return [one.reverse() if a > b else one for one, (a, b) in zip(lines, ends, strict=True)]


def _whole_lines(shape: shapely.Geometry) -> list[shapely.LineString]:
    lines = [one for one in shapely.get_parts(shape) if one.length > 0.0]
    if len(lines) > 1:
        lines = list(shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines))))
    return lines


def _bolts(line: shapely.LineString, pitch_m: float, hinges: Floats) -> tuple[Floats, float]:
    """Return the centres of bolts at an even pitch along a line, and the pitch.

    They keep off its bends, and off hinges at heights.
    """
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
        on_hinge = _nearest(line, at, hinges) < _BEND_REACH_M
        tried.append((np.pi if on_hinge else _worst_turn(line, at), at))
    calm = min(worst for worst, _ in tried)
    # Among those as calm the one with the most bolts stands first.
    at = next(at for worst, at in tried if worst <= calm + 0.05)
    centres = shapely.get_coordinates(shapely.line_interpolate_point(line, at))
    return centres, float(pitch)


def _nearest(line: shapely.LineString, at: Floats, hinges: Floats) -> float:
    """Return how near places on a line come to a hinge at most. [m]"""
    if len(hinges) == 0:
        return np.inf
    up = shapely.get_coordinates(shapely.line_interpolate_point(line, at))[:, 1]
    return float(np.abs(up[:, None] - hinges).min())


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


def _hand_holes(outside: shapely.Geometry, chain: Chain, each: int) -> list[shapely.Polygon]:
    """Return slots for hands outside the flange, on each side at even heights."""
    if each == 0:
        return []
    low_x, low_y, high_x, high_y = outside.bounds
    bottom = 0.0 if chain.on_board else low_y
    # On a low mould fewer hands find room above each other.
    most = int((high_y - bottom) / (_HAND_LONG_M + _HAND_ROUND_M)) - 1
    each = min(each, max(most, 1))
    slots = []
    for side in (1.0,) if chain.half else (1.0, -1.0):
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
            high = _off_hinges(high, chain.hinges)
            # Beyond the flange, so that it comes near no bolt.
            slots.append(translate(slot, reach_x + side * _HAND_HIGH_M / 2.0, high))
    return slots


def _off_hinges(level: float, hinges: Floats) -> float:
    """Return the height nearest to one at which a hand hole lies in one panel, if there is any."""
    room = _HAND_LONG_M / 2.0 + _HAND_ROUND_M
    if len(hinges) == 0 or np.abs(hinges - level).min() >= room:
        return level
    free = [
        at
        for at in np.r_[hinges - room, hinges + room]
        if np.abs(hinges - at).min() >= room - 1e-9 and at >= room
    ]
    return float(min(free, key=lambda at: abs(at - level))) if free else level


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
