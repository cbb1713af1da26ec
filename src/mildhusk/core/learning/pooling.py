"""Partial pooling: a value of this mould, resin and lot from few pours and all makers' prior."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

import numpy as np
from scipy.optimize import brentq
from scipy.special import ndtr

from mildhusk.core.geometry.mesh import Floats

_OUTLIER, _ROUNDS = 2.5, 12
"""Observations further off than this are down-weighted (assumed). [standard deviations]"""
_MEDIAN = 0.6745
"""Of how far off a standard normal is. [1]"""
_NAMED = 0.5
"""One that counts for less than this is named (assumed). [1]"""
BAND = 0.9
"""What of its probability a band holds. [1]"""
_NOISES = np.exp(np.linspace(-1.6, 1.6, 17))
"""The noise may be these times the usual one. [1]"""


class Level(StrEnum):
    """What pours have in common."""

    WORKSHOP = "workshop"
    RESIN = "resin"
    LOT = "lot"
    MOULD = "mould"
    HANDS = "hands"
    """Turned by hand, or on a machine."""


@dataclass(frozen=True, slots=True)
class Prior:
    """What is known of a value before the first pour.

    Parameters
    ----------
    mean : float
    spreads : dict of Level to float
        Standard deviation of what is common to a workshop, a resin, a lot, a mould.
    noise : float
        Standard deviation of one pour about its own value.
    nuisances : tuple of Level
        Of them, what is no part of the value: a model's own error, common to one mould's pours.
    worth : float
        Of how many pours the knowledge of `noise` is worth. [1]
    """

    mean: float
    spreads: dict[Level, float]
    noise: float
    nuisances: tuple[Level, ...] = ()
    worth: float = 3.0


Groups = dict[Level, str]
"""To which workshop, resin, lot and mould something belongs; a level left out is its own."""


@dataclass(frozen=True, slots=True)
class Observed:
    """What one pour says of a value.

    Parameters
    ----------
    value : float
    groups : Groups
    at : datetime
        When it was poured.
    name : str
        What a maker calls the pour.
    noise : float
        Its standard deviation over the usual one's. [1]
    """

    value: float
    groups: Groups
    at: datetime
    name: str = ""
    noise: float = 1.0


@dataclass(frozen=True, slots=True)
class Outlier:
    """A pour that is far off what the others say, and for what part of a pour it counts."""

    name: str
    at: datetime
    value: float
    weight: float


@dataclass(frozen=True, slots=True)
class Pooled:
    """A value as pours taught it.

    Parameters
    ----------
    value, low, high : float
        Mean and the ends of its 90 % band.
    pours : int
        That stand behind it.
    since : datetime or None
        When the first of them was poured.
    moves : float
        By how much one more pour would move it, as a standard deviation.
    outliers : tuple of Outlier
    """

    value: float
    low: float
    high: float
    pours: int
    since: datetime | None
    moves: float
    outliers: tuple[Outlier, ...]


def pooled(prior: Prior, observed: Sequence[Observed], groups: Groups) -> Pooled:
    """Return what pours teach of the value of some groups.

    Parameters
    ----------
    prior : Prior
    observed : sequence of Observed
        Of any groups; those that share none with `groups` but the prior's mean teach nothing.
    groups : Groups
        Of which the value is wanted.

    Returns
    -------
    Pooled

    Notes
    -----
    y_i = m + sum over levels of u(level, group of i) + e_i with u ~ N(0, r_level^2) and e_i ~ N(0,
    s^2 v_i): for one s the value is normal in closed form. That s is not known for certain is
    integrated out on a grid, with a scaled inverse chi-square prior of `worth` degrees of freedom
    on s^2. A pour that is z > 2.5 standard deviations off what the others say counts for
    (2.5 / z)^4 of one, found by iteration (assumed).

    References
    ----------
    A. Gelman et al., Bayesian Data Analysis, 3rd ed. (2013), 5.4 (hierarchical normal model), 14.8
    (linear model with a conjugate prior). From memory.
    """
    model = _Model.of(prior, observed, groups)
    weights = _weights(model)
    told = model.told(weights)
    low, high = told.between(0.5 * (1.0 - BAND), 0.5 * (1.0 + BAND))
    outliers = tuple(
        Outlier(one.name, one.at, one.value, float(weight))
        for one, weight in zip(observed, weights, strict=True)
        if weight < _NAMED
    )
    return Pooled(
        told.mean, low, high, len(observed), min((one.at for one in observed), default=None),
        told.moves, outliers,
    )  # fmt: skip


@dataclass(frozen=True, slots=True, eq=False)
class _Told:
    """A posterior: a mixture of normals, one for each noise that may be.

    Parameters
    ----------
    shares, means, spreads, noises : (k,) float
    """

    shares: Floats
    means: Floats
    spreads: Floats
    noises: Floats

    @property
    def mean(self) -> float:
        return float(self.shares @ self.means)

    @property
    def moves(self) -> float:
        """By how much one more observation would move it, as a standard deviation."""
        gains = self.spreads**2 / np.hypot(self.spreads, self.noises)
        return float(self.shares @ gains)

    def between(self, low: float, high: float) -> tuple[float, float]:
        """Return two quantiles."""
        far = 8.0 * float(self.spreads.max())
        ends = float(self.means.min()) - far, float(self.means.max()) + far

        def off(at: float, share: float) -> float:
            return float(ndtr((at - self.means) / self.spreads) @ self.shares) - share

        return float(brentq(off, *ends, (low,))), float(brentq(off, *ends, (high,)))


@dataclass(frozen=True, slots=True, eq=False)
class _Model:
    """The covariances of what is observed, and of what is wanted with it.

    Parameters
    ----------
    prior : Prior
    off : (n,) float
        Observations less the prior's mean.
    common : (n, n) float
        What they have in common.
    noise : (n,) float
        Variance of each alone, over that of the prior's noise. [1]
    with_target : (n,) float
        With the value that is wanted.
    of_target : float
    """

    prior: Prior
    off: Floats
    common: Floats
    noise: Floats
    with_target: Floats
    of_target: float

    @classmethod
    def of(cls, prior: Prior, observed: Sequence[Observed], groups: Groups) -> "_Model":
        belong = [one.groups for one in observed]
        common = np.zeros((len(belong), len(belong)))
        with_target = np.zeros(len(belong))
        for level, spread in prior.spreads.items():
            # What belongs to nothing known has it to itself.
            names = np.array([one.get(level, f"own {at}") for at, one in enumerate(belong)])
            common += spread**2 * (names[:, None] == names[None, :])
            if level not in prior.nuisances:
                with_target += spread**2 * (names == groups.get(level, "own"))
        return cls(
            prior,
            np.array([one.value - prior.mean for one in observed]),
            common,
            np.array([one.noise**2 for one in observed]),
            with_target,
            math.fsum(s**2 for level, s in prior.spreads.items() if level not in prior.nuisances),
        )

    def told(self, weights: Floats) -> _Told:
        """Return what all observations say of the value that is wanted."""
        noises = self.prior.noise * _NOISES
        over = _NOISES**2
        likely = -0.5 * self.prior.worth * (np.log(over) + 1.0 / over)
        means, variances = np.full(len(over), self.prior.mean), np.full(len(over), self.of_target)
        if len(self.off) > 0:
            alone = (self.prior.noise**2 * over)[:, None] * self.noise / weights
            whole = self.common + alone[:, None, :] * np.eye(len(self.off))
            known = np.column_stack([self.off, self.with_target])
            solved = np.linalg.solve(whole, np.broadcast_to(known, (len(over), *known.shape)))
            # What counts for less is no sign of a smaller noise.
            size = np.linalg.slogdet(whole)[1] + np.log(weights).sum()
            likely -= 0.5 * (size + solved[:, :, 0] @ self.off)
            means += solved[:, :, 0] @ self.with_target
            variances -= solved[:, :, 1] @ self.with_target
        shares = np.exp(likely - likely.max())
        spreads = np.sqrt(np.maximum(variances, 1e-18))
        return _Told(shares / shares.sum(), means, spreads, noises)

    def residuals(self, weights: Floats) -> Floats:
        """Return how far off each is of what the others say, in standard deviations. (n,) [1]

        Of a pour as usual; where most are further off than that, of these.
        """
        noise = self.prior.noise**2 * self.noise
        inverse = np.linalg.inv(self.common + np.diag(noise / weights))
        own = np.diag(inverse)
        # At its full weight it would be off by as much, with less of a spread.
        spread = np.sqrt(1.0 / own + noise * (1.0 - 1.0 / weights))
        off = np.abs(inverse @ self.off / own) / spread
        return off / max(1.0, float(np.median(off)) / _MEDIAN)


def _weights(model: _Model) -> Floats:
    """Return for how much of a pour each observation counts. (n,) [1]"""
    if len(model.off) == 0:
        return np.ones(0)
    alone = np.sqrt(np.diag(model.common) + model.prior.noise**2 * model.noise)
    weights = _weight_of(np.abs(model.off - np.median(model.off)) / alone)
    for _ in range(_ROUNDS):
        before = weights
        weights = _weight_of(model.residuals(before))
        if np.allclose(weights, before, atol=0.01):
            break
    return weights


def _weight_of(off: Floats) -> Floats:
    return np.minimum(1.0, (_OUTLIER / np.maximum(off, 1e-9)) ** 4)
