"""V(t) of any shape from distances: what fills solid counts once, whatever the shape."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache
from hashlib import sha256

import numpy as np
from numba import njit

from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.mesh import Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.nearest import SampledSurface, nearest_on, sample_surface
from mildhusk.core.geometry.rays import Caster

THICKEST_WALL_M = 0.012
"""The thickest wall that can be asked for; the curve ends here, or where the piece is solid. [m]"""

USUAL_CELLS = 120_000
USUAL_POINTS = 250_000
_FINEST_M, _COARSEST_M = 3e-4, 0.006
MOST_CELLS = 8_000_000
"""Of any piece: some 200 MB. What is larger than a person is measured more coarsely instead."""
_MOST_PARTS = 4
_STEPS = 48
_KEPT = 16
"""Curves of so many shapes are kept."""
# From a cell's middle to the far corner of a half cube that stands over its own corner. [cells]
_TO_CORNER = 1.2
# Cosines between the normals of walls that look at each other, and that are all but parallel.
_OPPOSITE, _PARALLEL = -0.5, -0.95
_THINNEST_USUAL_M = 0.002


@dataclass(frozen=True, slots=True, eq=False)
class Reach:
    """How far from the face V(t) is measured, and where.

    Parameters
    ----------
    thickest_m : float
        Where the curve ends. [m]
    margin_m : float or None
        How far round the box of the piece there is something to measure; None for walls that grow
        inwards. [m]
    within : callable or None
        Points (n, 3) to the share of each that counts, (n,); None counts all.
    """

    thickest_m: float = THICKEST_WALL_M
    margin_m: float | None = None
    within: Callable[[Floats], Floats] | None = None


INWARDS = Reach()


def volume_curve(
    mesh: Mesh,
    lids: Mesh | None,
    cells: int = USUAL_CELLS,
    points: int = USUAL_POINTS,
    reach: Reach = INWARDS,
) -> VolumeCurve:
    """Measure V(t): the volume inside that is nearer than t to the casting face.

    Parameters
    ----------
    mesh : Mesh
        Casting face, outside outside. [m]
    lids : Mesh or None
        What closes its openings; no casting face.
    cells : int
        About how many cells the box round the piece is cut into.
    points : int
        About how many points of the thickest wall are measured.
    reach : Reach
        How far walls grow, and where.

    Returns
    -------
    VolumeCurve

    Notes
    -----
    A point stands for a little cube and counts by the share that the plane at its distance cuts
    off it, 1/2 + d / edge: no bias for any even spread of points. Where the middle between two
    faces runs through a cell, a point counts whole once the wall has passed all of the cell.
    """
    if reach is INWARDS:
        return _known_curve(_Shape.of(mesh, lids), cells, points)
    return _measured_curve(mesh, lids, cells, points, reach)


@dataclass(frozen=True, slots=True)
class _Shape:
    """A face and its lids, told from others by their numbers."""

    digest: bytes
    mesh: Mesh = field(compare=False)
    lids: Mesh | None = field(compare=False)

    @classmethod
    def of(cls, mesh: Mesh, lids: Mesh | None) -> "_Shape":
        digest = sha256()
        for one in (mesh,) if lids is None else (mesh, lids):
            digest.update(repr((one.vertices.shape, one.faces.shape)).encode())
            digest.update(np.ascontiguousarray(one.vertices).data)
            digest.update(np.ascontiguousarray(one.faces).data)
        return cls(digest.digest(), mesh, lids)


@lru_cache(maxsize=_KEPT)
def _known_curve(shape: _Shape, cells: int, points: int) -> VolumeCurve:
    """Return V(t) of a shape; one that is surveyed again, as with other marks, has it at once."""
    return _measured_curve(shape.mesh, shape.lids, cells, points, INWARDS)


def _measured_curve(
    mesh: Mesh, lids: Mesh | None, cells: int, points: int, reach: Reach
) -> VolumeCurve:
    cell = cell_of(mesh, cells)
    margin = 2.0 * cell + (reach.margin_m or 0.0)
    surface = sample_surface((mesh,), cell, margin)
    closed = surface if lids is None else sample_surface((mesh, lids), cell, margin)
    near = _cells_inside(surface, closed, reach.thickest_m)
    parts = int(np.clip(round((points / max(len(near), 1)) ** (1 / 3)), 2, _MOST_PARTS))
    at, edge = _points_in(surface, near, parts)
    signed, sample = nearest_on(surface, at.reshape(-1, 3))
    to_face, to_closed = np.abs(signed), signed
    if lids is not None:
        to_closed = _closed(closed, lids, at, signed)
    inside = np.clip(0.5 + to_closed / edge, 0.0, 1.0)
    if reach.within is not None:
        inside = inside * reach.within(at.reshape(-1, 3))
    whole_from = _whole_from(mesh, surface, to_face, sample, parts)
    counted = inside > 0.0
    walls = np.linspace(0.0, reach.thickest_m, _STEPS + 1)
    sums, moments = _sums(
        at.reshape(-1, 3)[counted],
        to_face[counted],
        inside[counted],
        whole_from[counted],
        _coarser_grid(near, parts)[counted],
        walls,
        edge,
    )
    volumes = np.maximum.accumulate(sums.sum(axis=1)) * edge**3
    usual = sums[np.searchsorted(walls, _THINNEST_USUAL_M - 1e-9)]
    error = 2.0 * usual.std(ddof=1) / np.sqrt(8.0) / max(float(usual.mean()), 1e-300)
    return VolumeCurve(
        tuple(float(wall) for wall in walls),
        tuple(float(volume) for volume in volumes),
        float(error),
        edge,
        tuple(
            (float(x), float(y), float(z))
            for x, y, z in moments[1:] / np.maximum(sums[1:].sum(axis=1), 1e-300)[:, None]
        ),
    )


def cell_of(mesh: Mesh, cells: int) -> float:
    """Return the edge of the cells that a piece is cut into, about so many round it. [m]"""
    volume = float(np.prod(np.maximum(mesh.extents, 0.005)))
    usual = float(np.clip((volume / cells) ** (1.0 / 3.0), _FINEST_M, _COARSEST_M))
    return max(usual, float((volume / MOST_CELLS) ** (1.0 / 3.0)))


def _cells_inside(surface: SampledSurface, closed: SampledSurface, thickest_m: float) -> Integers:
    """Return the cells that some of the thickest wall may lie in, (cells, 3).

    The nearest place to a point of a cell is no nearer to the cell's middle than half the cell's
    diagonal less; half a point's own cube is allowed for besides.
    """
    cell = surface.cell_m
    near = np.argwhere(surface.depth <= thickest_m + 1.8 * cell)
    inside, _ = nearest_on(closed, surface.origin + (near + 0.5) * cell)
    return near[inside >= -_TO_CORNER * cell]


def _points_in(surface: SampledSurface, near: Integers, parts: int) -> tuple[Floats, float]:
    """Return the middles of the parts^3 cubes of each cell, (cells, parts^3, 3), and their edge."""
    edge = surface.cell_m / parts
    step = (np.arange(parts) + 0.5) * edge
    within = np.stack(np.meshgrid(step, step, step, indexing="ij"), axis=-1).reshape(-1, 3)
    corner = surface.origin + near * surface.cell_m
    points: Floats = corner[:, None, :] + within[None, :, :]
    return points, edge


def _closed(closed: SampledSurface, lids: Mesh, at: Floats, signed: Floats) -> Floats:
    """Return signed distances to face and lids; `signed` are those to the face alone. [m]

    A lid changes nothing where the face is nearer than the box round it.
    """
    low, high = lids.bounds
    points = at.reshape(-1, 3)
    off = np.maximum(np.maximum(low - points, points - high), 0.0)
    lid_may_be_nearer = (off**2).sum(axis=1) <= (np.abs(signed) + 2.0 * closed.cell_m) ** 2
    found = signed.copy()
    found[lid_may_be_nearer], _ = nearest_on(closed, points[lid_may_be_nearer])
    return found


@njit(cache=True)
def _sums(points, to_face, inside, whole_from, grid, walls, edge):  # type: ignore[no-untyped-def]
    """Sum the shares for each wall on each of the eight coarser grids, and share times place."""
    sums = np.zeros((len(walls), 8))
    moments = np.zeros((len(walls), 3))
    for at in range(len(to_face)):
        for row in range(1, len(walls)):
            share = 0.5 + (walls[row] - to_face[at]) / edge
            if share >= 1.0 or walls[row] >= whole_from[at]:
                share = 1.0
            if share > 0.0:
                sums[row, grid[at]] += share * inside[at]
                for axis in range(3):
                    moments[row, axis] += share * inside[at] * points[at, axis]
    return sums, moments


def _whole_from(
    mesh: Mesh, surface: SampledSurface, to_face: Floats, sample: Integers, parts: int
) -> Floats:
    """Return for each point the wall from which on it is whole, whatever its cube.

    That is half way to a wall that faces its own; and where the middle between two faces runs
    through a cell, the highest place of that cell.
    """
    per_cell = parts**3
    normal = surface.normals[sample].reshape(-1, per_cell, 3)
    ridge = (np.einsum("cpx,cx->cp", normal, normal[:, 0]) < _OPPOSITE).any(axis=1)
    highest = to_face.reshape(-1, per_cell).max(axis=1)
    of_cell = np.repeat(np.where(ridge, highest, np.inf), per_cell)
    earliest: Floats = np.minimum(of_cell, _half_ways(mesh, surface)[sample])
    return earliest


def _half_ways(mesh: Mesh, surface: SampledSurface) -> Floats:
    """Return half the way from each sample to the wall it faces; infinite where there is none."""
    inwards = -surface.normals
    start = surface.points + 2e-5 * float(mesh.extents.max()) * inwards
    face, far = Caster(mesh).hits(start, inwards)
    _, normal, _ = face_frames(mesh)
    facing = np.einsum("ij,ij->i", normal[face], surface.normals) < _PARALLEL
    half: Floats = np.where((face >= 0) & facing, far / 2.0, np.inf)
    return half


def _coarser_grid(near: Integers, parts: int) -> Integers:
    step = np.arange(parts)
    i, j, k = (axis.ravel() for axis in np.meshgrid(step, step, step, indexing="ij"))
    fine = [near[:, :1] * parts + i, near[:, 1:2] * parts + j, near[:, 2:] * parts + k]
    return np.asarray(((fine[0] % 2) * 4 + (fine[1] % 2) * 2 + fine[2] % 2).ravel())
