"""Which faces are the outer skin: of a hollow print the inner one is no casting face."""

from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import coo_array, diags_array
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import cg
from scipy.spatial import cKDTree

from mildhusk.core.geometry.hollow import (
    STEP,
    TOLD_APART,
    Pairs,
    find_pairs,
    judge,
    nested_bodies,
    openness,
    sampled,
    weigh,
)
from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.openings import lids, rims
from mildhusk.core.geometry.rays import Caster
from mildhusk.core.geometry.skin_terms import (
    NO_EVIDENCE,
    HollowEvidence,
    HollowVerdict,
    SkinMethod,
)
from mildhusk.core.geometry.survey_options import SkinChoice
from mildhusk.core.geometry.topology import by_edge, neighbours
from mildhusk.core.geometry.winding import inside

_SAMPLES = 8_000
# A face is surely inner or outer where one side sees this much more than the other.
_SURE = 0.25
# What sees so much of its hemisphere is outside, whatever stands behind it.
_SEES_ALL = 0.75
# A verdict reaches so many walls over smooth face.
_REACH_WALLS = 1.0
# Over a bend the border is cheap: the weight falls to 1/e at this angle, and no lower than that.
_BEND, _LEAST_WEIGHT = np.radians(40.0), 0.02
# A rim lies so near to the inner skin, and beneath it, so deep, the wall is no wider than this; in
# walls. So many ways across are tried.
_BESIDE_WALLS, _BENEATH, _RIM_WALLS, _ACROSS = 2.0, 0.35, 1.7, 6
# A scrap of one skin in the other is smaller than this share of its own.
_SCRAP = 0.05
_POINTS_OF_A_PATCH = 12
# A rim with an edge, sharper than this, is no round lip.
_EDGE = np.radians(30.0)
# How often teeth are taken off the border.
_TEETH = 6


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
    verdict : HollowVerdict
        What the faces themselves say, whatever was chosen.
    evidence : HollowEvidence
    doubtful : (m,) bool
        What the other answer would leave out, where it asks and nobody answered.
    """

    kept: Flags
    method: SkinMethod
    wall_m: float | None
    verdict: HollowVerdict
    evidence: HollowEvidence
    doubtful: Flags


def all_faces(mesh: Mesh) -> Skin:
    """Return every face as casting face, unlooked at."""
    none = np.zeros(len(mesh.faces), dtype=bool)
    return Skin(~none, SkinMethod.ALL, None, HollowVerdict.NO, NO_EVIDENCE, none)


def find_skin(mesh: Mesh, choice: SkinChoice = SkinChoice.UNASKED) -> Skin:
    """Say whether a file is a hollow print, and which of its faces are casting face.

    Parameters
    ----------
    mesh : Mesh
        In metres, neighbours agreeing about outside.
    choice : SkinChoice
        What somebody said of it.

    Returns
    -------
    Skin
        Where the evidence is thin and nobody said anything, nothing is left out, and what would be
        is told as doubtful.
    """
    _, _, area = face_frames(mesh)
    nested = nested_bodies(mesh)
    rest = Mesh(mesh.vertices, mesh.faces[~nested]) if nested.any() else mesh
    caster = Caster(rest)
    pairs = find_pairs(rest, caster)
    evidence = weigh(rest, caster, pairs, float(area[nested].sum() / area.sum()))
    verdict = judge(evidence, float(mesh.extents.max()))
    by_pairs = judge(replace(evidence, nested_share=0.0), float(mesh.extents.max()))
    inner = nested.copy()
    wanted = by_pairs is not HollowVerdict.NO or choice is SkinChoice.OUTER
    if wanted and choice is not SkinChoice.ALL and evidence.wall_m is not None:
        inner[~nested] = _inner_faces(rest, caster, evidence.wall_m)
    none = np.zeros(len(inner), dtype=bool)
    if choice is SkinChoice.ALL or not inner.any() or inner.all():
        return Skin(~none, SkinMethod.ALL, None, verdict, evidence, none)
    if nested.any() and by_pairs is HollowVerdict.NO:
        evidence = _round_the_nested(mesh, evidence)
    wall = evidence.wall_m
    if choice is SkinChoice.UNASKED and by_pairs is HollowVerdict.ASKS:
        sure = nested
        method = SkinMethod.OUTER if sure.any() else SkinMethod.ALL
        return Skin(~sure, method, wall, HollowVerdict.ASKS, evidence, inner & ~sure)
    return Skin(~inner, SkinMethod.OUTER, wall, verdict, evidence, none)


def _round_the_nested(mesh: Mesh, evidence: HollowEvidence) -> HollowEvidence:
    """Add to the evidence how far bodies lie inside the one round them, where that is even."""
    pairs = find_pairs(mesh, Caster(mesh))
    if not pairs.even.any():
        return replace(evidence, paired_share=0.0, wall_m=None)
    wall = float(np.median(pairs.thickness[pairs.even]))
    return replace(evidence, paired_share=float(pairs.even.mean()), wall_m=wall)


def _inner_faces(mesh: Mesh, caster: Caster, wall: float) -> Flags:
    """Return the inner skin, its rim and what lies inside, with smooth borders.

    Notes
    -----
    Each face leans to one skin by how much more of the sky the face across the wall sees. The
    leanings are spread over the faces as a potential, held where they are sure, that flows easily
    over smooth face and hardly over bends; the skins meet where it is nought (a random walker's
    segmentation: Grady, IEEE Trans. Pattern Anal. 28 (2006) 1768, from memory).
    """
    centre, normal, area = face_frames(mesh)
    pairs = find_pairs(mesh, caster, len(area))
    sample = sampled(area, _SAMPLES)
    lean = _leanings(mesh, caster, pairs, sample, wall)
    # Two skins lie a wall apart and look opposite ways; so much apart they are in this space too.
    known = np.c_[centre, wall * normal]
    tree = cKDTree(known[sample])
    lean = lean[tree.query(known)[1]]
    rim = _rim_faces(caster, pairs, centre, normal, wall)
    lean[rim] = 0.0
    inner = _potential(mesh, lean, area, wall) > 0.0
    if inner.any() and rim.any():
        # The end of a wall belongs to the inside; the edge of a fin, far from it, does not.
        rim[rim] = cKDTree(centre[inner]).query(centre[rim])[0] < _BESIDE_WALLS * wall
        lean[rim] = np.where(_of_the_outside(mesh, rim, lean), -1.0, 1.0)
        inner = _straightened(mesh, _potential(mesh, lean, area, wall))
    inner = _without_scraps(mesh, inner, area)
    return inner | _lying_inside(mesh, ~inner, area)


def _leanings(mesh: Mesh, caster: Caster, pairs: Pairs, sample: Integers, wall: float) -> Floats:
    """Return for each sample how surely it is inner, +1, or outer, -1; 0 says nothing."""
    centre, normal, _ = face_frames(mesh)
    step = STEP * float(mesh.extents.max())
    own = openness(caster, step, centre[sample], normal[sample])
    near = (pairs.partner[sample] >= 0) & (pairs.thickness[sample] < 2.5 * wall)
    lean = np.where(own > _SEES_ALL, -1.0, 0.0)
    partner = pairs.partner[sample[near]]
    across = openness(caster, step, centre[partner], normal[partner])
    lean[near] = np.clip((across - own[near]) / _SURE, -1.0, 1.0)
    return np.where(np.abs(lean) < TOLD_APART, 0.0, lean)


def _rim_faces(caster: Caster, pairs: Pairs, centre: Floats, normal: Floats, wall: float) -> Flags:
    """Return faces across the end of a wall: nothing parallel behind, a wall wide beneath them."""
    rim = (pairs.partner < 0) | (pairs.thickness > 2.5 * wall)
    some = np.flatnonzero(rim)
    if not len(some):
        return rim
    beneath = centre[some] - _BENEATH * wall * normal[some]
    helper = np.eye(3)[np.abs(normal[some]).argmin(axis=1)]
    first = np.cross(normal[some], helper)
    first /= np.maximum(np.linalg.norm(first, axis=1, keepdims=True), 1e-12)
    second = np.cross(normal[some], first)
    width = np.full(len(some), np.inf)
    for turn in np.arange(_ACROSS) * np.pi / _ACROSS:
        towards = np.cos(turn) * first + np.sin(turn) * second
        both = [caster.hits(beneath, side * towards) for side in (1.0, -1.0)]
        met = (both[0][0] >= 0) & (both[1][0] >= 0)
        width = np.where(met, np.minimum(width, both[0][1] + both[1][1]), width)
    rim[some] = width < _RIM_WALLS * wall
    return rim


def _of_the_outside(mesh: Mesh, rim: Flags, lean: Floats) -> Flags:
    """Return which rim faces are the outer half of a round lip: nearer to the outer skin than to
    the inner one, and no edge between them and it."""
    outer, inner = lean < -TOLD_APART, lean > TOLD_APART
    if not outer.any() or not inner.any():
        return np.zeros(int(rim.sum()), dtype=bool)
    centre, normal, _ = face_frames(mesh)
    first, second, _ = neighbours(mesh)
    smooth = np.einsum("ij,ij->i", normal[first], normal[second]) > np.cos(_EDGE)
    label = _components(len(centre), first[smooth], second[smooth])
    rounded = np.isin(label[rim], np.unique(label[outer]))
    to_outer, to_inner = (cKDTree(centre[skin]).query(centre[rim])[0] for skin in (outer, inner))
    return np.asarray(rounded & (to_outer < to_inner))


def _potential(mesh: Mesh, lean: Floats, area: Floats, wall: float) -> Floats:
    first, second, _ = neighbours(mesh)
    centre, normal, _ = face_frames(mesh)
    bend = np.arccos(np.clip(np.einsum("ij,ij->i", normal[first], normal[second]), -1.0, 1.0))
    apart = np.linalg.norm(centre[first] - centre[second], axis=1)
    weight = _edge_lengths(mesh) / np.maximum(apart, 1e-12)
    weight = np.minimum(weight, 100.0) * np.maximum(np.exp(-((bend / _BEND) ** 2)), _LEAST_WEIGHT)
    count = len(area)
    hold = np.abs(lean) * area / (_REACH_WALLS * wall) ** 2
    both = coo_array(
        (np.r_[weight, weight], (np.r_[first, second], np.r_[second, first])), shape=(count, count)
    ).tocsr()
    along = np.asarray(both.sum(axis=1)).ravel()
    diagonal = along + hold + 1e-9 * along.mean()
    system = diags_array(diagonal) - both
    found, _ = cg(
        system, hold * np.sign(lean), x0=lean, rtol=1e-4, maxiter=500, M=diags_array(1.0 / diagonal)
    )
    return np.asarray(found)


def _straightened(mesh: Mesh, potential: Floats) -> Flags:
    """Return the inner faces, teeth of the border taken off where no edge of the piece is there.

    A tooth is a face that has two neighbours of the other skin, and none over an edge.
    """
    inner = potential > 0.0
    first, second, _ = neighbours(mesh)
    _, normal, _ = face_frames(mesh)
    smooth = np.einsum("ij,ij->i", normal[first], normal[second]) > np.cos(_EDGE)
    one, other = first[smooth], second[smooth]
    count = len(inner)
    for turn in range(_TEETH):
        across = inner[one] != inner[other]
        met = np.bincount(one[across], minlength=count) + np.bincount(
            other[across], minlength=count
        )
        # One skin's teeth at a time, or both would change places.
        inner = inner ^ ((met >= 2) & (inner == bool(turn % 2)))
    return inner


def _without_scraps(mesh: Mesh, inner: Flags, area: Floats) -> Flags:
    """Give small islands of one skin inside the other to the one round them."""
    inner = inner.copy()
    first, second, _ = neighbours(mesh)
    for skin in (True, False):
        same = (inner[first] == skin) & (inner[second] == skin)
        label = _components(len(area), first[same], second[same])
        of_it = inner == skin
        size = np.bincount(label, np.where(of_it, area, 0.0))
        scrap = of_it & (size[label] < _SCRAP * float(area[of_it].sum()))
        # A whole body beside the others is no island.
        meets = np.zeros(len(size), dtype=bool)
        across = inner[first] != inner[second]
        meets[label[first[across]]] = True
        meets[label[second[across]]] = True
        inner[scrap & meets[label]] = not skin
    return inner


def _components(count: int, first: Integers, second: Integers) -> Integers:
    ones = np.ones(len(first), np.int8)
    _, label = connected_components(coo_array((ones, (first, second)), shape=(count, count)))
    return np.asarray(label)


def _lying_inside(mesh: Mesh, kept: Flags, area: Floats) -> Flags:
    """Return faces of other parts that lie inside the largest one when its openings are closed."""
    first, second, _ = neighbours(mesh)
    both = kept[first] & kept[second]
    label = _components(len(area), first[both], second[both])
    size = np.bincount(label, np.where(kept, area, 0.0))
    main = int(size.argmax())
    found = np.zeros(len(area), dtype=bool)
    others = [name for name in np.argsort(-size).tolist() if name != main and size[name] > 0.0]
    if not others:
        return found
    outer = Mesh(mesh.vertices, mesh.faces[label == main])
    closing = lids(outer, rims(outer))
    if closing is not None:
        size_before = len(outer.vertices)
        outer = Mesh(
            np.r_[outer.vertices, closing.vertices], np.r_[outer.faces, closing.faces + size_before]
        )
    for name in others[:100]:
        faces = np.flatnonzero(label == name)
        some = faces[sampled(area[faces], _POINTS_OF_A_PATCH)]
        middles = mesh.vertices[mesh.faces[some]].mean(axis=1)
        found[faces] = inside(outer, middles).all()
    return found


def _edge_lengths(mesh: Mesh) -> Floats:
    start, end = mesh.faces.ravel(), np.roll(mesh.faces, -1, axis=1).ravel()
    order, opens, shared_by = by_edge(start, end, len(mesh.vertices))
    pair = order[opens[shared_by == 2]]
    return np.asarray(np.linalg.norm(mesh.vertices[start[pair]] - mesh.vertices[end[pair]], axis=1))
