"""The equipment: what a workshop works with, whatever it casts."""

from dataclasses import dataclass
from datetime import timedelta

from mildhusk.core.checks import Bounds, check_bounds, within
from mildhusk.core.errors import ConditionError
from mildhusk.core.mixing.cup import MIXING_CUP, Cup


@dataclass(frozen=True, slots=True)
class Equipment:
    """What a workshop has, and when somebody works there; what is not said is assumed.

    Parameters
    ----------
    opens_h, closes_h : float
        Of every day, counted from midnight. [h]
    has_machine : bool
        A machine turns moulds here; else hands do.
    machine_limit_kg : float
        What the turning machine carries; its plate says so. [kg]
    hands : int
        Pairs of hands at a pour, 1 or 2.
    scale_step_kg : float
        Last digit of the scale. [kg]
    cup : Cup
        Largest in which A and B are stirred.
    cover_m2_s : float
        How fast one pair of hands covers a mould with resin. [m^2/s]

    Raises
    ------
    ConditionError
        A value out of range, a day that closes before it opens.
    """

    opens_h: float = within(Bounds(0.0, 24.0, "When the workshop opens", "h"), 8.0)
    closes_h: float = within(Bounds(0.0, 24.0, "When the workshop closes", "h"), 19.0)
    machine_limit_kg: float = within(Bounds(0.5, 2000.0, "What the machine carries", "kg"), 20.0)
    hands: int = within(Bounds(1, 2, "The number of pairs of hands"), 1)
    scale_step_kg: float = within(Bounds(1e-5, 0.1, "The last digit of the scale", "g", 1e3), 1e-4)
    cup: Cup = MIXING_CUP
    has_machine: bool = True
    cover_m2_s: float = within(
        Bounds(0.02 / 60.0, 3.0 / 60.0, "The pace of covering", "m²/min", 60.0), 0.3 / 60.0
    )

    def __post_init__(self) -> None:
        check_bounds(self, ConditionError)
        if not self.opens_h < self.closes_h:
            raise ConditionError("The workshop has to open before it closes.", "opens_h")

    @property
    def opens(self) -> timedelta:
        """When somebody begins to work, from midnight."""
        return timedelta(hours=self.opens_h)

    @property
    def closes(self) -> timedelta:
        """When work ends, from midnight."""
        return timedelta(hours=self.closes_h)
