"""Readings of the wall of a cast, and the wall between them."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import InputError
from mildhusk.core.geometry.mesh import Floats

_REACH_M = 0.05
"""So far from a reading its difference is felt (assumed). [m]"""
_COMMON, _LOCAL, _READ = 0.15, 0.2, 0.06
"""Standard deviations of ln(read / simulated): of a cast, a place, a reading (assumed)."""
LEAST_WALL_M, MOST_WALL_M = 5e-5, 0.05
"""A wall beyond these is none. [m]"""


class ReadBy(StrEnum):
    """How a wall was read."""

    CALIPER = "caliper"
    """At a cut-out."""
    HOLE = "hole"
    """Through a drilled hole."""
    MAGNET = "magnet"
    """With a gauge on one side and a magnet on the other."""
    LIGHT = "light"
    """Whether light comes through."""


@dataclass(frozen=True, slots=True)
class WallReading:
    """A reading of the wall at a place.

    Parameters
    ----------
    by : ReadBy
    wall_m : float or None
        None where only light was looked for. [m]
    light : bool or None
        It comes through; None where that was not looked for.
    simulated_m : float or None
        The simulated wall of the place; None where nothing was simulated. [m]
    cast_kg : float or None
        Of the simulated cast. [kg]

    Raises
    ------
    InputError
        A wall that cannot be, or a reading of nothing.
    """

    by: ReadBy
    wall_m: float | None = within(Bounds(LEAST_WALL_M, MOST_WALL_M, "The wall", "mm", 1e3), None)
    light: bool | None = None
    simulated_m: float | None = None
    cast_kg: float | None = None

    def __post_init__(self) -> None:
        check_bounds(self, InputError)
        if (self.light is None) if self.by is ReadBy.LIGHT else (self.wall_m is None):
            asked = "whether light comes through" if self.by is ReadBy.LIGHT else "the wall"
            raise InputError(f"Say {asked}.", "light" if self.by is ReadBy.LIGHT else "wall_m")


def read_ratio(places: Floats, ratios: Sequence[float], at: Floats) -> Floats:
    """Return by how much the wall was read thicker than simulated, between the readings too.

    Parameters
    ----------
    places : (n, 3) float
        Of the readings. [m]
    ratios : sequence of n float
        Read over simulated wall there. [1]
    at : (m, 3) float
        Where it is wanted. [m]

    Returns
    -------
    (m,) float
        The exponential of the posterior mean of ln(ratio): a Gaussian process with what is common
        to the whole cast, what is common to a place, and the noise of a reading. [1]

    References
    ----------
    C. E. Rasmussen and C. K. I. Williams, Gaussian Processes for Machine Learning (2006), 2.2.
    """
    whole = _covariance(places, places) + _READ**2 * np.eye(len(places))
    weights = np.linalg.solve(whole, np.log(np.asarray(ratios, float)))
    return np.asarray(np.exp(_covariance(at, places) @ weights))


def _covariance(some: Floats, others: Floats) -> Floats:
    far2 = ((some[:, None] - others[None]) ** 2).sum(axis=2)
    return np.asarray(_COMMON**2 + _LOCAL**2 * np.exp(-0.5 * far2 / _REACH_M**2))
