"""All that a mould's plan needs to know of the piece; it takes seconds, the plan then none."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames, middle_of
from mildhusk.core.geometry.narrow import NarrowPlace, narrow_places
from mildhusk.core.geometry.openings import rims
from mildhusk.core.geometry.sections import girths, section, square_to
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mould.brushing import steepest_slope
from mildhusk.core.mould.estimate import require_wall
from mildhusk.core.mould.letting_go import Peel, peel
from mildhusk.core.mould.locks import MOST_PARTS, Split, best_split
from mildhusk.core.mould.outside import (
    Standing,
    rubber_curve,
    rubber_surface,
    standing,
)
from mildhusk.core.mould.patches import PatchPlace, PatchSize, size_patches
from mildhusk.core.mould.poured import Block, block
from mildhusk.core.progress import Tell, silent

Place = tuple[float, float, float]


class MouldWay(StrEnum):
    """How the rubber is put on."""

    BRUSH = "brush"
    BLANKET = "blanket"
    BLOCK = "block"


@dataclass(frozen=True, slots=True, eq=False)
class MouldStudy:
    """What was found of a piece, a rubber and a wall.

    Parameters
    ----------
    wall_m : float
        [m]
    curve : VolumeCurve
        Rubber by its wall, outwards.
    brushed_m2, outside_m2 : float
        To brush; outside of the rubber. [m^2]
    slope : float
        Of the steepest place. [rad]
    filled : tuple of NarrowPlace
        Gaps narrower than two walls, which the rubber fills.
    peel : Peel
    splits : tuple of Split
        The best of one to four parts.
    rubber : Mesh
        Outside of the rubber. [m]
    block : Block
    rubber_centre, shell_centre : tuple of 3 floats
        Centres of mass. [m]
    up : tuple of 3 floats
        Away from the board.
    width_m : float
        Of the rubber across, at its least. [m]
    face_section, rubber_section : (n, 2, 2) float
        Both cut upright through the middle, as straight pieces (across, up from the board). [m]
    patches : tuple of PatchSize
        Of the soft places asked for.
    """

    wall_m: float
    curve: VolumeCurve
    brushed_m2: float
    outside_m2: float
    slope: float
    filled: tuple[NarrowPlace, ...]
    peel: Peel
    splits: tuple[Split, ...]
    rubber: Mesh
    block: Block
    rubber_centre: Place
    shell_centre: Place
    up: Place
    width_m: float
    face_section: Floats
    rubber_section: Floats
    patches: tuple[PatchSize, ...] = ()


def study_mould(
    face: Mesh,
    rubber: Rubber,
    wall_m: float,
    tell: Tell = silent,
    places: tuple[PatchPlace, ...] = (),
) -> MouldStudy:
    """Study a piece for a mould of a rubber with a wall.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    rubber : Rubber
    wall_m : float
        [m]
    tell : callable
        Is told the progress.
    places : tuple of PatchPlace
        Soft places to measure.

    Returns
    -------
    MouldStudy

    Raises
    ------
    MouldError
        A wall out of range, a ragged opening, a piece that cannot be taped along its pull, a soft
        place off it.
    """
    require_wall(wall_m)
    _require_sound_opening(face)
    tell(0.0, "standing it on its board")
    piece = standing(face)
    tell(0.05, "measuring what the rubber takes")
    curve = rubber_curve(piece)
    tell(0.4, "drawing the outside of the rubber")
    outside = rubber_surface(piece, wall_m)
    gaps, _ = narrow_places(piece.face.flipped(), wall_m)
    splits = []
    for parts in range(1, MOST_PARTS + 1):
        tell(0.45 + 0.1 * parts, f"looking where a shell in {parts} would lock")
        splits.append(best_split(outside, piece.up, parts))
    tell(0.9, "taping it for the peel")
    _, _, area = face_frames(outside)
    across = outside.vertices @ square_to(piece.up).T
    middle = middle_of(outside)
    up = _place(piece.up)
    return MouldStudy(
        wall_m=wall_m,
        curve=curve,
        brushed_m2=measure_face(piece.face).area_m2,
        outside_m2=float(area.sum()),
        slope=steepest_slope(piece.face, up),
        filled=gaps,
        peel=peel(piece, rubber, wall_m),
        splits=tuple(splits),
        rubber=outside,
        block=block(piece, max(wall_m, 0.005)),
        rubber_centre=curve.centre(wall_m) or _place(middle),
        shell_centre=_place(middle),
        up=up,
        width_m=float((across.max(axis=0) - across.min(axis=0)).min()),
        face_section=_upright(piece.face, piece, middle),
        rubber_section=_upright(outside, piece, middle),
        patches=size_patches(piece, wall_m, places),
    )


_RAGGED = 1.6
"""A rim that waves, as of a half mask, is up to some tenths longer than the widest girth."""


def _require_sound_opening(face: Mesh) -> None:
    """Refuse an opening whose rim is longer than any tape round the piece could be: it is ragged.

    Raises
    ------
    MouldError
    """
    openings = rims(face)
    if not openings:
        return
    longest = openings[0].length_m
    widest = max(one.girth_m for one in girths(face, openings[0].out))
    if longest > _RAGGED * widest:
        raise MouldError(
            f"The rim of the opening is {longest * 1e3:,.0f} mm long and the piece "
            f"{widest * 1e3:,.0f} mm round at its widest: the rim is ragged, or is none. Look at "
            "the piece's page what of it is counted, or cut it at its rim.",
            "piece",
        )


def _upright(mesh: Mesh, piece: Standing, middle: Floats) -> Floats:
    aside, square = square_to(piece.up)
    pieces = section(mesh, square, float(middle @ square))
    across = (pieces - middle) @ aside
    return np.asarray(np.stack([across, pieces @ piece.up - piece.board_m], axis=-1))


def _place(values: Floats) -> Place:
    x, y, z = (float(one) for one in values)
    return (x, y, z)
