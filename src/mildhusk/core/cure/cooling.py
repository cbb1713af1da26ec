"""What sets by cooling: when it is cool enough to pour, how long it is rolled, when it sets."""

import math

from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.cure.clock import CoatClock
from mildhusk.core.cure.surroundings import AIR_U_W_M2_K, CUP_SURFACE
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.kinds import MeltedClay

FILM_U_W_M2_K = 30.0
"""Heat a film of melt gives to the rubber behind and the air before it, in its first minutes: about
what a resin's film gives (assumed)."""
_NEXT_WITHIN_S = 86_400.0
_STILL_WARM_K = 1.0


def cooling_s(from_k: float, to_k: float, around_k: float, rate_1_s: float) -> float:
    """Return how long something takes to cool.

    Parameters
    ----------
    from_k, to_k, around_k : float
        [K]
    rate_1_s : float
        U A / (m cp). [1/s]

    Returns
    -------
    float
        [s]

    Raises
    ------
    ConditionError
        It never gets so cool there.

    Notes
    -----
    Newton's law of cooling: t = ln((T0 - Tenv) / (T1 - Tenv)) / rate.
    """
    if not around_k < to_k <= from_k:
        raise ConditionError(
            f"It never cools to {to_k - ZERO_CELSIUS_K:.0f} °C where it is "
            f"{around_k - ZERO_CELSIUS_K:.0f} °C; work in a cooler room, or cool the mould.",
            "room_temperature_k",
        )
    return math.log((from_k - around_k) / (to_k - around_k)) / rate_1_s


def melt_clock(
    clay: MeltedClay, charge_kg: float, film_m: float, room_k: float, mould_k: float
) -> CoatClock:
    """Return the clock of a pour of melted clay, from when the pot comes off the heat.

    Parameters
    ----------
    clay : MeltedClay
    charge_kg : float
        In the pot. [kg]
    film_m : float
        It leaves on the mould. [m]
    room_k, mould_k : float
        [K]

    Returns
    -------
    CoatClock
        It is poured when it has cooled to its pouring temperature, and at the latest before it no
        longer runs.

    Raises
    ------
    ConditionError
        A room or a mould in which it never sets.
    """
    density, heat = clay.density_kg_m3, clay.heat_capacity_j_kg_k
    volume = charge_kg / density
    pot = AIR_U_W_M2_K * CUP_SURFACE * volume ** (2.0 / 3.0) / (charge_kg * heat)
    film = FILM_U_W_M2_K / (density * film_m * heat)
    pour = cooling_s(clay.melt_k, clay.pour_k, room_k, pot)
    cool = min(mould_k, clay.cool_k - _STILL_WARM_K)
    out = pour + cooling_s(clay.pour_k, clay.cool_k, cool, film)
    return CoatClock(
        working_time_s=cooling_s(clay.melt_k, clay.thick_k, room_k, pot),
        pour_by_s=pour,
        roll_until_s=pour + cooling_s(clay.pour_k, clay.thick_k, mould_k, film),
        next_from_s=pour + cooling_s(clay.pour_k, clay.set_k, mould_k, film),
        next_until_s=pour + _NEXT_WITHIN_S,
        demould_s=out,
        full_cure_s=out,
    )
