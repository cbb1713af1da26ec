"""The answer about a cure: its times and peaks, and its curves thinned to what can be drawn."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.cure.data_sheet import (
    Sensitivity,
    post_cure_s,
    puddle_peak,
    retimed,
    sensitivity,
)
from mildhusk.core.cure.heat import Passed, PuddleLimit, passed_in_cup, puddle_limit
from mildhusk.core.cure.kinetics import Course
from mildhusk.core.cure.model import CureSetup, cure, cure_model, viscosity
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.materials.casting_resin import CastingResin

POINTS = 121


@dataclass(frozen=True, slots=True)
class Curve:
    """A course: time, degree of cure, temperature, viscosity (None from gel on).

    Parameters
    ----------
    t_s, degree, temperature_k : tuple of float
        [s], [1], [K]
    viscosity_pa_s : tuple of float or None
        [Pa s]
    """

    t_s: tuple[float, ...]
    degree: tuple[float, ...]
    temperature_k: tuple[float, ...]
    viscosity_pa_s: tuple[float | None, ...]


@dataclass(frozen=True, slots=True)
class CureReport:
    """A cure; every figure of it is an estimate from the data sheet and the resin's class.

    Parameters
    ----------
    estimate : bool
    working_time_s, gel_cup_s : float
        In the cup. [s]
    gel_film_s, tack_from_s, tack_until_s, demould_s : float
        As a film on the mould. [s]
    peak_cup_k, peak_film_k, peak_puddle_k : float
        [K]
    post_cure_s : float
        From leaving the mould to full strength, kept as warm as was asked. [s]
    passed : tuple of Passed
        Limits of heat that the cup passes when it is left standing.
    puddle : PuddleLimit or None
        How deep a puddle may lie; None where any may.
    curve, film_curve : Curve
        In the cup, and on the mould.
    sensitivity : Sensitivity
    """

    estimate: bool
    working_time_s: float
    gel_cup_s: float
    gel_film_s: float
    tack_from_s: float
    tack_until_s: float
    demould_s: float
    peak_cup_k: float
    peak_film_k: float
    peak_puddle_k: float
    post_cure_s: float
    passed: tuple[Passed, ...]
    puddle: PuddleLimit | None
    curve: Curve
    film_curve: Curve
    sensitivity: Sensitivity


@dataclass(frozen=True, slots=True)
class CureQuestions:
    """What else to compute beside a cure: its puddle, its post-cure, how far its curves go.

    Parameters
    ----------
    puddle_m : float
        Depth of a puddle. [m]
    post_cure_k : float
        Where the cast stands afterwards. [K]
    time_factor : float
        As pours taught. [1]
    """

    puddle_m: float = 0.01
    post_cure_k: float = 323.15
    time_factor: float = 1.0


def cure_report(resin: CastingResin, setup: CureSetup, more: CureQuestions) -> CureReport:
    """Compute a cure with its peaks, sensitivities and curves.

    Parameters
    ----------
    resin : CastingResin
        As its data sheet says.
    setup : CureSetup
    more : CureQuestions

    Returns
    -------
    CureReport

    Raises
    ------
    ConditionError
        A temperature, a dose, a charge or a film for which there is no cure.
    """
    resin = retimed(resin, more.time_factor)
    found = cure(resin, setup)
    on_film = viscosity(cure_model(resin), found.film)
    return CureReport(
        estimate=True,
        working_time_s=found.working_time_s,
        gel_cup_s=found.gel_cup_s,
        gel_film_s=found.gel_film_s,
        tack_from_s=found.tack_from_s,
        tack_until_s=found.tack_until_s,
        demould_s=found.demould_s,
        peak_cup_k=found.peak_cup_k,
        peak_film_k=found.peak_film_k,
        peak_puddle_k=puddle_peak(resin, setup, more.puddle_m),
        post_cure_s=post_cure_s(resin, more.post_cure_k),
        passed=passed_in_cup(resin, found.cup),
        puddle=puddle_limit(resin, setup.parts_k, setup.mould_k, setup.catalyst),
        curve=curve_of(found.cup, found.viscosity_pa_s, found.demould_s),
        film_curve=curve_of(found.film, on_film, found.demould_s),
        sensitivity=sensitivity(resin, setup),
    )


def curve_of(course: Course, viscosity_pa_s: Floats, until_s: float) -> Curve:
    """Return a course at points even in time and in degree, so that nothing fast is lost.

    Parameters
    ----------
    course : Course
    viscosity_pa_s : (n,) float
        Along it, infinite from gel on; None there. [Pa s]
    until_s : float
        What comes later is left out. [s]

    Returns
    -------
    Curve
    """
    last = float(np.interp(until_s, course.t_s, course.degree))
    even = np.linspace(0.0, 1.0, POINTS // 2 + 1)
    by_degree = np.interp(last * even, course.degree, course.t_s)
    t = np.unique(np.concatenate([until_s * even, np.minimum(by_degree, until_s)]))
    flows = np.where(np.isfinite(viscosity_pa_s), viscosity_pa_s, np.nan)
    viscosity = np.interp(t, course.t_s, flows)
    return Curve(
        tuple(t.tolist()),
        tuple(np.interp(t, course.t_s, course.degree).tolist()),
        tuple(np.interp(t, course.t_s, course.temperature_k).tolist()),
        tuple(None if np.isnan(one) else float(one) for one in viscosity),
    )
