"""A half mask, a helmet and a bust with soft edges: what figures and names are tried on.

Every field is negative inside. Lengths in millimetres.
"""

import numpy as np

from mildhusk.demo.shapes import (
    Field,
    Points,
    carve,
    ellipsoid,
    horn,
    join,
    meshed,
    norm,
)


def ring(at: Points, centre: tuple[float, float, float], radius: float, thickness: float) -> Field:
    """Return the distance from a torus that lies flat."""
    x, y, z = (p - c for p, c in zip(at, centre, strict=True))
    return norm(norm(x, y) - radius, z) - thickness


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


def half_mask_stl() -> bytes:
    """The half mask as a binary STL in millimetres."""
    return meshed(half_mask, (-110, 0, -110), (110, 180, 110), 3.2)


def helmet_stl() -> bytes:
    """The helmet as a binary STL in millimetres."""
    return meshed(helmet, (-130, -180, 0), (130, 140, 300), 4.8)


def bust_stl() -> bytes:
    """The bust as a binary STL in millimetres."""
    return meshed(bust, (-95, -75, 0), (95, 75, 215), 2.6)
