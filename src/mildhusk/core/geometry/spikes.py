"""Corners that stand far out, alone or a few together: damage, or the tip of a horn."""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mildhusk.core.geometry.mesh import Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.survey_options import SpikesChoice
from mildhusk.core.geometry.welding import size_of

# A spike's tip is so many times as far from its neighbours as they are from each other, a share of
# the piece at least and some usual edges; they are few, and as close together as corners are there.
_SPIKE, _SPIKE_SIZE, _SPIKE_EDGES, _SPIKE_CORNERS, _SPIKE_FOOT = 8.0, 0.05, 2.5, 16, 4.0
# From so many times on it is asked; a horn of few faces may look like that.
_PERHAPS_SPIKE = 2.5
_MOST_SPIKES = 400
# A corner so many times as far from the middle as most is far from all others; they are few.
_FAR, _FAR_SHARE = 3.0, 0.01
_RELAXATIONS = 30


@dataclass(frozen=True, slots=True, eq=False)
class Pulled:
    """A mesh whose spikes were moved back.

    Parameters
    ----------
    mesh : Mesh
    moved : int
        Corners that were moved, and faces torn out to a corner of their own that were left out.
    perhaps : int
        Spikes that may be meant, left where they are.
    perhaps_m2 : float
        Area that moving them back would take. [m^2]
    """

    mesh: Mesh
    moved: int
    perhaps: int
    perhaps_m2: float


@dataclass(frozen=True, slots=True, eq=False)
class _Spike:
    """A cluster of corners that stands far out: where it belongs, and how many times too far."""

    corners: Integers
    foot: Floats
    times: float


def pull_back(mesh: Mesh, choice: SpikesChoice) -> Pulled:
    """Move corners that nothing but a damaged file has back among their neighbours.

    Parameters
    ----------
    mesh : Mesh
        [m]
    choice : SpikesChoice
        What somebody said of those that may be meant.

    Returns
    -------
    Pulled
    """
    mesh, moved = _far_moved(mesh)
    times = _torn_times(mesh)
    torn = times > (_PERHAPS_SPIKE if choice is SpikesChoice.MOVED_BACK else _SPIKE)
    if choice is not SpikesChoice.KEPT and torn.any() and not torn.all():
        mesh, times = Mesh(mesh.vertices, mesh.faces[~torn]), times[~torn]
        moved += int(torn.sum())
    maybe_torn = times > _PERHAPS_SPIKE
    spikes = _spikes_of(mesh)
    least = _PERHAPS_SPIKE if choice is SpikesChoice.MOVED_BACK else _SPIKE
    sure = [one for one in spikes if one.times > least and choice is not SpikesChoice.KEPT]
    perhaps = [one for one in spikes if one not in sure]
    mesh = _moved(mesh, sure)
    moved += sum(len(one.corners) for one in sure)
    area, without = (face_frames(one)[2] for one in (mesh, _moved(mesh, perhaps)))
    taken = float(area.sum() - without.sum() + without[maybe_torn].sum())
    return Pulled(mesh, moved, len(perhaps) + int(maybe_torn.sum()), taken)


def _torn_times(mesh: Mesh) -> Floats:
    """Return of faces with a corner that no other face has how many times too far it stands."""
    alone = np.bincount(mesh.faces.ravel(), minlength=len(mesh.vertices)) == 1
    tip = alone[mesh.faces]
    times = np.zeros(len(mesh.faces))
    some = np.flatnonzero(tip.sum(axis=1) == 1)
    corner = tip[some].argmax(axis=1)
    a, b, c = (mesh.vertices[mesh.faces[some, (corner + k) % 3]] for k in range(3))
    foot = (b + c) / 2.0
    away, wide = np.linalg.norm(a - foot, axis=1), np.linalg.norm(c - b, axis=1) / 2.0
    times[some] = np.where(away > _SPIKE_SIZE * size_of(mesh), away / np.maximum(wide, 1e-12), 0.0)
    return times


def _moved(mesh: Mesh, spikes: list[_Spike]) -> Mesh:
    if not spikes:
        return mesh
    vertices = mesh.vertices.copy()
    for one in spikes:
        vertices[one.corners] = one.foot
    return Mesh(vertices, mesh.faces)


def _spikes_of(mesh: Mesh) -> list[_Spike]:
    """Return clusters of a few corners whose edges are nearly all long, on a narrow foot."""
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    length = np.linalg.norm(mesh.vertices[end] - mesh.vertices[start], axis=1)
    usual = float(np.median(length))
    count = len(mesh.vertices)
    far = length > max(_SPIKE_SIZE * size_of(mesh), _SPIKE_EDGES * usual)
    at_all = np.bincount(start, minlength=count) + np.bincount(end, minlength=count)
    long_ones = np.bincount(start[far], minlength=count) + np.bincount(end[far], minlength=count)
    stands_out = 2 * long_ones > at_all
    if not stands_out.any() or stands_out.sum() > _MOST_SPIKES:
        return []
    both = stands_out[start] & stands_out[end]
    graph = coo_array(
        (np.ones(int(both.sum()), np.int8), (start[both], end[both])), shape=(count, count)
    )
    _, label = connected_components(graph, directed=False)
    found = []
    for name in np.unique(label[stands_out]).tolist():
        cluster = np.flatnonzero(stands_out & (label == name))
        touching = np.isin(mesh.faces, cluster).any(axis=1)
        ring = np.setdiff1d(mesh.faces[touching], cluster)
        if len(cluster) > _SPIKE_CORNERS or not 3 <= len(ring) <= _SPIKE_CORNERS:
            continue
        foot = mesh.vertices[ring].mean(axis=0)
        wide = float(np.linalg.norm(mesh.vertices[ring] - foot, axis=1).max())
        away = float(np.linalg.norm(mesh.vertices[cluster] - foot, axis=1).max())
        if wide < _SPIKE_FOOT * usual and away > _PERHAPS_SPIKE * wide:
            found.append(_Spike(cluster, foot, away / max(wide, 1e-12)))
    return found


def _far_moved(mesh: Mesh) -> tuple[Mesh, int]:
    """Lay corners that are far from all others evenly between their neighbours that are not."""
    middle = np.median(mesh.vertices, axis=0)
    away = np.linalg.norm(mesh.vertices - middle, axis=1)
    far = np.flatnonzero(away > _FAR * float(np.percentile(away, 95.0)))
    if not len(far) or len(far) > max(_FAR_SHARE * len(away), 8):
        return mesh, 0
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    one, other = np.r_[start, end], np.r_[end, start]
    of_far = np.isin(one, far)
    one, other = one[of_far], other[of_far]
    near = np.setdiff1d(other, far)
    if len(near) < 3:
        return mesh, 0  # a body of its own
    vertices = mesh.vertices.copy()
    vertices[far] = vertices[near].mean(axis=0)
    many = np.bincount(one, minlength=len(vertices))[far]
    for _ in range(_RELAXATIONS):
        sums = [np.bincount(one, vertices[other, k], len(vertices))[far] for k in range(3)]
        vertices[far] = np.stack(sums, axis=1) / many[:, None]
    return Mesh(vertices, mesh.faces), len(far)
