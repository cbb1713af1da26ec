"""How high a liquid stands in a tilted mould, how much it holds, and whether it spills."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.errors import ConditionError
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.sections import section


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
    skirt_m : float
        Skirt that would hold it at this tilt; 0 when it holds, infinite beyond half a metre. [m]
    """

    level_m: float
    rim_m: float
    holds_m3: float
    spills: bool
    largest_tilt: float
    skirt_m: float


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
        helper = np.eye(3)[np.abs(self.up).argmin()]
        first = np.cross(self.up, helper)
        first /= np.linalg.norm(first)
        second = np.cross(self.up, first)
        aside = np.cos(heading) * first + np.sin(heading) * second
        return np.asarray(np.cos(tilt) * self.up - np.sin(tilt) * aside)

    def with_skirt(self, length_m: float) -> "OpenMould":
        """Return the mould with its rim drawn out straight by a length."""
        if length_m <= 0.0:
            return self
        out = self.rim + length_m * self.up
        count, size = len(self.rim), len(self.face.vertices)
        lower, upper = size + np.arange(count), size + count + np.arange(count)
        after = np.roll(np.arange(count), -1)
        band = np.r_[np.c_[lower, lower[after], upper[after]], np.c_[lower, upper[after], upper]]
        vertices = np.r_[self.face.vertices, self.rim, out]
        face = Mesh(vertices, np.r_[self.face.faces, band])
        lid = Mesh(
            np.r_[out, out.mean(axis=0, keepdims=True)],
            np.c_[np.arange(count), after, np.full(count, count)],
        )
        return OpenMould(face, lid, out, self.up)


LONGEST_SKIRT_M = 0.5
"""A longer skirt is no help any more; a bung is."""


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
    return RimTest(
        level_m=level - bottom,
        rim_m=rim - bottom,
        holds_m3=holds,
        spills=spills,
        largest_tilt=_largest_tilt(mould, volume_m3, heading),
        skirt_m=_skirt(mould, volume_m3, tilt, heading) if spills else 0.0,
    )


def capacity(mould: OpenMould, tilt: float, heading: float) -> float:
    """Return what a tilted mould holds before it spills. [m^3]"""
    up = mould.tilted(tilt, heading)
    return max(0.0, Vessel.of(_closed(mould), up).volume_below(float((mould.rim @ up).min())))


def rim_section(mould: OpenMould, tilt: float, heading: float) -> Floats:
    """Cut a tilted mould through the middle of its rim, along the way it is tilted.

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


def _skirt(mould: OpenMould, volume_m3: float, tilt: float, heading: float) -> float:
    if capacity(mould.with_skirt(LONGEST_SKIRT_M), tilt, heading) < volume_m3:
        return float("inf")
    low, high = 0.0, LONGEST_SKIRT_M
    for _ in range(16):
        half = (low + high) / 2.0
        if capacity(mould.with_skirt(half), tilt, heading) >= volume_m3:
            high = half
        else:
            low = half
    return high
