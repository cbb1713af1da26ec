"""What may be asked of a survey; light to import, as the survey itself is not."""

from dataclasses import dataclass
from enum import StrEnum


class SkinChoice(StrEnum):
    """Which faces are wanted as casting face."""

    OUTER = "outer"
    ALL = "all"


@dataclass(frozen=True, slots=True)
class SurveyWish:
    """What is wanted of a survey.

    Parameters
    ----------
    skin : SkinChoice
    rim_z_m : float or None
        Cut off what is below this height, along z. [m]
    skirt_m : float
        Draw the rim out by this. [m]
    """

    skin: SkinChoice = SkinChoice.OUTER
    rim_z_m: float | None = None
    skirt_m: float = 0.0
