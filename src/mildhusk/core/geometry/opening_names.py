"""Openings as a mould maker sees them: girth, area, plane, and a name."""

import numpy as np

from mildhusk.core.geometry.measure import Opening
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.openings import Rim
from mildhusk.core.geometry.sections import taped

# Two openings are a pair where their areas differ by less than this share, at one height.
_ALIKE, _LEVEL = 0.35, 0.12
# Of the main opening's length: what is shorter is a hole in the face.
_A_HOLE = 0.7
# From the opening below (0) to the crown (1): eyes and visors are higher than mouths.
_EYES_FROM = 0.4
_SMOOTHINGS = 4


def named_openings(
    mesh: Mesh, openings: tuple[Rim, ...], *, toothed: bool = False
) -> tuple[Opening, ...]:
    """Measure and name openings.

    Parameters
    ----------
    mesh : Mesh
        [m]
    openings : tuple of Rim
        The longest first: that is the one a mould is filled by.
    toothed : bool
        Whether their rims run from face to face, as where two skins meet; their length is then
        taken through the middles of their teeth.

    Returns
    -------
    tuple of Opening
        In the same order.

    Notes
    -----
    Above is away from the main opening. A pair at one height is a pair of eyes, and tells the
    front; a single one at the side is a visor or a mouth by its height.
    """
    if not openings:
        return ()
    measured = [_measured(mesh, rim, toothed) for rim in openings]
    names = ["main opening", *(f"opening {at}" for at in range(2, len(openings) + 1))]
    up = -openings[0].out
    height = mesh.vertices @ up
    low, high = float(height.min()), float(height.max())
    share = [(float(np.dot(one.centre_m, up)) - low) / (high - low) for one in measured]
    holes = [
        at
        for at in range(1, len(measured))
        if measured[at].perimeter_m < _A_HOLE * measured[0].perimeter_m
    ]
    pair = _pair_of(measured, share, holes)
    if pair is not None:
        one, other = pair
        middle = (np.array(measured[one].centre_m) + np.array(measured[other].centre_m)) / 2.0
        front = middle - mesh.vertices.mean(axis=0)
        left = np.cross(up, front)
        apart = np.array(measured[one].centre_m) - middle
        first, second = ("left eye", "right eye") if apart @ left > 0 else ("right eye", "left eye")
        names[one], names[other] = first, second
    rest = [at for at in holes if pair is None or at not in pair]
    if rest and abs(float(np.dot(measured[rest[0]].out, up))) < _A_HOLE:
        upper = share[rest[0]] > _EYES_FROM and pair is None
        names[rest[0]] = "visor" if upper else "mouth"
    return tuple(
        Opening(one.perimeter_m, one.area_m2, one.centre_m, one.girth_m, one.out, name)
        for one, name in zip(measured, names, strict=True)
    )


def _measured(mesh: Mesh, rim: Rim, toothed: bool) -> Opening:
    ring = mesh.vertices[rim.corners]
    length_m = min(rim.length_m, _through_teeth(ring)) if toothed else rim.length_m
    middle = ring.mean(axis=0)
    after = np.roll(ring, -1, axis=0)
    lid = np.cross(ring - middle, after - middle).sum(axis=0) / 2.0
    return Opening(
        length_m,
        float(np.linalg.norm(lid)),
        _triple(middle),
        taped(np.stack([ring, after], axis=1), rim.out),
        _triple(rim.out),
    )


def _through_teeth(ring: Floats) -> float:
    """Return the length of a ring through the middles of its edges, taken again and again; what
    that takes from a circle is given back. [m]"""
    for _ in range(_SMOOTHINGS):
        ring = (ring + np.roll(ring, -1, axis=0)) / 2.0
    length = float(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).sum())
    return length / float(np.cos(np.pi / len(ring)) ** _SMOOTHINGS)


def _pair_of(
    measured: list[Opening], share: list[float], holes: list[int]
) -> tuple[int, int] | None:
    for at, one in enumerate(holes):
        for other in holes[at + 1 :]:
            small, large = sorted((measured[one].area_m2, measured[other].area_m2))
            alike = large > 0.0 and small / large > 1.0 - _ALIKE
            if alike and abs(share[one] - share[other]) < _LEVEL and share[one] > _EYES_FROM:
                return one, other
    return None


def _triple(values: Floats) -> tuple[float, float, float]:
    return (float(values[0]), float(values[1]), float(values[2]))
