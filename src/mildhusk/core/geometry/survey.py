"""From a file's faces to a measured piece: repaired, its skin found, its V(t) and girths known."""

from dataclasses import dataclass, replace

from mildhusk.core.geometry.bands import Bands
from mildhusk.core.geometry.casting_face import CastingFace, casting_face
from mildhusk.core.geometry.distance_field import volume_curve
from mildhusk.core.geometry.doubts import bands_of
from mildhusk.core.geometry.face_kinds import kinds_of
from mildhusk.core.geometry.marks import area_of
from mildhusk.core.geometry.measure import FaceMeasures, measure_face
from mildhusk.core.geometry.mesh import Flags, Floats, Mesh
from mildhusk.core.geometry.narrow import NarrowPlace, narrow_places
from mildhusk.core.geometry.opening_names import named_openings
from mildhusk.core.geometry.openings import Rim, lids, rims
from mildhusk.core.geometry.sections import Girth, girths, long_axis
from mildhusk.core.geometry.skin import all_faces
from mildhusk.core.geometry.skin_terms import SkinMethod
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.progress import Tell, silent

USUAL_WALL_M = 0.003
"""Narrow places are looked for with this wall (common practice, no source)."""


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
    kinds = kinds_of(len(face.faces))
    casting = CastingFace(face, kinds, None, 0.0, 0.0, (), all_faces(face), (), band)
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
    bands = bands_of(casting, measures, curve, along)
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
