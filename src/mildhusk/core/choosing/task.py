"""What is asked of a chain of materials, and how candidates stand."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.catalogue import AnyMaterial
from mildhusk.core.materials.compatibility import PairVerdict

Judge = Callable[[AnyMaterial, AnyMaterial], PairVerdict]
"""Says how two materials get on."""


SOFTEST_TO_SPIN_SHORE_A = 20.0
"""Softer moulds cave in when they are spun (common practice, no source; usual is about 25)."""

HARDEST_TO_PEEL_SHORE_A = 35.0
"""Harder rubbers are for blocks; stretch is best from A 5 to A 30 (common practice, no source)."""

SOFT_GLOVE_SHORE_A = 15.0
"""Up to here a still glove peels easily (common practice, no source)."""


FAST_S, LONG_ON_A_MACHINE_S = 450.0, 1800.0
"""A fast resin, and one that turns too long to wait beside (common practice, no source). [s]"""


class Purpose(StrEnum):
    """What the husk must do."""

    SHOWN = "shown"
    WORN = "worn"
    DROPPED = "dropped"
    SHATTERED = "shattered"
    SCULPTED = "sculpted"
    HUNG = "hung"
    FOAM_BACKED = "foam-backed"
    METAL_FACED = "metal-faced"


class Link(StrEnum):
    """The links of the chain, in the order in which they are decided."""

    CASTING = "casting"
    RUBBER = "rubber"
    MOULD = "mould"
    SHELL = "shell"
    RELEASE = "release"
    SEALER = "sealer"


class Standing(StrEnum):
    """Where a candidate stands."""

    TAKE = "take"
    POSSIBLE = "possible"
    EXCLUDED = "excluded"


@dataclass(frozen=True, slots=True)
class Task:
    """What is asked of the chain.

    Parameters
    ----------
    purpose : Purpose
    opening_girth_m, widest_girth_m : float
        Girth of the opening, and the widest girth behind it. [m]
    painted, spun : bool
        The cast is painted; the mould is spun on a machine.
    area_m2 : float
        Casting face. [m^2]
    master : AnyMaterial or None
        What the master is made of, when it is known.
    cut : bool
        The mould is cut open: no stretch rules a rubber out.
    """

    purpose: Purpose
    opening_girth_m: float
    widest_girth_m: float
    painted: bool
    spun: bool
    area_m2: float = 0.15
    master: AnyMaterial | None = None
    cut: bool = False

    def __post_init__(self) -> None:
        for name, value in (
            ("opening_girth_m", self.opening_girth_m),
            ("widest_girth_m", self.widest_girth_m),
        ):
            require_between(
                value,
                0.01,
                10.0,
                name=f"The {name[:-2].replace('_', ' ')}",
                field=name,
                error=ConditionError,
                shown_in="mm",
                scale=1e3,
            )
        require_between(
            self.area_m2,
            1e-4,
            20.0,
            name="The casting face",
            field="area_m2",
            error=ConditionError,
            shown_in="cm²",
            scale=1e4,
        )

    @property
    def needed_stretch(self) -> float:
        """Stretch of the opening for the widest girth to pass, 0.7 for 70 %. [1]"""
        return max(0.0, self.widest_girth_m / self.opening_girth_m - 1.0)


@dataclass(frozen=True, slots=True)
class Candidate:
    """A candidate of a link: where it stands, why, and how well it does (more is better)."""

    key: str
    name: str
    verdict: Standing
    reasons: tuple[str, ...]
    points: float
