"""Where a wall is thin or thick, named by where on the piece it is."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.geometry.mesh import Flags, Floats

_LEAST_M2 = 1e-4
"""A place smaller than a thumbnail is not told."""
_AT_RIM, _DEEPEST = 0.12, 0.88
_STANDS_OUT = 1.45
"""So many times further from the middle than half of the face is, it is a tip."""
_AXES = ("x", "y", "z")


@dataclass(frozen=True, slots=True)
class Place:
    """A place of the wall.

    Parameters
    ----------
    name : str
        By its depth under the opening and the side it lies to.
    at_m : tuple of 3 floats
        Its middle. [m]
    area_m2, wall_m : float
        Its size, and the mean wall there. [m^2], [m]
    """

    name: str
    at_m: tuple[float, float, float]
    area_m2: float
    wall_m: float


def thin_places(grid: CoatGrid, wall_m: Floats, target_m: float, most: int = 4) -> list[Place]:
    """Return the places under a target, the largest first."""
    return _places(grid, wall_m, (wall_m < target_m) & ~grid.lid, most)


def thick_places(grid: CoatGrid, wall_m: Floats, above_m: float, most: int = 3) -> list[Place]:
    """Return the places over a wall, the largest first."""
    return _places(grid, wall_m, (wall_m > above_m) & ~grid.lid, most)


def _places(grid: CoatGrid, wall_m: Floats, marked: Flags, most: int) -> list[Place]:
    face, edge = np.nonzero(grid.neighbour >= 0)
    other = grid.neighbour[face, edge]
    both = marked[face] & marked[other]
    size = len(marked)
    joined = coo_matrix((np.ones(both.sum()), (face[both], other[both])), shape=(size, size))
    _, group = connected_components(joined, directed=False)
    area = np.bincount(group[marked], grid.area[marked], minlength=size)
    found = []
    for one in np.argsort(-area)[:most]:
        if area[one] < _LEAST_M2:
            break
        inside = marked & (group == one)
        weight = grid.area[inside] / area[one]
        middle = weight @ grid.centre[inside]
        found.append(
            Place(
                name_of(grid, middle),
                (float(middle[0]), float(middle[1]), float(middle[2])),
                float(area[one]),
                float(weight @ wall_m[inside]),
            )
        )
    return found


def name_of(grid: CoatGrid, point: Floats) -> str:
    """Return words for a point: how deep under the opening, and to which side.

    A closed piece has no opening: then it goes by height.
    """
    depth = -(grid.centre @ grid.out)
    low, high = float(depth.min()), float(depth.max())
    share = (-float(point @ grid.out) - low) / max(high - low, 1e-12)
    opened = ("at the rim", "half-way in", "deepest")
    closed = ("at the top", "at mid-height", "lowest")
    words = opened if grid.is_open or grid.lid.any() else closed
    deep = words[int(share >= _AT_RIM) + int(share > _DEEPEST)]
    middle = 0.5 * (grid.centre.min(axis=0) + grid.centre.max(axis=0))
    away = np.linalg.norm(grid.centre - middle, axis=1)
    if np.linalg.norm(point - middle) > _STANDS_OUT * float(np.median(away)):
        deep += ", at a tip"
    aside = (point - middle) - ((point - middle) @ grid.out) * grid.out
    axis = int(np.argmax(np.abs(aside)))
    if abs(aside[axis]) < 0.1 * float(np.ptp(grid.centre[:, axis])):
        return f"{deep}, in the middle"
    return f"{deep}, towards {'+' if aside[axis] > 0.0 else '-'}{_AXES[axis]}"
