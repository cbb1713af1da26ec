"""What of a file is casting face: repaired, its skin found, its rim drawn, its questions asked."""

import math
from dataclasses import dataclass

import numpy as np

from mildhusk.core.geometry.face_kinds import FaceKind, Kinds, is_waste, kinds_of
from mildhusk.core.geometry.marks import area_of, marked
from mildhusk.core.geometry.measure import measure_face, require_area, require_castable
from mildhusk.core.geometry.mesh import Flags, Mesh, face_frames
from mildhusk.core.geometry.openings import cut_above, drawn_out, holes_closed
from mildhusk.core.geometry.questions import (
    Question,
    hollow_question,
    loose_question,
    spikes_question,
)
from mildhusk.core.geometry.repair import Repair, Repaired, close_tiny, repair
from mildhusk.core.geometry.skin import Skin, find_skin
from mildhusk.core.geometry.skin_terms import SkinMethod
from mildhusk.core.geometry.survey_options import LoosePartsChoice, SpikesChoice, SurveyWish
from mildhusk.core.geometry.welding import size_of
from mildhusk.core.progress import Tell, silent


@dataclass(frozen=True, slots=True, eq=False)
class CastingFace:
    """What of a file is casting face, and how that was found.

    Parameters
    ----------
    face : Mesh
        Outside outside, with its skirt and lids. [m]
    kinds : (m,) uint8
        What each of its faces is, by `FaceKind`.
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
    kinds: Kinds
    left_out: Mesh | None
    left_out_m2: float
    left_out_share: float
    repairs: tuple[Repair, ...]
    skin: Skin
    asks: tuple[Question, ...]
    doubt: float

    @property
    def cut_away(self) -> Flags:
        """Which of its faces become waste."""
        return is_waste(self.kinds)


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
    require_area(float(face_frames(mesh)[2].sum()), size_of(mesh))
    tell(0.05, "repairing")
    mended = repair(mesh, wish.loose_parts, wish.spikes, mend_holes=wish.mend_holes)
    whole = mended.mesh
    tell(0.2, "finding the outer skin")
    skin = find_skin(whole, wish.skin)
    asks, doubt = _questions(mended, skin, wish)
    file_m2 = area_of(whole, np.ones(len(whole.faces), dtype=bool))
    kinds = kinds_of(len(whole.faces))
    kinds[mended.changed] = FaceKind.REPAIRED
    kinds[skin.doubtful] = FaceKind.IN_QUESTION
    whole, skin, kinds = marked(whole, skin, kinds, wish.marks)
    left_m2 = area_of(whole, ~skin.kept)
    face, kinds = _finished(whole, skin, kinds, wish)
    return CastingFace(
        face=face,
        kinds=kinds,
        left_out=None if skin.kept.all() else Mesh(whole.vertices, whole.faces[~skin.kept]),
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


def _finished(whole: Mesh, skin: Skin, kinds: Kinds, wish: SurveyWish) -> tuple[Mesh, Kinds]:
    """Return the casting face with its rim, and what its faces are.

    What a step adds stands behind what was there.
    """

    def with_added(face: Mesh, kinds: Kinds, kind: FaceKind) -> Kinds:
        return np.concatenate([kinds, kinds_of(len(face.faces) - len(kinds), kind)])

    face = whole if skin.kept.all() else Mesh(whole.vertices, whole.faces[skin.kept])
    kinds = kinds[skin.kept]
    if skin.method is SkinMethod.OUTER and wish.mend_holes:
        # Where the skins met nearly at a point.
        face, _ = close_tiny(face)
        kinds = with_added(face, kinds, FaceKind.REPAIRED)
    if wish.rim_z_m is not None:
        face, parent = cut_above(face, wish.rim_z_m)
        kinds = kinds[parent]
    if measure_face(face).flipped:
        face = face.flipped()
    if wish.close_holes or wish.close_under_m > 0.0:
        face = holes_closed(face, math.inf if wish.close_holes else wish.close_under_m)
        kinds = with_added(face, kinds, FaceKind.CLOSED)
    face = drawn_out(face, wish.skirt_m, wish.ledge_m)
    return face, with_added(face, kinds, FaceKind.CUT_AWAY)
