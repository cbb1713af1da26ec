"""The rims of a piece: its openings as loops, flat lids on them, a cut, a skirt."""

import math
from dataclasses import dataclass

import numpy as np

from mildhusk.core.checks import require_between
from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.cutting import split_along
from mildhusk.core.geometry.level import LONGEST_SKIRT_M, OpenMould
from mildhusk.core.geometry.mesh import Floats, Integers, Mesh
from mildhusk.core.geometry.topology import border, loops


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


def lids(mesh: Mesh, openings: tuple[Rim, ...], apart_m: float = math.inf) -> Mesh | None:
    """Return flat lids on openings, of fans or of rings so far apart [m]; None without any.

    Parameters
    ----------
    mesh : Mesh
        [m]
    openings : tuple of Rim
    apart_m : float
        Between the rings of a lid; a fan where it is infinite. [m]

    Returns
    -------
    Mesh or None
    """
    if not openings:
        return None
    vertices, faces, size = [], [], 0
    for rim in openings:
        ring = mesh.vertices[rim.corners]
        middle, count = ring.mean(axis=0), len(ring)
        rings = max(round(float(np.linalg.norm(ring - middle, axis=1).max()) / apart_m), 1)
        shares = np.arange(rings, 0, -1) / rings
        vertices += [middle + share * (ring - middle) for share in shares] + [middle[None]]
        here = np.arange(count)
        after = np.roll(here, -1)
        for outer in size + count * np.arange(rings - 1):
            inner = outer + count
            faces += [
                np.c_[outer + after, outer + here, inner + here],
                np.c_[outer + after, inner + here, inner + after],
            ]
        last = size + count * (rings - 1)
        faces.append(last + np.c_[after, here, np.full(count, count)])
        size += count * rings + 1
    return Mesh(np.concatenate(vertices), np.concatenate(faces))


def open_mould(mesh: Mesh, openings: tuple[Rim, ...]) -> OpenMould | None:
    """Return the mould of a face, its largest opening up; None for a closed one."""
    closing = lids(mesh, openings)
    if closing is None:
        return None
    # The rim runs with its faces; a skirt on it and its lid run against them.
    ring = mesh.vertices[openings[0].corners[::-1]]
    return OpenMould(mesh, closing, ring, openings[0].out)


def cut_above(mesh: Mesh, height_m: float) -> tuple[Mesh, Integers]:
    """Keep what is above a rim plane z = height.

    Parameters
    ----------
    mesh : Mesh
        [m]
    height_m : float
        [m]

    Returns
    -------
    mesh : Mesh
    parent : (m,) int
        The face that each face was part of.

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
        return mesh, np.arange(len(mesh.faces))
    cut, parent, above = split_along(mesh, mesh.vertices[:, 2] - height_m)
    used, corner = np.unique(cut.faces[above], return_inverse=True)
    return Mesh(cut.vertices[used], corner.reshape(-1, 3)), parent[above]


def holes_closed(mesh: Mesh, under_m: float = math.inf) -> Mesh:
    """Close every opening but the longest with a flat lid, whose faces come last.

    Parameters
    ----------
    mesh : Mesh
        [m]
    under_m : float
        Only those narrower than this; a round one is as wide as its rim by pi. [m]
    """
    for rim in rims(mesh)[1:]:
        if rim.length_m / math.pi >= under_m:
            continue
        ring = mesh.vertices[rim.corners]
        middle = np.full(len(ring), len(mesh.vertices))
        fan = np.c_[np.roll(rim.corners, -1), rim.corners, middle]
        mesh = Mesh(np.r_[mesh.vertices, [ring.mean(axis=0)]], np.r_[mesh.faces, fan])
    return mesh


def drawn_out(mesh: Mesh, skirt_m: float, ledge_m: float) -> Mesh:
    """Draw the longest rim out straight by a skirt, and its end inwards by a ledge.

    Parameters
    ----------
    mesh : Mesh
        [m]
    skirt_m, ledge_m : float
        [m]

    Returns
    -------
    Mesh
        The faces of skirt and ledge, which become waste, come last.

    Raises
    ------
    MeshFileError
        A length out of range, a ledge that closes the opening, a piece without one.
    """
    for length, name in ((skirt_m, "skirt"), (ledge_m, "ledge")):
        require_between(
            length,
            0.0,
            LONGEST_SKIRT_M,
            name=f"The {name}",
            field=name,
            error=MeshFileError,
            shown_in="mm",
            scale=1e3,
        )
        if length == 0.0:
            continue
        openings = rims(mesh)
        mould = open_mould(mesh, openings)
        if mould is None:
            raise MeshFileError(f"A closed piece has no rim to draw a {name} from.", name)
        longer = mould.with_skirt(length) if name == "skirt" else mould.with_ledge(length)
        # The band stands on copies of the rim's corners; here it is joined to them.
        became = np.arange(len(longer.face.vertices))
        first = len(mesh.vertices)
        became[first : first + len(mould.rim)] = openings[0].corners[::-1]
        mesh = Mesh(longer.face.vertices, became[longer.face.faces])
    return mesh
