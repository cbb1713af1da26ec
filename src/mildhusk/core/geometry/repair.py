"""Putting right what can be put right in a file's faces, and saying what was done."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.spikes import pull_back
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
# A file holds together where fewer of its edges than this stand open.
_OPEN_EDGES, _FEW_FACES = 0.5, 30
_ROUNDS = 3
# A face that moved by less than this share of the piece looks as it did.
_SEEN_TO_MOVE = 1e-3
# A fin has no more faces than this.
_FIN_FACES = 4
# Faces that are missing: a loop of so few edges, no longer than so many usual ones, in a file of so
# many faces that nobody drew it.
_MISSING_EDGES, _MISSING_LONG, _DRAWN_FACES = 5, 8.0, 200
# A body is a loose part where it has less than this share of the largest one's area.
_LOOSE_AREA = 0.05


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
    changed : (m,) bool
        Faces that stand otherwise than in the file: moved, divided or added.
    """

    mesh: Mesh
    repairs: tuple[Repair, ...]
    loose: Flags
    loose_m2: float
    spikes: int
    spikes_m2: float
    changed: Flags


def repair(
    mesh: Mesh,
    loose_parts: LoosePartsChoice = LoosePartsChoice.UNASKED,
    spikes: SpikesChoice = SpikesChoice.UNASKED,
    *,
    mend_holes: bool = True,
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
    mend_holes : bool
        Whether tiny holes are closed.

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

    as_read = mesh
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
    mesh, divided = _mend_seams(mesh, welded.apart)
    note(RepairKind.SEAMS, divided)
    _require_holding_together(mesh)
    pulled = pull_back(mesh, spikes)
    mesh = pulled.mesh
    note(RepairKind.FAR_CORNERS, pulled.moved)
    mesh, made, loose = _drop_crumbs(mesh, loose_parts)
    note(made.kind, made.count, made.area_m2)
    mesh, made = _turn_back(mesh)
    note(made.kind, made.count)
    if mend_holes:
        mesh, made = close_tiny(mesh)
        note(made.kind, made.count)
    filled = len(mesh.faces) - len(loose)
    counted_m2 += float(face_frames(mesh)[2][: len(loose)][loose].sum())
    loose = np.r_[loose, np.zeros(filled, dtype=bool)]
    return Repaired(
        mesh=mesh,
        repairs=tuple(done),
        loose=loose,
        loose_m2=counted_m2,
        spikes=pulled.perhaps,
        spikes_m2=pulled.perhaps_m2,
        changed=_changed(as_read, mesh),
    )


def _changed(before: Mesh, after: Mesh) -> Flags:
    """Return the faces whose middle is clearly not that of a face of the file."""
    if after is before:
        return np.zeros(len(after.faces), dtype=bool)
    known, here = (face_frames(mesh)[0] for mesh in (before, after))
    away, _ = cKDTree(known).query(here)
    return np.asarray(away > _SEEN_TO_MOVE * size_of(before))


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
    """Return faces of little patches that hang on an edge which two other faces share."""
    start, end = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    order, opens, shared_by = by_edge(start, end, corners)
    if not (shared_by > 2).any():
        return np.zeros(len(faces), dtype=bool)
    by_side = np.empty(len(start), dtype=np.int64)
    by_side[order] = np.repeat(shared_by, shared_by)
    sharing = by_side.reshape(-1, 3)
    pair = opens[shared_by == 2]
    graph = coo_array(
        (np.ones(len(pair), np.int8), (order[pair] // 3, order[pair + 1] // 3)),
        shape=(len(faces), len(faces)),
    )
    patches, patch = connected_components(graph, directed=False)
    hangs, is_open = np.zeros(patches, dtype=bool), np.zeros(patches, dtype=bool)
    hangs[patch[(sharing > 2).any(axis=1)]] = True
    is_open[patch[(sharing == 1).any(axis=1)]] = True
    fin = hangs & is_open & (np.bincount(patch) <= _FIN_FACES)
    return np.asarray(fin[patch])


def _left_out(choice: LoosePartsChoice, share: float) -> bool:
    """Say whether loose parts with a share of the area are left out."""
    if choice is LoosePartsChoice.UNASKED:
        return share <= LEFT_OUT_UNASKED
    return choice is LoosePartsChoice.LEFT_OUT


def _mend_seams(mesh: Mesh, apart: float) -> tuple[Mesh, int]:
    divided = 0
    for _ in range(_ROUNDS):
        mesh, here = mend_edges(mesh, apart)
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


def _drop_crumbs(mesh: Mesh, loose_parts: LoosePartsChoice) -> tuple[Mesh, Repair, Flags]:
    """Leave out crumbs beside the piece, unless they are too much of it to do so unasked.

    Returns besides which faces are of small bodies that are counted.
    """
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
    small = crumb | (area < _LOOSE_AREA * area.max())
    gone = crumb if loose_parts is LoosePartsChoice.UNASKED else small
    share = float(area[gone].sum() / area.sum())
    if not _left_out(loose_parts, share):
        return mesh, nothing, np.asarray(small[label])
    made = Repair(RepairKind.LOOSE_CRUMBS, int(gone.sum()), float(area[gone].sum()))
    keep = ~gone[label]
    return _kept(mesh, keep), made, np.asarray((small & ~gone)[label[keep]])


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


def _usual_edge(mesh: Mesh) -> float:
    """Return the middle one of the lengths of all sides of faces."""
    corners = mesh.vertices[mesh.faces]
    sides = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)
    return float(np.median(sides))


def close_tiny(mesh: Mesh) -> tuple[Mesh, Repair]:
    """Close small loops with a fan about their middle."""
    size = float(mesh.extents.max())
    vertices, faces = [mesh.vertices], [mesh.faces]
    added, closed = 0, 0
    found = loops(*border(mesh))
    missing_long = _MISSING_LONG * _usual_edge(mesh) if len(mesh.faces) >= _DRAWN_FACES else 0.0
    for loop in found:
        ring = mesh.vertices[loop]
        round_it = float(np.linalg.norm(ring - np.roll(ring, -1, axis=0), axis=1).sum())
        few = len(loop) <= _FEW_EDGES and round_it < _FEW_EDGES_LONG * size
        missing = len(loop) <= _MISSING_EDGES and round_it < missing_long
        if not few and not missing and round_it >= _TINY_ROUND * size:
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
