"""Where a wall is thin or thick, named by where on the piece it is."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from mildhusk.core.coating.figures import wall_percentiles
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.naming import names_of
from mildhusk.core.geometry.mesh import Flags, Floats

COIN_M2 = 3e-4
"""A place smaller than a coin 20 mm across is not told (common practice, no source). [m^2]"""
_NEARLY_ALL, _THINNEST = 0.4, 0.1
"""If more than the first share of the face is too thin, only its thinnest, the second, is told."""


@dataclass(frozen=True, slots=True)
class Place:
    """A place of the wall.

    Parameters
    ----------
    name : str
        See `naming`.
    at_m : tuple of 3 floats
        Where it is thinnest, or thickest. [m]
    area_m2, wall_m : float
        Its size, and the mean wall there. [m^2], [m]
    """

    name: str
    at_m: tuple[float, float, float]
    area_m2: float
    wall_m: float


def thin_line(grid: CoatGrid, wall_m: Floats, target_m: float) -> float:
    """Return below which wall a place is told as thin: the target, lower where most is thin. [m]

    Parameters
    ----------
    grid : CoatGrid
    wall_m : (m,) float
        [m]
    target_m : float
        [m]

    Returns
    -------
    float
        [m]
    """
    judged = ~grid.lid & np.isfinite(wall_m)
    wall, area = wall_m[judged], grid.area[judged]
    if area[wall < target_m].sum() <= _NEARLY_ALL * area.sum():
        return target_m
    return wall_percentiles(wall, area, _THINNEST)[0]


def thin_places(grid: CoatGrid, wall_m: Floats, target_m: float, most: int = 4) -> list[Place]:
    """Return the places under a target, the largest first.

    Parameters
    ----------
    grid : CoatGrid
    wall_m : (m,) float
        [m]
    target_m : float
        [m]
    most : int
        That are told.

    Returns
    -------
    list of Place
    """
    return _places(grid, wall_m, (wall_m < target_m) & ~grid.lid, -wall_m, most)


def thick_places(grid: CoatGrid, wall_m: Floats, above_m: float, most: int = 3) -> list[Place]:
    """Return the places over a wall, the largest first.

    Parameters
    ----------
    grid : CoatGrid
    wall_m : (m,) float
        [m]
    above_m : float
        [m]
    most : int
        That are told.

    Returns
    -------
    list of Place
    """
    return _places(grid, wall_m, (wall_m > above_m) & ~grid.lid, wall_m, most)


def _places(grid: CoatGrid, wall_m: Floats, marked: Flags, worst: Floats, most: int) -> list[Place]:
    face, edge = np.nonzero(grid.neighbour >= 0)
    other = grid.neighbour[face, edge]
    both = marked[face] & marked[other]
    size = len(marked)
    joined = coo_matrix((np.ones(both.sum()), (face[both], other[both])), shape=(size, size))
    _, group = connected_components(joined, directed=False)
    area = np.bincount(group[marked], grid.area[marked], minlength=size)
    found: list[Place] = []
    if not marked.any():
        return found
    names = names_of(grid)
    for one in np.argsort(-area)[:most]:
        if area[one] < COIN_M2:
            break
        inside = marked & (group == one)
        # Not its middle: that of a ring is not on it.
        at = grid.centre[int(np.argmax(np.where(inside, worst, -np.inf)))]
        found.append(
            Place(
                names.of(at),
                (float(at[0]), float(at[1]), float(at[2])),
                float(area[one]),
                float(grid.area[inside] @ wall_m[inside]) / float(area[one]),
            )
        )
    return found


def coin_means(grid: CoatGrid, wall_m: Floats) -> Floats:
    """Return the mean wall round each face over a place as large as a coin.

    Parameters
    ----------
    grid : CoatGrid
    wall_m : (m,) float
        Infinite where it is not judged. [m]

    Returns
    -------
    (m,) float
        Infinite where it is not judged, and on lids. [m]
    """
    judged = np.flatnonzero(~grid.lid & np.isfinite(wall_m))
    tree = cKDTree(grid.centre[judged])
    one, other = tree.query_pairs(math.sqrt(COIN_M2 / math.pi), output_type="ndarray").T
    area = grid.area[judged]
    volume = wall_m[judged] * area

    def round_each(of: Floats) -> Floats:
        count = len(judged)
        return of + np.bincount(one, of[other], count) + np.bincount(other, of[one], count)

    means = np.full(len(wall_m), np.inf)
    means[judged] = round_each(volume) / round_each(area)
    return means
