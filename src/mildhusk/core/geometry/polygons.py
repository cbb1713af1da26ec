"""Faces of many corners as triangles, whichever corner they begin at."""

from collections.abc import Sequence

import numpy as np
import shapely

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.mesh import Floats, Integers

_SQUARE = 4


def triangulated(points: Floats, polygons: Sequence[Sequence[int]] | Integers) -> Integers:
    """Divide polygons into triangles.

    Parameters
    ----------
    points : (n, 3) float
        Any length unit.
    polygons : sequence of sequences of int, or (m, k) int
        The corners of each, in their order; those of fewer than three are no faces.

    Returns
    -------
    (t, 3) int
        Triangles that run as their polygon does.

    Raises
    ------
    MeshFileError
        A corner that is not there.

    Notes
    -----
    A fan about a corner from which all of the polygon is seen; where there is no such corner, the
    constrained Delaunay triangulation of the polygon laid flat (the general library shapely). A
    bent square is divided along its shorter diagonal, so that it does not matter where it begins.
    """
    if isinstance(polygons, np.ndarray):
        by_size = {polygons.shape[1]: polygons.astype(np.int64)} if len(polygons) else {}
    else:
        by_size = _by_size(polygons)
    for corners in by_size.values():
        _require_known(corners, len(points))
    found = [_divided(points, corners) for size, corners in sorted(by_size.items()) if size >= 3]
    return np.concatenate(found) if found else np.zeros((0, 3), dtype=np.int64)


def _by_size(polygons: Sequence[Sequence[int]]) -> dict[int, Integers]:
    sizes = np.fromiter(map(len, polygons), dtype=np.int64, count=len(polygons))
    found = {}
    for size in np.unique(sizes).tolist():
        same = (polygons[at] for at in np.flatnonzero(sizes == size).tolist())
        flat = np.fromiter((corner for one in same for corner in one), dtype=np.int64)
        found[size] = flat.reshape(-1, size)
    return found


def _require_known(corners: Integers, count: int) -> None:
    if corners.size and (corners.min() < 0 or corners.max() >= count):
        off = int(corners.max()) if corners.max() >= count else int(corners.min())
        raise MeshFileError(
            f"A face names corner {off + 1:,}, and the file holds {count:,}; export the shape "
            "again."
        )


def _divided(points: Floats, corners: Integers) -> Integers:
    size = corners.shape[1]
    if size == 3:
        return corners
    place = points[corners]
    after = np.roll(place, -1, axis=1)
    middle = place.mean(axis=1, keepdims=True)
    normal = np.cross(place - middle, after - middle).sum(axis=1)
    begin = np.full(len(corners), -1)
    starts = range(2) if size == _SQUARE else range(size)
    shortest = np.full(len(corners), np.inf)
    for start in starts:
        turned = np.roll(place, -start, axis=1)
        spokes = turned[:, 1:] - turned[:, :1]
        fan = np.einsum("pcx,px->pc", np.cross(spokes[:, :-1], spokes[:, 1:]), normal)
        whole = (fan > 0.0).all(axis=1)
        if size == _SQUARE:
            length = np.linalg.norm(turned[:, 2] - turned[:, 0], axis=1)
            better = whole & (length < shortest)
            shortest = np.where(better, length, shortest)
        else:
            better = whole & (begin < 0)
        begin = np.where(better, start, begin)
    seen = begin >= 0
    column = (begin[seen, None] + np.arange(size)) % size
    ring = np.take_along_axis(corners[seen], column, axis=1)
    fans = [np.stack([ring[:, 0], ring[:, k], ring[:, k + 1]], axis=1) for k in range(1, size - 1)]
    found = [np.concatenate(fans)] if len(ring) else []
    hidden = np.flatnonzero(~seen)
    found += [_laid_flat(points, corners[at], normal[at]) for at in hidden]
    return np.concatenate(found)


def _laid_flat(points: Floats, corners: Integers, normal: Floats) -> Integers:
    """Triangulate one polygon in its own plane; one that crosses itself is a fan as it stands."""
    fan = np.stack([np.full(len(corners) - 2, corners[0]), corners[1:-1], corners[2:]], axis=1)
    size = float(np.linalg.norm(normal))
    if not size > 0.0:
        return fan
    helper = np.eye(3)[np.abs(normal).argmin()]
    first = np.cross(normal / size, helper)
    first /= np.linalg.norm(first)
    flat = points[corners] @ np.array([first, np.cross(normal / size, first)]).T
    outline = shapely.Polygon(flat)
    if not outline.is_valid:
        return fan
    # The library returns places; no new ones are among them.
    named = {(float(x), float(y)): int(at) for (x, y), at in zip(flat, corners, strict=True)}
    pieces = shapely.get_parts(shapely.constrained_delaunay_triangles(outline))
    triangles = np.array(
        [
            [named[(x, y)] for x, y in shapely.orient_polygons(piece).exterior.coords[:3]]
            for piece in pieces
        ],
        dtype=np.int64,
    )
    return triangles if len(triangles) else fan
