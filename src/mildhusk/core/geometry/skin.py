"""Which faces are the outer skin: of a hollow print the inner one is no casting face."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.rays import Caster
from mildhusk.core.geometry.repair import by_edge, neighbours

_DIRECTIONS = 64
_FIRST_LOOK, _MOST_SAMPLES = 2_000, 20_000
# Rays start this share of the piece away from their face.
_STEP = 2e-5
# A wall of a print is thinner than this share of the piece.
_THIN = 0.12
# A face is inner when its partner across the wall sees this much more of the sky.
_MORE_OPEN = 0.12
# Below this share of the area an inner skin is noise.
_WORTH = 0.02
# Faces over an edge that bends by less than this are one patch.
_SMOOTH = np.radians(35.0)
# A rim is a patch narrower than this many walls.
_RIM_WALLS = 2.0


class SkinMethod(StrEnum):
    """How the casting face was found."""

    ALL = "all"
    """Every face is casting face."""
    OUTER = "outer"
    """By rays: what faces a wall whose other side sees more of the sky is inside."""


@dataclass(frozen=True, slots=True, eq=False)
class Skin:
    """Which faces are casting face.

    Parameters
    ----------
    kept : (m,) bool
        Of the faces of the mesh.
    method : SkinMethod
    wall_m : float or None
        Usual thickness of a hollow print; None when it is not hollow. [m]
    """

    kept: Flags
    method: SkinMethod
    wall_m: float | None


def all_faces(mesh: Mesh) -> Skin:
    """Return every face as casting face."""
    return Skin(np.ones(len(mesh.faces), dtype=bool), SkinMethod.ALL, None)


def outer_skin(mesh: Mesh) -> Skin:
    """Find the outer skin of a print.

    Parameters
    ----------
    mesh : Mesh
        In metres; which way round its faces are does not matter.

    Returns
    -------
    Skin

    Notes
    -----
    From each sampled face rays go to both sides. The side that sees more of the sky is its free
    side, and how much of a hemisphere it sees is its openness. A ray to the other side finds the
    partner across the wall. Where the wall is thin and the partner is more open, the face is inner.
    The flat rim between the skins is a narrow patch beside the inner one, and goes with it.
    """
    centre, normal, area = face_frames(mesh)
    caster = Caster(mesh)

    def judge(most: int) -> _Judged:
        sample = _sampled(area, most)
        return _judge(caster, mesh, centre, normal, area, sample)

    # A few samples tell whether it is hollow at all; most files are not.
    if judge(_FIRST_LOOK).share < _WORTH:
        return all_faces(mesh)
    judged = judge(_MOST_SAMPLES)
    wall = float(np.median(judged.thickness[judged.inner]))
    dropped = _spread(centre, normal, judged, wall)
    dropped |= _rims(mesh, dropped, wall)
    return Skin(~dropped, SkinMethod.OUTER, wall)


@dataclass(frozen=True, slots=True, eq=False)
class _Judged:
    """Sampled faces: which are inner, how thick the wall is there, their share of the area."""

    sample: Integers
    inner: Flags
    thickness: Floats
    share: float


def _judge(
    caster: Caster, mesh: Mesh, centre: Floats, normal: Floats, area: Floats, sample: Integers
) -> _Judged:
    step = _STEP * float(mesh.extents.max())
    openness, free = _openness(caster, step, centre[sample], normal[sample])
    partner, thickness = _across(caster, step, centre[sample], -free[:, None] * normal[sample])
    # What sees nothing to either side has its wall on the nearer one.
    blind = openness == 0.0
    other = _across(caster, step, centre[sample][blind], (free[:, None] * normal[sample])[blind])
    nearer = (other[0] >= 0) & (other[1] < thickness[blind])
    partner[blind] = np.where(nearer, other[0], partner[blind])
    thickness[blind] = np.where(nearer, other[1], thickness[blind])
    thin = (partner >= 0) & (thickness < _THIN * float(mesh.extents.max()))
    open_there = np.zeros(len(sample))
    open_there[thin], _ = _openness(caster, step, centre[partner[thin]], normal[partner[thin]])
    inner = thin & (open_there > openness + _MORE_OPEN)
    share = float(area[sample][inner].sum() / area[sample].sum())
    return _Judged(sample, inner, thickness, share)


def _across(caster: Caster, step: float, start: Floats, into: Floats) -> tuple[Integers, Floats]:
    return caster.hits(start + step * into, into)


def _sampled(area: Floats, most: int) -> Integers:
    if len(area) <= most:
        return np.arange(len(area))
    # Evenly by area, and the same ones each time.
    at = (np.arange(most) + 0.5) / most * area.sum()
    return np.unique(np.searchsorted(np.cumsum(area), at).clip(0, len(area) - 1))


def _openness(caster: Caster, step: float, centre: Floats, normal: Floats) -> tuple[Floats, Floats]:
    """Return how much of a hemisphere the freer side sees, and which side that is, +1 or -1."""
    sky = _hemisphere()
    tangent = np.cross(normal, np.where(np.abs(normal[:, :1]) < 0.7, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    tangent /= np.linalg.norm(tangent, axis=1, keepdims=True)
    across = np.cross(normal, tangent)
    seen = np.zeros((2, len(centre)))
    for side, sign in enumerate((1.0, -1.0)):
        start = centre + sign * step * normal
        for x, y, z in sky:
            towards = x * tangent + y * across + sign * z * normal
            seen[side] += ~caster.blocked(start, towards)
    seen /= len(sky)
    return seen.max(axis=0), np.where(seen[0] >= seen[1], 1.0, -1.0)


def _hemisphere() -> Floats:
    """Directions spread evenly by the cosine: a spiral of golden angles on the disc, raised."""
    k = np.arange(_DIRECTIONS)
    radius = np.sqrt((k + 0.5) / _DIRECTIONS)
    turn = k * np.pi * (3.0 - np.sqrt(5.0))
    x, y = radius * np.cos(turn), radius * np.sin(turn)
    return np.stack([x, y, np.sqrt(1.0 - radius**2)], axis=1)


def _spread(centre: Floats, normal: Floats, judged: _Judged, wall: float) -> Flags:
    """Give every face the verdict of the nearest sample that looks the same way."""
    if len(judged.sample) == len(centre):
        return judged.inner
    # Two skins lie a wall apart and look opposite ways; so much apart they are in this space too.
    known = np.c_[centre, wall * normal]
    _, nearest = cKDTree(known[judged.sample]).query(known)
    return np.asarray(judged.inner[nearest])


def _rims(mesh: Mesh, dropped: Flags, wall: float) -> Flags:
    """Return the narrow patches beside the inner skin."""
    first, second, _ = neighbours(mesh)
    _, normal, area = face_frames(mesh)
    bend = np.arccos(np.clip(np.abs(np.einsum("ij,ij->i", normal[first], normal[second])), 0, 1))
    smooth = (bend < _SMOOTH) & (dropped[first] == dropped[second])
    count = len(mesh.faces)
    graph = coo_array(
        (np.ones(int(smooth.sum()), np.int8), (first[smooth], second[smooth])), shape=(count, count)
    )
    patches, patch = connected_components(graph, directed=False)
    along = patch[first] != patch[second]
    edge = _edge_lengths(mesh)
    border = np.bincount(patch[first[along]], edge[along], patches)
    border += np.bincount(patch[second[along]], edge[along], patches)
    beside = np.zeros(patches, dtype=bool)
    beside[patch[first[along & dropped[second]]]] = True
    beside[patch[second[along & dropped[first]]]] = True
    width = 2.0 * np.bincount(patch, area, patches) / np.maximum(border, 1e-300)
    rim = beside & (width < _RIM_WALLS * wall)
    return np.asarray(rim[patch] & ~dropped)


def _edge_lengths(mesh: Mesh) -> Floats:
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    order, opens, shared_by = by_edge(start, end, len(mesh.vertices))
    pair = order[opens[shared_by == 2]]
    return np.asarray(np.linalg.norm(mesh.vertices[start[pair]] - mesh.vertices[end[pair]], axis=1))
