"""Files as they come, made here: hollow prints, solids, sheets with mouths, and what breaks them.

Each hollow or solid body stands beside what the mould touches of it. Metres.
"""

import functools
import io
from collections.abc import Callable

import numpy as np
import trimesh

from core.shapes import joined
from core.soft_shapes import bust, half_mask, helmet
from mildhusk.core.geometry.mesh import Mesh
from mildhusk.demo.shapes import Field, Points, carve, ellipsoid, horn, join, meshed

WALL_MM = 4.0


Grid = tuple[tuple[float, float, float], tuple[float, float, float], float]
Form = Callable[[Points], Field]


@functools.cache
def body_of(field: Form, grid: Grid) -> trimesh.Trimesh:
    """A field as a closed mesh, in millimetres."""
    low, high, step = grid
    body = trimesh.load_mesh(io.BytesIO(meshed(field, low, high, step)), file_type="stl")
    body.update_faces(body.nondegenerate_faces())
    body.fill_holes()
    body.fix_normals()
    assert body.is_volume
    return body


def _shrunk(field: Form, at: Points) -> Field:
    return field(at) + WALL_MM


def cut_flat(body: trimesh.Trimesh, axis: int, *, capped: bool) -> Mesh:
    """What of a body lies above nought along an axis, its cut closed or open. Metres."""
    normal = np.eye(3)[axis]
    cut = trimesh.intersections.slice_mesh_plane(body, normal, [0.0, 0.0, 0.0], cap=capped)
    return joined(cut).scaled(1e-3)


@functools.cache
def hollow_print(field: Form, grid: Grid, axis: int, inside: Form | None = None) -> Mesh:
    """A closed print with a wall inside the field, cut off flat, with parts in its cavity."""
    outer, inner = body_of(field, grid), body_of(functools.partial(_shrunk, field), grid)
    wall = trimesh.boolean.difference([outer, inner], engine="manifold")
    if inside is not None:
        parts = trimesh.boolean.intersection([body_of(inside, grid), outer], engine="manifold")
        wall = trimesh.boolean.union([wall, parts], engine="manifold")
    return cut_flat(wall, axis, capped=True)


@functools.cache
def touched(field: Form, grid: Grid, axis: int) -> Mesh:
    """What the mould touches of such a print: the field itself, open at the cut."""
    return cut_flat(body_of(field, grid), axis, capped=False)


@functools.cache
def solid(field: Form, grid: Grid, axis: int) -> Mesh:
    """The same form as a solid with a flat base."""
    return cut_flat(body_of(field, grid), axis, capped=True)


def posts(at: Points) -> Field:
    """Four posts from the brow into the cavity of the helmet, and a box that hangs between them."""
    x, y, z = at
    mirrored = (np.abs(x), np.abs(y), z)
    post = horn(mirrored, (40, 45, 60), (40, 45, 300), 6, 6)
    box = np.max([np.abs(x) - 30, np.abs(y) - 20, np.abs(z - 120) - 18], axis=0)
    return np.maximum(np.minimum(post, box), z - 285.0)


def roaring_head(at: Points) -> Field:
    """An animal's head, its mouth wide open to the front, open at the neck."""
    skull = ellipsoid(at, (0, 0, 130), (85, 100, 95))
    head = join(skull, horn(at, (0, 0, -20), (0, 0, 90), 60, 60), 30)
    head = join(head, horn(at, (0, 70, 120), (0, 150, 110), 55, 42), 20)
    return carve(head, ellipsoid(at, (0, 150, 108), (34, 78, 26)), 6)


@functools.cache
def dish(depth_mm: float) -> Mesh:
    """A solid dish of a radius of 100 mm, 45 mm high, with a hollow so deep."""

    def field(at: Points) -> Field:
        body = np.maximum(ellipsoid(at, (0, 0, 0), (100, 100, 45)), at[2])
        return np.maximum(body, -ellipsoid(at, (0, 0, 35 - depth_mm), (88, 88, 40)))

    return joined(body_of(field, ((-110.0, -110.0, -60.0), (110.0, 110.0, 10.0), 4.8))).scaled(1e-3)


HELMET: Grid = ((-130.0, -180.0, -70.0), (130.0, 140.0, 300.0), 5.3)
BUST: Grid = ((-95.0, -75.0, -60.0), (95.0, 75.0, 215.0), 3.7)
MASK: Grid = ((-110.0, -100.0, -110.0), (110.0, 180.0, 110.0), 4.3)
HEAD: Grid = ((-110.0, -120.0, -100.0), (110.0, 210.0, 260.0), 5.3)
FORMS: dict[str, tuple[Form, Grid, int]] = {
    "helmet": (helmet, HELMET, 2),
    "bust": (bust, BUST, 2),
    "half mask": (half_mask, MASK, 1),
    "roaring head": (roaring_head, HEAD, 2),
}
"""Form, grid, and along which axis it is cut open at nought."""
