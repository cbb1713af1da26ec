"""The viscosity of a lot, from what the walls of a cast were read as: a fit over a few runs."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.polynomial import polynomial

from mildhusk.core.errors import InputError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.learning.lesson import Told

FACTORS = (0.5, 0.7, 1.0, 1.4, 2.0)
"""Of the data sheet's viscosity: a cast is simulated with each. [1]"""
FEWEST_READINGS = 5
_WIDEST, _STEPS = math.log(4.0), 401
_WHOLE, _READ, _VAGUE = 0.15, 0.12, 0.7
"""Standard deviations of ln(read / simulated) of a whole cast and of a place, and of ln(factor)
before anything was read (assumed). Of a place it is more than a caliper's: the simulated wall goes
by the viscosity in steps. With the mould's own deviation it is set so that the bands of nine
moulds hold (bench/learning.py; decision 0029)."""
_LEAST_TOLD = 0.25
"""Least precision of ln(factor) that one cast tells: that of a standard deviation of 2. [1]"""


def fitted_viscosity(walls_m: Floats, read_m: Sequence[float]) -> Told:
    """Return by how much a resin is more viscous than its data sheet says.

    Parameters
    ----------
    walls_m : (k, n) float
        Simulated at the places of the readings, with each of `FACTORS`. [m]
    read_m : sequence of n float
        [m]

    Returns
    -------
    Told
        The factor, and the standard deviation of its logarithm. [1]

    Raises
    ------
    InputError
        Too few readings, or places that stay dry.

    Notes
    -----
    Between the runs ln(wall) is the parabola nearest to them in ln(factor). That the whole cast is
    thicker or thinner is left out of it: loss and area do that too. Posterior mean and deviation
    on a grid.
    """
    if len(read_m) < FEWEST_READINGS:
        raise InputError(
            f"{len(read_m)} readings tell nothing of the viscosity; take {FEWEST_READINGS} or more."
        )
    if not (walls_m > 0.0).all():
        raise InputError("A place that was read stays dry in the simulation.")
    curves = polynomial.polyfit(np.log(FACTORS), np.log(walls_m), 2)
    at = np.linspace(-_WIDEST, _WIDEST, _STEPS)
    # Beyond the runs nothing is known; the parabola would turn round.
    within = np.clip(at, math.log(FACTORS[0]), math.log(FACTORS[-1]))
    off = np.log(np.asarray(read_m))[:, None] - polynomial.polyval(within, curves)
    whole = _READ**2 * np.eye(len(off)) + _WHOLE**2
    misfit = (off * np.linalg.solve(whole, off)).sum(axis=0) + (at / _VAGUE) ** 2
    weights = np.exp(-0.5 * (misfit - misfit.min()))
    weights /= weights.sum()
    mean = float(weights @ at)
    return Told(math.exp(mean), math.sqrt(float(weights @ (at - mean) ** 2)))


def told_alone(fitted: Told) -> Told:
    """Return what the readings of one cast say by themselves, to be pooled with other casts.

    Parameters
    ----------
    fitted : Told
        See `fitted_viscosity`.

    Returns
    -------
    Told
        Without what was vaguely known before: that is counted once for all casts, and not with
        each of them. Two normals of ln(factor) are divided. [1]
    """
    if fitted.noise is None:
        return fitted
    known = 1.0 / fitted.noise**2
    told = max(known - 1.0 / _VAGUE**2, _LEAST_TOLD)
    mean = math.log(fitted.value) * known / told
    return Told(math.exp(min(max(mean, -_WIDEST), _WIDEST)), 1.0 / math.sqrt(told))
