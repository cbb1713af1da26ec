"""Shapes like those that practitioners cast: ours, from implicit fields; metres."""

import io

import numpy as np
import trimesh

from core.shapes import joined
from core.soft_shapes import bust_stl, half_mask_stl, helmet_stl
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.demo.shapes import Field, Points, carve, ellipsoid, horn, join, meshed


def cowl() -> Mesh:
    """A full cowl: a head with ears up and shoulders, open at z = 0, its eyes along +y."""

    def field(at: Points) -> Field:
        x, y, z = at
        mirrored = (np.abs(x), y, z)
        head = ellipsoid(at, (0, 0, 185), (78, 98, 112))
        neck = horn(at, (0, -8, 20), (0, -4, 150), 66, 58)
        body = join(join(head, neck, 30), ellipsoid(at, (0, 0, -4), (108, 84, 60)), 40)
        body = join(body, horn(mirrored, (46, 0, 268), (54, -6, 318), 16, 6), 14)
        body = join(body, horn(at, (0, 92, 176), (0, 108, 168), 14, 9), 12)
        return carve(body, ellipsoid(mirrored, (32, 92, 196), (22, 16, 10)), 8)

    return read(meshed(field, (-130, -120, 0), (130, 130, 340), 4.4))


def bottle() -> Mesh:
    """A bottle with shoulders and a narrow neck, open above."""

    def field(at: Points) -> Field:
        x, y, z = at
        body = np.maximum(np.hypot(x, y) - 42.0, np.abs(z - 75.0) - 70.0)
        body = join(body, ellipsoid(at, (0, 0, 142), (40, 40, 34)), 10)
        return join(body, np.maximum(np.hypot(x, y) - 16.0, np.abs(z - 190.0) - 40.0), 10)

    return read(meshed(field, (-60, -60, -5), (60, 60, 215), 2.8))


def helmet() -> Mesh:
    """A helmet with a comb, its eyes along +y."""
    return read(helmet_stl())


def half_mask() -> Mesh:
    """A half mask with a long beak."""
    return read(half_mask_stl())


def bust() -> Mesh:
    """A bust with a collar and a bun, its face along +y."""
    return read(bust_stl())


def read(content: bytes) -> Mesh:
    """A binary STL in millimetres as a shape in metres."""
    model = trimesh.load(io.BytesIO(content), file_type="stl")
    assert isinstance(model, trimesh.Trimesh)
    return joined(model).scaled(1e-3)
