"""Places narrower than twice a wall: there the cast comes out solid."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mildhusk.core.geometry.mesh import Flags, Mesh, face_frames
from mildhusk.core.geometry.rays import Caster
from mildhusk.core.geometry.topology import neighbours

# Cosine between the normals of two walls that grow towards each other.
_FACING = -0.5
# Smaller places than this are of no use to list.
_LEAST_M3 = 5e-9


@dataclass(frozen=True, slots=True)
class NarrowPlace:
    """A place narrower than twice the wall.

    Parameters
    ----------
    at_m : tuple of 3 floats
        Its middle. [m]
    width_m : float
        How far apart its walls are, by area. [m]
    volume_m3 : float
        Of what is between them. [m^3]
    """

    at_m: tuple[float, float, float]
    width_m: float
    volume_m3: float


def narrow_places(mesh: Mesh, wall_m: float) -> tuple[tuple[NarrowPlace, ...], Flags]:
    """Find places narrower than twice the wall.

    Parameters
    ----------
    mesh : Mesh
        Casting face, outside outside. [m]
    wall_m : float
        [m]

    Returns
    -------
    places : tuple of NarrowPlace
        The largest first.
    faces : (m,) bool
        Which faces stand there.

    Notes
    -----
    A ray inwards from the middle of each face: it is narrow where the ray meets, within two walls,
    a face that looks back. Each place is half counted from both its sides.
    """
    centre, normal, areas = face_frames(mesh)
    start = centre - 2e-5 * float(mesh.extents.max()) * normal
    hit, far = Caster(mesh).hits(start, -normal)
    facing = np.einsum("ij,ij->i", normal[hit], normal) < _FACING
    narrow = (hit >= 0) & facing & (far < 2.0 * wall_m)
    if not narrow.any():
        return (), narrow
    first, second, _ = neighbours(mesh)
    beside = narrow[first] & narrow[second]
    own = np.flatnonzero(narrow)
    # Faces across a place belong to it as those beside do.
    start_at = np.r_[first[beside], own[narrow[hit[own]]]]
    end_at = np.r_[second[beside], hit[own][narrow[hit[own]]]]
    size = len(mesh.faces)
    graph = coo_array((np.ones(len(start_at), np.int8), (start_at, end_at)), shape=(size, size))
    _, label = connected_components(graph, directed=False)
    places = []
    for name in np.unique(label[own]):
        here = own[label[own] == name]
        area = areas[here]
        volume = float((area * far[here]).sum() / 2.0)
        if volume < _LEAST_M3:
            continue
        middle = centre[here] - 0.5 * far[here, None] * normal[here]
        x, y, z = (middle * area[:, None]).sum(axis=0) / area.sum()
        width = float((area * far[here]).sum() / area.sum())
        places.append(NarrowPlace((float(x), float(y), float(z)), width, volume))
    return tuple(sorted(places, key=lambda place: -place.volume_m3)), narrow
