"""What facets miss of the round face they stand for."""

import numpy as np

from mildhusk.core.geometry.mesh import Mesh, face_frames
from mildhusk.core.geometry.topology import neighbours

# Over a sharper edge the piece itself has an edge.
_CREASE = np.radians(40.0)
# Of an equilateral facet on a ball: sides h, its spherical triangle is larger by 5/24 (h / R)^2 (by
# the area of a spherical triangle to second order). Shared among its three sides, and a fifth more
# for facets that are not equilateral; on a cylinder that is up to four times too much.
_PER_SIDE = 6.0 / 72.0


def facet_error(mesh: Mesh) -> float:
    """Estimate by how much the area of the face behind the facets is larger, as a share.

    Parameters
    ----------
    mesh : Mesh
        Any length unit, neighbours agreeing about outside.

    Returns
    -------
    float
        [1]

    Notes
    -----
    From how far the normal turns along each side; corners at an edge of the piece do not count.
    """
    _, normal, area = face_frames(mesh)
    weighted = normal * area[:, None]
    at_corner = np.zeros_like(mesh.vertices)
    for k in range(3):
        for axis in range(3):
            at_corner[:, axis] += np.bincount(
                mesh.faces[:, k], weighted[:, axis], minlength=len(mesh.vertices)
            )
    at_corner /= np.maximum(np.linalg.norm(at_corner, axis=1, keepdims=True), 1e-300)
    first, second, _ = neighbours(mesh)
    cosine = np.einsum("ij,ij->i", normal[first], normal[second])
    sharp = cosine < np.cos(_CREASE)
    on_crease = np.zeros(len(mesh.vertices), dtype=bool)
    # Both faces' corners: more than those of the edge itself, and cheaper to find.
    on_crease[mesh.faces[np.r_[first[sharp], second[sharp]]]] = True
    turning = np.zeros(len(area))
    for k in range(3):
        a, b = mesh.faces[:, k], mesh.faces[:, (k + 1) % 3]
        angle = np.arccos(np.clip(np.einsum("ij,ij->i", at_corner[a], at_corner[b]), -1.0, 1.0))
        turning += np.where(on_crease[a] | on_crease[b], 0.0, angle) ** 2
    return _PER_SIDE * float((area * turning).sum() / max(float(area.sum()), 1e-300))
