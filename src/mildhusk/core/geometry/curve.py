"""V(t) as a table: what a measured piece keeps of it."""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class VolumeCurve:
    """V(t) as a table, and how far it may be wrong.

    Parameters
    ----------
    walls_m, volumes_m3 : tuple of float
        Rising from zero. [m], [m^3]
    relative_error : float
        Of the discretisation at a wall of 2 mm: twice the standard error between the eight coarser
        grids inside the one it was made of. [1]
    point_m : float
        Distance of the points at which it was measured. [m]
    centres_m : tuple of tuples of 3 floats
        Centre of mass of each wall but the first, which is none. [m]
    """

    walls_m: tuple[float, ...]
    volumes_m3: tuple[float, ...]
    relative_error: float
    point_m: float
    centres_m: tuple[tuple[float, float, float], ...] = ()

    @property
    def thickest_m(self) -> float:
        """Where the table ends. [m]"""
        return self.walls_m[-1]

    def volume(self, wall_m: float) -> float:
        """Volume of a wall, between the rows of the table. [m^3]"""
        return float(np.interp(wall_m, self.walls_m, self.volumes_m3))

    def slope(self, wall_m: float) -> float:
        """Area of the inside of a wall, V'(t). [m^2]"""
        step = self.walls_m[1]
        low, high = max(0.0, wall_m - step), min(self.thickest_m, wall_m + step)
        return (self.volume(high) - self.volume(low)) / (high - low)

    def centre(self, wall_m: float) -> tuple[float, float, float] | None:
        """Centre of mass of a wall; None for a curve of an earlier version. [m]"""
        if not self.centres_m:
            return None
        x, y, z = (
            float(np.interp(wall_m, self.walls_m[1:], along))
            for along in zip(*self.centres_m, strict=True)
        )
        return (x, y, z)
