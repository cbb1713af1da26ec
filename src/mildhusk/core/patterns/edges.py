"""The edges of a husk: rims of its openings, and of what is cut away, each with a name."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.errors import PatternError
from mildhusk.core.geometry.mesh import Flags, Floats, Mesh
from mildhusk.core.geometry.opening_names import named_openings
from mildhusk.core.geometry.openings import rims

_SMALLEST_M = 0.02


@dataclass(frozen=True, slots=True, eq=False)
class HuskEdge:
    """One edge.

    Parameters
    ----------
    name : str
    ring : (n, 3) float
        In order round it. [m]
    out : (3,) float
        Out of the opening, unit vector.
    is_main : bool
        The longest: the mould is filled through it.
    """

    name: str
    ring: Floats
    out: Floats
    is_main: bool


def kept_face(face: Mesh, cut_away: Flags) -> Mesh:
    """Return what of a casting face stays a husk.

    Raises
    ------
    PatternError
        Nothing does.
    """
    if cut_away.all():
        raise PatternError("All of the piece is cut away; look at its page what is waste.", "piece")
    used, corner = np.unique(face.faces[~cut_away], return_inverse=True)
    return Mesh(face.vertices[used], corner.reshape(-1, 3))


def husk_edges(face: Mesh, cut_away: Flags) -> tuple[HuskEdge, ...]:
    """Return the edges of a husk, the longest first.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    cut_away : (m,) bool
        Faces that become waste.

    Returns
    -------
    tuple of HuskEdge
        Those of at least 20 mm.
    """
    kept = kept_face(face, cut_away)
    openings = rims(kept)
    named = named_openings(kept, openings)
    return tuple(
        HuskEdge(
            "rim" if at == 0 else one.name.replace("opening", "hole"),
            kept.vertices[rim.corners],
            rim.out,
            at == 0,
        )
        for at, (rim, one) in enumerate(zip(openings, named, strict=True))
        if rim.length_m >= _SMALLEST_M
    )


def edge_named(edges: tuple[HuskEdge, ...], name: str | None) -> HuskEdge:
    """Return the edge of a name; without one the longest that is not the rim.

    Raises
    ------
    PatternError
        There is none.
    """
    holes = [one for one in edges if not one.is_main]
    if name is None:
        if not holes:
            raise PatternError(
                "The piece has no opening but its rim. Mark what is cut out later on the piece's "
                "page, or take a file with the opening in it.",
                "edge",
            )
        visors = [one for one in holes if one.name == "visor"]
        return (visors or holes)[0]
    for one in edges:
        if one.name == name:
            return one
    known = ", ".join(one.name for one in edges) or "none"
    raise PatternError(f"There is no edge '{name}'; it has: {known}.", "edge")
