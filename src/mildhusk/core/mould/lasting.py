"""How many casts a mould lasts: survival from a workshop's own moulds and a shipped prior."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from scipy.stats import gamma

SHAPE = 2.5
"""Of the Weibull law: a mould that has made many casts tears sooner (assumed). [1]"""
SURE = 0.8
"""A mould that lasts with a smaller chance than this wants another beside it (assumed). [1]"""
_WORTH = 2.0
"""What is expected of a mould is worth as many moulds that tore (assumed)."""


@dataclass(frozen=True, slots=True)
class WornMould:
    """A mould of the workshop: how many casts it made, expected of it, and whether it is worn out.

    Parameters
    ----------
    casts, expected : float
    ended : bool
        It is worn out; one in use, or retired whole, has lasted at least so long.
    """

    casts: float
    expected: float
    ended: bool


@dataclass(frozen=True, slots=True)
class Lasting:
    """How long moulds of a workshop last, by what was expected of each.

    Parameters
    ----------
    moulds, ended : int
        That stand behind it, and how many of them are worn out.
    worn, exposed : float
        Gamma posterior of the hazard: its shape and its rate, in lives^SHAPE. [1]
    """

    moulds: int
    ended: int
    worn: float
    exposed: float

    def chance(self, casts: float, more: float, expected: float) -> float:
        """Return the chance that a mould that made some casts makes so many more. [1]

        Parameters
        ----------
        casts, more : float
        expected : float
            Of the mould.

        Returns
        -------
        float
            The hazard integrated out (Lomax in the casts to the power of `SHAPE`). [1]
        """
        before, after = (casts / expected) ** SHAPE, ((casts + more) / expected) ** SHAPE
        return float((self.exposed / (self.exposed + after - before)) ** self.worn)

    def lasts(self, casts: float, expected: float, chance: float) -> float:
        """Return how many more casts it makes with a chance.

        Parameters
        ----------
        casts, expected, chance : float

        Returns
        -------
        float
        """
        beyond = self.exposed * (chance ** (-1.0 / self.worn) - 1.0)
        whole = (beyond + (casts / expected) ** SHAPE) ** (1.0 / SHAPE)
        return float(whole * expected - casts)

    def mean_life(self, expected: float) -> "LifeBand":
        """Return the mean life of such moulds."""
        rates = gamma.ppf([0.95, 0.5, 0.05], self.worn, scale=1.0 / self.exposed)
        low, middle, high = (expected * _mean(float(rate)) for rate in rates)
        return LifeBand(low, middle, high)


@dataclass(frozen=True, slots=True)
class LifeBand:
    """Low end, middle and high end of a life: 90 %. [casts]"""

    low: float
    middle: float
    high: float


def _mean(rate: float) -> float:
    """Return the mean of a Weibull law of a hazard rate, in lives. [1]"""
    return float(rate ** (-1.0 / SHAPE) * math.gamma(1.0 + 1.0 / SHAPE))


def lasting(moulds: Sequence[WornMould], worth: float = _WORTH) -> Lasting:
    """Return how long a workshop's moulds last.

    Parameters
    ----------
    moulds : sequence of WornMould
    worth : float
        Of how many worn-out moulds the prior is worth: that each lasts as expected. [1]

    Returns
    -------
    Lasting

    Notes
    -----
    Casts over what was expected follow a Weibull law of a fixed shape, and with that the hazard
    has a gamma posterior in closed form: each worn-out mould adds one to its shape, every mould
    its life to the power of `SHAPE` to its rate. A mould in use is censored.

    References
    ----------
    J. F. Lawless, Statistical Models and Methods for Lifetime Data, 2nd ed. (2003), 5.2; the gamma
    prior: A. Gelman et al., Bayesian Data Analysis, 3rd ed. (2013), 2.6. From memory.
    """
    ended = sum(one.ended for one in moulds)
    # A hazard with which the mean life is the expected one.
    prior_rate = math.gamma(1.0 + 1.0 / SHAPE) ** SHAPE
    exposed = math.fsum((one.casts / one.expected) ** SHAPE for one in moulds)
    return Lasting(len(moulds), ended, worth + ended, worth / prior_rate + exposed)


@dataclass(frozen=True, slots=True)
class MouldInUse:
    """A mould that a run casts in: its casts so far, and how many were expected of it."""

    casts: int
    expected: int


@dataclass(frozen=True, slots=True)
class Rotation:
    """How the casts of a run are shared among its moulds.

    Parameters
    ----------
    shares : tuple of int
        Casts of each mould still to make.
    chance : float
        That none of them wears out before. [1]
    next_mould_before : int or None
        Before which cast of those to come another mould should be ready; None where none needs be.
    """

    shares: tuple[int, ...]
    chance: float
    next_mould_before: int | None


def rotation(found: Lasting, moulds: Sequence[MouldInUse], casts: int, sure: float) -> Rotation:
    """Share the casts of a run among its moulds, the fittest first.

    Parameters
    ----------
    found : Lasting
    moulds : sequence of MouldInUse
    casts : int
        Still to make.
    sure : float
        With a smaller chance than this another mould is asked for. [1]

    Returns
    -------
    Rotation
        Each next cast goes into the mould with the best chance to make it.
    """
    shares, before, chance = [0] * len(moulds), None, 1.0
    for number in range(casts if moulds else 0):
        at = max(
            range(len(moulds)),
            key=lambda one: found.chance(moulds[one].casts + shares[one], 1, moulds[one].expected),
        )
        shares[at] += 1
        chance = math.prod(
            found.chance(mould.casts, share, mould.expected)
            for mould, share in zip(moulds, shares, strict=True)
        )
        if before is None and chance < sure:
            before = number + 1
    return Rotation(tuple(shares), chance, before)
