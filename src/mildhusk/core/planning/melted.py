"""Melted clay: when it is cool enough to pour, how long it can be rolled, when it has set."""

import math

from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.cure.clock import CoatClock
from mildhusk.core.cure.kinetics import CUP_SURFACE, CUP_U_W_M2_K, FILM_U_W_M2_K
from mildhusk.core.errors import ConditionError
from mildhusk.core.mould.poured import CLAY_DENSITY_KG_M3

MELTED_K = 75.0 + ZERO_CELSIUS_K
"""Out of the pot (assumed; the maker's sheet stands above it)."""
POUR_K = 62.0 + ZERO_CELSIUS_K
"""It starts to thicken: pour and roll (assumed)."""
THICK_K = 54.0 + ZERO_CELSIUS_K
"""It runs no more from a cup (assumed)."""
SET_K = 42.0 + ZERO_CELSIUS_K
"""A film bears the next one without melting (assumed)."""
COOL_K = 28.0 + ZERO_CELSIUS_K
"""It keeps its shape out of the mould (assumed)."""
HEAT_CAPACITY_J_KG_K = 1500.0
"""Of an oily clay (assumed)."""
_NEXT_WITHIN_S = 86_400.0


def cooling_s(from_k: float, to_k: float, around_k: float, rate_1_s: float) -> float:
    """Return how long something takes to cool.

    Parameters
    ----------
    from_k, to_k, around_k : float
        [K]
    rate_1_s : float
        U A / (m cp). [1/s]

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
            f"Clay never cools to {to_k - ZERO_CELSIUS_K:.0f} °C where it is "
            f"{around_k - ZERO_CELSIUS_K:.0f} °C; work in a cooler room, or cool the mould.",
            "room_temperature_k",
        )
    return math.log((from_k - around_k) / (to_k - around_k)) / rate_1_s


def clay_clock(charge_kg: float, film_m: float, room_k: float, mould_k: float) -> CoatClock:
    """Return the clock of a pour of melted clay, from when the pot comes off the heat.

    Parameters
    ----------
    charge_kg : float
        In the pot. [kg]
    film_m : float
        It leaves on the mould. [m]
    room_k, mould_k : float
        [K]

    Returns
    -------
    CoatClock
        It is poured between `MELTED_K` and `POUR_K`, at the latest at `THICK_K`.
    """
    volume = charge_kg / CLAY_DENSITY_KG_M3
    pot = CUP_U_W_M2_K * CUP_SURFACE * volume ** (2.0 / 3.0) / (charge_kg * HEAT_CAPACITY_J_KG_K)
    film = FILM_U_W_M2_K / (CLAY_DENSITY_KG_M3 * film_m * HEAT_CAPACITY_J_KG_K)
    pour = cooling_s(MELTED_K, POUR_K, room_k, pot)
    thick = cooling_s(MELTED_K, THICK_K, room_k, pot)
    return CoatClock(
        working_time_s=thick,
        pour_by_s=pour,
        roll_until_s=pour + cooling_s(POUR_K, THICK_K, mould_k, film),
        next_from_s=pour + cooling_s(POUR_K, SET_K, mould_k, film),
        next_until_s=pour + _NEXT_WITHIN_S,
        demould_s=pour + cooling_s(POUR_K, COOL_K, min(mould_k, COOL_K - 1.0), film),
        full_cure_s=pour + cooling_s(POUR_K, COOL_K, min(mould_k, COOL_K - 1.0), film),
    )
