"""Pieces without a file: from a tape, from a filling, from removed clay, from a weighed cast."""

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq
from scipy.special import ellipe

from mildhusk.core.checks import require_between
from mildhusk.core.errors import TapeError
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Floats, Mesh, join_corners

SECTION_BAND = 0.03
"""Girths say nothing about the form of a section: so much the area may be off (assumed)."""

OUTLINE_BAND = 0.12
"""A filling and a height say nothing about the outline beside its class (assumed)."""

CLAY_BAND = 0.08
"""Evenness of a clay blanket rolled between two sticks (assumed)."""

HEAD_LENGTH_BY_BREADTH = 1.28
"""Length of a head by its breadth (from memory, about the mean of large surveys)."""

_LEVELS, _AROUND = 48, 96


class Outline(StrEnum):
    """Form of the sections, or of the whole."""

    ROUND = "round"
    HEAD = "head"
    """Longer than broad, as a head is."""


@dataclass(frozen=True, slots=True)
class Station:
    """What was taped at a height.

    Parameters
    ----------
    height_m : float
        From the rim. [m]
    girth_m : float
        All round; of a mask from edge to edge over the front. [m]
    width_m : float or None
        Across, when it is known. [m]
    """

    height_m: float
    girth_m: float
    width_m: float | None = None


@dataclass(frozen=True, slots=True)
class Taping:
    """A taped piece.

    Parameters
    ----------
    stations : tuple of Station
        At least two, rising; the first is the rim.
    top_m : float or None
        Height of the closed top; None when it is open above too. [m]
    half : bool
        A mask: open at its back along its whole height.
    outline : Outline
        Form of the sections whose width is not known.

    Raises
    ------
    TapeError
        Too few stations, not rising, or a width its girth cannot have.
    """

    stations: tuple[Station, ...]
    top_m: float | None
    half: bool = False
    outline: Outline = Outline.ROUND

    def __post_init__(self) -> None:
        if len(self.stations) < 2:
            raise TapeError("Tape at least two girths, the first at the rim.", "stations")
        for at, one in enumerate(self.stations, start=1):
            self._check(at, one)
        for low, high in pairwise(self.stations):
            if high.height_m <= low.height_m:
                raise TapeError(
                    f"The heights must rise: {high.height_m * 1e3:g} mm comes after "
                    f"{low.height_m * 1e3:g} mm.",
                    "stations",
                )
        if self.top_m is not None and self.top_m <= self.stations[-1].height_m:
            raise TapeError("The top must be above the last girth.", "top_m")

    def _check(self, at: int, one: Station) -> None:
        for value, low, high, name in (
            (one.height_m, 0.0, 3.0, "height"),
            (one.girth_m, 0.01, 5.0, "girth"),
        ):
            require_between(
                value,
                low,
                high,
                name=f"The {name} of station {at}",
                field="stations",
                error=TapeError,
                shown_in="mm",
                scale=1e3,
            )
        if one.width_m is None:
            return
        most = one.girth_m / (1.0 if self.half else 2.0)
        if not 0.0 < one.width_m < most:
            raise TapeError(
                f"At station {at} a width of {one.width_m * 1e3:g} mm does not go with a girth of "
                f"{one.girth_m * 1e3:g} mm; it must be less than {most * 1e3:g} mm.",
                "stations",
            )


def ellipse_perimeter(a: float, b: float) -> float:
    """Perimeter of an ellipse with semi-axes a and b: 4 a E(1 - b^2/a^2) (DLMF 19.9.9)."""
    large, small = max(a, b), min(a, b)
    return float(4.0 * large * ellipe(1.0 - (small / large) ** 2))


def semi_axes(girth_m: float, width_m: float | None, *, half: bool, outline: Outline) -> Floats:
    """Return the semi-axes across and in depth of a section. (2,) [m]

    Parameters
    ----------
    girth_m : float
        [m]
    width_m : float or None
        Across; None for a round section. [m]
    half : bool
        The tape goes round the front only.
    outline : Outline

    Returns
    -------
    (2,) float
        [m]
    """
    whole = 2.0 * girth_m if half else girth_m
    if width_m is None:
        ratio = HEAD_LENGTH_BY_BREADTH if outline is Outline.HEAD else 1.0
        a = whole / ellipse_perimeter(1.0, ratio)
        return np.array([a, a * ratio])
    a = width_m / 2.0
    b = brentq(lambda depth: ellipse_perimeter(a, depth) - whole, 1e-6 * a, whole)
    return np.array([a, b])


def loft(taping: Taping) -> Mesh:
    """Make a mesh of a taped piece; z runs from the rim upwards.

    Notes
    -----
    Squares of the semi-axes run smoothly between the stations: of a ball or an egg they are a
    parabola in the height. A mask is the front half of its sections, open behind.
    """
    levels, between = _outline_of(taping)
    turn = np.linspace(0.0, np.pi if taping.half else 2.0 * np.pi, _AROUND + 1)
    ring = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    if not taping.half:
        ring[-1] = ring[0]  # to the last bit, so that the seam closes
    points = np.concatenate(
        [
            between[:, None, :] * ring[None, :, :],
            np.broadcast_to(levels[:, None, None], (len(levels), len(turn), 1)),
        ],
        axis=2,
    )
    low, high = points[:-1], points[1:]
    quads = [(low[:, :-1], low[:, 1:], high[:, :-1]), (low[:, 1:], high[:, 1:], high[:, :-1])]
    triangles = np.concatenate([np.stack(q, axis=2).reshape(-1, 3, 3) for q in quads])
    return join_corners(triangles)


def _outline_of(taping: Taping) -> tuple[Floats, Floats]:
    """Return levels, and the semi-axes across and in depth at each. (n,), (n, 2) [m]"""
    heights = np.array([one.height_m for one in taping.stations])
    axes = np.array(
        [
            semi_axes(one.girth_m, one.width_m, half=taping.half, outline=taping.outline)
            for one in taping.stations
        ]
    )
    squares = axes**2
    if taping.top_m is not None:
        heights, squares = np.r_[heights, taping.top_m], np.r_[squares, [[0.0, 0.0]]]
    # Closer towards a closed top, where the outline bends.
    share = np.linspace(0.0, 1.0, _LEVELS + 1)
    if taping.top_m is not None:
        share = np.sin(share * np.pi / 2.0)
    levels = heights[0] + (heights[-1] - heights[0]) * share
    return levels, np.sqrt(np.maximum(PchipInterpolator(heights, squares)(levels), 0.0))


@dataclass(frozen=True, slots=True)
class Silhouette:
    """How a taped piece looks from the front and from the side, and what it measures.

    Parameters
    ----------
    heights_m, half_widths_m, half_depths_m : tuple of float
        From the rim upwards. [m]
    area_m2, volume_m3 : float
    band : float
        What the area may be wrong by, as a share.
    """

    heights_m: tuple[float, ...]
    half_widths_m: tuple[float, ...]
    half_depths_m: tuple[float, ...]
    area_m2: float
    volume_m3: float
    band: float


def silhouette_of(taping: Taping) -> Silhouette:
    """Return the silhouette of a taped piece."""
    levels, axes = _outline_of(taping)
    face = measure_face(loft(taping))
    return Silhouette(
        tuple(levels.tolist()),
        tuple(axes[:, 0].tolist()),
        tuple(axes[:, 1].tolist()),
        face.area_m2,
        face.volume_m3,
        taping_band(taping),
    )


def taping_band(taping: Taping) -> float:
    """Return what the area may be wrong by: sections, and how far apart the stations are. [1]"""
    coarser = taping.stations[::2]
    if coarser[-1] is not taping.stations[-1]:
        coarser = (*coarser, taping.stations[-1])
    if len(coarser) < 2 or len(coarser) == len(taping.stations):
        return math.hypot(SECTION_BAND, 0.10)
    fewer = measure_face(loft(replace(taping, stations=coarser))).area_m2
    fine = measure_face(loft(taping)).area_m2
    # Halving the distance of the stations leaves about a quarter of the error; a third is said.
    return math.hypot(SECTION_BAND, abs(fewer - fine) / fine / 3.0)


def filled(volume_m3: float, height_m: float, outline: Outline, opening_m: float) -> Mesh:
    """Make a mesh of a piece that was filled with water or grain.

    Parameters
    ----------
    volume_m3 : float
        What went in. [m^3]
    height_m : float
        From the rim to the closed end. [m]
    outline : Outline
        Round, or as a head.
    opening_m : float
        Girth of the rim. [m]

    Returns
    -------
    Mesh
        An egg cut off at the rim, of that volume, height and opening.

    Raises
    ------
    TapeError
        A value out of range, or three that do not go together.

    Notes
    -----
    Of an egg with semi-axes a, b in the section and c upwards, cut off where its sections have
    shrunk to the opening: the volume between is pi a b c (2/3 + u - u^3 / 3), u the height of the
    cut over c. The widest girth is found so that height, opening and volume all fit.
    """
    for value, low, high, name, unit, scale in (
        (volume_m3, 1e-5, 0.5, "The volume", "ml", 1e6),
        (height_m, 0.01, 2.0, "The height", "mm", 1e3),
        (opening_m, 0.02, 4.0, "The girth of the opening", "mm", 1e3),
    ):
        require_between(
            value,
            low,
            high,
            name=name,
            field=name.split()[-1].lower(),
            error=TapeError,
            shown_in=unit,
            scale=scale,
        )

    def egg(widest: float) -> tuple[float, float]:
        """Return how far down the cut is, as a share u of c, and the volume."""
        u = math.sqrt(max(0.0, 1.0 - (opening_m / widest) ** 2))
        c = height_m / (1.0 + u)
        a, b = semi_axes(widest, None, half=False, outline=outline)
        return u, math.pi * a * b * c * (2.0 / 3.0 + u - u**3 / 3.0)

    most = 20.0 * max(opening_m, height_m)
    if not egg(opening_m)[1] <= volume_m3 <= egg(most)[1]:
        raise TapeError(
            f"{volume_m3 * 1e6:,.0f} ml do not go with a height of {height_m * 1e3:g} mm and an "
            f"opening of {opening_m * 1e3:g} mm: that holds at least "
            f"{egg(opening_m)[1] * 1e6:,.0f} ml. Measure again, or tape it.",
            "volume",
        )
    widest = brentq(lambda girth: egg(girth)[1] - volume_m3, opening_m, most)
    u, _ = egg(widest)
    c = height_m / (1.0 + u)
    # Seen from its middle: girths of an ellipsoid at a few heights.
    rises = np.linspace(-u, 0.97, 14)
    stations = tuple(
        Station(float((rise + u) * c), float(widest * math.sqrt(1.0 - rise * rise)))
        for rise in rises
    )
    return loft(Taping(stations, height_m, outline=outline))


def ball_zone(area_m2: float) -> Mesh:
    """Make a mesh of an area whose form nobody knows: a ball with a small opening. [m^2]"""
    # Cut off where an eighth of the ball is gone, as a neck leaves it.
    radius = math.sqrt(area_m2 / (4.0 * math.pi * 7.0 / 8.0))
    rises = np.linspace(-0.75, 0.97, 14)
    stations = tuple(
        Station(
            float((rise + 0.75) * radius),
            float(2.0 * math.pi * radius * math.sqrt(1.0 - rise * rise)),
        )
        for rise in rises
    )
    return loft(Taping(stations, 1.75 * radius))


def area_of_clay(volume_m3: float, thickness_m: float) -> float:
    """Return the area that a clay blanket covered. [m^2]

    Notes
    -----
    The blanket lies outside: V = A t + M t^2 with M = sqrt(4 pi A), as on a ball.
    """
    _check_shell(volume_m3, thickness_m, "clay")
    return _area_of_shell(volume_m3, thickness_m, outside=True)


def area_of_cast(volume_m3: float, walls_m: tuple[float, ...]) -> tuple[float, float]:
    """Return the effective area of a weighed cast, and its band. [m^2], [1]

    Parameters
    ----------
    volume_m3 : float
        Weight of the cast by the cured density. [m^3]
    walls_m : tuple of float
        Readings of the wall. [m]
    """
    if len(walls_m) < 3:
        raise TapeError("Give at least three readings of the wall, spread over the cast.", "walls")
    mean = float(np.mean(walls_m))
    for wall in walls_m:
        _check_shell(volume_m3, wall, "wall")
    spread = float(np.std(walls_m, ddof=1)) / mean / math.sqrt(len(walls_m))
    return _area_of_shell(volume_m3, mean, outside=False), max(0.01, 2.0 * spread)


def _check_shell(volume_m3: float, thickness_m: float, what: str) -> None:
    require_between(
        volume_m3,
        1e-6,
        0.5,
        name="The volume",
        field="volume",
        error=TapeError,
        shown_in="ml",
        scale=1e6,
    )
    require_between(
        thickness_m,
        0.0003,
        0.05,
        name=f"The thickness of the {what}",
        field="thickness",
        error=TapeError,
        shown_in="mm",
        scale=1e3,
    )


def _area_of_shell(volume_m3: float, thickness_m: float, *, outside: bool) -> float:
    sign = 1.0 if outside else -1.0

    def off(root: float) -> float:
        bend = sign * math.sqrt(4.0 * math.pi) * root * thickness_m**2
        return root * root * thickness_m + bend - volume_m3

    # The inward curve falls first; its root is beyond the fall.
    start = 0.0 if outside else math.sqrt(4.0 * math.pi) * thickness_m
    return float(brentq(off, start, start + 10.0 + volume_m3 / thickness_m)) ** 2


@dataclass(frozen=True, slots=True)
class AreaMeasure:
    """One measure of a piece's area: how it was taken, and what it may be wrong by, as a share."""

    how: str
    area_m2: float
    band: float


def better_of(one: AreaMeasure, other: AreaMeasure) -> tuple[AreaMeasure, str]:
    """Return the better of two measures of one piece, and why."""
    best, rest = sorted((one, other), key=lambda measure: measure.band)
    apart = abs(one.area_m2 - other.area_m2) / best.area_m2
    good_to = [f"'{one.how}' is good to ± {one.band * 100:.1f} %" for one in (best, rest)]
    reason = ", ".join(good_to)
    if apart <= math.hypot(one.band, other.band):
        return best, f"{reason}; they agree, {apart * 100:.1f} % apart."
    return best, (
        f"{reason}. They are {apart * 100:.1f} % apart, more than both bands allow: measure one of "
        "them again before you trust either."
    )
