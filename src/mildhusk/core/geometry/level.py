"""How high a liquid stands in a tilted mould, how much it holds, and whether it spills."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError, MeshFileError
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.sections import section, square_to

LONGEST_SKIRT_M = 0.5
"""A longer skirt is no help any more; a bung is. [m]"""


@dataclass(frozen=True, slots=True, eq=False)
class Vessel:
    """A closed mesh turned so that volume under a level is quick to ask for.

    Parameters
    ----------
    lowest, middle, highest : (m,) float
        Heights of each face's corners, in order. [m]
    shadow : (m,) float
        Area of each face seen from below, positive where it looks down. [m^2]
    """

    lowest: Floats
    middle: Floats
    highest: Floats
    shadow: Floats

    @classmethod
    def of(cls, closed: Mesh, up: Floats) -> "Vessel":
        """Turn a closed mesh, outside outside, so that `up` (a unit vector) is up."""
        corners = closed.vertices[closed.faces]
        height = np.sort(corners @ up, axis=1)
        doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        return cls(height[:, 0], height[:, 1], height[:, 2], -(doubled @ up) / 2.0)

    def volume_below(self, level: float) -> float:
        """Volume under a level. [m^3]

        Notes
        -----
        Divergence theorem with the field (z - level) up, which is nought on the level: the volume
        is the sum of shadow times mean depth of what of each face is under the level. Of a triangle
        with its corners at a <= b <= c that is a piecewise cubic in the level.
        """
        a, b, c = self.lowest, self.middle, self.highest
        tiny = 1e-15
        rising = np.maximum(level - a, 0.0) ** 3 / np.maximum(3.0 * (b - a) * (c - a), tiny)
        falling = level - (a + b + c) / 3.0
        falling = falling + np.maximum(c - level, 0.0) ** 3 / np.maximum(
            3.0 * (c - a) * (c - b), tiny
        )
        depth = np.where(level <= b, rising, falling)
        depth = np.where(level <= a, 0.0, depth)
        return float(self.shadow @ depth)

    def level_of(self, volume_m3: float) -> float:
        """Level at which it holds a volume. [m]

        Raises
        ------
        ConditionError
            More than it holds in all.
        """
        low, high = float(self.lowest.min()), float(self.highest.max())
        if not 0.0 <= volume_m3 <= self.volume_below(high) * (1.0 + 1e-9):
            raise ConditionError(
                f"{volume_m3 * 1e6:,.0f} ml do not fit: it holds "
                f"{self.volume_below(high) * 1e6:,.0f} ml.",
                "charge",
            )
        # Bisection with 40 halvings: to a millionth of a millionth of the height.
        for _ in range(40):
            half = (low + high) / 2.0
            if self.volume_below(half) < volume_m3:
                low = half
            else:
                high = half
        return (low + high) / 2.0


@dataclass(frozen=True, slots=True)
class RimTest:
    """Whether a charge stays in a tilted mould.

    Parameters
    ----------
    level_m : float
        Height of the liquid above the lowest place of the tilted mould; at the rim when it spills.
    rim_m : float
        Height of the lowest place of the rim. [m]
    holds_m3 : float
        What it holds up to there. [m^3]
    spills : bool
    largest_tilt : float
        The largest tilt this way that holds the charge, 0 when none does. [rad]
    skirt_m, ledge_m : float
        Skirt or ledge that would hold it at this tilt; 0 when it holds, infinite when none that can
        be built does. [m]
    up : tuple of 3 floats
        Which way is up, in the frame of the piece.
    level_along_m : float
        The level along that way, from the origin of the piece. [m]
    """

    level_m: float
    rim_m: float
    holds_m3: float
    spills: bool
    largest_tilt: float
    skirt_m: float
    ledge_m: float
    up: tuple[float, float, float]
    level_along_m: float


@dataclass(frozen=True, slots=True, eq=False)
class OpenMould:
    """A casting face with its largest opening up.

    Parameters
    ----------
    face, lids : Mesh
        Casting face, and flat lids on its openings. [m]
    rim : (n, 3) float
        Corners of the opening the liquid goes in by. [m]
    up : (3,) float
        Unit vector out of that opening.
    """

    face: Mesh
    lids: Mesh
    rim: Floats
    up: Floats

    def tilted(self, tilt: float, heading: float) -> Floats:
        """Return which way is up in the mould's own frame when it is tilted. Angles in [rad]."""
        first, second = square_to(self.up)
        aside = np.cos(heading) * first + np.sin(heading) * second
        return np.asarray(np.cos(tilt) * self.up - np.sin(tilt) * aside)

    def with_skirt(self, length_m: float) -> "OpenMould":
        """Return the mould with its rim drawn out straight by a length. [m]

        Raises
        ------
        ConditionError
            Less than nothing, or longer than `LONGEST_SKIRT_M`.
        """
        require_between(
            length_m, 0.0, LONGEST_SKIRT_M, name="The skirt", field="skirt", error=ConditionError,
            shown_in="mm", scale=1e3,
        )  # fmt: skip
        return self if length_m == 0.0 else self._drawn(self.rim + length_m * self.up)

    def with_ledge(self, width_m: float) -> "OpenMould":
        """Return the mould with its rim drawn inwards by a width, at its own height.

        Raises
        ------
        MeshFileError
            The ledge closes the opening, or divides it.
        """
        return self if width_m <= 0.0 else self._drawn(_inwards(self.rim, self.up, width_m))

    def _drawn(self, end: Floats) -> "OpenMould":
        count, size = len(self.rim), len(self.face.vertices)
        lower, upper = size + np.arange(count), size + count + np.arange(count)
        after = np.roll(np.arange(count), -1)
        band = np.r_[np.c_[lower, lower[after], upper[after]], np.c_[lower, upper[after], upper]]
        vertices = np.r_[self.face.vertices, self.rim, end]
        face = Mesh(vertices, np.r_[self.face.faces, band])
        lid = Mesh(
            np.r_[end, end.mean(axis=0, keepdims=True)],
            np.c_[np.arange(count), after, np.full(count, count)],
        )
        return OpenMould(face, lid, end, self.up)


def _inwards(rim: Floats, up: Floats, width_m: float) -> Floats:
    """Return for each corner of a rim the nearest place of the rim drawn inwards."""
    across = square_to(up)
    flat = rim @ across.T
    inner = _opening_of(rim, up).buffer(-width_m)
    if inner.geom_type != "Polygon" or inner.is_empty:
        raise MeshFileError(
            f"A ledge of {width_m * 1e3:g} mm closes or divides the opening; give less than "
            f"{widest_ledge(rim, up) * 1e3:.0f} mm.",
            "ledge",
        )
    border = inner.exterior
    nearest = [border.interpolate(border.project(shapely.Point(point))) for point in flat]
    moved = np.array([[point.x, point.y] for point in nearest])
    height = rim @ up
    return np.asarray(moved @ across + height[:, None] * up)


def _opening_of(rim: Floats, up: Floats) -> shapely.Polygon:
    """Return an opening seen from above; one that crosses itself as the largest of its parts."""
    seen = shapely.Polygon(rim @ square_to(up).T)
    if not seen.is_valid:
        parts = shapely.get_parts(seen.buffer(0.0))
        seen = max(parts, key=lambda part: part.area)
    return seen


def widest_ledge(rim: Floats, up: Floats) -> float:
    """Return the ledge that all but closes an opening: the radius of what fits into it. [m]"""
    return float(shapely.maximum_inscribed_circle(_opening_of(rim, up)).length)


_WIDEST_SHARE = 0.9


def rim_test(mould: OpenMould, volume_m3: float, tilt: float, heading: float) -> RimTest:
    """Test whether a volume stays in the mould.

    Parameters
    ----------
    mould : OpenMould
    volume_m3 : float
        Of the liquid. [m^3]
    tilt, heading : float
        From upright, and towards which side. [rad]

    Returns
    -------
    RimTest

    Raises
    ------
    ConditionError
        The volume is not positive, or the tilt beyond lying flat.
    """
    if not volume_m3 > 0.0 or not np.isfinite(volume_m3):
        raise ConditionError("The charge must be more than 0 ml.", "charge")
    if not 0.0 <= tilt <= np.pi / 2.0:
        raise ConditionError("The tilt is 0 to 90 degrees.", "tilt")
    up = mould.tilted(tilt, heading)
    vessel = Vessel.of(_closed(mould), up)
    rim = float((mould.rim @ up).min())
    holds = max(0.0, vessel.volume_below(rim))
    spills = volume_m3 > holds
    bottom = float(vessel.lowest.min())
    level = rim if spills else vessel.level_of(volume_m3)
    asked = (volume_m3, tilt, heading)
    return RimTest(
        level_m=level - bottom,
        rim_m=rim - bottom,
        holds_m3=holds,
        spills=spills,
        largest_tilt=_largest_tilt(mould, volume_m3, heading),
        skirt_m=_enough(mould.with_skirt, LONGEST_SKIRT_M, asked) if spills else 0.0,
        ledge_m=_enough(mould.with_ledge, _WIDEST_SHARE * widest_ledge(mould.rim, mould.up), asked)
        if spills
        else 0.0,
        up=(float(up[0]), float(up[1]), float(up[2])),
        level_along_m=level,
    )


def capacity(mould: OpenMould, tilt: float, heading: float) -> float:
    """Return what a tilted mould holds before it spills. [m^3]

    Parameters
    ----------
    mould : OpenMould
    tilt, heading : float
        How far from upright, and which way. [rad]

    Returns
    -------
    float
        [m^3]
    """
    up = mould.tilted(tilt, heading)
    return max(0.0, Vessel.of(_closed(mould), up).volume_below(float((mould.rim @ up).min())))


def rim_section(mould: OpenMould, tilt: float, heading: float) -> Floats:
    """Cut a tilted mould through the middle of its rim, along the way it is tilted.

    Parameters
    ----------
    mould : OpenMould
    tilt, heading : float
        How far from upright, and which way. [rad]

    Returns
    -------
    (n, 2, 2) float
        Straight pieces as (across, up), from the lowest place of the mould and the cut's middle.
        [m]
    """
    up = mould.tilted(tilt, heading)
    # Across is where the tilt goes; the cut's plane holds it and up.
    flat = mould.tilted(np.pi / 2.0, heading)
    square = np.cross(mould.up, flat)
    across = np.cross(square, up)
    middle = mould.rim.mean(axis=0)
    pieces = section(mould.face, square, float(middle @ square))
    bottom = float((mould.face.vertices @ up).min())
    return np.stack([(pieces - middle) @ across, pieces @ up - bottom], axis=-1)


def _closed(mould: OpenMould) -> Mesh:
    size = len(mould.face.vertices)
    return Mesh(
        np.r_[mould.face.vertices, mould.lids.vertices],
        np.r_[mould.face.faces, mould.lids.faces + size],
    )


def _largest_tilt(mould: OpenMould, volume_m3: float, heading: float) -> float:
    if capacity(mould, 0.0, heading) < volume_m3:
        return 0.0
    low, high = 0.0, np.pi / 2.0
    if capacity(mould, high, heading) >= volume_m3:
        return high
    for _ in range(20):
        half = (low + high) / 2.0
        if capacity(mould, half, heading) >= volume_m3:
            low = half
        else:
            high = half
    return low


def _enough(
    built: Callable[[float], OpenMould], most: float, asked: tuple[float, float, float]
) -> float:
    """Return the least length built on a mould that holds what is asked; infinite when none does.

    Parameters
    ----------
    built : callable
        The mould with a length [m] built on.
    most : float
        The longest that can be built. [m]
    asked : tuple of 3 floats
        Volume, tilt and heading. [m^3], [rad]
    """
    volume_m3, tilt, heading = asked
    if capacity(built(most), tilt, heading) < volume_m3:
        return float("inf")
    low, high = 0.0, most
    for _ in range(12):
        half = (low + high) / 2.0
        if capacity(built(half), tilt, heading) >= volume_m3:
            high = half
        else:
            low = half
    return high


def level_curve(mould: OpenMould, tilt: float, heading: float, count: int = 33) -> Floats:
    """Return how much a tilted mould holds up to even levels, from empty to its rim.

    Parameters
    ----------
    mould : OpenMould
    tilt, heading : float
        How far from upright, and which way. [rad]
    count : int
        Levels.

    Returns
    -------
    (count, 2) float
        Height above the lowest place and volume. [m], [m^3]
    """
    up = mould.tilted(tilt, heading)
    vessel = Vessel.of(_closed(mould), up)
    bottom, rim = float(vessel.lowest.min()), float((mould.rim @ up).min())
    levels = np.linspace(bottom, max(rim, bottom), count)
    volumes = np.array([max(0.0, vessel.volume_below(level)) for level in levels])
    return np.stack([levels - bottom, np.maximum.accumulate(volumes)], axis=1)


def liquid_surface(mould: OpenMould, tested: RimTest) -> Floats:
    """Return the flat top of the liquid in a tested mould as triangles.

    Returns
    -------
    (n, 3, 3) float
        In the frame of the piece. [m]
    """
    up = np.array(tested.up)
    across = square_to(up)
    cut = section(_closed(mould), up, tested.level_along_m) @ across.T
    # The same place met from two faces differs in its last bits.
    lines = shapely.linestrings(np.round(cut, 9))
    found = shapely.polygonize([line for line in lines if line.length > 0.0])
    pieces = shapely.get_parts(shapely.constrained_delaunay_triangles(found))
    triangles = [np.array(part.exterior.coords)[:3] for part in shapely.get_parts(pieces)]
    if not triangles:
        return np.zeros((0, 3, 3))
    return np.asarray(np.stack(triangles) @ across + tested.level_along_m * up)
