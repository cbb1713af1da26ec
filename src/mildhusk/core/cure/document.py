"""A cure as a plain document: times, peaks, and its curves thinned to what can be drawn."""

from typing import Any

import numpy as np

from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.cure.kinetics import Course
from mildhusk.core.cure.model import Cure
from mildhusk.core.geometry.mesh import Floats

Document = dict[str, Any]
POINTS = 121


def cure_document(found: Cure) -> Document:
    """Return times, peaks and the cup's curve of a cure, as `husk cure` prints them."""
    cup = curve_document(found.cup, found.viscosity_pa_s, found.demould_s)
    return {
        "estimate": True,
        "working_time_s": found.working_time_s,
        "gel_cup_s": found.gel_cup_s,
        "gel_film_s": found.gel_film_s,
        "tack_from_s": found.tack_from_s,
        "tack_until_s": found.tack_until_s,
        "demould_s": found.demould_s,
        "peak_cup_C": found.peak_cup_k - ZERO_CELSIUS_K,
        "peak_film_C": found.peak_film_k - ZERO_CELSIUS_K,
        "curve": {
            "t_s": cup["t_s"],
            "alpha": cup["degree"],
            "T_C": [one - ZERO_CELSIUS_K for one in cup["temperature_k"]],
            "mu_Pa_s": cup["viscosity_pa_s"],
        },
    }


def curve_document(course: Course, viscosity_pa_s: Floats, until_s: float) -> Document:
    """Return a course at points even in degree, so that what happens fast is not lost.

    Parameters
    ----------
    course : Course
    viscosity_pa_s : (n,) float
        Along it, infinite from gel on; None there. [Pa s]
    until_s : float
        What comes later is left out. [s]
    """
    last = float(np.interp(until_s, course.t_s, course.degree))
    degrees = np.linspace(0.0, last, POINTS)
    t = np.interp(degrees, course.degree, course.t_s)
    flows = np.where(np.isfinite(viscosity_pa_s), viscosity_pa_s, np.nan)
    viscosity = np.interp(t, course.t_s, flows)
    return {
        "t_s": t.tolist(),
        "degree": degrees.tolist(),
        "temperature_k": np.interp(t, course.t_s, course.temperature_k).tolist(),
        "viscosity_pa_s": [None if np.isnan(one) else float(one) for one in viscosity],
    }
