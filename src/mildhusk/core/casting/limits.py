"""Limits of one coat: least to reach everywhere, most to be carried, spread and held."""

from dataclasses import dataclass
from enum import StrEnum

LEAST_FILM_M = 0.0003
"""A film that still wets a mould everywhere when it is rolled (assumed)."""
CUP_FILL = 0.85
"""A cup is stirred up to this share of its brim (assumed)."""
RIM_SHARE = 0.3
"""An open mould can be tipped all round with so much of its hollow filled (assumed)."""
POUR_S = 15.0
"""Emptying a cup into the mould (assumed)."""


class Limit(StrEnum):
    """What bounds a charge."""

    REACH = "reach"
    """Less would not reach everywhere."""
    SCALE = "scale"
    """Less cannot be read to 1 %."""
    CARRY = "carry"
    """More runs down before it gels."""
    TIME = "time"
    """More cannot be mixed and spread within its working time."""
    RIM = "rim"
    """More runs out over the rim when the mould is tipped."""
    CUP = "cup"
    """More does not fit the cup."""


LOWER = (Limit.REACH, Limit.SCALE)


@dataclass(frozen=True, slots=True)
class CoatLimits:
    """The charges that limits allow, each in kilograms of everything mixed.

    Parameters
    ----------
    reach_kg, scale_kg, carry_kg, time_kg, rim_kg, cup_kg : float
        See `Limit`. [kg]
    spread_s : float
        From the pour until everything is covered once. [s]
    """

    reach_kg: float
    scale_kg: float
    carry_kg: float
    time_kg: float
    rim_kg: float
    cup_kg: float
    spread_s: float

    def at(self, limit: Limit) -> float:
        """Return the charge a limit allows. [kg]"""
        return float(getattr(self, f"{limit}_kg"))

    @property
    def least_kg(self) -> float:
        """Least charge. [kg]"""
        return max(self.reach_kg, self.scale_kg)

    @property
    def most_kg(self) -> float:
        """Largest charge. [kg]"""
        return min(self.carry_kg, self.time_kg, self.rim_kg, self.cup_kg)

    def allows(self, charge_kg: float) -> bool:
        """Whether a charge keeps all limits, to a thousandth."""
        return self.least_kg <= charge_kg * 1.001 and charge_kg <= self.most_kg * 1.001

    def binding(self, charge_kg: float) -> Limit:
        """Return the limit that a charge breaks most, or comes nearest to."""

        def slack(limit: Limit) -> float:
            bound = max(self.at(limit), 1e-12)
            return charge_kg / bound if limit in LOWER else bound / charge_kg

        return min(Limit, key=slack)
