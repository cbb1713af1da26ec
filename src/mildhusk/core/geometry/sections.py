"""Sections through a piece, and the girths a tape would measure on them."""

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import ConvexHull, QhullError

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames, middle_of

_LEVELS = 48


@dataclass(frozen=True, slots=True)
class Girth:
    """What a tape round the piece at a height measures: it spans hollows.

    Parameters
    ----------
    height_m : float
        Along the axis, from its lowest place. [m]
    girth_m : float
        [m]
    """

    height_m: float
    girth_m: float


def section(mesh: Mesh, axis: Floats, at: float) -> Floats:
    """Cut a mesh with a plane.

    Parameters
    ----------
    mesh : Mesh
        [m]
    axis : (3,) float
        Unit normal of the plane.
    at : float
        Where it stands along the axis. [m]

    Returns
    -------
    (n, 2, 3) float
        Straight pieces of the section, in no order. [m]
    """
    height = mesh.vertices @ axis - at
    # A corner exactly on the plane counts as just above it, so that no edge is met twice.
    above = height >= 0.0
    corner_above = above[mesh.faces]
    cut = corner_above.any(axis=1) & ~corner_above.all(axis=1)
    faces, up = mesh.faces[cut], corner_above[cut]
    # The corner that is alone on its side; the section runs across its two edges.
    alone = np.where(up.sum(axis=1) == 1, up.argmax(axis=1), (~up).argmax(axis=1))
    row = np.arange(len(faces))
    tip = faces[row, alone]
    ends = []
    for step in (1, 2):
        other = faces[row, (alone + step) % 3]
        share = (height[tip] / (height[tip] - height[other]))[:, None]
        ends.append(mesh.vertices[tip] + share * (mesh.vertices[other] - mesh.vertices[tip]))
    return np.stack(ends, axis=1)


def section_length(pieces: Floats) -> float:
    """Return the length of a section. [m]"""
    return float(np.linalg.norm(pieces[:, 1] - pieces[:, 0], axis=1).sum())


def taped(pieces: Floats, axis: Floats) -> float:
    """Return the length of a tape drawn tight round a section. [m]"""
    across = square_to(axis)
    flat = pieces.reshape(-1, 3) @ across.T
    try:
        return float(ConvexHull(flat).area)
    except (QhullError, ValueError):
        return 0.0


def square_to(axis: Floats) -> Floats:
    """Return two unit directions square to an axis and to each other, (2, 3)."""
    helper = np.eye(3)[np.abs(axis).argmin()]
    first = _cross(axis, helper)
    first /= np.linalg.norm(first)
    return np.array([first, _cross(axis, first)])


def _cross(a: Floats, b: Floats) -> Floats:
    """Return the cross product of two vectors, without what NumPy's does for many. (3,)"""
    (x, y, z), (u, v, w) = a.tolist(), b.tolist()
    return np.array([y * w - z * v, z * u - x * w, x * v - y * u])


def long_axis(mesh: Mesh) -> Floats:
    """Return the way along which a face is longest, (3,): the first principal axis of its area."""
    centre, _, area = face_frames(mesh)
    offset = centre - middle_of(mesh)
    _, axes = np.linalg.eigh((offset * area[:, None]).T @ offset)
    along = axes[:, -1]
    # Upwards, so that it does not depend on how the axes were found.
    return np.asarray(along if along[np.abs(along).argmax()] > 0.0 else -along)


def girths(mesh: Mesh, axis: Floats, count: int = 24) -> tuple[Girth, ...]:
    """Measure girths at even heights.

    Parameters
    ----------
    mesh : Mesh
        [m]
    axis : (3,) float
        Unit vector the heights run along.
    count : int
        How many.

    Returns
    -------
    tuple of Girth
        From below; heights from the lowest place.
    """
    height = mesh.vertices @ axis
    low, high = float(height.min()), float(height.max())
    levels = low + (high - low) * (np.arange(count) + 0.5) / count
    return tuple(
        Girth(float(level - low), taped(section(mesh, axis, level), axis)) for level in levels
    )


def outline_along(closed: Mesh, axis: Floats) -> shapely.Geometry:
    """Return the outline of a closed mesh seen along an axis, without holes.

    Parameters
    ----------
    closed : Mesh
        [m]
    axis : (3,) float
        Unit vector.

    Returns
    -------
    shapely.Geometry
        In the two directions of `square_to`, from sections at many heights. [m]

    Raises
    ------
    MeshFileError
        Nothing is seen.
    """
    across = square_to(axis)
    at = closed.vertices @ axis
    seen: list[shapely.Geometry] = []
    for level in np.linspace(at.min(), at.max(), _LEVELS + 2)[1:-1]:
        pieces = np.round(section(closed, axis, float(level)) @ across.T, 9)
        lines = [line for line in shapely.linestrings(pieces) if line.length > 0.0]
        seen += list(shapely.get_parts(shapely.polygonize(lines)))
    if not seen:
        raise MeshFileError("The piece has no outline from that side.", "piece_id")
    return shapely.union_all([shapely.Polygon(one.exterior) for one in seen])
