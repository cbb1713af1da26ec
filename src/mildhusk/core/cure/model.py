"""The cure of a resin from its data sheet: in any cup and as any film, in any room."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from scipy.optimize import brentq

from mildhusk.core.checks import require_between
from mildhusk.core.constants import CLOCK_HIGHEST_K, CLOCK_LOWEST_K, ZERO_CELSIUS_K
from mildhusk.core.cure.dose import class_of, dosed
from mildhusk.core.cure.kinetics import (
    GAS_CONSTANT,
    Course,
    Kinetics,
    Surroundings,
    course_of,
    in_cup,
    in_film,
)
from mildhusk.core.errors import ConditionError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.materials.casting_resin import CastingResin

STANDARD_FILM_M = 0.001
"""Film for which the later times of a data sheet are taken to hold (assumed). [m]"""
_LATEST_GEL, _MOST_TRIES = 0.8, 12
_HEAT_FACTORS = (0.02, 3.0)
_PEAK_AFTER = 2.0
"""A cup peaks after about this multiple of its gel time. [1]"""
COOL_WITHIN_K = 8.0
"""A cast leaves the mould when it is within this of the mould's temperature (assumed). [K]"""
VISCOSITY_C1, VISCOSITY_C2 = 1.5, 1.0
"""Exponents of the viscosity's rise towards gel, usual for urethanes (from memory)."""


@dataclass(frozen=True, slots=True)
class CureModel:
    """A resin's kinetics, and the degrees of cure at which things happen.

    Parameters
    ----------
    resin : CastingResin
    kinetics : Kinetics
    working, gel, tack_from, tack_until, demould : float
        Degrees of cure. [1]
    viscosity_activation_j_mol : float
        [J/mol]
    """

    resin: CastingResin
    kinetics: Kinetics
    working: float
    gel: float
    tack_from: float
    tack_until: float
    demould: float
    viscosity_activation_j_mol: float


@dataclass(frozen=True, slots=True)
class CureSetup:
    """What is mixed, and where it cures.

    Parameters
    ----------
    mass_kg : float
        In the cup. [kg]
    room_k, mould_k, parts_k : float
        Temperatures of the room, the mould, and both parts. [K]
    film_m : float
        On the mould. [m]
    catalyst : float or None
        Where the resin takes one; None is the usual dose. [1]

    Raises
    ------
    ConditionError
        A temperature out of range.
    """

    mass_kg: float
    room_k: float
    mould_k: float
    parts_k: float
    film_m: float = STANDARD_FILM_M
    catalyst: float | None = None

    def __post_init__(self) -> None:
        for value, name, field in (
            (self.room_k, "room", "room_temperature_k"),
            (self.mould_k, "mould", "mould_temperature_k"),
            (self.parts_k, "parts", "parts_temperature_k"),
        ):
            require_between(
                value,
                CLOCK_LOWEST_K,
                CLOCK_HIGHEST_K,
                name=f"The temperature of the {name}",
                field=field,
                error=ConditionError,
                shown_in="°C",
                offset=-ZERO_CELSIUS_K,
            )


@dataclass(frozen=True, slots=True, eq=False)
class Cure:
    """Times of a mix from the first contact of A and B, and its curves. [s]

    Parameters
    ----------
    working_time_s, gel_cup_s : float
        In the cup.
    gel_film_s, tack_from_s, tack_until_s, demould_s : float
        As a film on the mould.
    peak_cup_k, peak_film_k : float
        [K]
    cup, film : Course
    viscosity_pa_s : (n,) float
        In the cup, infinite from gel on. [Pa s]
    """

    working_time_s: float
    gel_cup_s: float
    gel_film_s: float
    tack_from_s: float
    tack_until_s: float
    demould_s: float
    peak_cup_k: float
    peak_film_k: float
    cup: Course
    film: Course
    viscosity_pa_s: Floats


@lru_cache(maxsize=64)
def cure_model(resin: CastingResin) -> CureModel:
    """Calibrate the model of a resin from its data sheet.

    Parameters
    ----------
    resin : CastingResin

    Returns
    -------
    CureModel

    Raises
    ------
    ConditionError
        The sheet's gel comes so long after its working time that no cure fits both.

    Notes
    -----
    The rate is fitted so that the standard mass in its cup ends its working time when the sheet
    says; the degree at gel is what it has reached at the sheet's gel. Where the sheet gives the
    peak exotherm, the heat of cure is fitted to it; else it is the class's. A thin film runs
    cooler and gels later; the sheet's later times speak of coats, and follow the film's gel at the
    intervals that the sheet gives. Everything else follows.

    References
    ----------
    The standard mass at a standard temperature is the method of ASTM D2471 (from memory).
    """
    values = class_of(resin)
    degree = values["working_degree"]
    for _ in range(_MOST_TRIES):
        kinetics, gel = _fitted(resin, _with_heat(resin, values, degree), degree)
        # A sheet whose gel comes long after its working time has a slow beginning.
        if gel <= _LATEST_GEL:
            return _with_later_times(resin, values, kinetics, degree, gel)
        degree /= 2.0
    raise ConditionError(
        f"The gel of '{resin.name}' comes so long after its working time that no cure fits both; "
        "check both on its data sheet.",
        "gel_s",
    )


def _with_heat(resin: CastingResin, values: dict[str, Any], working: float) -> dict[str, Any]:
    """Return the values with the heat at which the standard mass gets as hot as the sheet says."""
    wanted = resin.peak_exotherm_k
    if wanted is None:
        return values
    room = resin.standard_temperature_k

    def too_hot(factor: float) -> float:
        kinetics, _ = _fitted(resin, {**values, "heat_j_kg": factor * values["heat_j_kg"]}, working)
        around = in_cup(kinetics, resin.standard_mass_kg, resin.density_cured_kg_m3, room, room)
        return _until(kinetics, around, working, _PEAK_AFTER * resin.gel_s).peak_k - wanted

    coolest, hottest = (too_hot(factor) + wanted for factor in _HEAT_FACTORS)
    if not coolest <= wanted <= hottest:
        raise ConditionError(
            f"The peak exotherm of '{resin.name}' ({wanted - ZERO_CELSIUS_K:.0f} °C) cannot be "
            f"that of {1e3 * resin.standard_mass_kg:.0f} g with its working time: between "
            f"{coolest - ZERO_CELSIUS_K:.0f} and {hottest - ZERO_CELSIUS_K:.0f} °C can; check it "
            "on the data sheet, or leave it out.",
            "peak_exotherm_k",
        )
    factor = brentq(too_hot, *_HEAT_FACTORS, xtol=1e-4)
    return {**values, "heat_j_kg": factor * values["heat_j_kg"]}


def _fitted(resin: CastingResin, values: dict[str, Any], working: float) -> tuple[Kinetics, float]:
    """Fit the rate to the working time, for a degree at its end; returns the degree at gel too."""
    room = resin.standard_temperature_k
    base = Kinetics(
        1.0 / resin.working_time_s,
        room,
        values["activation_j_mol"],
        values["c"],
        values["b"],
        values["m"],
        values["n"],
        values["heat_j_kg"],
        values["heat_capacity_j_kg_k"],
    )

    def cup(rate: float, until: float) -> Course:
        kinetics = replace(base, rate_1_s=rate)
        around = in_cup(kinetics, resin.standard_mass_kg, resin.density_cured_kg_m3, room, room)
        return course_of(kinetics, around, until)

    def ends(rate: float) -> float:
        return cup(rate, 3.0 * resin.working_time_s).reaches(working)

    low, high = 1e-6 / resin.working_time_s, 1e3 / resin.working_time_s
    for _ in range(60):
        half = float(np.sqrt(low * high))
        if ends(half) > resin.working_time_s:
            low = half
        else:
            high = half
    rate = float(np.sqrt(low * high))
    kinetics = replace(base, rate_1_s=rate)
    in_it = cup(rate, 1.2 * resin.gel_s)
    return kinetics, float(np.interp(resin.gel_s, in_it.t_s, in_it.degree))


def _with_later_times(
    resin: CastingResin, values: dict[str, Any], kinetics: Kinetics, working: float, gel: float
) -> CureModel:
    """Find the degrees at which the later times of a sheet come, as a film's."""
    room = resin.standard_temperature_k
    around = in_film(kinetics, STANDARD_FILM_M, resin.density_cured_kg_m3, room, room)
    film = course_of(kinetics, around, 3.0 * resin.gel_s)
    while film.degree[-1] < gel:
        film = course_of(kinetics, around, 2.0 * float(film.t_s[-1]))
    later_s = film.reaches(gel) - resin.gel_s
    later = course_of(kinetics, around, later_s + 1.05 * max(resin.tack_until_s, resin.demould_s))

    def degree(sheet_s: float) -> float:
        return float(np.interp(later_s + sheet_s, later.t_s, later.degree))

    return CureModel(
        resin=resin,
        kinetics=kinetics,
        working=working,
        gel=gel,
        tack_from=degree(resin.tack_from_s),
        tack_until=degree(resin.tack_until_s),
        demould=degree(resin.demould_s),
        viscosity_activation_j_mol=values["viscosity_activation_j_mol"],
    )


def cure(resin: CastingResin, setup: CureSetup) -> Cure:
    """Return when a mix of a resin does what, in its cup and as a film on the mould.

    Parameters
    ----------
    resin : CastingResin
    setup : CureSetup

    Returns
    -------
    Cure

    Raises
    ------
    ConditionError
        A mass, a film or a dose of catalyst out of range, a sheet whose times fit no cure.
    """
    model = cure_model(resin)
    kinetics = replace(
        model.kinetics, rate_1_s=model.kinetics.rate_1_s * dosed(resin, setup.catalyst)
    )
    density = resin.density_cured_kg_m3
    cup = _until(
        kinetics,
        in_cup(kinetics, setup.mass_kg, density, setup.parts_k, setup.room_k),
        model.gel,
        _PEAK_AFTER * resin.gel_s,
    )
    film = _until(
        kinetics,
        in_film(kinetics, setup.film_m, density, setup.parts_k, setup.mould_k),
        max(model.tack_until, model.demould),
        resin.demould_s,
    )
    return Cure(
        working_time_s=cup.reaches(model.working),
        gel_cup_s=cup.reaches(model.gel),
        gel_film_s=film.reaches(model.gel),
        tack_from_s=film.reaches(model.tack_from),
        tack_until_s=film.reaches(model.tack_until),
        demould_s=max(film.reaches(model.demould), _cool_at(film, setup.mould_k)),
        peak_cup_k=cup.peak_k,
        peak_film_k=film.peak_k,
        cup=cup,
        film=film,
        viscosity_pa_s=viscosity(model, cup),
    )


def viscosity(model: CureModel, course: Course) -> Floats:
    """Viscosity along a course, infinite from gel on. (n,) [Pa s]

    Notes
    -----
    mu = mu0(T) (ag / (ag - a))^(C1 + C2 a).

    References
    ----------
    J. M. Castro and C. W. Macosko, AIChE Journal 28 (1982) 250-260, doi:10.1002/aic.690280213
    (from memory).
    """
    resin = model.resin
    cold = 1.0 / course.temperature_k - 1.0 / resin.standard_temperature_k
    fresh = resin.viscosity_pa_s * np.exp(model.viscosity_activation_j_mol / GAS_CONSTANT * cold)
    liquid = course.degree < model.gel
    left = np.where(liquid, model.gel - course.degree, 1.0)
    rise = (model.gel / left) ** (VISCOSITY_C1 + VISCOSITY_C2 * course.degree)
    return np.asarray(np.where(liquid, fresh * rise, np.inf))


def _until(kinetics: Kinetics, around: Surroundings, degree: float, about_s: float) -> Course:
    """Follow a mix until it has a degree of cure, some time beyond, and past its peak."""
    length = 2.0 * about_s
    for _ in range(14):
        course = course_of(kinetics, around, length)
        cooling = course.temperature_k[-1] <= course.temperature_k[-2]
        if (
            cooling
            and course.degree[-1] >= degree
            and course.t_s[-1] >= 1.5 * course.reaches(degree)
        ):
            break
        length *= 2.0
    return course


def _cool_at(course: Course, mould_k: float) -> float:
    """When it is cool for the last time: after its peak. [s]"""
    warm = np.flatnonzero(course.temperature_k > mould_k + COOL_WITHIN_K)
    return 0.0 if len(warm) == 0 else float(course.t_s[warm[-1]])
