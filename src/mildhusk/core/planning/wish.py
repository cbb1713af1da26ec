"""What is wanted of a cast, checked."""

from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.constants import USUAL_UNEVENNESS, ZERO_CELSIUS_K
from mildhusk.core.errors import ConditionError


@dataclass(frozen=True, slots=True)
class CastWish:
    """What is wanted of a cast.

    Parameters
    ----------
    wall_m : float
        Least wall. Judged against the piece when the sheet is made. [m]
    allowance : float
        Added to the wall because rolled walls come out uneven, as a share of it. [1]
    loss : float
        Share of what is mixed that stays in the cup, on the stick or over the rim. [1]
    room_temperature_k : float
        Of room, mould and both parts. [K]
    worn : bool
        The husk will be worn.
    scale_step_kg, volume_step_m3 : float
        Last digit of the scale and finest mark of the cup. [kg], [m^3]

    Raises
    ------
    ConditionError
        An allowance, loss or step out of range. (The clock judges the temperature.)
    """

    wall_m: float
    room_temperature_k: float
    allowance: float = 0.0
    loss: float = 0.05
    worn: bool = False
    scale_step_kg: float = 1e-4
    volume_step_m3: float = 1e-6

    def __post_init__(self) -> None:
        for field, high, name in (
            ("loss", 0.5, "The loss"),
            ("allowance", 1.0, "The allowance for unevenness"),
        ):
            require_between(
                getattr(self, field),
                0.0,
                high,
                name=name,
                field=field,
                error=ConditionError,
                shown_in="%",
                scale=100.0,
            )
        for field, low, high, name, unit, scale in (
            ("scale_step_kg", 1e-5, 0.1, "The last digit of the scale", "g", 1e3),
            ("volume_step_m3", 1e-7, 1e-4, "The finest mark of the cup", "ml", 1e6),
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

    @property
    def planned_wall_m(self) -> float:
        """Mean wall to pour for. [m]"""
        return self.wall_m * (1.0 + self.allowance)


FIRST_WISH = CastWish(
    wall_m=0.003, room_temperature_k=21.0 + ZERO_CELSIUS_K, allowance=USUAL_UNEVENNESS
)
"""What a new sheet starts from: a usual wall in a usual room (common practice, no source)."""
