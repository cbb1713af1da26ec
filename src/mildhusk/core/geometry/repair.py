"""Putting right what can be put right in a file's faces, and saying what was done."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.survey_options import LoosePartsChoice, SpikesChoice
from mildhusk.core.geometry.topology import bodies, border, by_edge, loops, neighbours
from mildhusk.core.geometry.welding import mend_edges, size_of, weld

# A separate body with less than this share of the area, and smaller than that share across.
_CRUMB_AREA, _CRUMB_SIZE = 1e-3, 0.1
# A hole is tiny when it has few edges and is not too long round, or is short anyway.
_FEW_EDGES, _FEW_EDGES_LONG = 6, 0.15
_TINY_ROUND = 0.04
# Volume by area^1.5; a sphere has 0.094, a shallow dish little.
_CLEARLY = 0.002
LEFT_OUT_UNASKED = 0.02
"""Above this share of the area nothing is left out before it was asked."""
# A spike's tip is so many times as far from its neighbours as they are from each other, a share of
# the piece at least and some usual edges; they are few, and as close together as corners are there.
_SPIKE, _SPIKE_SIZE, _SPIKE_EDGES, _SPIKE_CORNERS, _SPIKE_FOOT = 8.0, 0.05, 4.0, 16, 4.0
# From so many times on it is asked; a horn of few faces may look like that.
_PERHAPS_SPIKE = 4.0
_MOST_SPIKES = 400
# A file holds together where fewer of its edges than this stand open.
_OPEN_EDGES, _FEW_FACES = 0.5, 30
_ROUNDS = 3


class RepairKind(StrEnum):
    """What was put right."""

    MERGED_POINTS = "merged-points"
    ZERO_FACES = "zero-faces"
    DUPLICATE_FACES = "duplicate-faces"
    FINS = "fins"
    SEAMS = "seams"
    FAR_CORNERS = "far-corners"
    LOOSE_CRUMBS = "loose-crumbs"
    FLIPPED_FACES = "flipped-faces"
    TINY_HOLES = "tiny-holes"


_SENTENCES = {
    RepairKind.MERGED_POINTS: "{} corners that lay all but at one place were joined.",
    RepairKind.ZERO_FACES: "{} faces without area were left out.",
    RepairKind.DUPLICATE_FACES: "{} faces that stood there twice were left out.",
    RepairKind.FINS: "{} slivers that stood on an edge between two other faces were left out.",
    RepairKind.SEAMS: "{} edges were divided where a neighbour has a corner on them.",
    RepairKind.FAR_CORNERS: "{} corners far from all others were moved back to their neighbours.",
    RepairKind.LOOSE_CRUMBS: "{} loose crumbs were left out.",
    RepairKind.FLIPPED_FACES: "{} faces turned inside out were turned back.",
    RepairKind.TINY_HOLES: "{} tiny holes were closed.",
}


@dataclass(frozen=True, slots=True)
class Repair:
    """One kind of repair and how often it was made.

    Parameters
    ----------
    kind : RepairKind
    count : int
    area_m2 : float
        Of the faces that were left out. [m^2]
    share : float
        Of the area of the file that was. [1]
    """

    kind: RepairKind
    count: int
    area_m2: float = 0.0
    share: float = 0.0

    @property
    def sentence(self) -> str:
        """What was done, in words."""
        said = _SENTENCES[self.kind].format(f"{self.count:,}")
        if not self.area_m2:
            return said
        return f"{said[:-1]}: {self.area_m2 * 1e4:.3g} cm², {self.share * 100:.2g} % of the file."


@dataclass(frozen=True, slots=True, eq=False)
class Repaired:
    """A file's faces, put right.

    Parameters
    ----------
    mesh : Mesh
        The same one as before when nothing had to be done.
    repairs : tuple of Repair
        What was done, in the order in which it was done.
    loose : (m,) bool
        Faces of loose bodies that are counted.
    loose_m2 : float
        Area of what hangs on the piece loosely, bodies and slivers, and is counted. [m^2]
    spikes : int
        Corners that may be spikes and were left where they are.
    spikes_m2 : float
        Area that moving them back would take. [m^2]
    """

    mesh: Mesh
    repairs: tuple[Repair, ...]
    loose: Flags
    loose_m2: float
    spikes: int
    spikes_m2: float


def repair(
    mesh: Mesh,
    loose_parts: LoosePartsChoice = LoosePartsChoice.UNASKED,
    spikes: SpikesChoice = SpikesChoice.UNASKED,
) -> Repaired:
    """Put right what can be put right.

    Parameters
    ----------
    mesh : Mesh
        As read. [m]
    loose_parts : LoosePartsChoice
        Whether crumbs beside the piece count.
    spikes : SpikesChoice
        Whether single corners that stand far out are moved back.

    Returns
    -------
    Repaired

    Raises
    ------
    MeshFileError
        Nothing is left, or the faces do not hang together.
    """
    done: list[Repair] = []

    def note(kind: RepairKind, count: int, area_m2: float = 0.0) -> None:
        if count:
            done.append(Repair(kind, count, area_m2, area_m2 / whole))

    _, _, area = face_frames(mesh)
    whole = max(float(area.sum()), 1e-300)
    mesh, welded = weld(mesh)
    note(RepairKind.MERGED_POINTS, welded.joined)
    for step in (_drop_zero, _drop_duplicates):
        mesh, made = step(mesh)
        note(made.kind, made.count)
    mesh, made, fins = _drop_fins(mesh, loose_parts)
    note(made.kind, made.count, made.area_m2)
    counted_m2 = float(face_frames(mesh)[2][fins].sum())
    mesh, divided = _mend_seams(mesh)
    note(RepairKind.SEAMS, divided)
    _require_holding_together(mesh)
    mesh, made, perhaps, perhaps_m2 = _pull_back(mesh, spikes)
    note(made.kind, made.count)
    mesh, made, loose = _drop_crumbs(mesh, loose_parts)
    note(made.kind, made.count, made.area_m2)
    mesh, made = _turn_back(mesh)
    note(made.kind, made.count)
    mesh, made = close_tiny(mesh)
    note(made.kind, made.count)
    filled = len(mesh.faces) - len(loose)
    counted_m2 += float(face_frames(mesh)[2][: len(loose)][loose].sum())
    loose = np.r_[loose, np.zeros(filled, dtype=bool)]
    return Repaired(mesh, tuple(done), loose, counted_m2, perhaps, perhaps_m2)


def _kept(mesh: Mesh, keep: Flags) -> Mesh:
    if not keep.any():
        raise MeshFileError("Nothing of the file is a usable face; export the shape again.")
    return mesh if keep.all() else Mesh(mesh.vertices, mesh.faces[keep])


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


def _drop_fins(mesh: Mesh, choice: LoosePartsChoice) -> tuple[Mesh, Repair, Flags]:
    """Leave out single faces that stand on an edge which two others share.

    Returns besides which of them are counted, being too much of the file to be left out unasked.
    """
    keep = np.ones(len(mesh.faces), dtype=bool)
    for _ in range(_ROUNDS):
        fin = np.zeros(len(keep), dtype=bool)
        fin[keep] = _fins(mesh.faces[keep], len(mesh.vertices))
        if not fin.any():
            break
        keep &= ~fin
    area = face_frames(mesh)[2]
    gone = float(area[~keep].sum())
    if not _left_out(choice, gone / float(area.sum())):
        return mesh, Repair(RepairKind.FINS, 0), ~keep
    made = Repair(RepairKind.FINS, int((~keep).sum()), gone)
    return _kept(mesh, keep), made, np.zeros(int(keep.sum()), dtype=bool)


def _fins(faces: Integers, corners: int) -> Flags:
    start, end = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    order, _, shared_by = by_edge(start, end, corners)
    by_side = np.empty(len(start), dtype=np.int64)
    by_side[order] = np.repeat(shared_by, shared_by)
    sharing = by_side.reshape(-1, 3)
    return np.asarray((sharing > 2).any(axis=1) & ((sharing == 1).sum(axis=1) == 2))


def _left_out(choice: LoosePartsChoice, share: float) -> bool:
    """Say whether loose parts with a share of the area are left out."""
    if choice is LoosePartsChoice.UNASKED:
        return share <= LEFT_OUT_UNASKED
    return choice is LoosePartsChoice.LEFT_OUT


def _mend_seams(mesh: Mesh) -> tuple[Mesh, int]:
    divided = 0
    for _ in range(_ROUNDS):
        mesh, here = mend_edges(mesh)
        divided += here
        if not here:
            break
    return mesh, divided


def _require_holding_together(mesh: Mesh) -> None:
    start, _ = border(mesh)
    share = len(start) / (3 * len(mesh.faces))
    if len(mesh.faces) >= _FEW_FACES and share > _OPEN_EDGES:
        raise MeshFileError(
            f"The faces do not hang together: {share * 100:.0f} % of their edges have no "
            "neighbour. Weld the corners in the program that made the shape, and export it again."
        )


def _pull_back(mesh: Mesh, choice: SpikesChoice) -> tuple[Mesh, Repair, int, float]:
    """Move the tips of single spikes back among their neighbours.

    Returns besides how many more look like spikes, and the area that moving them would take. [m^2]
    """
    tips = _spike_tips(mesh)
    least = _PERHAPS_SPIKE if choice is SpikesChoice.MOVED_BACK else _SPIKE
    sure = {tip: foot for tip, (foot, times) in tips.items() if times > least}
    if choice is SpikesChoice.KEPT:
        sure = {}
    torn = _torn_faces(mesh)
    made = Repair(RepairKind.FAR_CORNERS, len(sure) + int(torn.sum()))
    mesh = _moved(_kept(mesh, ~torn) if torn.any() else mesh, sure)
    perhaps = {tip: foot for tip, (foot, _) in tips.items() if tip not in sure}
    if not perhaps:
        return mesh, made, 0, 0.0
    area, without = (float(face_frames(one)[2].sum()) for one in (mesh, _moved(mesh, perhaps)))
    return mesh, made, len(perhaps), area - without


def _torn_faces(mesh: Mesh) -> Flags:
    """Return faces that reach far out to a corner which no other face has."""
    alone = np.bincount(mesh.faces.ravel(), minlength=len(mesh.vertices)) == 1
    tip = alone[mesh.faces]
    torn = np.zeros(len(mesh.faces), dtype=bool)
    some = np.flatnonzero(tip.sum(axis=1) == 1)
    corner = tip[some].argmax(axis=1)
    a, b, c = (mesh.vertices[mesh.faces[some, (corner + k) % 3]] for k in range(3))
    foot = (b + c) / 2.0
    away, wide = np.linalg.norm(a - foot, axis=1), np.linalg.norm(c - b, axis=1) / 2.0
    torn[some] = (away > _SPIKE * wide) & (away > size_of(mesh))
    return torn


def _moved(mesh: Mesh, to: dict[int, Floats]) -> Mesh:
    if not to:
        return mesh
    vertices = mesh.vertices.copy()
    for corner, place in to.items():
        vertices[corner] = place
    return Mesh(vertices, mesh.faces)


def _spike_tips(mesh: Mesh) -> dict[int, tuple[Floats, float]]:
    """Return corners that may be spikes: the middle of their neighbours, and how many times
    further than those are from it they stand away."""
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    length = np.linalg.norm(mesh.vertices[end] - mesh.vertices[start], axis=1)
    usual = float(np.median(length))
    far = length > max(_SPIKE_SIZE * size_of(mesh), _SPIKE_EDGES * usual)
    corners, many = np.unique(np.r_[start[far], end[far]], return_counts=True)
    # Most of the edges of a tip are long, and few of those of its neighbours.
    faces_at = np.bincount(mesh.faces.ravel(), minlength=len(mesh.vertices))
    suspects = corners[(many > faces_at[corners]) & (faces_at[corners] <= _SPIKE_CORNERS)]
    found: dict[int, tuple[Floats, float]] = {}
    for tip in suspects[:_MOST_SPIKES].tolist():
        ring = np.setdiff1d(mesh.faces[(mesh.faces == tip).any(axis=1)], tip)
        foot = mesh.vertices[ring].mean(axis=0)
        wide = float(np.linalg.norm(mesh.vertices[ring] - foot, axis=1).max())
        away = float(np.linalg.norm(mesh.vertices[tip] - foot))
        if len(ring) >= 3 and wide < _SPIKE_FOOT * usual and away > _PERHAPS_SPIKE * wide:
            found[tip] = (foot, away / max(wide, 1e-12))
    return found


def _drop_crumbs(mesh: Mesh, loose_parts: LoosePartsChoice) -> tuple[Mesh, Repair, Flags]:
    """Leave out small bodies beside the piece, unless they are too much of it to do so unasked."""
    nothing, none = Repair(RepairKind.LOOSE_CRUMBS, 0), np.zeros(len(mesh.faces), dtype=bool)
    count, label = bodies(mesh)
    if count == 1:
        return mesh, nothing, none
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
    share = float(area[crumb].sum() / area.sum())
    loose = np.asarray(crumb[label])
    if not _left_out(loose_parts, share):
        return mesh, nothing, loose
    made = Repair(RepairKind.LOOSE_CRUMBS, int(crumb.sum()), float(area[crumb].sum()))
    kept = _kept(mesh, ~loose)
    return kept, made, np.zeros(len(kept.faces), dtype=bool)


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


def _wedges(mesh: Mesh, body: Integers) -> Floats:
    """Return six times the volume of each face's wedge from the middle of its body."""
    corners = mesh.vertices[mesh.faces]
    size = np.bincount(body)
    middle = np.stack(
        [np.bincount(body, corners[:, :, axis].mean(axis=1)) / size for axis in range(3)], axis=1
    )
    a, b, c = (corners[:, k] - middle[body] for k in range(3))
    return np.asarray(np.einsum("ij,ij->i", a, np.cross(b, c)))


def close_tiny(mesh: Mesh) -> tuple[Mesh, Repair]:
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
