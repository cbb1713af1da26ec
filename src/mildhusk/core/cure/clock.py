"""The clock of one coat: when to have poured, how long to roll, when the next may go on."""

from dataclasses import dataclass
from functools import lru_cache

from mildhusk.core.constants import SPREADING_TIME_S
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


@dataclass(frozen=True, slots=True)
class Conditions:
    """Where and how a coat is mixed and cures.

    Parameters
    ----------
    room_k, mould_k, parts_k : float
        Temperatures of the room, the mould and both parts. [K]
    catalyst : float or None
        Where the resin takes one; None is the usual dose. [1]
    cups : int
        In which a charge is mixed at once.
    spread_s : float
        From the pour until everything is covered once. [s]
    """

    room_k: float
    mould_k: float
    parts_k: float
    catalyst: float | None = None
    cups: int = 1
    spread_s: float = SPREADING_TIME_S

    @classmethod
    def even(cls, temperature_k: float) -> "Conditions":
        """Room, mould and both parts alike."""
        return cls(temperature_k, temperature_k, temperature_k)


@lru_cache(maxsize=1024)
def coat_clock(resin: CastingResin, at: Conditions, charge_kg: float, film_m: float) -> CoatClock:
    """Return the clock of a coat.

    Parameters
    ----------
    resin : CastingResin
    at : Conditions
    charge_kg : float
        A and B together, in all cups. [kg]
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
    from mildhusk.core.cure.model import CureSetup, film_times, working_time_s

    cup_kg = charge_kg / at.cups
    setup = CureSetup(cup_kg, at.room_k, at.mould_k, at.parts_k, film_m, at.catalyst)
    found = film_times(resin, setup)
    working = working_time_s(resin, cup_kg, at.parts_k, at.room_k, at.catalyst)
    return CoatClock(
        working_time_s=working,
        pour_by_s=working - min(at.spread_s, working / 2.0),
        # What is still in its cup when it gels is no film; a coat never gels before its cup.
        roll_until_s=max(found.gel_s, working),
        next_from_s=max(found.tack_from_s, working),
        next_until_s=found.tack_until_s,
        demould_s=found.demould_s,
        full_cure_s=found.demould_s * resin.full_cure_s / resin.demould_s,
    )
