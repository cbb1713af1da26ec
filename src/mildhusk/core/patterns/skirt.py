"""The skirt round a rim: a strip of foam or card, laid flat, with marks that meet the rim."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely

from mildhusk.core.amounts import Source
from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import PatternError
from mildhusk.core.findings import Finding, Severity
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.openings import rims
from mildhusk.core.mould.outside import standing
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
    ring_length,
    total_m2,
)
from mildhusk.core.patterns.unrolling import unroll_strip
from mildhusk.core.wording import Unit, sentence

STEP_M = 0.001
"""Points on the rim stand so far apart. [m]"""
_SMOOTH_M = 0.006
_TICK_M = 0.006


@dataclass(frozen=True, slots=True)
class SkirtWish:
    """What is wanted of a skirt.

    Parameters
    ----------
    height_m : float
        Of the strip. [m]
    thickness_m : float
        Of its material; it stands outside the rim and is laid flat through its middle. [m]
    flare : float
        It leans outwards by so much from straight on. [rad]
    allowance_m : float
        To overlap at a seam. [m]
    mark_every_m : float
        [m]
    """

    height_m: float = within(Bounds(0.005, 0.5, "The height of the skirt", "mm", 1e3), 0.125)
    thickness_m: float = within(Bounds(0.0, 0.03, "The thickness", "mm", 1e3), 0.0)
    flare: float = within(
        Bounds(-np.radians(45.0), np.radians(75.0), "The flare", "°", 180.0 / np.pi), 0.0
    )
    allowance_m: float = within(Bounds(0.0, 0.05, "The seam allowance", "mm", 1e3), 0.015)
    mark_every_m: float = within(Bounds(0.01, 0.2, "The marks", "mm", 1e3), 0.05)

    def __post_init__(self) -> None:
        check_bounds(self, PatternError)


def skirt(face: Mesh, wish: SkirtWish) -> Pattern:
    """Lay a skirt round the largest opening of a piece flat.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    wish : SkirtWish

    Returns
    -------
    Pattern

    Raises
    ------
    PatternError
        A piece without an opening, a flare that closes on itself.
    """
    piece = standing(face)
    openings = rims(piece.face)
    if not openings:
        raise PatternError("A closed piece has no rim to put a skirt round.", "piece")
    rim = openings[0]
    ring = evenly(piece.face.vertices[rim.corners], STEP_M, closed=True)
    ring = seen_from_outside(ring, rim.out, ring - ring.mean(axis=0))
    upper, lower = skirt_edges(ring, rim.out, wish)
    length = ring_length(upper)
    every = mark_spacing(length, wish.mark_every_m)
    parts = band_parts("skirt", ring, lower, upper, every, wish.allowance_m)
    findings: tuple[Finding, ...] = ()
    if len(parts) > 1:
        findings = (
            Finding(
                "skirt-in-pieces",
                Severity.NOTE,
                sentence(
                    f"Flat, the skirt would lie over itself: it is cut in {len(parts)}, each with "
                    "its own seam. The numbers run on from one to the next."
                ),
            ),
        )
    return Pattern(
        PatternKind.SKIRT,
        tuple(parts),
        (
            figure("rim", "Round the rim", ring_length(ring), Unit.LENGTH),
            figure(
                "strip", "Length of the strip", length, Unit.LENGTH,
                "its upper edge through the middle of its material, without the seam",
            ),
            figure("height", "Height", wish.height_m, Unit.LENGTH, source=Source.WISHED),
            figure("mark", "From mark to mark", every, Unit.LENGTH),
            figure("material", "Material", total_m2(parts), Unit.AREA),
        ),
        findings=findings,
        curves_m=(curve(np.r_[upper, upper[:1]]), curve(np.r_[lower, lower[:1]])),
        cautions=(
            "Blades slip on foam: cut away from the hand. Contact glue and its fumes burn: open a "
            "window and follow the maker's data sheet.",
        ),
    )  # fmt: skip


def mark_spacing(length_m: float, wished_m: float) -> float:
    """Return the distance of marks that comes out even round a ring. [m]"""
    return length_m / max(round(length_m / wished_m), 3)


def band_parts(
    name: str,
    ring: Floats,
    lower: Floats,
    upper: Floats | None = None,
    every_m: float | None = None,
    allowance_m: float = 0.0,
) -> list[PatternPart]:
    """Lay a band round a ring flat, in as many pieces as it takes not to lie over itself.

    Parameters
    ----------
    name : str
    ring : (n, 3) float
        Points round the edge it is laid to; its marks are there. [m]
    lower, upper : (n, 3) float
        Its two edges; the ring itself stands for the upper one. [m]
    every_m : float or None
        From mark to mark; None takes 50 mm or what comes out even. [m]
    allowance_m : float
        To overlap at a seam. [m]

    Returns
    -------
    list of PatternPart

    Raises
    ------
    PatternError
        No piece of it lies flat.
    """
    upper = ring if upper is None else upper
    every = every_m or mark_spacing(ring_length(upper), 0.05)
    pieces = _laid(upper, lower)
    parts, number = [], 0
    for at, (begin, end) in enumerate(pieces, start=1):
        span = np.arange(begin, end + 1) % len(upper)
        flat_upper, flat_lower = unroll_strip(upper[span], lower[span])
        drawn, number = _marked(flat_upper, flat_lower, ring[span], every, number)
        outline, seam = _outline(flat_upper, flat_lower, allowance_m)
        whole = Drawn((*drawn.lines, *seam), (), drawn.labels, drawn.marks)
        parts.append(flat_part(name if len(pieces) == 1 else f"{name} {at}", outline, whole))
    return parts


def seen_from_outside(ring: Floats, down: Floats, outward: Floats) -> Floats:
    """Return a ring so that a band below it, laid flat, is seen from outside and not in a mirror.

    Parameters
    ----------
    ring : (n, 3) float
        [m]
    down : (3,) or (n, 3) float
        Across the band, from the ring.
    outward : (n, 3) float
        Roughly off the piece, at each point.

    Returns
    -------
    (n, 3) float
        To the right for who looks from outside, the band below.
    """
    way = np.roll(ring, -1, axis=0) - ring
    side = float((np.cross(way, np.broadcast_to(down, ring.shape)) * outward).sum())
    return ring if side < 0.0 else ring[::-1]


def skirt_edges(ring: Floats, out: Floats, wish: SkirtWish) -> tuple[Floats, Floats]:
    """Return both edges of a skirt through the middle of its material.

    Parameters
    ----------
    ring : (n, 3) float
        Points round the rim at one distance. [m]
    out : (3,) float
        Out of the opening, unit vector.
    wish : SkirtWish

    Returns
    -------
    upper, lower : (n, 3) float
        [m]

    Raises
    ------
    PatternError
        The skirt leans so far inwards that it closes.
    """
    span = max(round(_SMOOTH_M / _step(ring)), 1)
    way = np.roll(ring, -span, axis=0) - np.roll(ring, span, axis=0)
    sideways = np.cross(way, out)
    sideways /= np.maximum(np.linalg.norm(sideways, axis=1), 1e-12)[:, None]
    # Away from the middle, whichever way the rim runs.
    if ((ring - ring.mean(axis=0)) * sideways).sum() < 0.0:
        sideways = -sideways
    down = np.cos(wish.flare) * out + np.sin(wish.flare) * sideways
    square = np.cos(wish.flare) * sideways - np.sin(wish.flare) * out
    upper = ring + 0.5 * wish.thickness_m * square
    lower = upper + wish.height_m * down
    return upper, _without_folds(upper, lower)


def _without_folds(upper: Floats, lower: Floats) -> Floats:
    """Gather the lower edge in one point wherever it would run backwards.

    Raises
    ------
    PatternError
        All of it would.
    """
    way = np.roll(upper, -1, axis=0) - upper
    below = np.roll(lower, -1, axis=0) - lower
    back = np.einsum("ij,ij->i", way, below) <= 0.0
    if back.mean() > 0.5:
        raise PatternError(
            "Leaning so far inwards, a skirt of this height closes on itself; give less flare or "
            "less height.",
            "flare",
        )
    if not back.any():
        return lower
    made = lower.copy()
    count = len(lower)
    start = int(np.argmin(back))
    at = 0
    while at < count:
        here = (start + at) % count
        if not back[here]:
            at += 1
            continue
        long = 1
        while at + long < count and back[(start + at + long) % count]:
            long += 1
        # As far again to both sides is taken back by the fold.
        wide = np.arange(-long, 2 * long + 1) + start + at
        made[wide % count] = lower[wide % count].mean(axis=0)
        at += long
    return made


def _laid(upper: Floats, lower: Floats) -> list[tuple[int, int]]:
    """Return from where to where each piece of a strip runs, so that none lies over itself flat."""
    count = len(upper)
    seam = _straightest(upper)
    for number in (1, 2, 3, 4, 6, 8, 12):
        ends = seam + np.round(np.linspace(0, count, number + 1)).astype(int)
        pieces = [(int(a), int(b)) for a, b in pairwise(ends)]
        if all(_lies(upper, lower, one) for one in pieces):
            return pieces
    raise PatternError(
        "The rim turns so sharply that no piece of this skirt lies flat; give less height or less "
        "flare.",
        "height_m",
    )


def _lies(upper: Floats, lower: Floats, span: tuple[int, int]) -> bool:
    at = np.arange(span[0], span[1] + 1) % len(upper)
    shape = shapely.Polygon(_round(*unroll_strip(upper[at], lower[at])))
    return bool(shape.is_valid)


def _round(upper: Floats, lower: Floats) -> Floats:
    distinct = np.r_[True, np.linalg.norm(np.diff(lower, axis=0), axis=1) > 1e-9]
    return np.asarray(np.r_[upper, lower[distinct][::-1]])


def _straightest(ring: Floats) -> int:
    """Return where a ring turns least: a seam is glued best there."""
    span = max(round(0.02 / _step(ring)), 1)
    before, after = ring - np.roll(ring, span, axis=0), np.roll(ring, -span, axis=0) - ring
    cosine = np.einsum("ij,ij->i", before, after) / np.maximum(
        np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1), 1e-12
    )
    return int(np.argmax(np.round(cosine, 6)))


def _marked(
    upper: Floats, lower: Floats, ring: Floats, every: float, number: int
) -> tuple[Drawn, int]:
    """Return the marks of one piece, numbered on from the last piece's."""
    at = along(upper)
    lines, labels, marks = [], [], []
    for far in np.arange(0.0, at[-1] - 1e-6, every):
        here = int(np.argmin(np.abs(at - far)))
        number += 1
        into = lower[here] - upper[here]
        into = into / max(float(np.hypot(*into)), 1e-12)
        top, tip = upper[here], upper[here] + _TICK_M * into
        lines.append((Layer.MARK, shapely.LineString([top, tip])))
        spot = top + 2.2 * _TICK_M * into
        labels.append(Label((float(spot[0]), float(spot[1])), str(number)))
        flat = (float(top[0]), float(top[1]))
        marks.append(PatternMark(f"mark {number}", flat, place(ring[here])))
    return Drawn(tuple(lines), (), tuple(labels), tuple(marks)), number


def _outline(
    upper: Floats, lower: Floats, allowance_m: float
) -> tuple[shapely.Polygon, tuple[tuple[Layer, shapely.LineString], ...]]:
    shape = shapely.Polygon(_round(upper, lower))
    if allowance_m == 0.0:
        return shape, ()
    # A tongue on the far end, to go under the near one.
    end = upper[-1] - lower[-1]
    out = np.array([end[1], -end[0]]) / max(float(np.hypot(*end)), 1e-12)
    if out @ (upper[-1] - upper[-2]) < 0.0:
        out = -out
    tongue = shapely.Polygon(
        [upper[-1], upper[-1] + allowance_m * out, lower[-1] + allowance_m * out, lower[-1]]
    )
    joined = shapely.union_all([shape.buffer(0.0), tongue.buffer(1e-6)])
    fold = (Layer.BEND, shapely.LineString([upper[-1], lower[-1]]))
    return (joined, (fold,)) if isinstance(joined, shapely.Polygon) else (shape, ())


def _step(ring: Floats) -> float:
    return float(np.linalg.norm(ring[1] - ring[0]))
