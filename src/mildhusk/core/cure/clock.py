"""The clock of one coat: when to have poured, how long to roll, when the next may go on."""

from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.constants import (
    CLOCK_HIGHEST_K,
    CLOCK_LOWEST_K,
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
        When it can no longer be worked, in its cup.
    pour_by_s : float
        Latest pour that leaves time to cover everything.
    roll_until_s : float
        When it gels as a film on the mould: it stops flowing.
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


def coat_clock(
    resin: CastingResin, temperature_k: float, charge_kg: float, film_m: float
) -> CoatClock:
    """Return the clock of a coat.

    Parameters
    ----------
    resin : CastingResin
    temperature_k : float
        Room, mould and both parts alike. [K]
    charge_kg : float
        A and B together, in one cup. [kg]
    film_m : float
        What the coat leaves on the mould. [m]

    Returns
    -------
    CoatClock

    Raises
    ------
    ConditionError
        A temperature, a charge or a film for which there is no clock.

    Notes
    -----
    By the kinetics that are fitted to the data sheet: the working time in the cup, the rest as a
    film. Full cure keeps the sheet's ratio to demould. Mixing and spreading take the hands the same
    time in any weather, so `pour_by_s` is not simply scaled.
    """
    # The solver is slow to load, and not everyone who reads a clock's type needs it.
    from mildhusk.core.cure.model import CureAsked, cure

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
    found = cure(resin, CureAsked(charge_kg, temperature_k, temperature_k, temperature_k, film_m))
    working = found.working_time_s
    return CoatClock(
        working_time_s=working,
        pour_by_s=working - min(SPREADING_TIME_S, working / 2.0),
        roll_until_s=found.gel_film_s,
        next_from_s=found.tack_from_s,
        next_until_s=found.tack_until_s,
        demould_s=found.demould_s,
        full_cure_s=found.demould_s * resin.full_cure_s / resin.demould_s,
    )
