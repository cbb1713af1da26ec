"""Places of a piece in a maker's words: crown, left cheek, chin, comb, neck, rim."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.spatial import cKDTree

from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.thickness import Curvature, curvature_of
from mildhusk.core.geometry.mesh import Flags, Floats
from mildhusk.core.geometry.sections import square_to

_UPRIGHT = 0.6
"""An opening looks to the side where its direction rises no more than this. [1]"""
_SAMPLES, _MIRRORS, _BANDS = 1500, 24, 24
_ROUND, _MIRRORED = 0.008, 0.008
"""A piece is round, or has two like sides, where its mirror images are off by less than these
shares of its size (assumed). [1]"""
_SURE, _HOLLOW_1_M, _LEAST_HOLLOW_1_M2 = 1.5, 3.0, 1.0
"""The front has so many times the hollows of the back, each more bent than this, and so much of
them, or it is not told which is which (assumed)."""
_NECK, _NECK_FROM, _NECK_TO = 0.87, 0.2, 0.7
"""A neck is narrower than what lies on both sides of it by this, and lies between these shares of
the height (assumed). [1]"""
_AT_RIM, _CROWN, _DEEPEST = 0.12, 0.88, 0.88
_COMB_WIDE, _COMB_LONG, _COMB_BENT, _COMB_ABOVE = 0.08, 0.3, 2.0, 0.5
"""A comb lies so near to the middle, as a share of the width, is so long beside the piece, and bent
so much more than what lies beside it; above half-way up (assumed). [1]"""
_STANDS_OUT = 1.45
"""A tip lies at this multiple of the median distance from the middle, or beyond. [1]"""


class Kind(StrEnum):
    """What a piece is named as, by its shape; what it really shows is not known."""

    FACE = "face"
    """A shell that opens to a side: it looks away from its opening."""
    HEAD = "head"
    """Two like sides, a front and a back; a helmet, a head, a bust."""
    ROUND = "round"
    """Alike all round; a bottle, a bowl, a ball."""
    OTHER = "other"
    """Nothing is known but its height."""


@dataclass(frozen=True, slots=True, eq=False)
class Names:
    """How the places of one piece are named.

    Parameters
    ----------
    grid : CoatGrid
    kind : Kind
    up, front, left : (3,) float
        Unit vectors. `left` is the piece's own.
    knows_front : bool
        Front and back are told apart.
    neck : float or None
        Its height as a share of the whole; None where there is none. [1]
    comb : (m,) bool
        Faces of a ridge along the middle of its top.
    """

    grid: CoatGrid
    kind: Kind
    up: Floats
    front: Floats
    left: Floats
    knows_front: bool
    neck: float | None
    comb: Flags

    def of(self, point: Floats) -> str:
        """Return words for a point of the face, (3,) [m]."""
        words = {
            Kind.FACE: self._on_a_face,
            Kind.HEAD: self._on_a_head,
            Kind.ROUND: self._on_a_round,
            Kind.OTHER: self._by_height,
        }
        return words[self.kind](point)

    def _share(self, along: Floats, point: Floats) -> float:
        return _between(self.grid.centre @ along, float(point @ along))

    @property
    def _has_opening(self) -> bool:
        return self.grid.is_open or bool(self.grid.lid.any())

    def _is_at_rim(self, point: Floats) -> bool:
        """Whether it lies by the opening; where the file's rim is cut to be is its edge."""
        return self._has_opening and self._share(-self.grid.out, point) < _AT_RIM

    def _stands_out(self, point: Floats) -> bool:
        middle = 0.5 * (self.grid.centre.min(axis=0) + self.grid.centre.max(axis=0))
        away = np.linalg.norm(self.grid.centre - middle, axis=1)
        return bool(np.linalg.norm(point - middle) > _STANDS_OUT * float(np.median(away)))

    def _on_a_face(self, point: Floats) -> str:
        grid = self.grid
        tall = self._share(self.up, point)
        # To the right of somebody who looks at its front.
        across = self._share(np.cross(grid.out, self.up), point) - 0.5
        depth = -(grid.centre @ grid.out)
        deep = _between(depth, -float(point @ grid.out))
        _, word, aside = next(one for one in _FACE_HEIGHTS if tall <= one[0])
        if abs(across) > _ASIDE:
            word = aside
        in_front = depth > depth.min() + _BEAK_FROM * np.ptp(depth)
        if deep > _DEEPEST and grid.area[in_front].sum() < _BEAK_LESS * grid.area.sum():
            word = "tip of the nose or beak"
        said = f"{word}, by the rim" if deep < _AT_RIM else word
        if abs(across) > _SIDEWAYS:
            said += f", {'right' if across > 0.0 else 'left'} as it looks at you"
        return said

    def _on_a_head(self, point: Floats) -> str:
        tall, turn = self._share(self.up, point), self._turn(point)
        side, way = self._side(turn), self._way(turn)
        if self._is_at_rim(point):
            return f"rim, {way}"
        neck = 0.0 if self.neck is None else self.neck
        is_above = (tall - neck) / (1.0 - neck) > _CROWN
        if self._stands_out(point) and tall > neck:
            # What stands up in the middle is no nose.
            if abs(turn) < _IN_FRONT and self.knows_front and not is_above:
                return "tip of the nose or beak"
            if _IN_FRONT < abs(turn) < _BEHIND:
                return f"tip that stands out, {side}"
        if self.neck is not None:
            if tall < self.neck - _NECK_HALF:
                return self._on_shoulders(turn, side)
            if tall < self.neck + _NECK_HALF:
                return f"neck, {way}"
        if self.comb[int(np.argmin(np.linalg.norm(self.grid.centre - point, axis=1)))]:
            return f"comb, {way}" if self.knows_front else "comb"
        if is_above:
            return "crown"
        tall = (tall - neck) / (1.0 - neck)
        if not self.knows_front:
            return f"{_level_word(tall)}, {way}"
        if abs(turn) > _BEHIND:
            return "nape" if tall < _NAPE else "back of the head"
        column = int(abs(turn) > _IN_FRONT) + int(abs(turn) > _BESIDE)
        word = next(one[1][column] for one in _HEAD_HEIGHTS if tall <= one[0])
        return word if column == 0 else f"{side} {word}"

    def _on_shoulders(self, turn: float, side: str) -> str:
        if _IN_FRONT < abs(turn) < _BEHIND:
            return f"{side} shoulder"
        if not self.knows_front:
            return "chest or back"
        return "chest" if abs(turn) < _IN_FRONT else "back, between the shoulders"

    def _on_a_round(self, point: Floats) -> str:
        if self._is_at_rim(point):
            return "rim"
        tall = self._share(self.up, point)
        if self.neck is not None:
            top = self._has_opening and float(self.grid.out @ self.up) > 0.0
            if tall > self.neck - _NECK_HALF:
                return "neck" if top else "top"
            if tall > self.neck - _SHOULDER:
                return "shoulder"
        if tall < _AT_RIM:
            return "bottom"
        if tall > _CROWN:
            return "top"
        return f"side, {_level_word(tall)}"

    def _by_height(self, point: Floats) -> str:
        if self._is_at_rim(point):
            return "rim"
        tall = self._share(self.up, point)
        if tall > _CROWN:
            return "top"
        if tall < _AT_RIM:
            return "bottom"
        return _level_word(tall) + (", at a tip" if self._stands_out(point) else "")

    def _turn(self, point: Floats) -> float:
        """Return how far round from its front a point lies, to its left above nought. [degrees]"""
        middle = 0.5 * (self.grid.centre.min(axis=0) + self.grid.centre.max(axis=0))
        off = point - middle
        return math.degrees(math.atan2(float(off @ self.left), float(off @ self.front)))

    def _side(self, turn: float) -> str:
        if not self.knows_front:
            return "one"
        return "left" if turn > 0.0 else "right"

    def _way(self, turn: float) -> str:
        """Return which of its four sides a turn looks to."""
        if abs(turn) < _BESIDE_FRONT or abs(turn) > _BEHIND:
            if not self.knows_front:
                return "front or back"
            return "front" if abs(turn) < _BESIDE_FRONT else "back"
        return f"{self._side(turn)} side"


_FACE_HEIGHTS = (
    (0.15, "chin", "jaw"),
    (0.35, "mouth", "jaw"),
    (0.58, "nose", "cheek"),
    (0.82, "brow", "temple"),
    (math.inf, "top", "top"),
)
"""Up to which share of its height a face has what, in the middle and aside (assumed)."""
_BEAK_FROM, _BEAK_LESS = 0.7, 0.2
"""What is so far in front and so little of the face is a beak; of half a ball it is 30 %."""
_ASIDE, _SIDEWAYS = 0.18, 0.06
"""So far from its middle, as a share of its width, a place is aside; and then to a side of it."""
_IN_FRONT, _BESIDE_FRONT, _BESIDE, _BEHIND = 25.0, 45.0, 75.0, 130.0
"""Turns from the front: the middle of a face, its front, its cheeks, and from there on the back.
[degrees]"""
_HEAD_HEIGHTS = (
    (0.22, ("chin", "jaw", "jaw")),
    (0.38, ("mouth", "cheek", "side, low")),
    (0.52, ("nose", "cheek", "ear")),
    (0.66, ("brow", "temple", "ear")),
    (math.inf, ("forehead", "temple", "side, high")),
)
"""Up to which share of its height a head has what: in the middle, aside, and over the ears
(assumed)."""
_NAPE, _NECK_HALF, _SHOULDER = 0.3, 0.07, 0.25


def names_of(grid: CoatGrid) -> Names:
    """Find out how the places of a piece are named.

    Parameters
    ----------
    grid : CoatGrid

    Returns
    -------
    Names

    Notes
    -----
    Two like sides are found by mirroring the piece in planes along its height; the front is the
    side with the more hollows half-way up: eyes and mouth are there, and no nape is so bent.
    """
    up = np.array([0.0, 0.0, 1.0])
    has_opening = grid.is_open or bool(grid.lid.any())
    if has_opening and abs(grid.out[2]) < _UPRIGHT:
        up -= grid.out[2] * grid.out
        up /= np.linalg.norm(up)
        none = np.zeros(len(grid.area), dtype=bool)
        return Names(grid, Kind.FACE, up, -grid.out, np.cross(up, -grid.out), True, None, none)
    front, off, evenly = _mirror_plane(*_spread_points(grid), up)
    kind = Kind.ROUND if evenly else Kind.HEAD if off < _MIRRORED else Kind.OTHER
    # What stands on its crown in the file is a head all the same, where it has a front.
    if kind is Kind.HEAD and has_opening and grid.out[2] > 0.0:
        up = -up
    bend = curvature_of(grid)
    ahead, behind = _hollows(grid, bend, up, front)
    if behind > ahead:
        front = -front
    most, least = max(ahead, behind), min(ahead, behind)
    sure = kind is Kind.HEAD and most > max(_SURE * least, _LEAST_HOLLOW_1_M2)
    left = np.cross(up, front)
    neck = _neck(_widths(grid, up, left), kind)
    comb = _comb(grid, bend, up, front, left, neck or 0.0)
    return Names(grid, kind, up, front, left, sure, neck, comb)


def _between(of: Floats, one: float) -> float:
    """Return where a value lies between the least and the greatest, from 0 to 1."""
    low, high = float(of.min()), float(of.max())
    return (one - low) / max(high - low, 1e-12)


def _level_word(tall: float) -> str:
    return "low" if tall < 1.0 / 3.0 else "half-way up" if tall < 2.0 / 3.0 else "high"


def _spread_points(grid: CoatGrid) -> tuple[Floats, Floats]:
    """Return points spread over the casting face by area, seen from its middle, and their normals.

    (n, 3) [m], (n, 3)
    """
    face = np.flatnonzero(~grid.lid)
    share = np.cumsum(grid.area[face]) / grid.area[face].sum()
    count = min(_SAMPLES, len(face))
    taken = face[np.searchsorted(share, (np.arange(count) + 0.5) / count)]
    middle = 0.5 * (grid.centre.min(axis=0) + grid.centre.max(axis=0))
    return grid.centre[taken] - middle, grid.normal[taken]


def _mirror_plane(at: Floats, normal: Floats, up: Floats) -> tuple[Floats, float, bool]:
    """Return which way lies in the best mirror plane, how far off it is, and whether all are good.

    Off as the mean distance of mirrored points from the plane of the face nearest to them, as a
    share of the piece's size.
    """
    aside, across = square_to(up)
    size = float(np.linalg.norm(np.ptp(at, axis=0)))
    whole = cKDTree(at)
    ways, off = [], []
    for turn in np.arange(_MIRRORS) * math.pi / _MIRRORS:
        way = math.cos(turn) * aside + math.sin(turn) * across
        to_side = np.cross(up, way)
        # The plane may lie beside the middle of the box.
        beyond = at @ to_side - np.median(at @ to_side)
        mirrored = at - 2.0 * beyond[:, None] * to_side
        nearest = whole.query(mirrored)[1]
        far = np.abs(((mirrored - at[nearest]) * normal[nearest]).sum(axis=1))
        ways.append(way)
        off.append(float(far.mean()) / size)
    best = int(np.argmin(off))
    return ways[best], off[best], max(off) < _ROUND


def _hollows(grid: CoatGrid, bend: Curvature, up: Floats, front: Floats) -> tuple[float, float]:
    """Return the mean square of hollow curvature half-way up, before and behind. [1/m^2]"""
    hollow = np.maximum(-bend.mean - _HOLLOW_1_M, 0.0) ** 2 * grid.area
    middle = 0.5 * (grid.centre.min(axis=0) + grid.centre.max(axis=0))
    off = grid.centre - middle
    half_way = ~grid.lid & (np.abs(off @ up) < 0.25 * float(np.ptp(grid.centre @ up)))

    def mean(half: Flags) -> float:
        return float(hollow[half].sum() / max(grid.area[half].sum(), 1e-12))

    return mean(half_way & (off @ front > 0.0)), mean(half_way & (off @ front <= 0.0))


def _widths(grid: CoatGrid, up: Floats, left: Floats) -> Floats:
    """Return how wide the piece is, height by height from the bottom. [m]"""
    face = ~grid.lid
    tall, across = grid.centre[face] @ up, grid.centre[face] @ left
    share = (tall - tall.min()) / max(float(np.ptp(tall)), 1e-12)
    band = np.minimum((share * _BANDS).astype(int), _BANDS - 1)
    return np.array(
        [float(np.ptp(across[band == one])) if (band == one).any() else 0.0
         for one in range(_BANDS)]
    )  # fmt: skip


def _neck(wide: Floats, kind: Kind) -> float | None:
    """Return how high the neck is, as a share; None where there is none."""
    best, found = _NECK, None
    for at in range(int(_NECK_FROM * _BANDS), int(_NECK_TO * _BANDS)):
        below, above = float(wide[:at].max()), float(wide[at + 1 :].max())
        narrow = wide[at] / max(min(below, above), 1e-12)
        if 0.0 < narrow < best:
            best, found = narrow, (at + 0.5) / _BANDS
    if found is not None or kind is not Kind.ROUND:
        return found
    # A bottle's neck is as narrow up to its mouth, a dome ever narrower.
    for at in range(_BANDS - 2):
        mouth = wide[at:-1]
        if (mouth < 0.6 * wide.max()).all():
            is_neck = at / _BANDS > 0.3 and mouth.min() > 0.7 * mouth.max()
            return at / _BANDS + _NECK_HALF if is_neck else None
    return None


def _comb(
    grid: CoatGrid, bend: Curvature, up: Floats, front: Floats, left: Floats, neck: float
) -> Flags:
    """Return the faces of a ridge along the middle of the top; none where there is no such ridge.

    (m,) bool
    """
    none = np.zeros(len(grid.area), dtype=bool)
    at = grid.centre
    tall, across = at @ up, at @ left
    across = across - 0.5 * (across.min() + across.max())
    # Of a bust only its head has one.
    above = neck + _COMB_ABOVE * (1.0 - neck)
    high = ~grid.lid & (tall > tall.min() + above * float(np.ptp(tall)))
    middle = high & (np.abs(across) < _COMB_WIDE * float(np.ptp(across)))
    beside = high & ~middle
    if not middle.any() or not beside.any():
        return none
    usual = max(float(np.median(bend.mean[beside])), 1e-9)
    ridge = middle & (bend.mean > _COMB_BENT * usual)
    long = float(np.ptp(at[ridge] @ front)) if ridge.any() else 0.0
    return ridge if long > _COMB_LONG * float(np.ptp(at @ front)) else none
