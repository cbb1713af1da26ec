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
    k0: Field = norm(*((p - c) / r for p, c, r in zip(at, centre, radii, strict=True)))
    k1: Field = norm(*((p - c) / r**2 for p, c, r in zip(at, centre, radii, strict=True)))
    distance: Field = k0 * (k0 - 1.0) / np.maximum(k1, 1e-9)
    return distance


def horn(at: Points, start: Corner, end: Corner, thick: float, thin: float) -> Field:
    """Return the distance from a rod that tapers from one radius to another."""
    along = np.subtract(end, start)
    offset = [p - s for p, s in zip(at, start, strict=True)]
    share = sum(o * a for o, a in zip(offset, along, strict=True)) / float(along @ along)
    share = np.clip(share, 0.0, 1.0)
    away = norm(*(o - share * a for o, a in zip(offset, along, strict=True)))
    distance: Field = away - (thick + (thin - thick) * share)
    return distance


def join(a: Field, b: Field, fillet: float) -> Field:
    """Unite two fields with a rounded seam."""
    mix = np.clip(0.5 + 0.5 * (b - a) / fillet, 0.0, 1.0)
    return b + (a - b) * mix - fillet * mix * (1.0 - mix)


def carve(a: Field, b: Field, fillet: float) -> Field:
    """Take one field out of another with a rounded edge."""
    return within(a, -b, fillet)


def within(a: Field, b: Field, fillet: float) -> Field:
    """Return what two fields have in common, with a rounded edge."""
    return -join(-a, -b, fillet)


def raised(shell: Field, region: Field, by: float, edge: float) -> Field:
    """Raise the surface of one field where another is, with a clean edge."""
    return join(shell, within(shell - by, region, edge), edge)


def sunk(shell: Field, region: Field, by: float, edge: float) -> Field:
    """Sink the surface of one field where another is, with a clean edge."""
    return carve(shell, within(region, -(shell + by), edge), edge)


def norm(*parts: Field) -> Field:
    """Return the root of the sum of squares."""
    squares: Field = np.sum([part * part for part in parts], axis=0)
    return np.asarray(np.sqrt(squares))


def half_mask(at: Points) -> Field:
    """A half mask with swept brows, sunk eyes and a keeled beak; it faces +y, open at y = 0."""
    x, y, z = at
    side = np.abs(x)
    face = ellipsoid(at, (0, -8, 4), (84, 72, 72))
    face = carve(face, ellipsoid(at, (0, 44, -92), (60, 74, 52)), 10)
    face = raised(
        face, ellipsoid((side, y, z - 0.35 * (side - 30)), (38, 40, 30), (46, 40, 13)), 8, 6
    )
    face = sunk(face, ellipsoid((side, y, z - 0.22 * (side - 36)), (37, 60, 8), (23, 40, 12)), 9, 5)
    beak = join(
        horn(at, (0, 50, 0), (0, 112, -10), 26, 14),
        horn(at, (0, 110, -10), (0, 158, -56), 14, 5),
        10,
    )
    face = join(face, beak, 10)
    keel = within(side - 4.5, within(norm(y - 70, z + 52) - 70, 8 - z, 4), 4)
    face = join(face, keel, 6)
    return sunk(face, ellipsoid((side, y, z + 0.3 * (y - 96)), (14, 96, 2), (12, 13, 4)), 5, 4)


def helmet(at: Points) -> Field:
    """A full helmet: comb, raised brow band, cheek plates, sunk eyes, neck guard; open at z = 0."""
    x, y, z = at
    side = np.abs(x)
    shell = join(
        ellipsoid(at, (0, -6, 168), (97, 120, 114)), ellipsoid(at, (0, -4, 40), (91, 106, 170)), 30
    )
    guard = ellipsoid((x, y, z - 0.35 * (y + 100)), (0, -96, 22), (66, 50, 13))
    shell = join(shell, guard, 22)
    shell = raised(shell, ellipsoid((side, y, z), (96, 44, 66), (58, 58, 74)), 8, 7)
    shell = raised(shell, np.abs(z - (190 - 0.06 * y)) - 13, 8, 7)
    comb = within(norm(y + 16, z - 160) - 152, side - (8 + 0.06 * np.maximum(0, 230 - z)), 8)
    shell = join(shell, within(comb, 150 - z, 5), 12)
    eyes = within(np.abs(z - 146 + 0.16 * side) - 14, within(side - 64, 20 - y, 6), 6)
    return sunk(shell, eyes, 11, 6)


def bust(at: Points) -> Field:
    """A small bust with a high collar, lapels, hair and a bun; open at z = 0."""
    x, y, z = at
    side = np.abs(x)
    body = join(
        ellipsoid(at, (0, 0, 6), (80, 46, 50)), horn(at, (0, -6, 40), (0, 0, 112), 25, 21), 18
    )
    collar = within(norm(x, y + 3) - (34 + 0.25 * (z - 60)), np.abs(z - 64 - 0.25 * y) - 17, 4)
    body = join(body, collar, 5)
    lapel = within(np.abs(side - (70 - z) * 0.55) - 6, within(12 - y, np.abs(z - 34) - 30, 3), 4)
    body = raised(body, lapel, 4, 3.5)
    head = join(
        ellipsoid(at, (0, 2, 146), (36, 42, 46)), ellipsoid(at, (0, 14, 120), (25, 27, 27)), 16
    )
    head = join(head, horn(at, (0, 42, 150), (0, 52, 131), 4, 7), 6)
    head = sunk(head, ellipsoid((side, y, z), (15, 44, 149), (10, 16, 6)), 5, 3.5)
    head = raised(head, ellipsoid(at, (0, 40, 113), (11, 14, 4.5)), 3, 3)
    head = join(head, ellipsoid((side, y, z), (37, -2, 140), (5, 9, 13)), 4)
    hair = within(
        ellipsoid(at, (0, -16, 172), (62, 60, 60)), -ellipsoid(at, (0, 62, 132), (50, 50, 42)), 4
    )
    head = raised(head, hair, 5, 4)
    head = join(head, ellipsoid(at, (0, -42, 184), (19, 19, 17)), 7)
    return join(body, head, 8)


def bottle(at: Points) -> Field:
    """A squat bottle: swirled ribs, a seal, a ring below the lip; open above, at the grid's end."""
    x, y, z = at
    around = norm(x, y)
    body = ellipsoid(at, (0, 0, 44), (66, 66, 58))
    ribs = np.clip(1.0 - ((z - 44) / 44) ** 2, 0.0, 1.0) * np.clip(around / 30, 0.0, 1.0)
    body = body - 2.2 * ribs * np.cos(10 * (np.arctan2(y, x) + z / 90))
    body = within(body, 4 - z, 8)
    body = carve(body, ellipsoid(at, (0, 0, 0), (34, 34, 16)), 6)
    body = join(body, horn(at, (0, 0, 84), (0, 0, 230), 20, 12), 26)
    body = join(body, norm(around - 15, z - 192) - 5, 3)
    return raised(body, ellipsoid(at, (0, 50, 76), (15, 24, 13)), 3.5, 4)


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
    return meshed(half_mask, (-110, 0, -110), (110, 180, 110), 2.8)


def helmet_stl() -> bytes:
    """The helmet as a binary STL in millimetres."""
    return meshed(helmet, (-130, -185, 0), (130, 160, 330), 4.7)


def bust_stl() -> bytes:
    """The bust as a binary STL in millimetres."""
    return meshed(bust, (-95, -80, 0), (95, 75, 220), 2.7)


def bottle_stl() -> bytes:
    """The bottle as a binary STL in millimetres."""
    return meshed(bottle, (-72, -72, 0), (72, 72, 212), 2.5)
