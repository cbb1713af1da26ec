"""From a file's faces to a measured piece: repaired, its skin found, its V(t) and girths known."""

from dataclasses import dataclass, replace

import numpy as np

from mildhusk.core.constants import AREA_BAND
from mildhusk.core.geometry.bands import Bands
from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.distance_field import volume_curve
from mildhusk.core.geometry.marks import area_of, marked
from mildhusk.core.geometry.measure import FaceMeasures, measure_face, require_castable
from mildhusk.core.geometry.mesh import Flags, Floats, Mesh, face_frames
from mildhusk.core.geometry.narrow import NarrowPlace, narrow_places
from mildhusk.core.geometry.opening_names import named_openings
from mildhusk.core.geometry.openings import Rim, cut_above, drawn_out, holes_closed, lids, rims
from mildhusk.core.geometry.questions import (
    Question,
    hollow_question,
    loose_question,
    spikes_question,
)
from mildhusk.core.geometry.repair import Repair, Repaired, close_tiny, repair
from mildhusk.core.geometry.resolution import facet_error
from mildhusk.core.geometry.sections import Girth, girths, long_axis
from mildhusk.core.geometry.skin import Skin, all_faces, find_skin
from mildhusk.core.geometry.skin_terms import SkinMethod
from mildhusk.core.geometry.survey_options import LoosePartsChoice, SpikesChoice, SurveyWish
from mildhusk.core.geometry.welding import size_of
from mildhusk.core.progress import Tell, silent

_HOLE_EDGES = 12
"""What has more edges round it was drawn."""
USUAL_WALL_M = 0.003
"""Narrow places are looked for with this wall (common practice, no source)."""


@dataclass(frozen=True, slots=True, eq=False)
class CastingFace:
    """What of a file is casting face, and how that was found.

    Parameters
    ----------
    face : Mesh
        Outside outside, with its skirt and lids. [m]
    cut_away, doubtful : (m,) bool
        Which of its faces become waste, and which another answer would leave out.
    left_out : Mesh or None
        Faces of the file that are no casting face. [m]
    left_out_m2, left_out_share : float
        Their area, and that as a share of the file. [m^2], [1]
    repairs : tuple of Repair
    skin : Skin
        Of the repaired file.
    asks : tuple of Question
        What the file leaves open.
    doubt : float
        By how much the area would change with other answers, as a share. [1]
    """

    face: Mesh
    cut_away: Flags
    doubtful: Flags
    left_out: Mesh | None
    left_out_m2: float
    left_out_share: float
    repairs: tuple[Repair, ...]
    skin: Skin
    asks: tuple[Question, ...]
    doubt: float


@dataclass(frozen=True, slots=True, eq=False)
class Survey:
    """A measured piece.

    Parameters
    ----------
    casting : CastingFace
    narrow_faces : (m,) bool
        Which faces stand at a narrow place.
    measures : FaceMeasures
    narrow : tuple of NarrowPlace
        With the usual wall.
    girths : tuple of Girth
        Along the way out of the largest opening, from the far end; along the longest way of a
        closed piece.
    opening_girth_m, widest_girth_m : float
        Tape round the largest opening, and round the widest place. [m]
    bands : Bands
    """

    casting: CastingFace
    narrow_faces: Flags
    measures: FaceMeasures
    narrow: tuple[NarrowPlace, ...]
    girths: tuple[Girth, ...]
    opening_girth_m: float
    widest_girth_m: float
    bands: Bands

    @property
    def face(self) -> Mesh:
        """The casting face. [m]"""
        return self.casting.face

    @property
    def cut_away(self) -> Flags:
        """Which of its faces become waste."""
        return self.casting.cut_away


def survey(mesh: Mesh, wish: SurveyWish, tell: Tell = silent) -> Survey:
    """Measure a file's faces as a piece.

    Parameters
    ----------
    mesh : Mesh
        As read. [m]
    wish : SurveyWish
    tell : callable
        Is told the progress.

    Returns
    -------
    Survey

    Raises
    ------
    MeshFileError
        A size no cast has, a rim plane or skirt that does not fit, no face left.
    """
    return _measured(casting_face(mesh, wish, tell), tell)


def casting_face(mesh: Mesh, wish: SurveyWish, tell: Tell = silent) -> CastingFace:
    """Repair a file and say what of it is casting face, without measuring its walls.

    Parameters
    ----------
    mesh : Mesh
        As read. [m]
    wish : SurveyWish
    tell : callable

    Returns
    -------
    CastingFace

    Raises
    ------
    MeshFileError
        As of `survey`.
    """
    # A wrong unit is told before anything long is begun; a single far corner is none.
    require_castable(size_of(mesh))
    tell(0.05, "repairing")
    mended = repair(mesh, wish.loose_parts, wish.spikes)
    whole = mended.mesh
    tell(0.2, "finding the outer skin")
    skin = find_skin(whole, wish.skin)
    asks, doubt = _questions(mended, skin, wish)
    file_m2 = area_of(whole, np.ones(len(whole.faces), dtype=bool))
    whole, skin, cut_away = marked(whole, skin, wish.marks)
    left_m2 = area_of(whole, ~skin.kept)
    face, cut_away, doubtful = _finished(whole, skin, cut_away, wish)
    left_out = None if skin.kept.all() else Mesh(whole.vertices, whole.faces[~skin.kept])
    return CastingFace(
        face=face,
        cut_away=cut_away,
        doubtful=doubtful,
        left_out=left_out,
        left_out_m2=left_m2,
        left_out_share=left_m2 / file_m2,
        repairs=mended.repairs,
        skin=skin,
        asks=asks,
        doubt=doubt,
    )


def _questions(
    mended: Repaired, skin: Skin, wish: SurveyWish
) -> tuple[tuple[Question, ...], float]:
    """Return what a file leaves open, and by how much of the area the answers differ."""
    found, doubt = [], 0.0
    area = area_of(mended.mesh, skin.kept)
    doubtful = area_of(mended.mesh, skin.doubtful)
    if doubtful > 0.0:
        found.append(hollow_question(area, area - doubtful, skin.evidence.wall_m))
        doubt += doubtful / area
    if mended.loose_m2 > 0.0 and wish.loose_parts is LoosePartsChoice.UNASKED:
        found.append(loose_question(area, mended.loose_m2))
        doubt += mended.loose_m2 / area
    if mended.spikes and wish.spikes is SpikesChoice.UNASKED:
        found.append(spikes_question(area, mended.spikes, mended.spikes_m2))
        doubt += abs(mended.spikes_m2) / area
    return tuple(found), doubt


def _finished(
    whole: Mesh, skin: Skin, cut_away: Flags, wish: SurveyWish
) -> tuple[Mesh, Flags, Flags]:
    """Return the casting face with its rim, which of it becomes waste, which is in question."""
    face = whole if skin.kept.all() else Mesh(whole.vertices, whole.faces[skin.kept])
    cut_away, doubtful = cut_away[skin.kept], skin.doubtful[skin.kept]
    if skin.method is SkinMethod.OUTER:
        # Where the skins met nearly at a point.
        face, _ = close_tiny(face)
        none = np.zeros(len(face.faces) - len(cut_away), dtype=bool)
        cut_away, doubtful = np.r_[cut_away, none], np.r_[doubtful, none]
    if wish.rim_z_m is not None:
        face, parent = cut_above(face, wish.rim_z_m)
        cut_away, doubtful = cut_away[parent], doubtful[parent]
    if measure_face(face).flipped:
        face = face.flipped()
    if wish.close_holes:
        face = holes_closed(face)
    elif wish.close_under_m > 0.0:
        face = holes_closed(face, wish.close_under_m)
    face = drawn_out(face, wish.skirt_m, wish.ledge_m)
    # What was added, lids, skirt and ledge, stands behind what was there.
    added = len(face.faces) - len(cut_away)
    return (
        face,
        np.r_[cut_away, np.ones(added, dtype=bool)],
        np.r_[doubtful, np.zeros(added, dtype=bool)],
    )


def survey_made(face: Mesh, band: float, tell: Tell = silent) -> Survey:
    """Measure a face that was made from measures taken by hand, known to a band.

    Parameters
    ----------
    face : Mesh
        [m]
    band : float
        What its area and volume may be off by. [1]
    tell : callable
        Is told how far it is, and at what.

    Returns
    -------
    Survey
    """
    none = np.zeros(len(face.faces), dtype=bool)
    casting = CastingFace(face, none, none, None, 0.0, 0.0, (), all_faces(face), (), band)
    return _measured(casting, tell)


def _measured(casting: CastingFace, tell: Tell) -> Survey:
    face = casting.face
    measures = measure_face(face)
    openings = rims(face)
    tell(0.4, "measuring the shell volume")
    curve = volume_curve(face, lids(face, openings))
    tell(0.8, "taking girths")
    along = girths(face, taped_along(face, openings))
    toothed = casting.skin.method is SkinMethod.OUTER
    named = named_openings(face, openings, toothed=toothed)
    opening = named[0].girth_m if named else 0.0
    places, narrow_faces = narrow_places(face, USUAL_WALL_M)
    bands = _bands(casting, measures, curve, along)
    tell(1.0, "done")
    return Survey(
        casting=casting,
        narrow_faces=narrow_faces,
        measures=replace(
            measures,
            openings=named or measures.openings,
            waste_m2=area_of(face, casting.cut_away),
            band=max(bands.area, bands.shell_volume),
            curve=curve,
        ),
        narrow=places,
        girths=along,
        opening_girth_m=opening,
        widest_girth_m=max(opening, *(one.girth_m for one in along)),
        bands=bands,
    )


def taped_along(face: Mesh, openings: tuple[Rim, ...]) -> Floats:
    """Return the way along which a piece is taped: out of its largest opening, or its longest."""
    return openings[0].out if openings else long_axis(face)


def _bands(
    casting: CastingFace, measures: FaceMeasures, curve: VolumeCurve, along: tuple[Girth, ...]
) -> Bands:
    area, facets = area_band(casting, measures), max(AREA_BAND, facet_error(casting.face))
    girth = [one.girth_m for one in along]
    widest = int(np.argmax(girth))
    beside = girth[max(widest - 1, 0) : widest + 2]
    # The widest place may lie between two stations, by so much above both.
    between = (max(beside) - min(beside)) / (4.0 * max(beside)) if max(beside) > 0.0 else 0.0
    return Bands(area, max(area, _error_of(curve, measures) + casting.doubt), facets + between)


def area_band(casting: CastingFace, measures: FaceMeasures) -> float:
    """Return what the area of a casting face may be off by: facets, rims, open questions. [1]"""
    facets = max(AREA_BAND, facet_error(casting.face))
    return facets + casting.doubt + _doubt_of_rims(casting, measures) + _doubt_of_holes(casting)


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
