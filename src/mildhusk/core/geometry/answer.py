"""The answer about a measured piece: its measures, and what the survey found beside them."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mildhusk.core.findings import Finding
from mildhusk.core.geometry.bands import Bands
from mildhusk.core.geometry.findings import piece_findings
from mildhusk.core.geometry.measure import FaceMeasures, Opening
from mildhusk.core.geometry.narrow import NarrowPlace
from mildhusk.core.geometry.questions import Question
from mildhusk.core.geometry.repair import Repair, RepairKind
from mildhusk.core.geometry.sections import Girth
from mildhusk.core.geometry.skin_terms import (
    NO_EVIDENCE,
    HollowEvidence,
    HollowVerdict,
    SkinMethod,
)

if TYPE_CHECKING:  # the survey is slow to load, and what is told of it needs nothing of it
    from mildhusk.core.geometry.survey import Survey

Triple = tuple[float, float, float]
_SHOWN_WALLS_M = (0.002, 0.003, 0.006)


@dataclass(frozen=True, slots=True)
class Measured:
    """What a piece measures.

    Parameters
    ----------
    area_m2, volume_m3 : float
    faces : int
    watertight : bool
    bounds_m : tuple of 2 places
        The box round it. [m]
    openings : tuple of Opening
    mean_curvature_m, total_curvature : float
    bodies : int
    findings : tuple of Finding
    """

    area_m2: float
    volume_m3: float
    faces: int
    watertight: bool
    bounds_m: tuple[Triple, Triple]
    openings: tuple[Opening, ...]
    mean_curvature_m: float
    total_curvature: float
    bodies: int
    findings: tuple[Finding, ...]

    @classmethod
    def of(cls, face: FaceMeasures) -> "Measured":
        """Return the measures of a face."""
        return cls(
            face.area_m2,
            face.volume_m3,
            face.faces,
            face.watertight,
            (face.lowest_m, face.highest_m),
            face.openings,
            face.mean_curvature_m,
            face.total_curvature,
            face.bodies,
            piece_findings(face),
        )


@dataclass(frozen=True, slots=True)
class SkinFacts:
    """Which faces of the file are casting face, and how that was found.

    Parameters
    ----------
    kept_faces, dropped_faces : int
    method : SkinMethod
    wall_m : float or None
        Of a hollow print. [m]
    """

    kept_faces: int
    dropped_faces: int
    method: SkinMethod
    wall_m: float | None


@dataclass(frozen=True, slots=True)
class HollowFacts:
    """Whether the file is a hollow print.

    Parameters
    ----------
    verdict : HollowVerdict
        What its faces say, whatever was answered.
    evidence : HollowEvidence
    left_out_m2, left_out_share : float
        Faces of the file that are no casting face, the marked ones too. [m^2], [1]
    """

    verdict: HollowVerdict
    evidence: HollowEvidence
    left_out_m2: float
    left_out_share: float


UNLOOKED = HollowFacts(HollowVerdict.NO, NO_EVIDENCE, 0.0, 0.0)
"""Of a piece without a file."""


@dataclass(frozen=True, slots=True)
class SurveyFacts:
    """What a survey found out beside the measures of the face, as it is kept.

    Parameters
    ----------
    skin : SkinFacts
    repairs : tuple of Repair
    waste_area_m2 : float
    shell_volume_m3, centre_of_mass_m : dict
        By the wall in metres, as text. [m^3], [m]
    shell_volume_rel_error : float
    narrow : tuple of NarrowPlace
    girths : tuple of Girth
    opening_girth_m, widest_girth_m : float
    hollow : HollowFacts
    asks : tuple of Question
        What the file leaves open; the figures stand on the likelier answers.
    bands : Bands
    """

    skin: SkinFacts
    repairs: tuple[Repair, ...]
    waste_area_m2: float
    shell_volume_m3: dict[str, float]
    shell_volume_rel_error: float
    centre_of_mass_m: dict[str, Triple]
    narrow: tuple[NarrowPlace, ...]
    girths: tuple[Girth, ...]
    opening_girth_m: float
    widest_girth_m: float
    hollow: HollowFacts
    asks: tuple[Question, ...]
    bands: Bands

    @property
    def skin_sentence(self) -> str:
        """What was done about the skin, in words."""
        if self.skin.method is SkinMethod.ALL:
            return "Every face is counted as casting face."
        inside = f"about {self.skin.wall_m * 1e3:.1f} mm inside it " if self.skin.wall_m else ""
        area = self.hollow.left_out_m2
        much = f": {area * 1e4:,.0f} cm², {self.hollow.left_out_share * 100:.0f} % of the file"
        return (
            f"An inner skin {inside}with its rim is left out{much if area else ''}. The mould does "
            "not touch it."
        )

    @classmethod
    def of(cls, found: "Survey") -> "SurveyFacts":
        """Return the facts of a survey that are kept."""
        casting, curve = found.casting, found.measures.curve
        skin, kept = casting.skin, casting.skin.kept
        centres = {w: None if curve is None else curve.centre(w) for w in _SHOWN_WALLS_M}
        return cls(
            skin=SkinFacts(int(kept.sum()), int((~kept).sum()), skin.method, skin.wall_m),
            repairs=casting.repairs,
            waste_area_m2=found.measures.waste_m2,
            shell_volume_m3={}
            if curve is None
            else {str(w): curve.volume(w) for w in _SHOWN_WALLS_M},
            shell_volume_rel_error=found.measures.band,
            centre_of_mass_m={str(w): at for w, at in centres.items() if at is not None},
            narrow=found.narrow,
            girths=found.girths,
            opening_girth_m=found.opening_girth_m,
            widest_girth_m=found.widest_girth_m,
            hollow=HollowFacts(
                skin.verdict, skin.evidence, casting.left_out_m2, casting.left_out_share
            ),
            asks=casting.asks,
            bands=found.bands,
        )


@dataclass(frozen=True, slots=True)
class SkinReport:
    """The skin as it is reported."""

    kept_faces: int
    dropped_faces: int
    method: SkinMethod
    wall_m: float | None
    said: str


@dataclass(frozen=True, slots=True)
class RepairReport:
    """A repair as it is reported."""

    kind: RepairKind
    count: int
    said: str


@dataclass(frozen=True, slots=True)
class Surveyed:
    """A survey as it is reported; see `SurveyFacts`."""

    skin: SkinReport
    repairs: tuple[RepairReport, ...]
    waste_area_m2: float
    shell_volume_m3: dict[str, float]
    shell_volume_rel_error: float
    centre_of_mass_m: dict[str, Triple]
    narrow: tuple[NarrowPlace, ...]
    girths: tuple[Girth, ...]
    opening_girth_m: float
    widest_girth_m: float
    hollow: HollowFacts
    asks: tuple[Question, ...]
    bands: Bands

    @classmethod
    def of(cls, facts: SurveyFacts) -> "Surveyed":
        """Return what is told of a survey."""
        skin = facts.skin
        return cls(
            SkinReport(
                skin.kept_faces, skin.dropped_faces, skin.method, skin.wall_m, facts.skin_sentence
            ),
            tuple(RepairReport(one.kind, one.count, one.sentence) for one in facts.repairs),
            facts.waste_area_m2,
            facts.shell_volume_m3,
            facts.shell_volume_rel_error,
            facts.centre_of_mass_m,
            facts.narrow,
            facts.girths,
            facts.opening_girth_m,
            facts.widest_girth_m,
            facts.hollow,
            facts.asks,
            facts.bands,
        )
