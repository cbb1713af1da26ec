"""What is said of a skin: light to import, as finding it is not."""

from dataclasses import dataclass
from enum import StrEnum


class SkinMethod(StrEnum):
    """How the casting face was found."""

    ALL = "all"
    """Every face is casting face."""
    OUTER = "outer"
    """The inner one of two skins, and what lies inside, is no casting face."""


class HollowVerdict(StrEnum):
    """Whether a file is a hollow print."""

    YES = "yes"
    NO = "no"
    ASKS = "asks"
    """The evidence is thin: somebody has to say."""


@dataclass(frozen=True, slots=True)
class HollowEvidence:
    """What speaks for and against a hollow print.

    Parameters
    ----------
    paired_share : float
        Of the area: another skin stands behind it, parallel, an even wall away. [1]
    wall_m : float or None
        Usual distance of the two; None without any. [m]
    wall_spread : float
        Between the tenth and the ninetieth of a hundred, as a share of the wall. [1]
    shell_share : float or None
        Volume by half of area times wall: 1 of a shell, 1/2 of a rod, 1/3 of a ball; None of what
        is open. [1]
    told_apart : float
        Of the pairs: one skin sees clearly less of the sky than the other. [1]
    inner_sees : float
        How much of the sky the inner skins see, on average. [1]
    nested_share : float
        Of the area: closed bodies wholly inside another one. [1]
    """

    paired_share: float
    wall_m: float | None
    wall_spread: float
    shell_share: float | None
    told_apart: float
    inner_sees: float
    nested_share: float


NO_EVIDENCE = HollowEvidence(0.0, None, 0.0, None, 0.0, 0.0, 0.0)
