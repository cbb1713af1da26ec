"""The cure of a resin from its data sheet: in any cup and as any film, in any room."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.optimize import brentq

from mildhusk.core.checks import require_between
from mildhusk.core.constants import CLOCK_HIGHEST_K, CLOCK_LOWEST_K, ZERO_CELSIUS_K
from mildhusk.core.cure.classes import CureClass, class_of
from mildhusk.core.cure.dose import dosed
from mildhusk.core.cure.kinetics import GAS_CONSTANT, Course, Kinetics, course_of
from mildhusk.core.cure.surroundings import Surroundings, in_cup, in_film
from mildhusk.core.errors import ConditionError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.materials.casting_resin import CastingResin

STANDARD_FILM_M = 0.001
"""Film for which the later times of a data sheet are taken to hold (assumed). [m]"""
_RATES = (1e-6, 1e5)
"""Between these, over the gel time, every rate lies that gels then. [1]"""
_HEAT_FACTORS = (0.02, 1.6)
"""Heats of cure that are believed, over the class's: up to a little more than published. [1]"""
_PEAK_AFTER = 2.0
"""A cup peaks after about this multiple of its gel time. [1]"""
COOL_WITHIN_K = 8.0
"""A cast leaves the mould when it is within this of the mould's temperature (assumed). [K]"""
VISCOSITY_C1, VISCOSITY_C2 = 1.5, 1.0
"""Exponents of the viscosity's rise towards gel, usual for urethanes (from memory)."""


@dataclass(frozen=True, slots=True)
class CureModel:
    """A resin's kinetics, and the reduced times at which things happen.

    Parameters
    ----------
    resin : CastingResin
    kinetics : Kinetics
    gel_degree : float
        Degree of cure at which it stops flowing. [1]
    working, gel, tack_from, tack_until, demould : float
        Reduced times, see `Course`. [1]
    viscosity_activation_j_mol : float
        [J/mol]
    """

    resin: CastingResin
    kinetics: Kinetics
    gel_degree: float
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
        A peak exotherm that no heat of cure gives.

    Notes
    -----
    The class gives the degree of cure at gel. The rate is fitted so that the standard mass in its
    cup has it when the sheet says; its working time ends at the reduced time it has then. Where
    the sheet gives the peak exotherm, the heat of cure is fitted to it; else it is the class's. A
    thin film runs cooler and gels later; the sheet's later times speak of coats, and follow the
    film's gel at the intervals that the sheet gives. Everything else follows.

    References
    ----------
    100 g in a cup at a standard temperature is the method of ASTM D2471 (from memory).
    """
    of_class = class_of(resin)
    kinetics = _fitted(resin, _with_heat(resin, of_class), of_class.gel_degree)
    cup = course_of(kinetics, _standard_cup(resin, kinetics), resin.gel_s)
    gel = float(cup.reduced[-1])
    room = resin.standard_temperature_k
    around = in_film(
        kinetics.heat_capacity_j_kg_k, STANDARD_FILM_M, resin.density_cured_kg_m3, room, room
    )
    film = _until(kinetics, around, gel, resin.gel_s)
    later_s = film.reaches(gel) - resin.gel_s
    later = course_of(kinetics, around, later_s + 1.05 * max(resin.tack_until_s, resin.demould_s))

    def follows(sheet_s: float) -> float:
        return float(np.interp(later_s + sheet_s, later.t_s, later.reduced))

    return CureModel(
        resin=resin,
        kinetics=kinetics,
        gel_degree=of_class.gel_degree,
        working=float(np.interp(resin.working_time_s, cup.t_s, cup.reduced)),
        gel=gel,
        tack_from=follows(resin.tack_from_s),
        tack_until=follows(resin.tack_until_s),
        demould=follows(resin.demould_s),
        viscosity_activation_j_mol=of_class.viscosity_activation_j_mol,
    )


def _standard_cup(resin: CastingResin, kinetics: Kinetics) -> Surroundings:
    room = resin.standard_temperature_k
    return in_cup(
        kinetics.heat_capacity_j_kg_k,
        resin.standard_mass_kg,
        resin.density_cured_kg_m3,
        room,
        room,
    )


def _with_heat(resin: CastingResin, of_class: CureClass) -> CureClass:
    """Return the class with the heat at which the standard mass gets as hot as the sheet says."""
    wanted = resin.peak_exotherm_k
    if wanted is None:
        return of_class

    def heated(factor: float) -> CureClass:
        return replace(of_class, heat_j_kg=factor * of_class.heat_j_kg)

    def peak(factor: float) -> float:
        kinetics = _fitted(resin, heated(factor), of_class.gel_degree)
        cup = _standard_cup(resin, kinetics)
        gel = float(course_of(kinetics, cup, resin.gel_s).reduced[-1])
        return _until(kinetics, cup, gel, _PEAK_AFTER * resin.gel_s).peak_k

    coolest, hottest = (peak(factor) for factor in _HEAT_FACTORS)
    if not coolest <= wanted <= hottest:
        raise ConditionError(
            f"The peak exotherm of '{resin.name}' ({wanted - ZERO_CELSIUS_K:.0f} °C) cannot be "
            f"that of {1e3 * resin.standard_mass_kg:.0f} g with its gel time: between "
            f"{coolest - ZERO_CELSIUS_K:.0f} and {hottest - ZERO_CELSIUS_K:.0f} °C can; check it "
            "on the data sheet, or leave it out.",
            "peak_exotherm_k",
        )
    return heated(brentq(lambda factor: peak(factor) - wanted, *_HEAT_FACTORS, xtol=1e-4))


def _fitted(resin: CastingResin, of_class: CureClass, gel_degree: float) -> Kinetics:
    """Fit the rate so that the standard mass has the degree at gel at the sheet's gel time."""
    base = Kinetics(
        1.0 / resin.gel_s,
        resin.standard_temperature_k,
        of_class.activation_j_mol,
        of_class.c,
        of_class.m,
        of_class.n,
        of_class.induction,
        of_class.heat_j_kg,
        of_class.heat_capacity_j_kg_k,
    )

    def at_gel(log_rate: float) -> float:
        kinetics = replace(base, rate_1_s=float(np.exp(log_rate)))
        cup = course_of(kinetics, _standard_cup(resin, kinetics), resin.gel_s)
        return float(cup.degree[-1]) - gel_degree

    low, high = (float(np.log(one / resin.gel_s)) for one in _RATES)
    return replace(base, rate_1_s=float(np.exp(brentq(at_gel, low, high, xtol=1e-6))))


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
        A mass, a film or a dose of catalyst out of range, a peak that no heat of cure gives.
    """
    model = cure_model(resin)
    cup = cup_course(resin, setup.mass_kg, setup.parts_k, setup.room_k, setup.catalyst)
    film, times = _film(resin, setup)
    return Cure(
        working_time_s=cup.reaches(model.working),
        gel_cup_s=cup.reaches(model.gel),
        gel_film_s=times.gel_s,
        tack_from_s=times.tack_from_s,
        tack_until_s=times.tack_until_s,
        demould_s=times.demould_s,
        peak_cup_k=cup.peak_k,
        peak_film_k=film.peak_k,
        cup=cup,
        film=film,
        viscosity_pa_s=viscosity(model, cup),
    )


@dataclass(frozen=True, slots=True)
class FilmTimes:
    """When a film on the mould does what, from the first contact of A and B. [s]"""

    gel_s: float
    tack_from_s: float
    tack_until_s: float
    demould_s: float


def film_times(resin: CastingResin, setup: CureSetup) -> FilmTimes:
    """Return the times of a film, as `cure` does, without its cup.

    Parameters
    ----------
    resin : CastingResin
    setup : CureSetup

    Returns
    -------
    FilmTimes
    """
    return _film(resin, setup)[1]


def _film(resin: CastingResin, setup: CureSetup) -> tuple[Course, FilmTimes]:
    model = cure_model(resin)
    kinetics, around = _on_its_mould(
        resin, setup.film_m, setup.parts_k, setup.mould_k, setup.catalyst
    )
    last = max(model.tack_until, model.demould)
    film = _until(kinetics, around, last, resin.demould_s, setup.mould_k + COOL_WITHIN_K)
    return film, FilmTimes(
        gel_s=film.reaches(model.gel),
        tack_from_s=film.reaches(model.tack_from),
        tack_until_s=film.reaches(model.tack_until),
        demould_s=max(film.reaches(model.demould), _cool_at(film, setup.mould_k)),
    )


def working_time_s(
    resin: CastingResin,
    mass_kg: float,
    parts_k: float,
    room_k: float,
    catalyst: float | None = None,
) -> float:
    """Return how long a mass can be worked in its cup, as `cure` does, and no further.

    Parameters
    ----------
    resin : CastingResin
    mass_kg : float
        [kg]
    parts_k, room_k : float
        [K]
    catalyst : float or None
        None is the usual dose. [1]

    Returns
    -------
    float
        [s]
    """
    model = cure_model(resin)
    kinetics, around = _in_its_cup(resin, mass_kg, parts_k, room_k, catalyst)
    faster = kinetics.faster_at(parts_k) * kinetics.rate_1_s / model.kinetics.rate_1_s
    length = 1.2 * resin.working_time_s / faster
    while True:
        course = course_of(kinetics, around, length)
        if course.reduced[-1] >= model.working:
            return course.reaches(model.working)
        length *= 1.5


def cup_course(
    resin: CastingResin,
    mass_kg: float,
    parts_k: float,
    room_k: float,
    catalyst: float | None = None,
) -> Course:
    """Return how a mass cures in its cup, past its gel and its peak.

    Parameters
    ----------
    resin : CastingResin
    mass_kg : float
        [kg]
    parts_k, room_k : float
        [K]
    catalyst : float or None
        None is the usual dose. [1]

    Returns
    -------
    Course
    """
    kinetics, around = _in_its_cup(resin, mass_kg, parts_k, room_k, catalyst)
    return _until(kinetics, around, cure_model(resin).gel, _PEAK_AFTER * resin.gel_s)


def film_course(
    resin: CastingResin,
    film_m: float,
    parts_k: float,
    mould_k: float,
    catalyst: float | None = None,
) -> Course:
    """Return how a film or a puddle cures on its mould, past its gel and its peak.

    Parameters
    ----------
    resin : CastingResin
    film_m : float
        [m]
    parts_k, mould_k : float
        [K]
    catalyst : float or None
        None is the usual dose. [1]

    Returns
    -------
    Course
    """
    kinetics, around = _on_its_mould(resin, film_m, parts_k, mould_k, catalyst)
    return _until(kinetics, around, cure_model(resin).gel, _PEAK_AFTER * resin.gel_s)


def _in_its_cup(
    resin: CastingResin, mass_kg: float, parts_k: float, room_k: float, catalyst: float | None
) -> tuple[Kinetics, Surroundings]:
    kinetics = _dosed_kinetics(resin, catalyst)
    heat, density = kinetics.heat_capacity_j_kg_k, resin.density_cured_kg_m3
    return kinetics, in_cup(heat, mass_kg, density, parts_k, room_k)


def _on_its_mould(
    resin: CastingResin, film_m: float, parts_k: float, mould_k: float, catalyst: float | None
) -> tuple[Kinetics, Surroundings]:
    kinetics = _dosed_kinetics(resin, catalyst)
    heat, density = kinetics.heat_capacity_j_kg_k, resin.density_cured_kg_m3
    return kinetics, in_film(heat, film_m, density, parts_k, mould_k)


def _dosed_kinetics(resin: CastingResin, catalyst: float | None) -> Kinetics:
    kinetics = cure_model(resin).kinetics
    return replace(kinetics, rate_1_s=kinetics.rate_1_s * dosed(resin, catalyst))


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
    liquid = course.degree < model.gel_degree
    left = np.where(liquid, model.gel_degree - course.degree, 1.0)
    rise = (model.gel_degree / left) ** (VISCOSITY_C1 + VISCOSITY_C2 * course.degree)
    return np.asarray(np.where(liquid, fresh * rise, np.inf))


def _until(
    kinetics: Kinetics,
    around: Surroundings,
    reduced: float,
    about_s: float,
    cool_k: float = math.inf,
) -> Course:
    """Follow a mix until a reduced time, some time beyond, past its peak, and until it is cool."""
    length = 2.0 * about_s
    for _ in range(14):
        course = course_of(kinetics, around, length)
        cooling = course.temperature_k[-1] <= course.temperature_k[-2]
        if (
            cooling
            and course.temperature_k[-1] <= cool_k
            and course.reduced[-1] >= reduced
            and course.t_s[-1] >= 1.5 * course.reaches(reduced)
        ):
            break
        length *= 2.0
    return course


def _cool_at(course: Course, mould_k: float) -> float:
    """When it is cool for the last time: after its peak. [s]"""
    warm = np.flatnonzero(course.temperature_k > mould_k + COOL_WITHIN_K)
    return 0.0 if len(warm) == 0 else float(course.t_s[warm[-1]])
