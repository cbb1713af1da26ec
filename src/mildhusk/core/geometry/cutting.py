"""Cutting faces along a line without leaving gaps: every neighbour gets the same new corner."""

import numpy as np

from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh
from mildhusk.core.geometry.topology import by_edge

# A corner nearer to the line than this share of the piece lies on it.
_ON_LINE = 1e-7
_MOST_ROUNDS = 14


def split_edges(mesh: Mesh, split: Flags, share: Floats) -> tuple[Mesh, Integers]:
    """Put a new corner on edges, and make faces of what that leaves.

    Parameters
    ----------
    mesh : Mesh
    split : (e,) bool
        Which edges, in the order of `edges_of`.
    share : (e,) float
        Where on each edge, from its lower-numbered corner, 0 to 1.

    Returns
    -------
    mesh : Mesh
    parent : (m,) int
        The face that each new face was part of.
    """
    low, high, edge = edges_of(mesh)
    at = share[split, None]
    added = (1.0 - at) * mesh.vertices[low[split]] + at * mesh.vertices[high[split]]
    number = np.full(len(low), -1)
    number[split] = len(mesh.vertices) + np.arange(int(split.sum()))
    middle = number[edge]
    many = (middle >= 0).sum(axis=1)
    whole = many == 0
    faces, parents = [mesh.faces[whole]], [np.flatnonzero(whole)]
    for count, pattern in _PATTERNS.items():
        here = np.flatnonzero(many == count)
        # Turn each face so that the pattern fits: one cut side, or the one that is not cut, first.
        odd = (middle[here] >= 0) if count == 1 else (middle[here] < 0)
        turn = np.where(count == 3, 0, odd.argmax(axis=1))
        around = (turn[:, None] + np.arange(3)) % 3
        corner = np.take_along_axis(mesh.faces[here], around, axis=1)
        cut = np.take_along_axis(middle[here], around, axis=1)
        six = np.c_[corner, cut]
        for three in pattern:
            faces.append(six[:, three])
            parents.append(here)
    return (
        Mesh(np.r_[mesh.vertices, added], np.ascontiguousarray(np.concatenate(faces))),
        np.concatenate(parents),
    )


# Corners 0 to 2 and new corners 3 to 5 on the sides 0-1, 1-2, 2-0 of the turned face.
_PATTERNS: dict[int, tuple[list[int], ...]] = {
    1: ([0, 3, 2], [3, 1, 2]),
    2: ([2, 5, 4], [0, 1, 4], [0, 4, 5]),
    3: ([0, 3, 5], [3, 1, 4], [5, 4, 2], [3, 4, 5]),
}


def edges_of(mesh: Mesh) -> tuple[Integers, Integers, Integers]:
    """Return the lower and the higher corner of each edge, and the three edges of each face."""
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    order, opens, shared_by = by_edge(start, end, len(mesh.vertices))
    edge = np.empty(len(start), dtype=np.int64)
    edge[order] = np.repeat(np.arange(len(opens)), shared_by)
    first = order[opens]
    low, high = np.minimum(start, end)[first], np.maximum(start, end)[first]
    return low, high, edge.reshape(-1, 3)


def split_along(mesh: Mesh, value: Floats) -> tuple[Mesh, Integers, Flags]:
    """Cut faces where a value given at their corners is nought.

    Parameters
    ----------
    mesh : Mesh
    value : (n,) float
        Any unit in which it changes evenly along an edge. [m]

    Returns
    -------
    mesh : Mesh
    parent : (m,) int
        The face that each new face was part of.
    above : (m,) bool
        Whether the value is positive on the new face.
    """
    near = np.abs(value) < _ON_LINE * float(mesh.extents.max())
    value = np.where(near, 0.0, value)
    low, high, _ = edges_of(mesh)
    crosses = value[low] * value[high] < 0.0
    share = np.zeros(len(low))
    share[crosses] = value[low][crosses] / (value[low] - value[high])[crosses]
    cut, parent = split_edges(mesh, crosses, share)
    every = np.r_[value, np.zeros(int(crosses.sum()))]
    return cut, parent, every[cut.faces].sum(axis=1) > 0.0


def finer_near(mesh: Mesh, centre: Floats, radius_m: float, edge_m: float) -> tuple[Mesh, Integers]:
    """Halve edges near a place until none there is longer than wanted.

    Parameters
    ----------
    mesh : Mesh
    centre : (3,) float
    radius_m, edge_m : float
        How far round the place, and the longest edge left there. [m]

    Returns
    -------
    mesh : Mesh
    parent : (m,) int
    """
    parent = np.arange(len(mesh.faces))
    for _ in range(_MOST_ROUNDS):
        low, high, edge = edges_of(mesh)
        a, b = mesh.vertices[low], mesh.vertices[high]
        along = b - a
        length = np.linalg.norm(along, axis=1)
        # The long sides of every face that comes near, so that a face round the place counts too.
        near_face = _distance_to_faces(mesh, centre) < radius_m
        wanted = np.zeros(len(low), dtype=bool)
        wanted[edge[near_face]] = True
        split = wanted & (length > edge_m)
        if not split.any():
            break
        mesh, of = split_edges(mesh, split, np.full(len(low), 0.5))
        parent = parent[of]
    return mesh, parent


def _distance_to_faces(mesh: Mesh, centre: Floats) -> Floats:
    """Return a lower bound of how far faces are from a place: from the ball round each. [m]"""
    corners = mesh.vertices[mesh.faces]
    middle = corners.mean(axis=1)
    reach = np.linalg.norm(corners - middle[:, None], axis=2).max(axis=1)
    away: Floats = np.linalg.norm(middle - centre, axis=1) - reach
    return away
