"""The nearest place on a surface, for very many points at once."""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt

from mildhusk.core.geometry.mesh import Floats, Integers, Mesh


@dataclass(frozen=True, slots=True, eq=False)
class SampledSurface:
    """Dense points on faces, sorted into the cells of a grid.

    Parameters
    ----------
    points, normals : (n, 3) float
        In the order of their cells; outward unit normals. [m]
    begins : (cells + 1,) int
        Where the points of each cell begin.
    feature : (i, j, k, 3) int
        For each cell the nearest cell that holds points.
    depth : (i, j, k) float
        Distance to that cell. [m]
    origin : (3,) float
        Lowest corner of the grid. [m]
    cell_m : float
    """

    points: Floats
    normals: Floats
    begins: Integers
    feature: NDArray[np.int32]
    depth: Floats
    origin: Floats
    cell_m: float


def sample_surface(parts: tuple[Mesh, ...], cell_m: float, margin_m: float) -> SampledSurface:
    """Sample faces, and sort the points into a grid.

    Parameters
    ----------
    parts : tuple of Mesh
        Outside outside. [m]
    cell_m, margin_m : float
        Edge of a cell; how far the grid reaches beyond the box. [m]

    Returns
    -------
    SampledSurface
    """
    sampled = [surface_points(part, 0.6 * cell_m) for part in parts]
    points = np.concatenate([one for one, _ in sampled])
    normals = np.concatenate([one for _, one in sampled])
    origin = points.min(axis=0) - margin_m
    shape = np.ceil((points.max(axis=0) + margin_m - origin) / cell_m).astype(np.int64)
    at = ((points - origin) / cell_m).astype(np.int64)
    flat = (at[:, 0] * shape[1] + at[:, 1]) * shape[2] + at[:, 2]
    order = np.argsort(flat, kind="stable")
    begins = np.searchsorted(flat[order], np.arange(int(shape.prod()) + 1))
    empty = np.ones(shape, dtype=bool)
    empty.ravel()[flat] = False
    depth, feature = distance_transform_edt(empty, sampling=cell_m, return_indices=True)
    return SampledSurface(
        points=np.ascontiguousarray(points[order]),
        normals=np.ascontiguousarray(normals[order]),
        begins=begins.astype(np.int64),
        feature=np.ascontiguousarray(np.moveaxis(feature, 0, -1)),
        depth=depth,
        origin=origin,
        cell_m=cell_m,
    )


def surface_points(mesh: Mesh, spacing: float) -> tuple[Floats, Floats]:
    """Return points on the faces, no further apart than about `spacing`, and their normals.

    Parameters
    ----------
    mesh : Mesh
        [m]
    spacing : float
        [m]

    Returns
    -------
    points, normals : (n, 3) float
        [m]; unit normals, outwards.
    """
    corners = mesh.vertices[mesh.faces]
    edges = np.roll(corners, -1, axis=1) - corners
    lengths = np.linalg.norm(edges, axis=2)
    doubled = np.cross(edges[:, 0], edges[:, 1])
    size = np.linalg.norm(doubled, axis=1)
    real = size > 0.0
    corners, lengths = corners[real], lengths[real]
    doubled, size = doubled[real], size[real]
    # Rows beside the longest edge: a long thin face gets one row, not a square of them.
    longest = lengths.argmax(axis=1)
    row = np.arange(len(corners))
    a, b, c = (corners[row, (longest + k) % 3] for k in range(3))
    base = lengths[row, longest]
    along = np.maximum(1, np.ceil(base / spacing)).astype(np.int64)
    across = np.maximum(1, np.ceil(size / base / spacing)).astype(np.int64)
    many = along * across
    face = np.repeat(row, many)
    within = np.arange(int(many.sum())) - np.repeat(np.cumsum(many) - many, many)
    # Just inside the edge, where the normal is the face's own.
    inset = np.minimum(0.25 / across, 0.3 * spacing / base)
    up = (within // along[face] / across[face] + inset[face])[:, None]
    side = ((within % along[face] + 0.5) / along[face])[:, None]
    points = up * c[face] + (1.0 - up) * (a[face] + side * (b - a)[face])
    normals = (doubled / size[:, None])[face]
    # One point stands for its neighbours that look the same way.
    place = np.floor((points - points.min(axis=0)) / (0.6 * spacing)).astype(np.int64)
    look = np.rint(normals * 3.0).astype(np.int64) + 3
    wide = place.max(axis=0) + 1
    key = (place[:, 0] * wide[1] + place[:, 1]) * wide[2] + place[:, 2]
    key = ((key * 7 + look[:, 0]) * 7 + look[:, 1]) * 7 + look[:, 2]
    _, first = np.unique(key, return_index=True)
    return points[first], normals[first]


def nearest_on(surface: SampledSurface, points: Floats) -> tuple[Floats, Integers]:
    """Find the nearest place on the surface.

    Parameters
    ----------
    surface : SampledSurface
    points : (n, 3) float
        Inside the grid. [m]

    Returns
    -------
    distance : (n,) float
        Signed, inside positive. [m]
    sample : (n,) int
        The nearest point of the surface.

    Notes
    -----
    From the nearest cell with points the search goes on to the foot of the perpendicular, as long
    as that comes nearer. Beside its nearest sample by no more than the samples are apart, a point's
    foot lies in that sample's plane, and the distance is the plane's.
    """
    found: tuple[Floats, Integers] = _nearest(
        points,
        surface.points,
        surface.normals,
        surface.begins,
        surface.feature,
        surface.origin,
        surface.cell_m,
    )
    return found


@njit(cache=True)
def _nearest(points, samples, normals, begins, feature, origin, cell):  # type: ignore[no-untyped-def]
    distance = np.empty(len(points))
    which = np.empty(len(points), np.int64)
    best = 0
    cells = np.empty((3, 3), np.int64)
    for at in range(len(points)):
        # Points come cell by cell: what is nearest to one is near to the next.
        best = _search(points[at], best, cells, samples, normals, begins, feature, origin, cell)
        which[at] = best
        distance[at] = _to_plane(points[at], samples[best], normals[best], cell)
    return distance, which


@njit(cache=True)
def _to_plane(p, sample, normal, cell):  # type: ignore[no-untyped-def]
    along = 0.0
    square = 0.0
    for axis in range(3):
        offset = p[axis] - sample[axis]
        along += offset * normal[axis]
        square += offset * offset
    aside = square - along * along
    sign = 1.0 if along < 0.0 else -1.0
    if aside <= 0.36 * cell * cell:
        return -along
    return sign * np.sqrt(square)


@njit(cache=True)
def _beyond(place, low, cell):  # type: ignore[no-untyped-def]
    """Return the square of how far a place lies outside an interval of a cell's length. [m^2]"""
    off = max(low - place, place - low - cell, 0.0)
    return off * off


@njit(cache=True)
def _scan(p, i, j, k, samples, begins, shape, best, best_square):  # type: ignore[no-untyped-def]
    """Return the nearest of the samples in a cell, or what was found before, and its square."""
    flat = (i * shape[1] + j) * shape[2] + k
    for one in range(begins[flat], begins[flat + 1]):
        x = p[0] - samples[one, 0]
        y = p[1] - samples[one, 1]
        z = p[2] - samples[one, 2]
        square = x * x + y * y + z * z
        if square < best_square:
            best, best_square = one, square
    return best, best_square


@njit(cache=True)
def _search(p, near, cells, samples, normals, begins, feature, origin, cell):  # type: ignore[no-untyped-def]
    """Return the sample nearest to a place, from one that is near; `cells` is to work in."""
    shape = feature.shape
    start, beside, here = cells[0], cells[1], cells[2]
    for axis in range(3):
        place = (p[axis] - origin[axis]) / cell
        start[axis] = min(max(int(place), 0), shape[axis] - 1)
        step = 1 if place - int(place) > 0.5 else -1
        beside[axis] = min(max(start[axis] + step, 0), shape[axis] - 1)
    best_square = np.inf
    # Between two faces the cell's nearest is not every point's: its neighbours' are tried too.
    for corner in range(4):
        i = beside[0] if corner == 1 else start[0]
        j = beside[1] if corner == 2 else start[1]
        k = beside[2] if corner == 3 else start[2]
        square = 0.0
        for axis in range(3):
            middle = origin[axis] + (feature[i, j, k, axis] + 0.5) * cell
            square += (p[axis] - middle) ** 2
        if square < best_square:
            best_square = square
            for axis in range(3):
                here[axis] = feature[i, j, k, axis]
    best, best_square = near, 0.0
    for axis in range(3):
        best_square += (p[axis] - samples[near, axis]) ** 2
    for _ in range(6):
        before = best_square
        best, best_square = _scan(
            p, here[0], here[1], here[2], samples, begins, shape, best, best_square
        )
        # Of the cells round it only those whose box comes nearer than what is found.
        for i in range(max(here[0] - 1, 0), min(here[0] + 2, shape[0])):
            aside = _beyond(p[0], origin[0] + i * cell, cell)
            if aside >= best_square:
                continue
            for j in range(max(here[1] - 1, 0), min(here[1] + 2, shape[1])):
                across = aside + _beyond(p[1], origin[1] + j * cell, cell)
                if across >= best_square:
                    continue
                for k in range(max(here[2] - 1, 0), min(here[2] + 2, shape[2])):
                    if across + _beyond(p[2], origin[2] + k * cell, cell) < best_square:
                        best, best_square = _scan(
                            p, i, j, k, samples, begins, shape, best, best_square
                        )
        if best_square >= before:
            break
        along = 0.0
        for axis in range(3):
            along += (p[axis] - samples[best, axis]) * normals[best, axis]
        stays = True
        for axis in range(3):
            foot = p[axis] - along * normals[best, axis]
            there = min(max(int((foot - origin[axis]) / cell), 0), shape[axis] - 1)
            stays = stays and there == here[axis]
            here[axis] = there
        if stays:
            break
    return best
