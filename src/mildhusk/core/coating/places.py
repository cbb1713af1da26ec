"""Where a wall is thin or thick, named by where on the piece it is."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from mildhusk.core.coating.figures import wall_percentiles
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.geometry.mesh import Flags, Floats

_LEAST_M2 = 1e-4
"""A place smaller than a thumbnail is not told."""
_NEARLY_ALL, _THINNEST = 0.4, 0.1
"""If more than the first share of the face is too thin, only its thinnest, the second, is told."""
_AT_RIM, _DEEPEST = 0.12, 0.88
_STANDS_OUT = 1.45
"""A tip lies at this multiple of the median distance from the middle, or beyond. [1]"""
_AXES = ("x", "y", "z")


@dataclass(frozen=True, slots=True)
class Place:
    """A place of the wall.

    Parameters
    ----------
    name : str
        See `name_of`.
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
    found = []
    for one in np.argsort(-area)[:most]:
        if area[one] < _LEAST_M2:
            break
        inside = marked & (group == one)
        # Not its middle: that of a ring is not on it.
        at = grid.centre[int(np.argmax(np.where(inside, worst, -np.inf)))]
        found.append(
            Place(
                name_of(grid, at),
                (float(at[0]), float(at[1]), float(at[2])),
                float(area[one]),
                float(grid.area[inside] @ wall_m[inside]) / float(area[one]),
            )
        )
    return found


def name_of(grid: CoatGrid, point: Floats) -> str:
    """Return words for a point, by where on the piece it is.

    A shell that opens to a side, standing upright along z, is named as a face that looks away from
    its opening; what it really shows is not known. Another goes by how deep under its opening a
    place is, and a closed one by its height; then to which side.
    """
    middle = 0.5 * (grid.centre.min(axis=0) + grid.centre.max(axis=0))
    away = np.linalg.norm(grid.centre - middle, axis=1)
    tip = bool(np.linalg.norm(point - middle) > _STANDS_OUT * float(np.median(away)))
    has_opening = grid.is_open or bool(grid.lid.any())
    if has_opening and abs(grid.out[2]) < _UPRIGHT:
        return _on_a_face(grid, point)
    deep = _share(-(grid.centre @ grid.out), -float(point @ grid.out))
    opened = ("at the rim", "half-way in", "at the crown" if grid.out[2] < 0.0 else "deepest")
    closed = ("at the top", "at mid-height", "lowest")
    word = (opened if has_opening else closed)[int(deep >= _AT_RIM) + int(deep > _DEEPEST)]
    if tip and deep >= _AT_RIM:
        word += ", at a tip"
    aside = (point - middle) - ((point - middle) @ grid.out) * grid.out
    axis = int(np.argmax(np.abs(aside)))
    if abs(aside[axis]) < 0.1 * float(np.ptp(grid.centre[:, axis])):
        return f"{word}, in the middle"
    return f"{word}, towards {'+' if aside[axis] > 0.0 else '-'}{_AXES[axis]}"


_UPRIGHT = 0.6
"""The opening of a face looks to the side: its direction rises no more than this."""
_HEIGHTS = (
    (0.15, "chin", "jaw"),
    (0.35, "mouth", "jaw"),
    (0.58, "nose", "cheek"),
    (0.82, "brow", "temple"),
    (math.inf, "top", "top"),
)
"""Up to which share of its height a face has what, in the middle and aside (assumed)."""
_BEAK_FROM, _BEAK_LESS = 0.7, 0.2
"""What is so far in front and so little of the face is a beak; of half a ball it is 30 %."""
_ASIDE, _SIDEWAYS = 0.18, 0.06
"""So far from its middle, as a share of its width, a place is aside; and then to a side of it."""


def _on_a_face(grid: CoatGrid, point: Floats) -> str:
    up = np.array([0.0, 0.0, 1.0]) - grid.out[2] * grid.out
    up /= np.linalg.norm(up)
    # To the right of somebody who looks at its front.
    right = np.cross(grid.out, up)
    tall = _share(grid.centre @ up, float(point @ up))
    across = _share(grid.centre @ right, float(point @ right)) - 0.5
    depth = -(grid.centre @ grid.out)
    deep = _share(depth, -float(point @ grid.out))
    _, word, aside = next(one for one in _HEIGHTS if tall <= one[0])
    if abs(across) > _ASIDE:
        word = aside
    in_front = depth > depth.min() + _BEAK_FROM * np.ptp(depth)
    if deep > _DEEPEST and grid.area[in_front].sum() < _BEAK_LESS * grid.area.sum():
        word = "tip of the nose or beak"
    said = f"{word}, by the rim" if deep < _AT_RIM else word
    if abs(across) > _SIDEWAYS:
        said += f", {'right' if across > 0.0 else 'left'} as it looks at you"
    return said


def _share(of: Floats, one: float) -> float:
    """Return where a value lies between the least and the greatest, from 0 to 1."""
    low, high = float(of.min()), float(of.max())
    return (one - low) / max(high - low, 1e-12)
