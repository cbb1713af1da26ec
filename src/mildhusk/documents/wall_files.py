"""The wall of a cast as PLY: on every corner its wall and a colour."""

import numpy as np
import trimesh

from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.geometry.mesh import Floats

_THICK = 1.5
"""What is so many times the target is drawn as the thickest."""
_SCALE = np.array(
    [(20, 30, 80), (60, 78, 120), (110, 118, 125), (165, 158, 118), (220, 205, 95), (252, 232, 80)],
    dtype=np.float64,
)
"""Dark blue to yellow, even in lightness: it reads in grey and to the colour-blind."""


def corner_walls(grid: CoatGrid, wall_m: Floats) -> Floats:
    """Return the wall at each corner, the mean of its faces' by area, (n,). [m]"""
    corners = grid.mesh.faces.reshape(-1)
    area = np.repeat(np.where(grid.lid, 0.0, grid.area), 3)
    whole = np.bincount(corners, area, minlength=len(grid.mesh.vertices))
    summed = np.bincount(corners, np.repeat(wall_m, 3) * area, minlength=len(grid.mesh.vertices))
    return np.asarray(summed / np.maximum(whole, 1e-300))


def wall_ply(grid: CoatGrid, wall_m: Floats, target_m: float) -> bytes:
    """Return the casting face in millimetres with `wall_mm` and a colour on every corner."""
    wall = corner_walls(grid, wall_m)
    share = np.clip(wall / max(target_m, 1e-9) / _THICK, 0.0, 1.0) * (len(_SCALE) - 1)
    at = np.arange(len(_SCALE))
    colours = np.stack([np.interp(share, at, _SCALE[:, k]) for k in range(3)], axis=1)
    mesh = trimesh.Trimesh(
        grid.mesh.vertices * 1e3,
        np.asarray(grid.mesh.faces[~grid.lid]),
        vertex_colors=np.rint(colours).astype(np.uint8),
        process=False,
    )
    mesh.vertex_attributes["wall_mm"] = (wall * 1e3).astype(np.float32)
    content = mesh.export(file_type="ply")
    assert isinstance(content, bytes)
    return content
