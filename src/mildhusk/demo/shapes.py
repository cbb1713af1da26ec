"""The demo's pieces, made from implicit shapes: distances, joined softly, and meshed.

Every field is negative inside. Lengths in millimetres.
"""

from collections.abc import Callable

import numpy as np
import trimesh
from numpy.typing import NDArray
from skimage.measure import marching_cubes

Field = NDArray[np.float64]
Points = tuple[Field, Field, Field]
Corner = tuple[float, float, float]


def ellipsoid(at: Points, centre: Corner, radii: Corner) -> Field:
    """Return the approximate distance from an ellipsoid."""
    k0: Field = _norm(*((p - c) / r for p, c, r in zip(at, centre, radii, strict=True)))
    k1: Field = _norm(*((p - c) / r**2 for p, c, r in zip(at, centre, radii, strict=True)))
    distance: Field = k0 * (k0 - 1.0) / np.maximum(k1, 1e-9)
    return distance


def horn(at: Points, start: Corner, end: Corner, thick: float, thin: float) -> Field:
    """Return the distance from a rod that tapers from one radius to another."""
    along = np.subtract(end, start)
    offset = [p - s for p, s in zip(at, start, strict=True)]
    share = sum(o * a for o, a in zip(offset, along, strict=True)) / float(along @ along)
    share = np.clip(share, 0.0, 1.0)
    away = _norm(*(o - share * a for o, a in zip(offset, along, strict=True)))
    distance: Field = away - (thick + (thin - thick) * share)
    return distance


def ring(at: Points, centre: Corner, radius: float, thickness: float) -> Field:
    """Return the distance from a torus that lies flat."""
    x, y, z = (p - c for p, c in zip(at, centre, strict=True))
    return _norm(_norm(x, y) - radius, z) - thickness


def join(a: Field, b: Field, fillet: float) -> Field:
    """Unite two fields with a rounded seam."""
    mix = np.clip(0.5 + 0.5 * (b - a) / fillet, 0.0, 1.0)
    return b + (a - b) * mix - fillet * mix * (1.0 - mix)


def carve(a: Field, b: Field, fillet: float) -> Field:
    """Take one field out of another with a rounded edge."""
    return -join(-a, b, fillet)


def _norm(*parts: Field) -> Field:
    squares: Field = np.sum([part * part for part in parts], axis=0)
    return np.asarray(np.sqrt(squares))


def half_mask(at: Points) -> Field:
    """A half mask with a long bent beak; it faces +y, open at y = 0."""
    x, y, z = at
    mirrored = (np.abs(x), y, z)
    face = ellipsoid(at, (0, -8, 4), (84, 74, 72))
    face = carve(face, ellipsoid(at, (0, 44, -86), (62, 70, 52)), 12)
    face = join(face, ellipsoid(mirrored, (36, 46, 36), (38, 24, 11)), 10)
    face = carve(face, ellipsoid(mirrored, (37, 62, 12), (22, 17, 13)), 7)
    face = join(face, horn(at, (0, 58, 2), (0, 118, -16), 24, 13), 16)
    return join(face, horn(at, (0, 116, -15), (0, 158, -54), 13, 5), 8)


def helmet(at: Points) -> Field:
    """A full helmet with a swept comb, cheek guards and a brow ring; open at z = 0."""
    x, y, z = at
    mirrored = (np.abs(x), y, z)
    shell = join(
        ellipsoid(at, (0, -6, 165), (96, 118, 112)), ellipsoid(at, (0, -4, 60), (90, 104, 108)), 40
    )
    shell = join(shell, ring((x, y, z + 0.25 * y), (0, -2, 172), 98, 9), 10)
    shell = join(shell, horn(at, (0, 84, 244), (0, -96, 252), 13, 13), 18)
    shell = join(shell, horn(at, (0, -96, 252), (0, -150, 160), 13, 7), 14)
    shell = join(shell, ellipsoid(mirrored, (64, 58, 66), (26, 36, 52)), 14)
    return carve(shell, ellipsoid(mirrored, (40, 112, 138), (30, 24, 13)), 8)


def bust(at: Points) -> Field:
    """A small bust with a high collar and a bun; open at z = 0."""
    x, y, z = at
    mirrored = (np.abs(x), y, z)
    chest = ellipsoid(at, (0, 0, 10), (78, 46, 52))
    neck = horn(at, (0, -4, 40), (0, 2, 112), 27, 22)
    body = join(chest, neck, 22)
    body = join(body, ring((x, y, z - 0.3 * y), (0, -2, 72), 30, 7), 6)
    head = join(
        ellipsoid(at, (0, 4, 142), (36, 42, 48)), ellipsoid(at, (0, 14, 118), (26, 28, 28)), 18
    )
    head = join(head, horn(at, (0, 44, 146), (0, 54, 128), 5, 8), 7)
    head = carve(head, ellipsoid(mirrored, (15, 46, 148), (9, 8, 6)), 5)
    head = join(head, ellipsoid(mirrored, (37, 0, 138), (5, 10, 14)), 4)
    head = join(head, ellipsoid(at, (0, -34, 178), (20, 20, 18)), 8)
    return join(body, head, 10)


def meshed(field: Callable[[Points], Field], low: Corner, high: Corner, step: float) -> bytes:
    """Mesh a field on a grid and return a binary STL; where it leaves the grid it is open.

    Parameters
    ----------
    field : callable
        Distance at points.
    low, high : 3 floats
        Corners of the grid. [mm]
    step : float
        Grid spacing. [mm]
    """
    axes = [np.arange(a, b + step, step) for a, b in zip(low, high, strict=True)]
    x, y, z = np.meshgrid(*axes, indexing="ij")
    corners, faces, _, _ = marching_cubes(field((x, y, z)), 0.0, spacing=(step, step, step))
    mesh = trimesh.Trimesh(corners + np.array(low), faces)
    content = mesh.export(file_type="stl")
    assert isinstance(content, bytes)
    return content


def half_mask_stl() -> bytes:
    """The half mask as a binary STL in millimetres."""
    return meshed(half_mask, (-110, 0, -110), (110, 180, 110), 3.2)


def helmet_stl() -> bytes:
    """The helmet as a binary STL in millimetres."""
    return meshed(helmet, (-130, -180, 0), (130, 140, 300), 4.8)


def bust_stl() -> bytes:
    """The bust as a binary STL in millimetres."""
    return meshed(bust, (-95, -75, 0), (95, 75, 215), 2.6)
