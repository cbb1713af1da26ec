"""How hot a mix gets where it stands: what it passes in its cup, how deep a puddle may lie."""

import math
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np
from scipy.optimize import brentq

from mildhusk.core.cure.classes import HeatLimit, class_of
from mildhusk.core.cure.kinetics import Course
from mildhusk.core.cure.model import film_course
from mildhusk.core.materials.casting_resin import CastingResin

DEEPEST_M = 0.05
"""A deeper puddle is a pour of its own. [m]"""
_SHALLOWEST_M, _TO_SHARE = 0.0005, 0.05


@dataclass(frozen=True, slots=True)
class Passed:
    """A limit of heat, and when a standing cup passes it, from the first contact of A and B. [s]"""

    limit: HeatLimit
    after_s: float


@dataclass(frozen=True, slots=True)
class PuddleLimit:
    """A limit of heat, and how deep a puddle stays below it. [m]"""

    limit: HeatLimit
    depth_m: float


def passed_in_cup(resin: CastingResin, cup: Course) -> tuple[Passed, ...]:
    """Return the limits of heat that a cup passes when it is left standing, the coolest first.

    Parameters
    ----------
    resin : CastingResin
    cup : Course
        Past its peak.

    Returns
    -------
    tuple of Passed
        Empty where it stays cool.
    """
    hottest = np.maximum.accumulate(cup.temperature_k)
    return tuple(
        Passed(limit, float(np.interp(limit.temperature_k, hottest, cup.t_s)))
        for limit in class_of(resin).heat_limits
        if cup.peak_k > limit.temperature_k
    )


@lru_cache(maxsize=256)
def puddle_limit(
    resin: CastingResin, parts_k: float, mould_k: float, catalyst: float | None = None
) -> PuddleLimit | None:
    """Return how deep a puddle may lie before it gets too hot.

    Parameters
    ----------
    resin : CastingResin
    parts_k, mould_k : float
        Of A and B, and of the mould. [K]
    catalyst : float or None
        None is the usual dose. [1]

    Returns
    -------
    PuddleLimit or None
        Of the coolest limit, to 5 %, on the safe side; None where one of `DEEPEST_M` stays below it
        too.

    Raises
    ------
    ConditionError
        A temperature or a dose out of range.

    Notes
    -----
    A puddle has one temperature, its mean; the middle of a deep one is up to 10 K warmer (found
    by conduction through its depth, tests/core/test_heat.py).
    """
    limit = class_of(resin).heat_limits[0]

    @cache
    def over_k(log_depth: float) -> float:
        course = film_course(resin, math.exp(log_depth), parts_k, mould_k, catalyst)
        return course.peak_k - limit.temperature_k

    shallow, deep = math.log(_SHALLOWEST_M), math.log(DEEPEST_M)
    if over_k(deep) <= 0.0:
        return None
    if over_k(shallow) >= 0.0:
        return PuddleLimit(limit, _SHALLOWEST_M)
    found = brentq(over_k, shallow, deep, xtol=0.5 * _TO_SHARE)
    depth = math.exp(found - (0.5 * _TO_SHARE if over_k(found) > 0.0 else 0.0))
    return PuddleLimit(limit, depth)
