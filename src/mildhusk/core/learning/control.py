"""Control charts: individuals and moving range, the rules that tell a drift early."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.stats import t as student

D2, D4 = 1.128, 3.267
"""Of moving ranges of two: mean range over sigma, and the upper limit over the mean range."""
FEWEST = 4
"""Values that make a chart."""
_SURE = 0.05
"""A slope that chance gives less often than this is a drift. [1]"""


class ChartRule(StrEnum):
    """Which rule a value breaks: the Western Electric rules."""

    BEYOND_3 = "beyond-3"
    """It lies beyond three sigma."""
    TWO_OF_3 = "two-of-3"
    """Two of the last three lie beyond two sigma, on one side."""
    FOUR_OF_5 = "four-of-5"
    """Four of the last five lie beyond one sigma, on one side."""
    EIGHT = "eight"
    """The last eight lie on one side of the middle."""
    RANGE = "range"
    """It differs from the one before by more than the moving range allows."""


RULE_WORDS = {
    ChartRule.BEYOND_3: "beyond three sigma",
    ChartRule.TWO_OF_3: "two of three beyond two sigma",
    ChartRule.FOUR_OF_5: "four of five beyond one sigma",
    ChartRule.EIGHT: "eight on one side of the middle",
    ChartRule.RANGE: "a jump from the one before",
}


@dataclass(frozen=True, slots=True)
class Signal:
    """A value that breaks a rule; `at` counts from 0."""

    at: int
    rule: ChartRule
    words: str


@dataclass(frozen=True, slots=True)
class Drift:
    """A straight line through the values: what it gains from the first to the last.

    Parameters
    ----------
    share : float
        Of the mean, low and high end in `low` and `high`: 95 %. [1]
    low, high : float
    values : int
    """

    share: float
    low: float
    high: float
    values: int


@dataclass(frozen=True, slots=True)
class ControlChart:
    """An individuals chart and its moving ranges.

    Parameters
    ----------
    values : tuple of float
    middle, low, high : float
        Centre line and three sigma limits.
    mean_range, most_range : float
        Of two values in turn, and the upper limit of such a range.
    signals : tuple of Signal
    drift : Drift or None
        None where chance explains the slope.
    """

    values: tuple[float, ...]
    middle: float
    low: float
    high: float
    mean_range: float
    most_range: float
    signals: tuple[Signal, ...]
    drift: Drift | None


def control_chart(values: Sequence[float]) -> ControlChart | None:
    """Return the chart of values in the order they came; None from too few of them.

    References
    ----------
    NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2 (rules) and 6.3.2.2 (individuals):
    x-bar +- 3 MR-bar / 1.128; D4 = 3.267.
    """
    if len(values) < FEWEST:
        return None
    x = np.asarray(values, float)
    ranges = np.abs(np.diff(x))
    middle, mean_range = float(x.mean()), float(ranges.mean())
    sigma = mean_range / D2
    return ControlChart(
        values=tuple(map(float, x)),
        middle=middle,
        low=middle - 3.0 * sigma,
        high=middle + 3.0 * sigma,
        mean_range=mean_range,
        most_range=D4 * mean_range,
        signals=tuple(_signals((x - middle) / sigma, ranges / mean_range)) if sigma > 0.0 else (),
        drift=_drift(x),
    )


def _signals(z: np.ndarray, ranges: np.ndarray) -> list[Signal]:
    found = []
    for at in range(len(z)):
        side = math.copysign(1.0, z[at])
        rule = _first_rule(side * z[: at + 1])
        if rule is None and at > 0 and ranges[at - 1] > D4:
            rule = ChartRule.RANGE
        if rule is not None:
            found.append(Signal(at, rule, RULE_WORDS[rule]))
    return found


def _first_rule(z: np.ndarray) -> ChartRule | None:
    """Return the gravest rule that the last of some values breaks, its side upwards."""
    if z[-1] > 3.0:
        return ChartRule.BEYOND_3
    if z[-1] > 2.0 and (z[-3:] > 2.0).sum() >= 2:
        return ChartRule.TWO_OF_3
    if z[-1] > 1.0 and (z[-5:] > 1.0).sum() >= 4:
        return ChartRule.FOUR_OF_5
    if len(z) >= 8 and (z[-8:] > 0.0).all():
        return ChartRule.EIGHT
    return None


def _drift(x: np.ndarray) -> Drift | None:
    """Return the least-squares line's gain, where a t test tells it from chance."""
    n = len(x)
    at = np.arange(n) - 0.5 * (n - 1)
    slope = float(at @ x / (at @ at))
    left = x - x.mean() - slope * at
    error = math.sqrt(float(left @ left) / (n - 2) / float(at @ at))
    half = float(student.ppf(1.0 - 0.5 * _SURE, n - 2)) * error
    if abs(slope) <= half:
        return None
    whole = (n - 1) / float(x.mean())
    return Drift(slope * whole, (slope - half) * whole, (slope + half) * whole, n)
