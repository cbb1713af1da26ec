"""A triangle mesh as a frozen value, and how loose corners become one surface."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from mildhusk.core.errors import MeshFileError

Floats = NDArray[np.float64]
Integers = NDArray[np.int64]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, slots=True, eq=False)
class Mesh:
    """Triangles that share their corners.

    Parameters
    ----------
    vertices : (n, 3) float
        Corner positions. [m]
    faces : (m, 3) int
        Corners of each face, anticlockwise seen from outside.
    """

    vertices: Floats
    faces: Integers

    def __post_init__(self) -> None:
        if self.vertices.ndim != 2 or self.vertices.shape[1] != 3:
            raise MeshFileError("A mesh needs corner positions as rows of three numbers.")
        if self.faces.ndim != 2 or self.faces.shape[1] != 3 or len(self.faces) == 0:
            raise MeshFileError("The file holds no faces; export the shape again as a mesh.")
        self.vertices.setflags(write=False)
        self.faces.setflags(write=False)

    @property
    def bounds(self) -> Floats:
        """Lowest and highest corner of the box round the piece, (2, 3). [m]"""
        return np.array([self.vertices.min(axis=0), self.vertices.max(axis=0)])

    @property
    def extents(self) -> Floats:
        """Size of the box round the piece, (3,). [m]"""
        low, high = self.bounds
        return np.asarray(high - low)

    def scaled(self, factor: float) -> "Mesh":
        """Return the same mesh with every length times `factor`."""
        return Mesh(self.vertices * factor, self.faces)

    def flipped(self) -> "Mesh":
        """Return the same mesh with inside and outside exchanged."""
        return Mesh(self.vertices, np.ascontiguousarray(self.faces[:, ::-1]))


@lru_cache(maxsize=2)
def face_frames(mesh: Mesh) -> tuple[Floats, Floats, Floats]:
    """Return each face's middle, unit normal (nought without area) and area.

    Returns
    -------
    centre, normal : (m, 3) float
        Read-only, as they are kept for who asks again. [m]
    area : (m,) float
        [m^2]
    """
    a, b, c = (mesh.vertices[mesh.faces[:, k]] for k in range(3))
    doubled = np.cross(b - a, c - a)
    length = np.sqrt(np.einsum("ij,ij->i", doubled, doubled))
    frames = (
        (a + b + c) / 3.0,
        doubled / np.maximum(length, 1e-300)[:, None],
        length / 2.0,
    )
    for one in frames:
        one.setflags(write=False)
    return frames


def middle_of(mesh: Mesh) -> Floats:
    """Return the centre of a surface's area, (3,). [m]"""
    centre, _, area = face_frames(mesh)
    return np.asarray((centre * area[:, None]).sum(axis=0) / area.sum())


def join_corners(triangles: NDArray[np.floating]) -> Mesh:
    """Join corners at exactly the same place, and drop faces that vanish by it.

    Parameters
    ----------
    triangles : (m, 3, 3) float
        Corners of each face. Any length unit.

    Returns
    -------
    Mesh
        In the unit of the input.

    Notes
    -----
    Equal means equal to the last bit in single precision, the precision of an STL file; nearby
    points stay apart. `+ 0.0` makes -0 and +0 the same.
    """
    corners = np.ascontiguousarray(triangles.reshape(-1, 3), dtype=np.float32) + np.float32(0.0)
    words = corners.view(np.uint32).astype(np.uint64)
    # Two of the three words fit one sort key; the third is joined to the rank of the first two.
    _, rank = np.unique((words[:, 0] << np.uint64(32)) | words[:, 1], return_inverse=True)
    key = (rank.astype(np.uint64) << np.uint64(32)) | words[:, 2]
    _, first, corner = np.unique(key, return_index=True, return_inverse=True)
    faces = corner.reshape(-1, 3).astype(np.int64)
    collapsed = (
        (faces[:, 0] == faces[:, 1]) | (faces[:, 1] == faces[:, 2]) | (faces[:, 2] == faces[:, 0])
    )
    return Mesh(corners[first].astype(np.float64), faces[~collapsed])
