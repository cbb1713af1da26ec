"""A pattern: flat parts at true size, what is marked on them, and where that is on the piece."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import shapely

from mildhusk.core.amounts import Amount, Source
from mildhusk.core.findings import Finding
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.wording import Unit

_DIGITS = 7
# A line is kept with so few points as stay within this of it. [m]
_SIMPLER = 1e-5
SMALLEST_PART_M2 = 1e-4
"""What falls off a cut and is smaller is waste, no part. [m^2]"""

FlatPoint = tuple[float, float]
Place = tuple[float, float, float]


class PatternKind(StrEnum):
    """What a pattern is cut for."""

    PART_LINE = "part-line"
    SKIRT = "skirt"
    BOX = "box"
    VISOR = "visor"
    STRIPS = "strips"
    TRIM = "trim"


class Layer(StrEnum):
    """What is done along a line."""

    CUT = "cut"
    BEND = "bend"
    MARK = "mark"
    DRILL = "drill"


@dataclass(frozen=True, slots=True)
class FlatLine:
    """A line of a part; a closed one does not repeat its first point. [m]"""

    layer: Layer
    points_m: tuple[FlatPoint, ...]
    closed: bool = False


@dataclass(frozen=True, slots=True)
class DrillHole:
    """A round hole. [m]"""

    at_m: FlatPoint
    diameter_m: float


@dataclass(frozen=True, slots=True)
class Label:
    """Words on a part. [m]"""

    at_m: FlatPoint
    text: str


@dataclass(frozen=True, slots=True)
class PatternMark:
    """A place that is known flat and on the piece. [m]"""

    name: str
    at_m: FlatPoint
    place_m: Place


@dataclass(frozen=True, slots=True)
class PatternPart:
    """One flat part, its lower left corner at the origin.

    Parameters
    ----------
    name : str
    count : int
        How often it is cut.
    size_m : tuple of 2 floats
        Of the box round it. [m]
    area_m2 : float
        Of the material in it. [m^2]
    lines, holes, labels, marks : tuple
    """

    name: str
    count: int
    size_m: FlatPoint
    area_m2: float
    lines: tuple[FlatLine, ...]
    holes: tuple[DrillHole, ...] = ()
    labels: tuple[Label, ...] = ()
    marks: tuple[PatternMark, ...] = ()


@dataclass(frozen=True, slots=True)
class CutRow:
    """Pieces of one size to cut before work begins; sizes in metres."""

    what: str
    part: str
    count: int
    length_m: float
    width_m: float


@dataclass(frozen=True, slots=True)
class MixRow:
    """What is mixed in batches: so much of it in each, in its unit."""

    what: str
    part: str
    batches: int
    amount: float
    unit: str


@dataclass(frozen=True, slots=True)
class MarkHeight:
    """How high clay is built up under a mark of a part line. [m]"""

    mark: str
    height_m: float


@dataclass(frozen=True, slots=True)
class Pattern:
    """A pattern to cut.

    Parameters
    ----------
    kind : PatternKind
    parts : tuple of PatternPart
    figures : tuple of Amount
        The one that matters most first.
    rows : tuple of CutRow
        What is cut to a length and needs no drawing.
    mixes : tuple of MixRow
        What is mixed while they are laid.
    findings : tuple of Finding
    curves_m : tuple
        Its edges on the piece, as lines. [m]
    cautions : tuple of str
    edges : tuple of str
        Of a visor: the edges it can be cut for.
    heights : tuple of MarkHeight
        Of the clay under a part line.
    """

    kind: PatternKind
    parts: tuple[PatternPart, ...]
    figures: tuple[Amount, ...]
    rows: tuple[CutRow, ...] = ()
    mixes: tuple[MixRow, ...] = ()
    findings: tuple[Finding, ...] = ()
    curves_m: tuple[tuple[Place, ...], ...] = ()
    cautions: tuple[str, ...] = ()
    edges: tuple[str, ...] = ()
    heights: tuple[MarkHeight, ...] = ()


@dataclass(frozen=True, slots=True)
class Drawn:
    """What is drawn on a part beside its outline, in the frame of the outline. [m]"""

    lines: tuple[tuple[Layer, shapely.LineString], ...] = ()
    holes: tuple[DrillHole, ...] = ()
    labels: tuple[Label, ...] = ()
    marks: tuple[PatternMark, ...] = ()


NOTHING_DRAWN = Drawn()


def flat_part(
    name: str, outline: shapely.Polygon, drawn: Drawn = Drawn(), count: int = 1
) -> PatternPart:
    """Return a part of an outline, moved to the origin.

    Parameters
    ----------
    name : str
    outline : shapely.Polygon
        Of the material; its holes are cut out. [m]
    drawn : Drawn
        In the frame of the outline. [m]
    count : int
        How often it is cut.

    Returns
    -------
    PatternPart
    """
    low_x, low_y, high_x, high_y = outline.bounds
    thinned = shapely.simplify(outline, _SIMPLER)
    rings = [thinned.exterior, *thinned.interiors]
    lines = [FlatLine(Layer.CUT, _moved(ring, low_x, low_y)[:-1], True) for ring in rings]
    for layer, line in drawn.lines:
        for one in shapely.get_parts(shapely.simplify(line, _SIMPLER)):
            if one.length > 0.0:
                lines.append(FlatLine(layer, _moved(one, low_x, low_y)))

    def there(at: FlatPoint) -> FlatPoint:
        return (round(at[0] - low_x, _DIGITS), round(at[1] - low_y, _DIGITS))

    holes = tuple(DrillHole(there(one.at_m), one.diameter_m) for one in drawn.holes)
    drilled = sum(np.pi * (one.diameter_m / 2.0) ** 2 for one in holes)
    return PatternPart(
        name,
        count,
        (high_x - low_x, high_y - low_y),
        float(outline.area - drilled),
        tuple(lines),
        holes,
        tuple(Label(there(one.at_m), one.text) for one in drawn.labels),
        tuple(PatternMark(one.name, there(one.at_m), one.place_m) for one in drawn.marks),
    )


def outline_of(part: PatternPart) -> shapely.Polygon:
    """Return the material of a part: inside its longest cut line, without what the others cut out.

    [m]
    """
    rings = [shapely.Polygon(one.points_m) for one in part.lines if one.layer is Layer.CUT]
    rings.sort(key=lambda one: -one.area)
    return shapely.Polygon(rings[0].exterior, [one.exterior for one in rings[1:]])


def solid(shape: shapely.Geometry) -> shapely.Geometry:
    """Return a shape without the holes in it."""
    parts = shapely.get_parts(shape)
    return shapely.union_all([shapely.Polygon(one.exterior) for one in parts])


def polygons(shape: shapely.Geometry, least_m2: float = SMALLEST_PART_M2) -> list[shapely.Polygon]:
    """Return the polygons of a shape that are worth cutting, the largest first."""
    found = [one for one in shapely.get_parts(shape) if isinstance(one, shapely.Polygon)]
    return sorted((one for one in found if one.area >= least_m2), key=lambda one: -one.area)


def along(line: Floats) -> Floats:
    """Return how far each point of a line is from its beginning, along it, (n,). [m]"""
    return np.asarray(np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])


def ring_length(ring: Floats) -> float:
    """Return the length of a closed ring of points. [m]"""
    return float(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).sum())


def evenly(line: Floats, step_m: float, *, closed: bool = False) -> Floats:
    """Return points along a line at one distance, as near to a step as comes out even.

    Parameters
    ----------
    line : (n, k) float
        [m]
    step_m : float
        [m]
    closed : bool
        Whether it comes back to its first point, which then is not repeated.

    Returns
    -------
    (m, k) float
    """
    whole = np.r_[line, line[:1]] if closed else line
    at = along(whole)
    count = max(int(np.ceil(at[-1] / step_m - 1e-9)), 3 if closed else 1)
    wanted = np.linspace(0.0, at[-1], count + 1)[: count if closed else count + 1]
    return np.stack([np.interp(wanted, at, whole[:, k]) for k in range(whole.shape[1])], axis=1)


def place(point: Floats) -> Place:
    """Return a point as plain numbers. [m]"""
    x, y, z = (round(float(one), _DIGITS) for one in point)
    return (x, y, z)


def curve(points: Floats) -> tuple[Place, ...]:
    """Return a line on the piece as plain numbers. [m]"""
    return tuple(place(one) for one in points)


def figure(
    key: str, name: str, value: float, unit: Unit, words: str = "", source: Source = Source.COMPUTED
) -> Amount:
    """Return a figure of a pattern, taken as exact.

    Parameters
    ----------
    key, name : str
    value : float
        [`unit`]
    unit : Unit
    words : str
        What it is, in a few words.
    source : Source

    Returns
    -------
    Amount
    """
    return Amount(key, name, value, unit, source, value, value, "", words, ())


def total_m2(parts: Iterable[PatternPart]) -> float:
    """Return the material in parts. [m^2]"""
    return sum(one.count * one.area_m2 for one in parts)


def _moved(line: shapely.LineString, low_x: float, low_y: float) -> tuple[FlatPoint, ...]:
    points = np.round(shapely.get_coordinates(line) - (low_x, low_y), _DIGITS)
    return tuple((float(x), float(y)) for x, y in points)
