"""Putting right what can be put right in a file's faces, and saying what was done."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames

# Corners of an open edge nearer than this share of the piece are one corner.
_SAME_PLACE = 2e-5
# A separate body with less than this share of the area, and smaller than that share across.
_CRUMB_AREA, _CRUMB_SIZE = 1e-3, 0.1
# A hole is tiny when it has few edges and is not too long round, or is short anyway.
_FEW_EDGES, _FEW_EDGES_LONG = 6, 0.15
_TINY_ROUND = 0.04
# Volume by area^1.5; a sphere has 0.094, a shallow dish little.
_CLEARLY = 0.002


class RepairKind(StrEnum):
    """What was put right."""

    MERGED_POINTS = "merged-points"
    ZERO_FACES = "zero-faces"
    DUPLICATE_FACES = "duplicate-faces"
    LOOSE_CRUMBS = "loose-crumbs"
    FLIPPED_FACES = "flipped-faces"
    TINY_HOLES = "tiny-holes"


_SENTENCES = {
    RepairKind.MERGED_POINTS: "{} corners that lay all but at one place were joined.",
    RepairKind.ZERO_FACES: "{} faces without area were left out.",
    RepairKind.DUPLICATE_FACES: "{} faces that stood there twice were left out.",
    RepairKind.LOOSE_CRUMBS: "{} loose crumbs were left out.",
    RepairKind.FLIPPED_FACES: "{} faces turned inside out were turned back.",
    RepairKind.TINY_HOLES: "{} tiny holes were closed.",
}


@dataclass(frozen=True, slots=True)
class Repair:
    """One kind of repair and how often it was made."""

    kind: RepairKind
    count: int

    @property
    def sentence(self) -> str:
        """What was done, in words."""
        return _SENTENCES[self.kind].format(f"{self.count:,}")


def repair(mesh: Mesh) -> tuple[Mesh, tuple[Repair, ...]]:
    """Put right what can be put right.

    Parameters
    ----------
    mesh : Mesh
        As read. Any length unit.

    Returns
    -------
    mesh : Mesh
        The repaired one; the same one when nothing had to be done.
    repairs : tuple of Repair
        What was done, in the order in which it was done.

    Raises
    ------
    MeshFileError
        Nothing is left.
    """
    done: list[Repair] = []
    for step in (_merge, _drop_zero, _drop_duplicates, _drop_crumbs, _turn_back, _close_tiny):
        mesh, made = step(mesh)
        if made.count:
            done.append(made)
    return mesh, tuple(done)


def _kept(mesh: Mesh, keep: Flags) -> Mesh:
    if not keep.any():
        raise MeshFileError("Nothing of the file is a usable face; export the shape again.")
    return mesh if keep.all() else Mesh(mesh.vertices, mesh.faces[keep])


def _merge(mesh: Mesh) -> tuple[Mesh, Repair]:
    start, end = border(mesh)
    open_corners = np.unique(np.r_[start, end])
    if len(open_corners) == 0:
        return mesh, Repair(RepairKind.MERGED_POINTS, 0)
    edge = np.linalg.norm(mesh.vertices[end] - mesh.vertices[start], axis=1)
    radius = min(_SAME_PLACE * float(mesh.extents.max()), 0.1 * float(np.median(edge)))
    pairs = cKDTree(mesh.vertices[open_corners]).query_pairs(radius, output_type="ndarray")
    if len(pairs) == 0:
        return mesh, Repair(RepairKind.MERGED_POINTS, 0)
    size = len(open_corners)
    graph = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(size, size))
    count, label = connected_components(graph, directed=False)
    first = np.full(count, len(mesh.vertices))
    np.minimum.at(first, label, open_corners)
    became = np.arange(len(mesh.vertices))
    became[open_corners] = first[label]
    return Mesh(mesh.vertices, became[mesh.faces]), Repair(RepairKind.MERGED_POINTS, size - count)


def _drop_zero(mesh: Mesh) -> tuple[Mesh, Repair]:
    _, _, area = face_frames(mesh)
    keep = area > 0.0
    return _kept(mesh, keep), Repair(RepairKind.ZERO_FACES, int((~keep).sum()))


def _drop_duplicates(mesh: Mesh) -> tuple[Mesh, Repair]:
    ordered = np.sort(mesh.faces, axis=1)
    count = np.int64(len(mesh.vertices))
    _, rank = np.unique(ordered[:, 0] * count + ordered[:, 1], return_inverse=True)
    _, first = np.unique(rank.astype(np.int64) * count + ordered[:, 2], return_index=True)
    keep = np.zeros(len(mesh.faces), dtype=bool)
    keep[first] = True
    return _kept(mesh, keep), Repair(RepairKind.DUPLICATE_FACES, len(keep) - len(first))


def _drop_crumbs(mesh: Mesh) -> tuple[Mesh, Repair]:
    count, label = bodies(mesh)
    if count == 1:
        return mesh, Repair(RepairKind.LOOSE_CRUMBS, 0)
    _, _, areas = face_frames(mesh)
    area = np.bincount(label, areas, minlength=count)
    across = np.zeros(count)
    for axis in range(3):
        low, high = np.full(count, np.inf), np.full(count, -np.inf)
        np.minimum.at(low, label, mesh.vertices[mesh.faces, axis].min(axis=1))
        np.maximum.at(high, label, mesh.vertices[mesh.faces, axis].max(axis=1))
        across = np.maximum(across, high - low)
    size = float(mesh.extents.max())
    crumb = (area < _CRUMB_AREA * area.sum()) & (across < _CRUMB_SIZE * size)
    return _kept(mesh, ~crumb[label]), Repair(RepairKind.LOOSE_CRUMBS, int(crumb.sum()))


def bodies(mesh: Mesh) -> tuple[int, Integers]:
    """Return how many separate surfaces there are, and which one each face belongs to."""
    count = len(mesh.vertices)
    start, end = mesh.faces[:, :2].ravel(), mesh.faces[:, 1:].ravel()
    graph = coo_array((np.ones(len(start), np.int8), (start, end)), shape=(count, count))
    _, label = connected_components(graph, directed=False)
    names, face_label = np.unique(label[mesh.faces[:, 0]], return_inverse=True)
    return len(names), face_label


def _turn_back(mesh: Mesh) -> tuple[Mesh, Repair]:
    """Make neighbours agree about outside, then turn each body so that it holds a volume.

    Faces and their turned twins are the nodes of a double cover: an edge joins equal twins where
    neighbours agree and unequal ones where they do not. Each half of the cover is one way round.
    """
    first, second, agree = neighbours(mesh)
    count = len(mesh.faces)
    from_node = np.r_[first, first + count]
    to_node = np.r_[
        np.where(agree, second, second + count), np.where(agree, second + count, second)
    ]
    graph = coo_array(
        (np.ones(len(from_node), np.int8), (from_node, to_node)), shape=(2 * count, 2 * count)
    )
    _, label = connected_components(graph, directed=False)
    as_is, turned = label[:count], label[count:]
    # A body's two halves name each other; the half with the smaller name stands for the body.
    body = np.minimum(as_is, turned)
    turn = as_is > turned
    names, body = np.unique(body, return_inverse=True)
    _, _, area = face_frames(mesh)
    # Most of a body is taken at its word, unless it would hold a clearly negative volume.
    mostly = np.bincount(body, np.where(turn, area, -area), len(names)) > 0.0
    turn ^= mostly[body]
    volume = np.bincount(body, np.where(turn, -1.0, 1.0) * _wedges(mesh, body), len(names)) / 6.0
    clearly = volume < -_CLEARLY * np.bincount(body, area, len(names)) ** 1.5
    single = int(turn.sum())
    turn ^= clearly[body]
    if not turn.any():
        return mesh, Repair(RepairKind.FLIPPED_FACES, 0)
    faces = np.where(turn[:, None], mesh.faces[:, ::-1], mesh.faces)
    turned_back = Mesh(mesh.vertices, np.ascontiguousarray(faces))
    return turned_back, Repair(RepairKind.FLIPPED_FACES, single or int(turn.sum()))


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


def _wedges(mesh: Mesh, body: Integers) -> Floats:
    """Return six times the volume of each face's wedge from the middle of its body."""
    corners = mesh.vertices[mesh.faces]
    size = np.bincount(body)
    middle = np.stack(
        [np.bincount(body, corners[:, :, axis].mean(axis=1)) / size for axis in range(3)], axis=1
    )
    a, b, c = (corners[:, k] - middle[body] for k in range(3))
    return np.asarray(np.einsum("ij,ij->i", a, np.cross(b, c)))


def _close_tiny(mesh: Mesh) -> tuple[Mesh, Repair]:
    """Close small loops with a fan about their middle."""
    size = float(mesh.extents.max())
    vertices, faces = [mesh.vertices], [mesh.faces]
    added, closed = 0, 0
    for loop in loops(*border(mesh)):
        ring = mesh.vertices[loop]
        round_it = float(np.linalg.norm(ring - np.roll(ring, -1, axis=0), axis=1).sum())
        few = len(loop) <= _FEW_EDGES and round_it < _FEW_EDGES_LONG * size
        if not few and round_it >= _TINY_ROUND * size:
            continue
        closed += 1
        after = np.roll(loop, -1)
        if len(loop) == 3:
            faces.append(loop[None, ::-1])
            continue
        middle = np.full(len(loop), len(mesh.vertices) + added)
        faces.append(np.c_[after, loop, middle])
        vertices.append(ring.mean(axis=0, keepdims=True))
        added += 1
    if not closed:
        return mesh, Repair(RepairKind.TINY_HOLES, 0)
    return (
        Mesh(np.concatenate(vertices), np.ascontiguousarray(np.concatenate(faces))),
        Repair(RepairKind.TINY_HOLES, closed),
    )


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
