"""What follows from a cure: post-cure, puddles, sensitivities, cups of growing mass."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from mildhusk.core.checks import require_between
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.cure.model import Cure, CureSetup, cure, cure_model, working_time_s
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin

WARMER_K, MORE_KG = 2.0, 0.010
_SLOWEST, _FASTEST = 0.25, 4.0
_MASSES_KG = tuple(float(one) for one in np.geomspace(0.01, 5.0, 6))


@dataclass(frozen=True, slots=True)
class Shift:
    """What changes of a cure by a little: the cup's working time, the film's gel. [s]"""

    working_time_s: float
    gel_film_s: float


@dataclass(frozen=True, slots=True)
class Sensitivity:
    """By how much later (above 0) or earlier (below 0) things happen."""

    warmer: Shift
    cooler: Shift
    more: Shift
    less: Shift


def sensitivity(resin: CastingResin, setup: CureSetup) -> Sensitivity:
    """Return what two degrees and ten grams change.

    Parameters
    ----------
    resin : CastingResin
    setup : CureSetup

    Returns
    -------
    Sensitivity
        Of all three temperatures together, and of the mass in the cup.
    """
    base = cure(resin, setup)

    def shift(other: CureSetup) -> Shift:
        found = cure(resin, other)
        return Shift(found.working_time_s - base.working_time_s, found.gel_film_s - base.gel_film_s)

    def by(kelvin: float) -> CureSetup:
        return replace(
            setup,
            room_k=setup.room_k + kelvin,
            mould_k=setup.mould_k + kelvin,
            parts_k=setup.parts_k + kelvin,
        )

    less = min(MORE_KG, 0.5 * setup.mass_kg)
    return Sensitivity(
        warmer=shift(by(WARMER_K)),
        cooler=shift(by(-WARMER_K)),
        more=shift(replace(setup, mass_kg=setup.mass_kg + MORE_KG)),
        less=shift(replace(setup, mass_kg=setup.mass_kg - less)),
    )


def puddle_peak(resin: CastingResin, setup: CureSetup, depth_m: float) -> float:
    """Return the highest temperature in a puddle of the mix that stands in the mould. [K]

    Parameters
    ----------
    resin : CastingResin
    setup : CureSetup
    depth_m : float
        Of the puddle. [m]

    Returns
    -------
    float
        [K]
    """
    found: Cure = cure(resin, replace(setup, film_m=depth_m))
    return found.peak_film_k


def post_cure_s(resin: CastingResin, temperature_k: float) -> float:
    """Return how long a cast takes from leaving the mould to its full strength.

    Parameters
    ----------
    resin : CastingResin
    temperature_k : float
        Where it stands. [K]

    Returns
    -------
    float
        [s]

    Raises
    ------
    ConditionError
        A temperature at which nobody leaves a cast.

    Notes
    -----
    From demould on a cast is as warm as its room, so the time between two reduced times differs at
    another temperature by the rate alone.
    """
    require_between(
        temperature_k, ZERO_CELSIUS_K + 5.0, ZERO_CELSIUS_K + 80.0,
        name="The temperature of the post-cure", field="post_cure_k", error=ConditionError,
        shown_in="°C", offset=-ZERO_CELSIUS_K,
    )  # fmt: skip
    kinetics = cure_model(resin).kinetics
    at_sheet = resin.full_cure_s - resin.demould_s
    return at_sheet / kinetics.faster_at(temperature_k)


@lru_cache(maxsize=256)
def working_times(
    resin: CastingResin, parts_k: float, room_k: float, catalyst: float | None = None
) -> tuple[tuple[float, float], ...]:
    """Return how long cups of growing mass can be worked: pairs of mass [kg] and time [s]."""
    return tuple(
        (mass, working_time_s(resin, mass, parts_k, room_k, catalyst)) for mass in _MASSES_KG
    )


def largest_cup(times: tuple[tuple[float, float], ...], needed_s: float) -> float:
    """Return the largest mass in one cup that can be worked for so long; 0 where none can. [kg]"""
    masses = np.log([mass for mass, _ in times])
    seconds = np.array([time for _, time in times])
    if needed_s > seconds[0]:
        return 0.0
    # Bigger cups go off earlier: the times fall, and are turned round to be read.
    return float(np.exp(np.interp(-needed_s, -seconds, masses)))


def as_learned(resin: CastingResin, time_factor: float, viscosity_factor: float) -> CastingResin:
    """Return a resin as pours taught that it is: its times and its viscosity by factors.

    Parameters
    ----------
    resin : CastingResin
    time_factor, viscosity_factor : float
        [1]

    Returns
    -------
    CastingResin

    Raises
    ------
    ConditionError
        A factor that is another resin's.
    """
    return retimed(
        replace(resin, viscosity_pa_s=resin.viscosity_pa_s * viscosity_factor), time_factor
    )


def retimed(resin: CastingResin, factor: float) -> CastingResin:
    """Return a resin whose times are all longer by a factor, as measured gel times taught.

    Raises
    ------
    ConditionError
        A factor that is another resin's.
    """
    require_between(
        factor, _SLOWEST, _FASTEST, name="The factor on the resin's times", field="time_factor",
        error=ConditionError,
    )  # fmt: skip
    if factor == 1.0:
        return resin
    names = (
        "working_time_s",
        "gel_s",
        "tack_from_s",
        "tack_until_s",
        "demould_s",
        "full_cure_s",
    )
    return replace(resin, **{name: getattr(resin, name) * factor for name in names})
