"""The face a coat lands on: faces of even size, their neighbours, and gravity along them."""

import math
from dataclasses import dataclass

import gpytoolbox
import numpy as np
from scipy.spatial import cKDTree

from mildhusk.core.checks import require_between
from mildhusk.core.coating.motion import ROUGH_FROM_M
from mildhusk.core.coating.turning import COARSEST_M, FINEST_M
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.openings import Rim, lids, rims

_ENOUGH_FACES = 8000
"""So many faces a wall is settled on, within the edges below (assumed)."""
_SHORTEST_EDGE_M, _LONGEST_EDGE_M = 0.004, 0.0095
_MORE_THAN_WANTED = 4.0
_REMESH_ROUNDS, _ROUGH_ROUNDS = 10, 2
NO_FACE = -1
_SQRT3 = math.sqrt(3.0)
_LEAST_AREA = 1e-4


@dataclass(frozen=True, slots=True, eq=False)
class CoatGrid:
    """Faces of a mould's inside, with what a flow over them needs.

    Parameters
    ----------
    mesh : Mesh
        Outside of the piece outside: the liquid is on the other side. Lids, if any, come last. [m]
    lid : (m,) bool
        Faces of a lid or a bung, which is no casting face.
    centre, normal : (m, 3) float
        [m]; outwards of the piece.
    area : (m,) float
        [m^2]
    neighbour : (m, 3) int
        Across each edge; -1 at an open rim.
    edge_m : (m, 3) float
        Length of each edge. [m]
    along : (m, 3, 3) float
        For each edge the direction out of the face across it, the mean of both sides'; times
        gravity it is what pulls a film across.
    rim_place : (m, 3, 3) float
        Middle of each edge; what an open rim spills over. [m]
    out : (3,) float
        Out of the largest opening, which is up when the mould stands; upright for a closed one.
    """

    mesh: Mesh
    lid: Flags
    centre: Floats
    normal: Floats
    area: Floats
    neighbour: Integers
    edge_m: Floats
    along: Floats
    rim_place: Floats
    out: Floats

    @property
    def is_open(self) -> bool:
        """Whether there is a rim to spill over."""
        return bool((self.neighbour == NO_FACE).any())


def usual_edge_m(face: Mesh) -> float:
    """Return how long edges may be for a wall that is settled. [m]"""
    area_m2 = float(face_frames(face)[2].sum())
    edge_m = math.sqrt(area_m2 / _ENOUGH_FACES * 4.0 / _SQRT3)
    return min(max(edge_m, _SHORTEST_EDGE_M), _LONGEST_EDGE_M)


def even_mesh(face: Mesh, edge_m: float) -> Mesh:
    """Return a casting face of even edges.

    Parameters
    ----------
    face : Mesh
        [m]
    edge_m : float
        Wanted. [m]

    Raises
    ------
    CoatingError
        An edge out of range, a face that cannot be meshed anew.

    References
    ----------
    M. Botsch and L. Kobbelt, A remeshing approach to multiresolution modeling, SGP 2004 (by the
    general-purpose library gpytoolbox).
    """
    require_between(
        edge_m, FINEST_M, COARSEST_M, name="The edge", field="edge_m", error=CoatingError,
        shown_in="mm", scale=1e3,
    )  # fmt: skip
    if edge_m > 0.5 * float(face.extents.max()):
        raise CoatingError("The edge is as long as the piece; take a shorter one.", "edge")
    rounds = _REMESH_ROUNDS if edge_m < ROUGH_FROM_M else _ROUGH_ROUNDS
    start = _thinned_out(face, edge_m) if edge_m >= ROUGH_FROM_M else face
    made = _meshed_anew(start, edge_m, rounds)
    # What is near in space lies near in memory, which is what the flow waits for.
    near = cKDTree(made.vertices[made.faces].mean(axis=1)).indices
    return Mesh(made.vertices, made.faces[near])


def _meshed_anew(mesh: Mesh, edge_m: float, rounds: int) -> Mesh:
    try:
        vertices, faces = gpytoolbox.remesh_botsch(
            np.array(mesh.vertices), mesh.faces.astype(np.int32), i=rounds, h=edge_m, project=True
        )
    except Exception as error:
        raise CoatingError(
            "The casting face cannot be meshed anew: edges where more than two faces meet, or "
            "faces that fold over; repair the mesh.",
            "file",
        ) from error
    return Mesh(np.asarray(vertices, dtype=np.float64), np.asarray(faces, dtype=np.int64))


def _thinned_out(face: Mesh, edge_m: float) -> Mesh:
    """Return a mesh decimated to a little more than the wanted faces, which is remeshed sooner.

    What its surface is off by is small beside the edges of a first look.
    """
    area = float(face_frames(face)[2].sum())
    enough = int(_MORE_THAN_WANTED * area / (_SQRT3 / 4.0 * edge_m**2))
    if len(face.faces) < 2 * enough:
        return face
    fewer = gpytoolbox.decimate(
        np.array(face.vertices), face.faces.astype(np.int32), num_faces=enough
    )
    return Mesh(np.asarray(fewer[0]), np.asarray(fewer[1], dtype=np.int64))


def coat_grid(mesh: Mesh, *, capped: bool = False) -> CoatGrid:
    """Return the grid of a mesh as it is.

    Parameters
    ----------
    mesh : Mesh
        Outside outside. [m]
    capped : bool
        A lid or a bung closes every opening.

    Raises
    ------
    CoatingError
        An edge where more than two faces meet.
    """
    openings = rims(mesh)
    out = np.array(openings[0].out) if openings else np.array([0.0, 0.0, 1.0])
    cover = _even_lids(mesh, openings) if capped else None
    count = len(mesh.faces)
    if cover is not None:
        mesh = _joined(mesh, cover)
    centre, normal, area = face_frames(mesh)
    neighbour = _neighbours(mesh)
    corners = mesh.vertices[mesh.faces]
    ends = np.roll(corners, -1, axis=1)
    edge = ends - corners
    length = np.linalg.norm(edge, axis=2)
    # Out of the face across its edge, in the face's own plane.
    outward = np.cross(edge, normal[:, None, :]) / np.maximum(length, 1e-12)[:, :, None]
    across = outward.copy()
    inner = neighbour >= 0
    face_at, edge_at = np.nonzero(inner)
    other = neighbour[face_at, edge_at]
    back = (neighbour[other] == face_at[:, None]).argmax(axis=1)
    across[face_at, edge_at] = 0.5 * (outward[face_at, edge_at] - outward[other, back])
    lid = np.zeros(len(mesh.faces), dtype=bool)
    lid[count:] = True
    # A sliver holds next to nothing: it counts as a small face, so that no step is cut for it.
    least = _LEAST_AREA * float(area.mean())
    return CoatGrid(
        mesh, lid, centre, normal, np.maximum(area, least), neighbour, length, across,
        0.5 * (corners + ends), out,
    )  # fmt: skip


def marked_on(grid: CoatGrid, face: Mesh, marked: Flags) -> Flags:
    """Return which faces of a grid lie on marked faces of the mesh it was made from, (m,).

    Parameters
    ----------
    grid : CoatGrid
    face : Mesh
        That the grid was made from. [m]
    marked : (n,) bool
        Of the faces of `face`.

    Returns
    -------
    (m,) bool
        Of the faces of the grid.
    """
    nearest = cKDTree(face_frames(face)[0]).query(grid.centre)[1]
    return np.asarray(marked[nearest] & ~grid.lid)


def _even_lids(mesh: Mesh, openings: tuple[Rim, ...]) -> Mesh | None:
    """Return lids of faces as large as the mesh's; the slivers of a fan resolve no flow.

    Their corners at a rim are the mesh's own.
    """
    edge_m = math.sqrt(4.0 / _SQRT3 * float(face_frames(mesh)[2].mean()))
    cover = lids(mesh, openings, edge_m)
    return None if cover is None else _meshed_anew(cover, edge_m, _REMESH_ROUNDS)


def _joined(mesh: Mesh, cover: Mesh) -> Mesh:
    """Put a cover on, its rim's corners the mesh's own."""
    size = len(mesh.vertices)
    whole = np.r_[mesh.vertices, cover.vertices]
    _, first, same = np.unique(
        np.round(whole / 1e-9), axis=0, return_index=True, return_inverse=True
    )
    faces = first[same.reshape(-1)][np.r_[mesh.faces, cover.faces + size]]
    used, corner = np.unique(faces, return_inverse=True)
    return Mesh(whole[used], corner.reshape(-1, 3))


def _neighbours(mesh: Mesh) -> Integers:
    faces = mesh.faces
    count = len(faces)
    start = faces.reshape(-1)
    end = np.roll(faces, -1, axis=1).reshape(-1)
    key = np.minimum(start, end) * (len(mesh.vertices) + 1) + np.maximum(start, end)
    order = np.argsort(key, kind="stable")
    sorted_key = key[order]
    same = sorted_key[1:] == sorted_key[:-1]
    if (same[1:] & same[:-1]).any():
        raise CoatingError(
            "At an edge more than two faces meet, so it is not told where liquid runs; repair the "
            "mesh.",
            "file",
        )
    neighbour = np.full(3 * count, NO_FACE, dtype=np.int64)
    first, second = order[:-1][same], order[1:][same]
    neighbour[first] = second // 3
    neighbour[second] = first // 3
    return neighbour.reshape(count, 3)
