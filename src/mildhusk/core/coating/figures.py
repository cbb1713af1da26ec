"""Statistics of a wall by area: mean, percentiles, the share that is too thin, its centre."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.geometry.mesh import Flags, Floats

THICK = 1.5
"""Wall beyond so many times the median is thick; within one coat it is a puddle. [1]"""


@dataclass(frozen=True, slots=True)
class WallFigures:
    """Statistics of a wall by area, without lids. [m], [1], [kg]"""

    mean_m: float
    p01_m: float
    p05_m: float
    p50_m: float
    p95_m: float
    min_m: float
    max_m: float
    under_target: float
    cast_kg: float


def wall_figures(
    grid: CoatGrid, wall_m: Floats, target_m: float, density: float, waste: Flags | None = None
) -> WallFigures:
    """Return mean, percentiles by area and the share of the face under a target.

    Parameters
    ----------
    grid : CoatGrid
    wall_m : (m,) float
        [m]
    target_m : float
        [m]
    density : float
        [kg/m^3]
    waste : (m,) bool or None
        Faces that are cut away later, and not looked at.

    Returns
    -------
    WallFigures
    """
    on_face = ~grid.lid if waste is None else ~grid.lid & ~waste
    wall, area = wall_m[on_face], grid.area[on_face]
    p01_m, p05_m, p50_m, p95_m = wall_percentiles(wall, area, 0.01, 0.05, 0.5, 0.95)
    return WallFigures(
        mean_m=float((wall * area).sum() / area.sum()),
        p01_m=p01_m,
        p05_m=p05_m,
        p50_m=p50_m,
        p95_m=p95_m,
        min_m=float(wall.min()),
        max_m=float(wall.max()),
        under_target=float(area[wall < target_m].sum() / area.sum()),
        cast_kg=float((wall * area).sum() * density),
    )


def wall_percentiles(wall_m: Floats, area_m2: Floats, *shares: float) -> list[float]:
    """Return percentiles of the wall by area. [m]

    Parameters
    ----------
    wall_m : (m,) float
        [m]
    area_m2 : (m,) float
        [m^2]
    *shares : float
        Of the area, between 0 and 1. [1]

    Returns
    -------
    list of float
        One wall a share. [m]
    """
    order = np.argsort(wall_m)
    below = (np.cumsum(area_m2[order]) - 0.5 * area_m2[order]) / area_m2.sum()
    return [float(np.interp(share, below, wall_m[order])) for share in shares]


def puddle_m3(grid: CoatGrid, wall_m: Floats) -> float:
    """Return the volume of the puddles of a wall: all that lies higher than `THICK` says.

    Parameters
    ----------
    grid : CoatGrid
    wall_m : (m,) float
        As volume per area. [m]

    Returns
    -------
    float
        [m^3]
    """
    on_face = ~grid.lid
    wall, area = wall_m[on_face], grid.area[on_face]
    (median_m,) = wall_percentiles(wall, area, 0.5)
    return float(np.maximum(wall - THICK * median_m, 0.0) @ area)


def centre_of_mass(grid: CoatGrid, volume_per_area_m: Floats, wall_m: Floats) -> Floats:
    """Return the centre of mass of a wall.

    Parameters
    ----------
    grid : CoatGrid
    volume_per_area_m, wall_m : (m,) float
        [m]

    Returns
    -------
    (3,) float
        [m]
    """
    mass = np.where(grid.lid, 0.0, volume_per_area_m * grid.area)
    middle = grid.centre - 0.5 * wall_m[:, None] * grid.normal
    return np.asarray((middle * mass[:, None]).sum(axis=0) / max(mass.sum(), 1e-300))
