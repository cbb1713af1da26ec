"""A resin as a liquid whose viscosity rises until it gels: the deeper, the warmer and sooner."""

import math
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.integrate import cumulative_trapezoid

from mildhusk.core.cure.model import CureSetup, cure, cure_model, viscosity
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.materials.casting_resin import CastingResin

CURED_AT_M = (0.00025, 0.0005, 0.001, 0.002, 0.004, 0.008)
"""Depths at which the cure is solved; a puddle left behind ages as the deepest (assumed). [m]"""
_POINTS = 600


@dataclass(frozen=True, slots=True, eq=False)
class Liquid:
    """A liquid that sets, with an age that runs faster where it lies deep.

    Parameters
    ----------
    density_kg_m3 : float
        As it lies on the wall. [kg/m^3]
    age_s : (n,) float
        From the pour on, as a film of middling depth ages. [s]
    pa_s : (n,) float
        Viscosity at that age; infinite from gel on. [Pa s]
    depth_m, rate_factor : (k,) float
        How many times faster it ages so deep, from a thin film to a pool. [m], [1]

    Raises
    ------
    CoatingError
        A viscosity of nothing.
    """

    density_kg_m3: float
    age_s: Floats
    pa_s: Floats
    depth_m: Floats
    rate_factor: Floats
    _fluid: Floats = field(init=False, repr=False)
    """1 / viscosity at each age; nought from gel on. (n,) [1/(Pa s)]"""

    def __post_init__(self) -> None:
        if not np.all(self.pa_s > 0.0):
            raise CoatingError("A liquid without viscosity runs off at once.", "viscosity")
        fluid = np.where(np.isfinite(self.pa_s), 1.0 / self.pa_s, 0.0)
        object.__setattr__(self, "_fluid", fluid)

    @classmethod
    def alike(cls, density_kg_m3: float, age_s: Floats, pa_s: Floats) -> "Liquid":
        """Return one that ages alike however deep it lies."""
        return cls(density_kg_m3, age_s, pa_s, np.zeros(1), np.ones(1))

    def fluidity(self, age: Floats) -> Floats:
        """Return 1 / viscosity at ages; nought from gel on. [1/(Pa s)]"""
        return np.asarray(np.interp(age, self.age_s, self._fluid, right=0.0))

    def fluidity_left(self) -> Floats:
        """Return 1 / viscosity summed from each of the ages on until it gels. (n + 1,) [1/Pa]"""
        summed = cumulative_trapezoid(self.fluidity(self.age_s), self.age_s, initial=0.0)
        return np.append(summed[-1] - summed, 0.0)

    @property
    def puddle_rate_factor(self) -> float:
        """How many times faster a puddle ages."""
        return float(self.rate_factor[-1])

    @property
    def gels_at_s(self) -> float:
        """The age at gel. [s]"""
        last = np.flatnonzero(np.isfinite(self.pa_s))
        return float(self.age_s[min(last[-1] + 1, len(self.age_s) - 1)]) if len(last) else 0.0

    @property
    def sets_after_s(self) -> float:
        """From the pour until the last of it has gelled. [s]"""
        return self.gels_at_s / float(self.rate_factor.min())

    @property
    def puddle_sets_after_s(self) -> float:
        """From the pour until a puddle has gelled. [s]"""
        return self.gels_at_s / self.puddle_rate_factor


def liquid_of(
    resin: CastingResin, setup: CureSetup, poured_s: float, density_kg_m3: float | None = None
) -> Liquid:
    """Return a resin from the moment it is poured.

    Parameters
    ----------
    resin : CastingResin
    setup : CureSetup
        Its film is of middling depth: what the coat leaves on the mean.
    poured_s : float
        From the first contact of A and B to the pour. [s]
    density_kg_m3 : float or None
        As it lies on the wall, where something is mixed in. [kg/m^3]

    Returns
    -------
    Liquid
        Of the cured density, so that a wall weighs what it will.

    Notes
    -----
    From the pour on a depth takes as much longer or shorter at all ages as it does to gel.
    """
    film = cure(resin, setup)
    gels_s = max(film.gel_film_s - poured_s, 1.0)
    each = [cure(resin, replace(setup, film_m=depth)).gel_film_s for depth in CURED_AT_M]
    rate_factor = [gels_s / max(one - poured_s, 1.0) for one in each]
    fluidity = 1.0 / viscosity(cure_model(resin), film.film)
    age = np.linspace(0.0, math.ceil(1.02 * gels_s), _POINTS)
    fluid = np.interp(age + poured_s, film.film.t_s, fluidity, right=0.0)
    fluid[age >= gels_s] = 0.0
    with np.errstate(divide="ignore"):
        pa_s = 1.0 / fluid
    return Liquid(
        density_kg_m3 or resin.density_cured_kg_m3, age, pa_s, np.array(CURED_AT_M),
        np.array(rate_factor),
    )  # fmt: skip
