"""A small picture of a mesh: one ray a point, parallel light, nothing behind it."""

import numpy as np
from numpy.typing import NDArray

from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames
from mildhusk.core.geometry.rays import Caster

Bytes = NDArray[np.uint8]

FROM = np.array([1.5, 2.4, 0.9])
"""Whence a piece is seen: a little from its side and from above, as the 3D view stands at first."""
_LIGHTS = ((np.array([2.0, 3.0, 4.0]), 0.62), (np.array([-3.0, -1.0, 1.0]), 0.16))
_AMBIENT = 0.36
_FINER = 2
"""So many rays stand for a point each way."""
_ROOM = 0.94
"""The share of the picture's shorter way that the piece may fill."""


def shaded(mesh: Mesh, colours: Floats, size: tuple[int, int], up: Floats | None = None) -> Bytes:
    """Draw a mesh from `FROM`, as large as it fits.

    Parameters
    ----------
    mesh : Mesh
        [m]
    colours : (m, 3) float
        Of each face under full light, 0 to 255.
    size : (int, int)
        Points across and down.
    up : (3,) float, optional
        Which way of the mesh points up; its z when nothing is said.

    Returns
    -------
    (down, across, 4) uint8
        Red, green, blue, and how much of the point the mesh covers.
    """
    across, down = size[0] * _FINER, size[1] * _FINER
    right, above, towards = _frame(np.array([0.0, 0.0, 1.0]) if up is None else up)
    seen = mesh.vertices[np.unique(mesh.faces)] @ np.stack([right, above, towards], axis=1)
    low, high = seen.min(axis=0), seen.max(axis=0)
    step = float(max((high[0] - low[0]) / across, (high[1] - low[1]) / down)) / _ROOM
    middle = (low + high) / 2.0
    x = middle[0] + (np.arange(across) - (across - 1) / 2.0) * step
    y = middle[1] - (np.arange(down) - (down - 1) / 2.0) * step
    beside, over = np.meshgrid(x, y)
    start = high[2] + (high - low).max()
    starts = beside.reshape(-1, 1) * right + over.reshape(-1, 1) * above + start * towards
    hit, _ = Caster(mesh).hits(starts, np.broadcast_to(-towards, starts.shape))
    normal = face_frames(mesh)[1]
    # Both sides of a face are lit, each as it is turned to who looks.
    facing = normal * np.where(normal @ towards < 0.0, -1.0, 1.0)[:, None]
    light = np.full(len(normal), _AMBIENT)
    for way, strength in _LIGHTS:
        light += strength * np.maximum(facing @ _unit(way), 0.0)
    lit = np.clip(colours * np.minimum(light, 1.15)[:, None], 0.0, 255.0)
    drawn = np.zeros((down * across, 4))
    covered = hit >= 0
    drawn[covered, :3] = lit[hit[covered]]
    drawn[covered, 3] = 255.0
    blocks = drawn.reshape(size[1], _FINER, size[0], _FINER, 4)
    whole = blocks.mean(axis=(1, 3))
    # A point that is covered in part has the colour of what covers it.
    whole[..., :3] *= 255.0 / np.maximum(whole[..., 3:], 1.0)
    return np.asarray(np.rint(np.clip(whole, 0.0, 255.0)), dtype=np.uint8)


def _frame(up: Floats) -> tuple[Floats, Floats, Floats]:
    """Return right, above and towards the eye, in the frame of a mesh of which a way is up."""
    z = _unit(up)
    # The way round is the mesh's own where it stands upright.
    x = np.array([1.0, 0.0, 0.0]) if abs(z[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    x = _unit(x - z * (x @ z))
    towards = _unit(np.stack([x, np.cross(z, x), z], axis=1) @ FROM)
    right = _unit(np.cross(z, towards))
    return right, np.cross(towards, right), towards


def _unit(way: Floats) -> Floats:
    return np.asarray(way / np.linalg.norm(way))
