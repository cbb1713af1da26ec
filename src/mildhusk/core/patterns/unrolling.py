"""Laying curved things flat: strips exactly, sheets by the cylinder or cone that fits best."""

from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Floats

_CONE_FROM = np.tan(np.radians(0.5))
"""A cone that opens by less is taken for a cylinder. [1]"""
_APEX_OFF = 0.15
"""A cone's tip is no nearer than this share of the size of what lies on it. [1]"""
_OPEN_BY = np.radians(60.0)
"""What lies on a cone leaves at least so much of its round free."""
_TURNS = 6
# The starts are compared on a few of the points and roughly, the best is fitted to more of them.
_COMPARED_POINTS, _FITTED_POINTS, _COMPARED_TO, _FITTED_TO = 300, 3000, 1e-4, 1e-8


def unroll_strip(upper: Floats, lower: Floats) -> tuple[Floats, Floats]:
    """Lay a strip of flat quarters between two lines in the plane, without stretching it.

    Parameters
    ----------
    upper, lower : (n, 3) float
        Points that lie opposite each other on its two edges. [m]

    Returns
    -------
    upper, lower : (n, 2) float
        Its edges in the plane: the first point of the upper edge at the origin, the strip below
        it. [m]

    Notes
    -----
    Triangle by triangle, each laid beside the last by its three sides: the strip of triangles keeps
    every length. It departs from a smooth strip by the square of the distance of the points.
    """
    count = len(upper)
    flat_upper, flat_lower = np.zeros((count, 2)), np.zeros((count, 2))
    flat_lower[0] = (0.0, -float(np.linalg.norm(upper[0] - lower[0])))
    for at in range(count - 1):
        flat_upper[at + 1] = _third(
            flat_lower[at], flat_upper[at],
            _distance(lower[at], upper[at + 1]), _distance(upper[at], upper[at + 1]),
        )  # fmt: skip
        flat_lower[at + 1] = _third(
            flat_lower[at], flat_upper[at + 1],
            _distance(lower[at], lower[at + 1]), _distance(upper[at + 1], lower[at + 1]),
        )  # fmt: skip
    return flat_upper, flat_lower


def _distance(one: Floats, other: Floats) -> float:
    return float(np.linalg.norm(one - other))


def _third(a: Floats, b: Floats, from_a: float, from_b: float) -> Floats:
    """Return the corner of a triangle on the right of the side from a to b, by its two sides."""
    side = b - a
    long = float(np.hypot(*side))
    if long < 1e-12:
        return np.asarray(a + np.array([from_a, 0.0]))
    along = (from_a**2 - from_b**2 + long**2) / (2.0 * long)
    high = np.sqrt(max(from_a**2 - along**2, 0.0))
    unit = side / long
    return np.asarray(a + along * unit + high * np.array([unit[1], -unit[0]]))


@dataclass(frozen=True, slots=True, eq=False)
class Bend:
    """A sheet bent one way: a flat one, a cylinder or a cone.

    Parameters
    ----------
    on : (3,) float
        A place on it. [m]
    outward, axis : (3,) float
        Square off the axis there; along the axis. Unit vectors, square to each other.
    curvature : float
        One over its radius there; nought where it is flat. [1/m]
    slope : float
        By how much the radius grows along the axis; nought of a cylinder. [1]
    """

    on: Floats
    outward: Floats
    axis: Floats
    curvature: float
    slope: float

    @property
    def is_cone(self) -> bool:
        """Whether it narrows to a tip."""
        return abs(self.slope) >= _CONE_FROM and abs(self.curvature) > 1e-9

    def gaps(self, points: Floats) -> Floats:
        """Return how far points lie outside it, (n,). [m]"""
        v, s = self._seen(points)
        k, n = self.curvature, v @ self.outward
        # The distance from a circle that stays exact as its radius grows without end.
        square = np.einsum("ij,ij->i", v, v)
        root = np.sqrt(np.maximum(1.0 + 2.0 * k * n + k * k * square, 0.0))
        off = (k * square + 2.0 * n) / (1.0 + root)
        return np.asarray((off - self.slope * s) / np.hypot(1.0, self.slope))

    def flat(self, points: Floats) -> Floats:
        """Return points laid flat with it, (n, 2): round the axis, along it. [m]"""
        v, s = self._seen(points)
        k, n = self.curvature, v @ self.outward
        t = v @ np.cross(self.axis, self.outward)
        if abs(k) < 1e-9:
            return np.asarray(np.c_[t, s])
        angle = np.arctan2(k * t, 1.0 + k * n)
        if not self.is_cone:
            return np.asarray(np.c_[angle / k, s])
        sine = self.slope / np.hypot(1.0, self.slope)
        cosine = 1.0 / np.hypot(1.0, self.slope)
        radius = np.hypot(k * t, 1.0 + k * n) / abs(k) * np.sign(k)
        slant = (s + 1.0 / (k * self.slope)) * cosine + radius * sine
        turned = angle * sine
        middle = cosine / (k * self.slope) + sine / k
        return np.asarray(np.c_[slant * np.sin(turned), slant * np.cos(turned) - middle])

    def least_radius(self, points: Floats) -> float:
        """Return the smallest radius it is bent to where points lie on it. [m]"""
        if abs(self.curvature) < 1e-9:
            return np.inf
        _, s = self._seen(points)
        # The bend is square to the sheet, not to the axis.
        radius = np.abs(1.0 / self.curvature + self.slope * s) * np.hypot(1.0, self.slope)
        return float(radius.min())

    def _seen(self, points: Floats) -> tuple[Floats, Floats]:
        off = points - self.on
        s = off @ self.axis
        return off - s[:, None] * self.axis, s


def best_bend(points: Floats, out: Floats) -> Bend:
    """Find the flat sheet, cylinder or cone that fits points best.

    Parameters
    ----------
    points : (n, 3) float
        [m]
    out : (3,) float
        Roughly off the face there.

    Returns
    -------
    Bend
        A cone only where it fits clearly better than a cylinder.

    Raises
    ------
    PatternError
        Points that lie on one line or in one place.

    Notes
    -----
    Least squares of the distance, from several directions of the axis. The distance is written in
    the curvature, so that a flat sheet is no special case. On a ball every direction is as good as
    the next, and a close fit crawls along them: the starts are compared roughly.
    """
    middle = points.mean(axis=0)
    _, spread, ways = np.linalg.svd(points - middle, full_matrices=False)
    if len(points) < 6 or spread[1] < 1e-6 * max(spread[0], 1e-9) or spread[0] == 0.0:
        raise PatternError("The edge is a line or a point; nothing can be bent to it.", "edge")
    size = float(np.ptp((points - middle) @ ways[0]))
    first = out - 0.0
    first /= np.linalg.norm(first)
    frame = _frame(first)
    few, many = (points[:: max(len(points) // n, 1)] for n in (_COMPARED_POINTS, _FITTED_POINTS))

    def fitted(starts: list[Floats]) -> tuple[float, Floats]:
        rough = (_fitted(few, middle, frame, size, one, _COMPARED_TO) for one in starts)
        _, near = min(rough, key=lambda one: one[0])
        return _fitted(many, middle, frame, size, near, _FITTED_TO)

    turns = np.pi * np.arange(_TURNS) / _TURNS
    best = fitted([np.array([0.0, 0.0, 0.0, turn, bent]) for turn in turns for bent in (2.0, -2.0)])
    cone = fitted([np.r_[best[1], lean] for lean in (0.3, -0.3)])
    made = _bend(cone[1], middle, frame, size)
    if cone[0] < 0.6 * best[0] and made.is_cone and _tip_is_off(made, points, size):
        return made
    return _bend(best[1], middle, frame, size)


def _tip_is_off(bend: Bend, points: Floats, size: float) -> bool:
    """Whether a cone's tip is beside what lies on it: neither in it, nor encircled by it."""
    v, s = bend._seen(points)
    tip = -1.0 / (bend.curvature * bend.slope)
    if np.abs(np.sign(s - tip).sum()) < len(s) or np.abs(s - tip).min() <= _APEX_OFF * size:
        return False
    k = bend.curvature
    across = v @ np.cross(bend.axis, bend.outward)
    angle = np.sort(np.arctan2(k * across, 1.0 + k * (v @ bend.outward)))
    return bool(np.diff(np.r_[angle, angle[0] + 2.0 * np.pi]).max() > _OPEN_BY)


def _fitted(
    points: Floats, middle: Floats, frame: Floats, size: float, start: Floats, tolerance: float
) -> tuple[float, Floats]:
    def gaps(values: Floats) -> Floats:
        return np.asarray(_bend(values, middle, frame, size).gaps(points) / size)

    found = least_squares(gaps, start, method="lm", xtol=tolerance, ftol=tolerance, gtol=tolerance)
    return float(found.cost), found.x


def _bend(values: Floats, middle: Floats, frame: Floats, size: float) -> Bend:
    """Return a bend of its free values: height, two tilts, turn of the axis, curvature, slope."""
    height, tilt, tip, turn, bent = values[:5]
    outward = frame[0] + tilt * frame[1] + tip * frame[2]
    outward = outward / np.linalg.norm(outward)
    across = np.cos(turn) * frame[1] + np.sin(turn) * frame[2]
    axis = across - (across @ outward) * outward
    axis = axis / np.linalg.norm(axis)
    slope = float(values[5]) if len(values) > 5 else 0.0
    return Bend(middle + height * size * frame[0], outward, axis, float(bent) / size, slope)


def _frame(out: Floats) -> Floats:
    helper = np.eye(3)[np.abs(out).argmin()]
    first = np.cross(out, helper)
    first /= np.linalg.norm(first)
    return np.array([out, first, np.cross(out, first)])
