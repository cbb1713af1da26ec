"""The division of a cast into layers, before anything is mixed."""

import math
from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.casting.limits import CoatLimits

MOST_COATS = 60
# A wall this little above a whole number of coats does not ask for one more.
_COAT_NOISE = 1e-6


class CoatKind(StrEnum):
    """What a coat is."""

    ROLLED = "rolled"
    PASTE = "paste"
    POWDER = "powder"
    CLAY = "clay"


FLOWING = (CoatKind.ROLLED, CoatKind.POWDER)
"""Resin that is poured and rolled until it gels."""


@dataclass(frozen=True, slots=True)
class Layer:
    """A coat as it is divided off: what it is, its least weight mixed, the wall it leaves.

    Parameters
    ----------
    kind : CoatKind
    wanted_kg : float
        [kg]
    film_m : float
        Mean, where it goes. [m]
    powder_kg : float
        Dusted or stirred into it. [kg]
    """

    kind: CoatKind
    wanted_kg: float
    film_m: float
    powder_kg: float = 0.0


@dataclass(frozen=True, slots=True)
class Need:
    """What is to be divided.

    Parameters
    ----------
    total_kg : float
        Needed for the wall, loss and all. [kg]
    wall_m : float
        Mean, to pour for. [m]
    area_m2 : float
    carried_m : float
        Wall that one coat leaves. [m]
    per_m2_m : float
        Mixed for a metre of wall on a square metre, loss and all. [kg/m^3]
    fixed_kg : float
        Of every coat, where its volume is fixed. [kg]
    paste_m2 : float
        Where a paste goes. [m^2]
    limits : CoatLimits
    kind : CoatKind
        What a plain coat is.
    coats : int or None
        So many plain ones are wished for; None as the limits have it.
    """

    total_kg: float
    wall_m: float
    area_m2: float
    carried_m: float
    per_m2_m: float
    fixed_kg: float
    paste_m2: float
    limits: CoatLimits
    kind: CoatKind = CoatKind.ROLLED
    coats: int | None = None


def coat_count(wall_m: float, coat_wall_m: float) -> int:
    """Number of coats for a wall, when one coat leaves at most `coat_wall_m`."""
    return max(1, whole_number(wall_m / coat_wall_m))


def whole_number(of: float) -> int:
    """Round up, but for arithmetic noise."""
    return math.ceil(of - _COAT_NOISE)


def equal_layers(need: Need, kg: float, wall_m: float) -> tuple[Layer, ...]:
    """Divide a weight and its wall into equal coats within the limits.

    Parameters
    ----------
    need : Need
    kg : float
        Of all these coats. [kg]
    wall_m : float
        They leave together. [m]

    Returns
    -------
    tuple of Layer
    """
    if need.coats is not None:
        return (Layer(need.kind, kg / need.coats, wall_m / need.coats),) * need.coats
    count = coat_count(wall_m, need.carried_m)
    limits = need.limits
    held = min(limits.time_kg, limits.rim_kg, limits.cup_kg)
    # More coats only where that helps: none is so small that it does not reach everywhere.
    if held >= limits.least_kg:
        count = max(count, whole_number(kg / held))
    count = min(count, MOST_COATS)
    return (Layer(need.kind, kg / count, wall_m / count),) * count
