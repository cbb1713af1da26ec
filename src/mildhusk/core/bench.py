"""The bench: what a workshop works with, whatever it casts."""

from dataclasses import dataclass
from datetime import timedelta

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError
from mildhusk.core.mixing.cup import MIXING_CUP, Cup


@dataclass(frozen=True, slots=True)
class Bench:
    """What a workshop has, and when somebody works there; what is not said is assumed.

    Parameters
    ----------
    opens, closes : timedelta
        Of every day, counted from midnight.
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

    opens: timedelta = timedelta(hours=8)
    closes: timedelta = timedelta(hours=19)
    machine_limit_kg: float = 20.0
    hands: int = 1
    scale_step_kg: float = 1e-4
    cup: Cup = MIXING_CUP
    cover_m2_s: float = 0.3 / 60.0

    def __post_init__(self) -> None:
        if not timedelta(0) <= self.opens < self.closes <= timedelta(days=1):
            raise ConditionError("The workshop has to open before it closes.", "opens_h")
        for field, low, high, name, unit, scale in (
            ("machine_limit_kg", 0.5, 2000.0, "What the machine carries", "kg", 1.0),
            ("hands", 1, 2, "The number of pairs of hands", "", 1.0),
            ("scale_step_kg", 1e-5, 0.1, "The last digit of the scale", "g", 1e3),
            ("cover_m2_s", 0.02 / 60.0, 3.0 / 60.0, "The pace of covering", "m²/min", 60.0),
        ):
            require_between(
                getattr(self, field),
                low,
                high,
                name=name,
                field=field,
                error=ConditionError,
                shown_in=unit,
                scale=scale,
            )
