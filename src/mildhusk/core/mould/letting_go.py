"""Whether a glove of rubber peels off its piece, and the shortest cut that lets it."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.constants import STRETCH_SAFETY
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.geometry.sections import Girth, girths, section, square_to
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mould.outside import Standing

STATIONS = 48
_LEAST_GIRTH_M = 0.005
# Teeth of the outer half of a cut: so far apart, so far aside (common practice, no source).
_TOOTH_LONG_M, _TOOTH_ASIDE_M = 0.025, 0.008


@dataclass(frozen=True, slots=True)
class PeelStation:
    """One ring of the glove.

    Parameters
    ----------
    height_m : float
        Above the board. [m]
    girth_m : float
        Of the piece there. [m]
    needed : float
        Stretch to pass everything above it, as a share. [1]
    """

    height_m: float
    girth_m: float
    needed: float


@dataclass(frozen=True, slots=True, eq=False)
class Peel:
    """A whole peel.

    Parameters
    ----------
    stations : tuple of PeelStation
        From the board upwards.
    needed, allowed : float
        The most that any ring needs; elongation at break by the safety. [1]
    cut_m : float
        Length of the shortest cut from the rim that brings it under, along the height. [m]
    cut_line, teeth : (n, 3) float
        On the piece, straight; and its waves on the outside of the rubber. Empty without a cut.
    """

    stations: tuple[PeelStation, ...]
    needed: float
    allowed: float
    cut_m: float
    cut_line: Floats
    teeth: Floats

    @property
    def lets_go(self) -> bool:
        """Whether it peels off uncut."""
        return self.needed <= self.allowed


def peel_profile(piece: Standing) -> tuple[PeelStation, ...]:
    """Tape a piece from the board upwards, and say what each ring of a glove has to stretch.

    Parameters
    ----------
    piece : Standing

    Returns
    -------
    tuple of PeelStation

    Raises
    ------
    MouldError
        The pull runs past the piece: nothing is there to tape.

    Notes
    -----
    A glove is peeled upwards, away from its opening: every ring passes all that stands above it.
    """
    taped = girths(piece.face, piece.up, STATIONS)
    low = float((piece.face.vertices @ piece.up).min())
    return _profile([Girth(one.height_m + low - piece.board_m, one.girth_m) for one in taped])


def _profile(taped: list[Girth]) -> tuple[PeelStation, ...]:
    whole = [one for one in taped if one.girth_m > _LEAST_GIRTH_M]
    if len(whole) < 2:
        raise MouldError("The pull runs through nothing: no girth can be taped along it.", "pull")
    girth = np.array([one.girth_m for one in whole])
    widest_above = np.maximum.accumulate(girth[::-1])[::-1]
    return tuple(
        PeelStation(one.height_m, one.girth_m, float(widest / one.girth_m - 1.0))
        for one, widest in zip(whole, widest_above, strict=True)
    )


def peel(piece: Standing, rubber: Rubber, wall_m: float) -> Peel:
    """Say whether a glove lets go, and which cut makes it.

    Parameters
    ----------
    piece : Standing
    rubber : Rubber
    wall_m : float
        [m]

    Returns
    -------
    Peel

    Notes
    -----
    A cut opens every ring it passes; the shortest one ends where no ring above needs more than is
    allowed. It is drawn where the piece is straightest: on the half plane from the axis on which
    the cut is shortest along the face.
    """
    stations = peel_profile(piece)
    allowed = rubber.elongation / STRETCH_SAFETY
    height = cut_height(stations, allowed)
    line, teeth = np.zeros((0, 3)), np.zeros((0, 3))
    if height > 0.0:
        line, teeth = _drawn(piece, height, wall_m)
    return Peel(stations, max(one.needed for one in stations), allowed, height, line, teeth)


def cut_height(stations: tuple[PeelStation, ...], allowed: float) -> float:
    """Return how high a cut from the rim has to reach; 0 when none is needed. [m]"""
    tight = [at for at, one in enumerate(stations) if one.needed > allowed]
    if not tight:
        return 0.0
    last = tight[-1]
    if last + 1 >= len(stations):
        return stations[last].height_m
    # Between two stations the need falls off evenly.
    one, after = stations[last], stations[last + 1]
    share = (one.needed - allowed) / max(one.needed - after.needed, 1e-12)
    return one.height_m + min(share, 1.0) * (after.height_m - one.height_m)


def _drawn(piece: Standing, height_m: float, wall_m: float) -> tuple[Floats, Floats]:
    square = square_to(piece.up)
    middle = piece.face.vertices.mean(axis=0)
    best: Floats | None = None
    for angle in np.radians(np.arange(0.0, 360.0, 10.0)):
        direction = np.cos(angle) * square[0] + np.sin(angle) * square[1]
        across = np.cross(piece.up, direction)
        pieces = section(piece.face, across, float(middle @ across))
        ours = (pieces.mean(axis=1) - middle) @ direction > 0.0
        found = _below(pieces[ours], piece.up, piece.board_m + height_m)
        if len(found) and (best is None or _length(found) < _length(best)):
            best, outward, aside = found, direction, across
    if best is None:
        return np.zeros((0, 3)), np.zeros((0, 3))
    points = best.reshape(-1, 3)
    line = points[np.argsort(points @ piece.up, kind="stable")]
    along = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))]
    tooth = np.arange(0.0, max(along[-1], 1e-9), _TOOTH_LONG_M / 2.0)
    at = np.stack([np.interp(tooth, along, line[:, k]) for k in range(3)], axis=1)
    sway = np.where(np.arange(len(tooth)) % 2 == 0, -1.0, 1.0) * _TOOTH_ASIDE_M
    return line, at + wall_m * outward + sway[:, None] * aside


def _below(pieces: Floats, up: Floats, height: float) -> Floats:
    """Return what of straight pieces is below a height."""
    at = pieces @ up
    low, high = at.min(axis=1), at.max(axis=1)
    kept = pieces[low < height]
    low, high, at = low[low < height], high[low < height], at[low < height]
    share = np.clip((height - low) / np.maximum(high - low, 1e-12), 0.0, 1.0)[:, None]
    first_low = (at[:, 0] <= at[:, 1])[:, None]
    bottom = np.where(first_low, kept[:, 0], kept[:, 1])
    top = np.where(first_low, kept[:, 1], kept[:, 0])
    return np.stack([bottom, bottom + share * (top - bottom)], axis=1)


def _length(pieces: Floats) -> float:
    return float(np.linalg.norm(pieces[:, 1] - pieces[:, 0], axis=1).sum())
