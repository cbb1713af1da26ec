"""From a file's faces to a measured piece: repaired, its skin found, its V(t) and girths known."""

from dataclasses import dataclass, replace

import numpy as np

from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.distance_field import volume_curve
from mildhusk.core.geometry.marks import area_of, marked
from mildhusk.core.geometry.measure import FaceMeasures, measure_face
from mildhusk.core.geometry.mesh import Flags, Mesh
from mildhusk.core.geometry.narrow import NarrowPlace, narrow_places
from mildhusk.core.geometry.openings import cut_above, drawn_out, holes_closed, lids, rims
from mildhusk.core.geometry.repair import Repair, repair
from mildhusk.core.geometry.sections import Girth, girths
from mildhusk.core.geometry.skin import Skin, all_faces, outer_skin
from mildhusk.core.geometry.survey_options import SkinChoice, SurveyWish
from mildhusk.core.progress import Tell, silent

USUAL_WALL_M = 0.003
"""Narrow places are looked for with this wall (common practice, no source)."""


@dataclass(frozen=True, slots=True, eq=False)
class Survey:
    """A measured piece.

    Parameters
    ----------
    face : Mesh
        The casting face, outside outside. [m]
    cut_away, narrow_faces : (m,) bool
        Which of its faces become waste, and which stand at a narrow place.
    left_out : Mesh or None
        Faces of the file that are no casting face. [m]
    measures : FaceMeasures
    repairs : tuple of Repair
    skin : Skin
        Of the repaired file.
    narrow : tuple of NarrowPlace
        With the usual wall.
    girths : tuple of Girth
        Along the way out of the largest opening, from the far end; along z for a closed piece.
    opening_girth_m, widest_girth_m : float
        Tape round the largest opening, and round the widest place. [m]
    """

    face: Mesh
    cut_away: Flags
    narrow_faces: Flags
    left_out: Mesh | None
    measures: FaceMeasures
    repairs: tuple[Repair, ...]
    skin: Skin
    narrow: tuple[NarrowPlace, ...]
    girths: tuple[Girth, ...]
    opening_girth_m: float
    widest_girth_m: float


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
    measure_face(mesh)  # A wrong unit is told before anything long is begun.
    tell(0.05, "repairing")
    whole, repairs = repair(mesh)
    tell(0.2, "finding the outer skin")
    skin = outer_skin(whole) if wish.skin is SkinChoice.OUTER else all_faces(whole)
    whole, skin, cut_away = marked(whole, skin, wish.marks)
    face, cut_away = _finished(whole, skin, cut_away, wish)
    found = _measured(face, cut_away, repairs, skin, tell)
    if skin.kept.all():
        return found
    return replace(found, left_out=Mesh(whole.vertices, whole.faces[~skin.kept]))


def _finished(whole: Mesh, skin: Skin, cut_away: Flags, wish: SurveyWish) -> tuple[Mesh, Flags]:
    """Return the casting face with its rim, and which of its faces become waste."""
    face = whole if skin.kept.all() else Mesh(whole.vertices, whole.faces[skin.kept])
    cut_away = cut_away[skin.kept]
    if wish.rim_z_m is not None:
        face, parent = cut_above(face, wish.rim_z_m)
        cut_away = cut_away[parent]
    if measure_face(face).flipped:
        face = face.flipped()
    if wish.close_holes:
        face = holes_closed(face)
    face = drawn_out(face, wish.skirt_m, wish.ledge_m)
    # What was added, lids, skirt and ledge, stands behind what was there.
    return face, np.r_[cut_away, np.ones(len(face.faces) - len(cut_away), dtype=bool)]


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
    found = _measured(face, none, (), all_faces(face), tell)
    return replace(found, measures=replace(found.measures, band=max(band, found.measures.band)))


def _measured(
    face: Mesh, cut_away: Flags, repairs: tuple[Repair, ...], skin: Skin, tell: Tell
) -> Survey:
    measures = measure_face(face)
    openings = rims(face)
    tell(0.4, "measuring the shell volume")
    curve = volume_curve(face, lids(face, openings))
    tell(0.8, "taking girths")
    axis = openings[0].out if openings else np.array([0.0, 0.0, 1.0])
    taped = girths(face, axis)
    opening = openings[0].length_m if openings else 0.0
    places, narrow_faces = narrow_places(face, USUAL_WALL_M)
    tell(1.0, "done")
    return Survey(
        face=face,
        cut_away=cut_away,
        narrow_faces=narrow_faces,
        left_out=None,
        measures=replace(
            measures,
            waste_m2=area_of(face, cut_away),
            band=max(measures.band, _error_of(curve, measures)),
            curve=curve,
        ),
        repairs=repairs,
        skin=skin,
        narrow=places,
        girths=taped,
        opening_girth_m=opening,
        widest_girth_m=max(opening, *(one.girth_m for one in taped)),
    )


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
