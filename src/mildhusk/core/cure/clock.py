"""The clock of one coat: when to have poured, how long to roll, when the next may go on.

A first clock: the data sheet's times scaled by temperature. Cure kinetics will stand behind the
same function.
"""

from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.constants import (
    CLOCK_HIGHEST_K,
    CLOCK_LOWEST_K,
    RATE_DOUBLING_K,
    SPREADING_TIME_S,
    ZERO_CELSIUS_K,
)
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin


@dataclass(frozen=True, slots=True)
class CoatClock:
    """Times of one coat from the first contact of A and B. [s]

    Parameters
    ----------
    working_time_s : float
        When it can no longer be worked.
    pour_by_s : float
        Latest pour that leaves time to cover everything.
    roll_until_s : float
        When it gels: it stops flowing.
    next_from_s, next_until_s : float
        The tack window, in which the next coat goes on.
    demould_s, full_cure_s : float
        When it may leave the mould, and when it has its full strength.
    """

    working_time_s: float
    pour_by_s: float
    roll_until_s: float
    next_from_s: float
    next_until_s: float
    demould_s: float
    full_cure_s: float


def coat_clock(resin: CastingResin, temperature_k: float) -> CoatClock:
    """Return the clock of a coat at a room, mould and part temperature.

    Parameters
    ----------
    resin : CastingResin
    temperature_k : float
        Room, mould and both parts alike. [K]

    Returns
    -------
    CoatClock

    Raises
    ------
    ConditionError
        A temperature for which the rule is not offered.

    Notes
    -----
    t(T) = t_sheet 2^((T_sheet - T) / 10 K): the rate doubles per 10 K (common practice, no
    source). The mass in the cup is taken as the data sheet's. Mixing and spreading take the hands
    the same time in any weather, so `pour_by_s` is not simply scaled.
    """
    require_between(
        temperature_k,
        CLOCK_LOWEST_K,
        CLOCK_HIGHEST_K,
        name="The room temperature",
        field="room_temperature_k",
        error=ConditionError,
        shown_in="°C",
        offset=-ZERO_CELSIUS_K,
    )
    slower = 2.0 ** ((resin.standard_temperature_k - temperature_k) / RATE_DOUBLING_K)
    working = resin.working_time_s * slower
    return CoatClock(
        working_time_s=working,
        pour_by_s=working - min(SPREADING_TIME_S, working / 2.0),
        roll_until_s=resin.gel_s * slower,
        next_from_s=resin.tack_from_s * slower,
        next_until_s=resin.tack_until_s * slower,
        demould_s=resin.demould_s * slower,
        full_cure_s=resin.full_cure_s * slower,
    )
