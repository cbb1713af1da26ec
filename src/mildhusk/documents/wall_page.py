"""The wall of a cast on one page: map from both sides, section, figures."""

import base64
import io
from typing import Any

import numpy as np
from PIL import Image, ImageDraw

from mildhusk.core.coating.answer import LandedWall
from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames
from mildhusk.core.geometry.sections import section
from mildhusk.core.wording import Quantity, Unit, in_metric
from mildhusk.documents.pages import page_pdf
from mildhusk.documents.wall_files import SCALE_ENDS, WallModel, colours_of, corner_walls

_PIXELS, _STRIPE = 900, 14


def wall_pdf(model: WallModel, wall: LandedWall, turned: str, *, capped: bool) -> bytes:
    """Return one page with the map, a section and the figures of a wall.

    Parameters
    ----------
    model : WallModel
    wall : LandedWall
    turned : str
        Its name.
    capped : bool
        A lid closed every opening.
    """
    target = wall.target_m
    return page_pdf(
        "wall_page",
        figures=wall,
        capped=capped,
        turned=turned,
        front=_picture(_map(model, target, 1.0)),
        back=_picture(_map(model, target, -1.0)),
        section=_section(model),
        scale=_picture(_scale()),
        most=in_metric(Quantity(SCALE_ENDS * target, Unit.LENGTH)),
        millimetres=lambda m: in_metric(Quantity(m, Unit.LENGTH)),
        grams=lambda kg: f"{kg * 1e3:,.1f} g",
    )


def _map(model: WallModel, target_m: float, side: float) -> Image.Image:
    """Draw the face seen along y from one side; thinner than the target is hatched."""
    mesh, wall = model.mesh, model.wall_m
    at = mesh.vertices[:, [0, 2]] * [side, 1.0]
    low = at.min(axis=0)
    scale = (_PIXELS - 20) / float(np.ptp(at, axis=0).max())
    size = np.ceil(np.ptp(at, axis=0) * scale + 20).astype(int)
    pixels = (at - low) * scale + 10.0
    pixels[:, 1] = size[1] - pixels[:, 1]
    centre, normal, _ = face_frames(mesh)
    # Lit from where one looks; the nearest is drawn last.
    light = np.clip(0.55 + 0.45 * np.abs(normal[:, 1]), 0.0, 1.0)
    colours = colours_of(wall, target_m) * light[:, None]
    picture = Image.new("RGB", (int(size[0]), int(size[1])), "white")
    thin = Image.new("1", picture.size, 0)
    draw, mark = ImageDraw.Draw(picture), ImageDraw.Draw(thin)
    for face in np.argsort(-side * centre[:, 1])[::-1]:
        corners = [tuple(one) for one in pixels[mesh.faces[face]]]
        draw.polygon(corners, fill=tuple(int(part) for part in colours[face]))
        mark.polygon(corners, fill=int(wall[face] < target_m))
    x, y = np.meshgrid(np.arange(size[0]), np.arange(size[1]))
    striped = np.asarray(thin) & ((x + y) % _STRIPE < 3)
    drawn = np.array(picture)
    drawn[striped] = (110, 20, 14)
    return Image.fromarray(drawn)


def _section(model: WallModel) -> dict[str, Any]:
    """Return the middle section: lines of the outside and of the inside, in millimetres."""
    mesh = model.mesh
    corner = corner_walls(mesh, model.wall_m)
    _, normal, area = face_frames(mesh)
    out = np.zeros_like(mesh.vertices)
    for k in range(3):
        np.add.at(out, mesh.faces[:, k], normal * area[:, None])
    out /= np.maximum(np.linalg.norm(out, axis=1), 1e-12)[:, None]
    inner = Mesh(mesh.vertices - corner[:, None] * out, mesh.faces)
    axis = np.array([1.0, 0.0, 0.0])
    # Not through a row of corners.
    middle = float(np.mean(mesh.vertices[:, 0])) + 1e-6
    lines = [_lines(section(one, axis, middle)) for one in (mesh, inner)]
    both = np.concatenate(lines) if any(len(one) for one in lines) else np.zeros((1, 2, 2))
    low, high = both.reshape(-1, 2).min(axis=0), both.reshape(-1, 2).max(axis=0)
    return {"low": low, "size": high - low, "outer": lines[0], "inner": lines[1]}


def _lines(ends: Floats) -> Floats:
    """Return ends of lines in the section's plane, heights downwards, (k, 2, 2). [mm]"""
    if not len(ends):
        return np.zeros((0, 2, 2))
    return np.asarray(ends[:, :, 1:] * [1e3, -1e3])


def _scale() -> Image.Image:
    share = np.tile(np.linspace(0.0, SCALE_ENDS, 300), (12, 1))
    colours = colours_of(share.reshape(-1), 1.0).reshape(12, 300, 3)
    return Image.fromarray(colours.astype(np.uint8))


def _picture(image: Image.Image) -> str:
    packed = io.BytesIO()
    image.save(packed, "PNG")
    return "data:image/png;base64," + base64.b64encode(packed.getvalue()).decode()
