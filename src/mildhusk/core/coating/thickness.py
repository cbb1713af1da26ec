"""Thickness along the normal from volume per area, which is what a flow keeps."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.coating.grid import NO_FACE, CoatGrid
from mildhusk.core.geometry.mesh import Floats

_RINGS = 3
"""Curvatures are averaged over the faces so many edges away: about what a wall smooths (assumed).
"""
_ITERATIONS = 30
_MOST, _LEAST = 1.5, 0.5
"""Beyond these multiples of the volume per area the formula is not used: an edge is no curve."""
_LEAST_SLOPE = 0.2


@dataclass(frozen=True, slots=True, eq=False)
class Curvature:
    """Curvature of a casting face, above nought where the piece is convex.

    Parameters
    ----------
    mean, gauss : (m,) float
        [1/m], [1/m^2]
    """

    mean: Floats
    gauss: Floats


def volume_per_area(curvature: Curvature, thickness_m: Floats | float) -> Floats:
    """Return the volume of a wall per area of its outer face. [m]

    Parameters
    ----------
    curvature : Curvature
    thickness_m : (m,) float or float
        Along the normals. [m]

    Returns
    -------
    (m,) float
        v = t - H t^2 + K t^3 / 3, Steiner's formula for parallel surfaces. [m]

    References
    ----------
    J. Steiner, Ueber parallele Flaechen, Monatsbericht der Akademie der Wissenschaften zu Berlin
    (1840) 114 (from memory).
    """
    t = thickness_m
    return np.asarray(t - curvature.mean * t**2 + curvature.gauss * t**3 / 3.0)


def thickness(curvature: Curvature, volume_per_area_m: Floats) -> Floats:
    """Return how thick a wall is along the normals, by Newton's method on Steiner's formula.

    Parameters
    ----------
    curvature : Curvature
    volume_per_area_m : (m,) float
        Of the wall, on the outer face. [m]

    Returns
    -------
    (m,) float
        [m]
    """
    volume = np.asarray(volume_per_area_m, dtype=np.float64)
    t = volume.copy()
    for _ in range(_ITERATIONS):
        residual = volume_per_area(curvature, t) - volume
        slope = 1.0 - 2.0 * curvature.mean * t + curvature.gauss * t**2
        step = residual / np.maximum(slope, _LEAST_SLOPE)
        t = np.clip(t - step, _LEAST * volume, _MOST * volume)
    return t


def curvature_of(grid: CoatGrid) -> Curvature:
    """Return the curvature of a casting face; none on a lid.

    Parameters
    ----------
    grid : CoatGrid

    Returns
    -------
    Curvature

    Notes
    -----
    By the turn of the normals across edges and the angle defects of corners, summed over the faces
    round each and divided by their area.

    References
    ----------
    D. Cohen-Steiner and J.-M. Morvan, Restricted Delaunay triangulations and normal cycle, SoCG
    2003, doi:10.1145/777792.777839 (from memory).
    """
    inner = (grid.neighbour != NO_FACE) & ~grid.lid[:, None]
    other = np.where(inner, grid.neighbour, 0)
    inner &= ~grid.lid[other]
    cosine = np.einsum("fi,fki->fk", grid.normal, grid.normal[other])
    beyond = np.einsum("fi,fki->fk", grid.normal, grid.centre[other] - grid.centre[:, None])
    turn = np.where(inner, -np.sign(beyond) * np.arccos(np.clip(cosine, -1.0, 1.0)), 0.0)
    # Half of each edge's share is this face's; the integral of H is half the sum of length x turn.
    bend = 0.25 * (turn * grid.edge_m).sum(axis=1)
    defect = _angle_defects(grid)
    area = np.where(grid.lid, 0.0, grid.area)
    for _ in range(_RINGS):
        bend, defect, area = (
            one + np.where(inner, one[other], 0.0).sum(axis=1) for one in (bend, defect, area)
        )
    on_face = np.where(grid.lid, np.inf, area)
    return Curvature(np.asarray(bend / on_face), np.asarray(defect / on_face))


def _angle_defects(grid: CoatGrid) -> Floats:
    """Return each face's share of the angle defects of its corners; none at a border. [1]"""
    vertices, faces = grid.mesh.vertices, grid.mesh.faces
    corners = vertices[faces]
    angles = np.empty(faces.shape)
    for k in range(3):
        a = corners[:, (k + 1) % 3] - corners[:, k]
        b = corners[:, (k + 2) % 3] - corners[:, k]
        lengths = np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
        angles[:, k] = np.arccos(np.clip((a * b).sum(axis=1) / np.maximum(lengths, 1e-300), -1, 1))
    count = len(vertices)
    total = np.bincount(faces.ravel(), angles.ravel(), minlength=count)
    area = np.bincount(faces.ravel(), np.repeat(grid.area, 3), minlength=count)
    border = np.zeros(count, dtype=bool)
    for k in range(3):
        ends = faces[:, [k, (k + 1) % 3]]
        border[ends[grid.neighbour[:, k] == NO_FACE].ravel()] = True
    border[faces[grid.lid].ravel()] = True
    defect = np.where(border, 0.0, 2.0 * np.pi - total)
    share = defect / np.maximum(area, 1e-300)
    return np.asarray((share[faces] * grid.area[:, None]).sum(axis=1))
