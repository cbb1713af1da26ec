"""Which places are inside a surface that need not be closed."""

import numpy as np

from mildhusk.core.geometry.mesh import Flags, Floats, Mesh

_INSIDE = 0.5


def inside(mesh: Mesh, points: Floats) -> Flags:
    """Return which points a surface goes round, whichever way its faces look.

    Parameters
    ----------
    mesh : Mesh
        All but closed.
    points : (n, 3) float
        [m]

    Returns
    -------
    (n,) bool

    Notes
    -----
    By generalized winding numbers (Barill et al., ACM Trans. Graph. 37 (2018) 43, from memory), of
    the general-purpose library gpytoolbox.
    """
    import gpytoolbox  # slow to load, and most files have one body

    around = gpytoolbox.fast_winding_number(points, mesh.vertices, mesh.faces)
    return np.asarray(np.abs(around) > _INSIDE)
