"""What of a mesh hangs together: edges, neighbours, borders, bodies."""

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mildhusk.core.geometry.mesh import Flags, Integers, Mesh


def bodies(mesh: Mesh) -> tuple[int, Integers]:
    """Return how many separate surfaces there are, and which one each face belongs to."""
    count = len(mesh.vertices)
    start, end = mesh.faces[:, :2].ravel(), mesh.faces[:, 1:].ravel()
    graph = coo_array((np.ones(len(start), np.int8), (start, end)), shape=(count, count))
    _, label = connected_components(graph, directed=False)
    names, face_label = np.unique(label[mesh.faces[:, 0]], return_inverse=True)
    return len(names), face_label


def neighbours(mesh: Mesh) -> tuple[Integers, Integers, Flags]:
    """Return the faces beside each edge that two share, and whether they agree about outside."""
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    order, opens, shared_by = by_edge(start, end, len(mesh.vertices))
    pair = opens[shared_by == 2]
    first, second = order[pair], order[pair + 1]
    return first // 3, second // 3, start[first] != start[second]


def by_edge(start: Integers, end: Integers, count: int) -> tuple[Integers, Integers, Integers]:
    """Group the sides of faces by the edge they run along, whichever way.

    Parameters
    ----------
    start, end : (n,) int
        Corners that each side runs from and to.
    count : int
        Corners there are.

    Returns
    -------
    order : (n,) int
        Sides, those of one edge together.
    opens : (e,) int
        Where in that order each edge begins.
    shared_by : (e,) int
        How many sides run along it.
    """
    key = np.minimum(start, end) * count + np.maximum(start, end)
    order = np.argsort(key, kind="stable")
    ordered = key[order]
    opens = np.flatnonzero(np.r_[True, ordered[1:] != ordered[:-1]])
    return order, opens, np.diff(np.r_[opens, len(ordered)])


def border(mesh: Mesh) -> tuple[Integers, Integers]:
    """Return edges that only one face has, running as in that face."""
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    order, opens, shared_by = by_edge(start, end, len(mesh.vertices))
    single = order[opens[shared_by == 1]]
    return start[single], end[single]


def loops(start: Integers, end: Integers) -> list[Integers]:
    """Chain border edges to closed loops; what does not close is left out."""
    leaving: dict[int, list[int]] = {}
    for one, other in zip(start.tolist(), end.tolist(), strict=True):
        leaving.setdefault(one, []).append(other)
    loops = []
    while leaving:
        begin = next(iter(leaving))
        path, place = [begin], {begin: 0}
        while True:
            onward = leaving.get(path[-1])
            if not onward:
                break
            step = onward.pop()
            if not onward:
                del leaving[path[-1]]
            if step in place:
                # A loop is closed; what led there goes on with it cut off.
                at = place[step]
                loops.append(np.array(path[at:]))
                for left in path[at + 1 :]:
                    del place[left]
                del path[at + 1 :]
                if at == 0 and begin not in leaving:
                    break
            else:
                place[step] = len(path)
                path.append(step)
        leaving.pop(path[-1], None)
    return loops
