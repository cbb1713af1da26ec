"""How far the figures of a surveyed piece may be off: facets, rims, holes, open questions."""

import numpy as np

from mildhusk.core.constants import AREA_BAND
from mildhusk.core.geometry.bands import Bands
from mildhusk.core.geometry.casting_face import CastingFace
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.mesh import face_frames
from mildhusk.core.geometry.openings import lids, rims
from mildhusk.core.geometry.resolution import facet_error
from mildhusk.core.geometry.sections import Girth
from mildhusk.core.geometry.skin_terms import SkinMethod

_HOLE_EDGES = 12
"""What has more edges round it was drawn."""


def bands_of(
    casting: CastingFace, measures: FaceMeasures, curve: VolumeCurve, along: tuple[Girth, ...]
) -> Bands:
    """Return what the figures of a piece may be off by.

    Parameters
    ----------
    casting : CastingFace
    measures : FaceMeasures
    curve : VolumeCurve
    along : tuple of Girth

    Returns
    -------
    Bands
    """
    facets = max(AREA_BAND, facet_error(casting.face))
    area = facets + _doubts(casting, measures)
    girth = [one.girth_m for one in along]
    widest = int(np.argmax(girth))
    beside = girth[max(widest - 1, 0) : widest + 2]
    # The widest place may lie between two stations, by so much above both.
    between = (max(beside) - min(beside)) / (4.0 * max(beside)) if max(beside) > 0.0 else 0.0
    return Bands(area, max(area, _error_of(curve, measures) + casting.doubt), facets + between)


def area_band(casting: CastingFace, measures: FaceMeasures) -> float:
    """Return what the area of a casting face may be off by: facets, rims, open questions. [1]"""
    facets = max(AREA_BAND, facet_error(casting.face))
    return facets + _doubts(casting, measures)


def _doubts(casting: CastingFace, measures: FaceMeasures) -> float:
    """Return what is in doubt beside facets: answers, rims, holes, what repairs left out. [1]"""
    left_out = sum(one.share for one in casting.repairs)
    rims_and_holes = _doubt_of_rims(casting, measures) + _doubt_of_holes(casting)
    return casting.doubt + rims_and_holes + left_out


def _doubt_of_holes(casting: CastingFace) -> float:
    """Return what small holes of few edges would add, which may be meant or missing faces. [1]"""
    closing = [rim for rim in rims(casting.face)[1:] if len(rim.corners) <= _HOLE_EDGES]
    lid = lids(casting.face, tuple(closing))
    if lid is None:
        return 0.0
    return float(face_frames(lid)[2].sum() / face_frames(casting.face)[2].sum())


def _doubt_of_rims(casting: CastingFace, measures: FaceMeasures) -> float:
    """Return what a border between two skins may be off by: half a wall all along it. [1]"""
    wall = casting.skin.wall_m
    if casting.skin.method is SkinMethod.ALL or wall is None:
        return 0.0
    rims_m = sum(one.perimeter_m for one in measures.openings)
    return 0.5 * wall * rims_m / measures.area_m2


def _error_of(curve: VolumeCurve, measures: FaceMeasures) -> float:
    """Return the error of V(t) at a thin wall: between its grids, or from the formula there.

    The formula is exact there but for narrow places, the grids overstate a piece that lies along
    them; so the smaller of the two is nearer the truth.
    """
    wall = curve.walls_m[8]
    formula = (
        measures.area_m2 * wall
        - measures.mean_curvature_m * wall**2
        + measures.total_curvature / 3.0 * wall**3
    )
    return min(curve.relative_error, abs(curve.volume(wall) / formula - 1.0))
