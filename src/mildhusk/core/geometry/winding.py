"""How often a surface goes round a place: whether that is inside it."""

import numpy as np

from mildhusk.core.geometry.mesh import Floats, Mesh


def winding_numbers(mesh: Mesh, points: Floats) -> Floats:
    """Return generalized winding numbers: 1 inside a closed mesh whose outside is outside.

    Parameters
    ----------
    mesh : Mesh
        It need not be closed; the number is then what part of the sky it hides.
    points : (n, 3) float
        A few; every face is looked at from each.

    Returns
    -------
    (n,) float
        [1]

    References
    ----------
    The solid angle of a triangle: van Oosterom and Strackee, IEEE Trans. Biomed. Eng. 30 (1983)
    125. Winding numbers by its sum: Jacobson, Kavan and Sorkine-Hornung, ACM Trans. Graph. 32
    (2013) 33. Both from memory.
    """
    return np.array([_winding_number(mesh, point) for point in points])


def _winding_number(mesh: Mesh, point: Floats) -> float:
    a, b, c = (mesh.vertices[mesh.faces[:, k]] - point for k in range(3))
    la, lb, lc = (np.linalg.norm(one, axis=1) for one in (a, b, c))
    triple = np.einsum("ij,ij->i", a, np.cross(b, c))
    below = (
        la * lb * lc
        + np.einsum("ij,ij->i", a, b) * lc
        + np.einsum("ij,ij->i", b, c) * la
        + np.einsum("ij,ij->i", c, a) * lb
    )
    return float(np.arctan2(triple, below).sum() / (2.0 * np.pi))
