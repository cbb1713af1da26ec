"""The options of a survey; light to import, as the survey itself is not."""

from dataclasses import dataclass
from enum import StrEnum
from math import isfinite

from mildhusk.core.checks import require_between
from mildhusk.core.errors import MeshFileError


class SkinChoice(StrEnum):
    """Which faces are wanted as casting face."""

    UNASKED = "unasked"
    """The outer skin of what is clearly a hollow print, all faces of anything else."""
    OUTER = "outer"
    """The outer skin: somebody says that it is a hollow print."""
    ALL = "all"


class LoosePartsChoice(StrEnum):
    """What is done with small parts beside the piece."""

    UNASKED = "unasked"
    """They are left out while they are a small share of the file."""
    COUNTED = "counted"
    LEFT_OUT = "left-out"


class SpikesChoice(StrEnum):
    """What is done with single corners that stand far out."""

    UNASKED = "unasked"
    """Those that nothing but a damaged file has are moved back."""
    KEPT = "kept"
    MOVED_BACK = "moved-back"


class FaceRole(StrEnum):
    """What a marked place of the file is."""

    LEFT_OUT = "left-out"
    """No casting face: the mould never touches it."""
    COUNTED = "counted"
    """Casting face, whatever the search for the skin said."""
    CUT_AWAY = "cut-away"
    """Casting face that is cut out of the cast: an eye, a visor, a mouth."""


MOST_MARKS = 24
SMALLEST_MARK_M, LARGEST_MARK_M = 0.001, 0.5


@dataclass(frozen=True, slots=True)
class Mark:
    """A round place on the face and what it is.

    Parameters
    ----------
    at_m : tuple of 3 floats
        Its middle, on the face. [m]
    radius_m : float
        It holds the faces so near to its middle that are joined to it there. [m]
    role : FaceRole
    """

    at_m: tuple[float, float, float]
    radius_m: float
    role: FaceRole

    def __post_init__(self) -> None:
        require_between(
            self.radius_m,
            SMALLEST_MARK_M,
            LARGEST_MARK_M,
            name="The radius of a mark",
            field="marks",
            error=MeshFileError,
            shown_in="mm",
            scale=1e3,
        )
        if not all(map(isfinite, self.at_m)):
            raise MeshFileError("A mark stands nowhere; put it on the piece.", "marks")


@dataclass(frozen=True, slots=True)
class SurveyWish:
    """What is wanted of a survey.

    Parameters
    ----------
    skin : SkinChoice
    loose_parts : LoosePartsChoice
    spikes : SpikesChoice
    mend_holes : bool
        Close holes so small that they are missing faces as a rule.
    rim_z_m : float or None
        Cut off what is below this height, along z. [m]
    skirt_m : float
        Draw the rim out by this. [m]
    ledge_m : float
        Draw the rim, or the end of its skirt, inwards by this, to keep liquid in. [m]
    close_holes : bool
        Count every opening but the longest as closed: cast over and cut out later.
    close_under_m : float
        Count openings narrower than this as closed, all but the longest. [m]
    marks : tuple of Mark
        Places a person told about; the later one wins.
    """

    skin: SkinChoice = SkinChoice.UNASKED
    loose_parts: LoosePartsChoice = LoosePartsChoice.UNASKED
    spikes: SpikesChoice = SpikesChoice.UNASKED
    mend_holes: bool = True
    rim_z_m: float | None = None
    skirt_m: float = 0.0
    ledge_m: float = 0.0
    close_holes: bool = False
    close_under_m: float = 0.0
    marks: tuple[Mark, ...] = ()
