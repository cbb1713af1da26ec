"""Whether a file is a hollow print at all: two skins an even wall apart, one inside the other."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames
from mildhusk.core.geometry.rays import Caster
from mildhusk.core.geometry.skin_terms import HollowEvidence, HollowVerdict
from mildhusk.core.geometry.topology import bodies, border
from mildhusk.core.geometry.winding import inside

_SAMPLES, _PAIRS_JUDGED = 4_000, 600
_DIRECTIONS = 48
# Rays start this share of the piece away from their face.
STEP = 2e-5
# A wall of a print is thinner than this share of the piece, and its skins are all but parallel.
_THIN, _PARALLEL = 0.12, 0.8
# Even is a wall between these shares of the usual one.
_EVEN = (0.6, 1.6)
TOLD_APART = 0.12
"""One skin is the inner one where the other sees this much more of the sky."""
# Below the first share of paired area there is no second skin, from the second on there is one.
_NO_PAIRS, _PAIRS = 0.35, 0.75
# Of a shell all of its material is wall: the volume is half the area times the wall. A rod has half
# of that, a ball a third.
_NO_SHELL, _SHELL = 0.6, 0.75
_WIDEST_SPREAD = 0.5
# Of a plate neither side is inside.
_PLATE, _ONE_INSIDE = 0.2, 0.5
# Nobody models a solid piece so thin for its size; and one a little thicker only round a cavity.
_SURELY_THIN, _THIN_ROUND_A_CAVITY, _CAVITY_SEES = 0.03, 0.06, 0.45
_POINTS_OF_A_BODY = 12


@dataclass(frozen=True, slots=True, eq=False)
class Pairs:
    """Sampled faces and the face across the wall from each.

    Parameters
    ----------
    sample, partner : (n,) int
        Faces of the mesh; the partner is -1 where there is none.
    thickness : (n,) float
        Infinite without a partner. [m]
    even : (n,) bool
        Whether the wall there is the usual one.
    """

    sample: Integers
    partner: Integers
    thickness: Floats
    even: Flags


def nested_bodies(mesh: Mesh) -> Flags:
    """Return the faces of closed bodies that lie wholly inside another closed body."""
    count, label = bodies(mesh)
    nested = np.zeros(len(mesh.faces), dtype=bool)
    if count == 1:
        return nested
    start, _ = border(mesh)
    of_vertex = np.full(len(mesh.vertices), -1)
    of_vertex[mesh.faces] = label[:, None]
    closed = np.ones(count, dtype=bool)
    closed[np.unique(of_vertex[start])] = False
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    for axis in range(3):
        np.minimum.at(low[:, axis], label, mesh.vertices[mesh.faces, axis].min(axis=1))
        np.maximum.at(high[:, axis], label, mesh.vertices[mesh.faces, axis].max(axis=1))
    size = (high - low).prod(axis=1)
    for outer in np.argsort(-size)[:4].tolist():
        if not closed[outer]:
            continue
        shell = Mesh(mesh.vertices, mesh.faces[label == outer])
        boxed = closed & (low > low[outer]).all(axis=1) & (high < high[outer]).all(axis=1)
        for inner in np.flatnonzero(boxed).tolist():
            faces = np.flatnonzero(label == inner)
            if nested[faces[0]]:
                continue
            some = faces[np.linspace(0, len(faces) - 1, _POINTS_OF_A_BODY).astype(np.int64)]
            middles = mesh.vertices[mesh.faces[np.unique(some)]].mean(axis=1)
            if inside(shell, middles).all():
                nested[faces] = True
    return nested


def find_pairs(mesh: Mesh, caster: Caster, most: int = _SAMPLES) -> Pairs:
    """Look from sampled faces for the face across the wall.

    Parameters
    ----------
    mesh : Mesh
        In metres, neighbours agreeing about outside.
    caster : Caster
        Of the same mesh.
    most : int
        How many faces.

    Returns
    -------
    Pairs
    """
    centre, normal, area = face_frames(mesh)
    sample = sampled(area, most)
    size = float(mesh.extents.max())
    partner = np.full(len(sample), -1)
    thickness = np.full(len(sample), np.inf)
    # Behind the face first; before it only where nothing stands behind, as of a loose inner sheet.
    for side in (-1.0, 1.0):
        rest = np.flatnonzero(partner < 0)
        towards = side * normal[sample[rest]]
        hit, far = caster.hits(centre[sample[rest]] + STEP * size * towards, towards)
        cosine = np.abs(np.einsum("ij,ij->i", normal[hit], towards))
        found = (hit >= 0) & (far < _THIN * size) & (cosine > _PARALLEL)
        partner[rest[found]], thickness[rest[found]] = hit[found], far[found]
    paired = partner >= 0
    usual = float(np.median(thickness[paired])) if paired.any() else np.inf
    even = paired & (thickness > _EVEN[0] * usual) & (thickness < _EVEN[1] * usual)
    return Pairs(sample, partner, thickness, even)


def weigh(mesh: Mesh, caster: Caster, pairs: Pairs, nested_share: float) -> HollowEvidence:
    """Weigh what speaks for a hollow print.

    Parameters
    ----------
    mesh : Mesh
        Without the bodies that lie inside others. [m]
    caster : Caster
    pairs : Pairs
    nested_share : float
        Of the area of the file: bodies inside others. [1]

    Returns
    -------
    HollowEvidence
    """
    centre, normal, area = face_frames(mesh)
    of_area = area[pairs.sample] if len(pairs.sample) == len(area) else np.ones(len(pairs.sample))
    share = float(of_area[pairs.even].sum() / of_area.sum())
    if share < _NO_PAIRS:
        wall = float(np.median(pairs.thickness[pairs.even])) if pairs.even.any() else None
        return HollowEvidence(share, wall, 0.0, None, 0.0, 0.0, nested_share)
    thickness = pairs.thickness[pairs.even]
    wall = float(np.median(thickness))
    spread = float(np.subtract(*np.percentile(thickness, (90.0, 10.0)))) / wall
    judged = np.flatnonzero(pairs.even)
    judged = judged[np.unique(np.linspace(0, len(judged) - 1, _PAIRS_JUDGED).astype(np.int64))]
    step = STEP * float(mesh.extents.max())
    own, across = (
        openness(caster, step, centre[faces], normal[faces])
        for faces in (pairs.sample[judged], pairs.partner[judged])
    )
    told_apart = float((np.abs(own - across) > TOLD_APART).mean())
    return HollowEvidence(
        paired_share=share,
        wall_m=wall,
        wall_spread=spread,
        shell_share=_shell_share(mesh, float(area.sum()), wall),
        told_apart=told_apart,
        inner_sees=float(np.minimum(own, across).mean()),
        nested_share=nested_share,
    )


def _shell_share(mesh: Mesh, area_m2: float, wall_m: float) -> float | None:
    if len(border(mesh)[0]):
        return None
    a, b, c = (mesh.vertices[mesh.faces[:, k]] - mesh.vertices.mean(axis=0) for k in range(3))
    volume = abs(float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum())) / 6.0
    return volume / (0.5 * area_m2 * wall_m)


def judge(evidence: HollowEvidence, size_m: float) -> HollowVerdict:
    """Say whether it is a hollow print. `size_m` is its largest extent. [m]"""
    nested = HollowVerdict.YES if evidence.nested_share > 0.0 else HollowVerdict.NO
    shell = evidence.shell_share
    if evidence.paired_share < _NO_PAIRS or evidence.wall_m is None:
        return nested
    if evidence.told_apart < _PLATE or (shell is not None and shell < _NO_SHELL):
        return nested
    sure = (
        evidence.paired_share >= _PAIRS
        and evidence.wall_spread <= _WIDEST_SPREAD
        and (shell is None or shell >= _SHELL)
        and evidence.told_apart >= _ONE_INSIDE
    )
    thin = evidence.wall_m / size_m
    cavity = thin <= _THIN_ROUND_A_CAVITY and evidence.inner_sees <= _CAVITY_SEES
    return HollowVerdict.YES if sure and (thin <= _SURELY_THIN or cavity) else HollowVerdict.ASKS


def sampled(area: Floats, most: int) -> Integers:
    """Return faces spread evenly by their area, the same ones each time."""
    if len(area) <= most:
        return np.arange(len(area))
    at = (np.arange(most) + 0.5) / most * area.sum()
    return np.unique(np.searchsorted(np.cumsum(area), at).clip(0, len(area) - 1))


def openness(caster: Caster, step: float, centre: Floats, normal: Floats) -> Floats:
    """Return how much of a hemisphere the freer side of faces sees, (n,). [1]

    Parameters
    ----------
    caster : Caster
    step : float
        How far from its face a ray starts. [m]
    centre, normal : (n, 3) float
        [m]; unit vectors.

    Returns
    -------
    (n,) float
        [1]
    """
    sky = _hemisphere()
    tangent = np.cross(normal, np.where(np.abs(normal[:, :1]) < 0.7, [[1.0, 0, 0]], [[0, 1.0, 0]]))
    tangent /= np.maximum(np.linalg.norm(tangent, axis=1, keepdims=True), 1e-12)
    across = np.cross(normal, tangent)
    seen = np.zeros((2, len(centre)))
    for side, sign in enumerate((1.0, -1.0)):
        start = centre + sign * step * normal
        for x, y, z in sky:
            towards = x * tangent + y * across + sign * z * normal
            seen[side] += ~caster.blocked(start, towards)
    return np.asarray(seen.max(axis=0) / len(sky))


def _hemisphere() -> Floats:
    """Directions spread evenly by the cosine: a spiral of golden angles on the disc, raised."""
    k = np.arange(_DIRECTIONS)
    radius = np.sqrt((k + 0.5) / _DIRECTIONS)
    turn = k * np.pi * (3.0 - np.sqrt(5.0))
    x, y = radius * np.cos(turn), radius * np.sin(turn)
    return np.stack([x, y, np.sqrt(1.0 - radius**2)], axis=1)
