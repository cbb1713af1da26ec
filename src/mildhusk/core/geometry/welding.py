"""Corners that are meant to be one: joined by what the file itself shows of its precision."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from mildhusk.core.geometry.mesh import Floats, Integers, Mesh
from mildhusk.core.geometry.topology import border

# Two corners are one where they lie nearer than this share of the open edges at them.
_NEAR = 0.25
# Further apart than this share of the piece nothing is joined: in a file whose faces share most of
# their edges, and in one whose faces share none.
_FARTHEST, _FARTHEST_OF_LOOSE = 2e-4, 2e-3
_LOOSE = 0.5
# Of the nearest distances the widest, times this, joins all copies of a corner.
_REACH = 2.0
# And never so far as this share of a usual edge.
_OF_USUAL = 0.3
# From a place on an edge to its ends, as a share of the edge.
_ON_EDGE = 0.02
# Corners count as far from all others where they make the piece so much larger.
_FAR_OUT = 1.5
# Corners lie on an edge where they are nearer to it than this share of the piece.
_BESIDE = 5e-5


@dataclass(frozen=True, slots=True)
class Welded:
    """How many corners were joined, and how far apart they lay at most, in the mesh's unit."""

    joined: int
    apart: float


def size_of(mesh: Mesh) -> float:
    """Return the size of most of a piece: a corner far from all others does not count."""
    low, high = np.percentile(mesh.vertices, (2.0, 98.0), axis=0)
    most, whole = 1.1 * float((high - low).max()), float(mesh.extents.max())
    return whole if whole < _FAR_OUT * most else most


def weld(mesh: Mesh) -> tuple[Mesh, Welded]:
    """Join open corners that lie much nearer to each other than their edges are long.

    Parameters
    ----------
    mesh : Mesh
        Corners at exactly the same place joined. Any length unit.

    Returns
    -------
    mesh : Mesh
    welded : Welded

    Notes
    -----
    How near is told by the file: the copies of a corner lie as far apart as its writer was
    imprecise, and everything else an edge away. A joined corner stands in the middle of its copies.
    """
    start, end = border(mesh)
    open_corners, at = np.unique(np.r_[start, end], return_inverse=True)
    count = len(open_corners)
    if count < 2:
        return mesh, Welded(0, 0.0)
    length = np.linalg.norm(mesh.vertices[end] - mesh.vertices[start], axis=1)
    shortest = np.full(count, np.inf)
    np.minimum.at(shortest, at, np.r_[length, length])
    places = mesh.vertices[open_corners]
    tree = cKDTree(places)
    away = tree.query(places, k=2)[0][:, 1]
    loose = len(start) > _LOOSE * 3 * len(mesh.faces)
    farthest = (_FARTHEST_OF_LOOSE if loose else _FARTHEST) * size_of(mesh)
    twin = (away < _NEAR * shortest) & (away < farthest)
    if not twin.any():
        return mesh, Welded(0, 0.0)
    radius = min(_REACH * float(away[twin].max()), _OF_USUAL * float(np.median(length)))
    pairs = tree.query_pairs(radius, output_type="ndarray")
    graph = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    groups, label = connected_components(graph, directed=False)
    first = np.full(groups, len(mesh.vertices))
    np.minimum.at(first, label, open_corners)
    became = np.arange(len(mesh.vertices))
    became[open_corners] = first[label]
    many = np.bincount(label)
    middle = np.stack([np.bincount(label, places[:, k]) / many for k in range(3)], axis=1)
    vertices = mesh.vertices.copy()
    vertices[first] = middle
    return Mesh(vertices, became[mesh.faces]), Welded(count - groups, radius)


def mend_edges(mesh: Mesh, apart: float) -> tuple[Mesh, int]:
    """Divide faces where other faces' corners stand on their open edges, so that they share them.

    Parameters
    ----------
    mesh : Mesh
        Any length unit.
    apart : float
        How far corners that were one lay apart, in that unit: so far off its edge one may stand.

    Returns
    -------
    mesh : Mesh
    mended : int
        Edges that were divided.
    """
    start, end = border(mesh)
    if len(start) == 0:
        return mesh, 0
    corners = np.unique(np.r_[start, end])
    near = max(_BESIDE * size_of(mesh), apart)
    on_edge = _corners_on(mesh.vertices, start, end, corners, near)
    if not on_edge:
        return mesh, 0
    faces = mesh.faces
    following = np.roll(faces, -1, axis=1)
    begin_key = faces.ravel() * len(mesh.vertices) + following.ravel()
    order = np.argsort(begin_key)
    added: list[Integers] = []
    gone = np.zeros(len(faces), dtype=bool)
    for edge, between in on_edge.items():
        key = start[edge] * len(mesh.vertices) + end[edge]
        side = int(order[np.searchsorted(begin_key, key, sorter=order)])
        face, first = divmod(side, 3)
        if gone[face]:
            continue  # its other open edge was divided; the next round sees what is left
        gone[face] = True
        tip = faces[face, (first + 2) % 3]
        chain = np.r_[start[edge], between, end[edge]]
        added.append(np.c_[chain[:-1], chain[1:], np.full(len(chain) - 1, tip)])
    return Mesh(mesh.vertices, np.r_[faces[~gone], *added]), int(gone.sum())


def _corners_on(
    places: Floats, start: Integers, end: Integers, corners: Integers, near: float
) -> dict[int, Integers]:
    """Return for open edges the corners that stand on them, from their start to their end."""
    a, b = places[start], places[end]
    length = np.linalg.norm(b - a, axis=1)
    long_enough = np.flatnonzero(length > 2.0 * near)
    tree = cKDTree(places[corners])
    beside = tree.query_ball_point(
        (a[long_enough] + b[long_enough]) / 2.0, length[long_enough] / 2.0 + near
    )
    found = {}
    for edge, inside in zip(long_enough.tolist(), beside, strict=True):
        if len(inside) <= 2:
            continue
        candidates = corners[inside]
        along = (b[edge] - a[edge]) / length[edge]
        offset = places[candidates] - a[edge]
        share = offset @ along / length[edge]
        aside = np.linalg.norm(offset - (offset @ along)[:, None] * along, axis=1)
        on = (aside < near) & (share > _ON_EDGE) & (share < 1.0 - _ON_EDGE)
        on &= (candidates != start[edge]) & (candidates != end[edge])
        if on.any():
            found[edge] = candidates[on][np.argsort(share[on])]
    return found
