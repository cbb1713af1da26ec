"""The rims of a piece: its openings as loops, flat lids on them, a cut, a skirt."""

from dataclasses import dataclass

import numpy as np
import trimesh

from mildhusk.core.checks import require_between
from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.level import OpenMould
from mildhusk.core.geometry.mesh import Floats, Integers, Mesh, join_corners
from mildhusk.core.geometry.repair import border, loops


@dataclass(frozen=True, slots=True, eq=False)
class Rim:
    """One opening.

    Parameters
    ----------
    corners : (n,) int
        Of the mesh, in the order in which the faces run beside them.
    length_m : float
        [m]
    out : (3,) float
        Unit vector out of the opening.
    """

    corners: Integers
    length_m: float
    out: Floats


def rims(mesh: Mesh) -> tuple[Rim, ...]:
    """Return the openings of a mesh whose outside is outside, the longest rim first."""
    found = []
    for loop in loops(*border(mesh)):
        ring = mesh.vertices[loop]
        after = np.roll(ring, -1, axis=0)
        doubled = np.cross(ring - ring.mean(axis=0), after - ring.mean(axis=0)).sum(axis=0)
        size = float(np.linalg.norm(doubled))
        if size > 0.0:
            # The faces run with their rim, so a lid on it looks the other way.
            length = float(np.linalg.norm(after - ring, axis=1).sum())
            found.append(Rim(loop, length, -doubled / size))
    return tuple(sorted(found, key=lambda rim: -rim.length_m))


def lids(mesh: Mesh, openings: tuple[Rim, ...]) -> Mesh | None:
    """Return flat fans that close openings; None without any."""
    if not openings:
        return None
    vertices, faces, size = [], [], 0
    for rim in openings:
        ring = mesh.vertices[rim.corners]
        count = len(ring)
        here = np.arange(count)
        vertices += [ring, ring.mean(axis=0, keepdims=True)]
        faces.append(size + np.c_[np.roll(here, -1), here, np.full(count, count)])
        size += count + 1
    return Mesh(np.concatenate(vertices), np.concatenate(faces))


def open_mould(mesh: Mesh, openings: tuple[Rim, ...]) -> OpenMould | None:
    """Return the mould of a face, its largest opening up; None for a closed one."""
    closing = lids(mesh, openings)
    if closing is None:
        return None
    # The rim runs with its faces; a skirt on it and its lid run against them.
    ring = mesh.vertices[openings[0].corners[::-1]]
    return OpenMould(mesh, closing, ring, openings[0].out)


def cut_above(mesh: Mesh, height_m: float) -> Mesh:
    """Keep what is above a rim plane z = height.

    Raises
    ------
    MeshFileError
        Nothing is above it.
    """
    low, high = mesh.bounds
    if not height_m < high[2]:
        raise MeshFileError(
            f"The rim plane at z = {height_m * 1e3:g} mm is above the piece, which ends at "
            f"{high[2] * 1e3:g} mm.",
            "rim",
        )
    if height_m <= low[2]:
        return mesh
    model = trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False)
    kept = model.slice_plane([0.0, 0.0, height_m], [0.0, 0.0, 1.0])
    return join_corners(np.asarray(kept.triangles))


def drawn_out(mesh: Mesh, length_m: float) -> tuple[Mesh, float]:
    """Draw the longest rim out straight by a skirt.

    Parameters
    ----------
    mesh : Mesh
        [m]
    length_m : float
        [m]

    Returns
    -------
    mesh : Mesh
    area : float
        Of the skirt, which becomes waste. [m^2]

    Raises
    ------
    MeshFileError
        A length out of range, or a piece without an opening.
    """
    require_between(
        length_m,
        0.0,
        0.5,
        name="The skirt",
        field="skirt",
        error=MeshFileError,
        shown_in="mm",
        scale=1e3,
    )
    if length_m == 0.0:
        return mesh, 0.0
    mould = open_mould(mesh, rims(mesh))
    if mould is None:
        raise MeshFileError("A closed piece has no rim to draw a skirt from.", "skirt")
    longer = mould.with_skirt(length_m).face
    corners = longer.vertices[longer.faces[len(mesh.faces) :]]
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    joined = join_corners(longer.vertices[longer.faces])
    return joined, float(np.linalg.norm(doubled, axis=1).sum() / 2.0)
