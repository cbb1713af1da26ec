"""A resin as the liquid that coats a mould: thin film and puddle cure each in their own way."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.cure.model import CureAsked, cure, cure_model, viscosity
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.materials.casting_resin import CastingResin

PUDDLE_M = 0.008
"""How deep a pool is that rolls in a mould (assumed)."""
_POINTS = 600


@dataclass(frozen=True, slots=True, eq=False)
class Liquid:
    """A liquid that sets.

    Parameters
    ----------
    density_kg_m3 : float
        As it lies on the wall. [kg/m^3]
    t_s, film_pa_s, pool_pa_s : (n,) float
        Viscosity of a thin film and of a pool from the pour on; infinite from gel on. [s], [Pa s]
    """

    density_kg_m3: float
    t_s: Floats
    film_pa_s: Floats
    pool_pa_s: Floats

    def __post_init__(self) -> None:
        for values in (self.film_pa_s, self.pool_pa_s):
            if not np.all(values > 0.0):
                raise CoatingError("A liquid without viscosity runs off at once.", "viscosity")

    def fluidity(self, at: Floats) -> tuple[Floats, Floats]:
        """Return 1 / viscosity of film and pool at moments; nought from gel on. [1/(Pa s)]"""
        made = []
        for values in (self.film_pa_s, self.pool_pa_s):
            flows = np.where(np.isfinite(values), 1.0 / values, 0.0)
            made.append(np.interp(at, self.t_s, flows, right=0.0))
        return made[0], made[1]

    def flows_on(self, from_s: float) -> float:
        """Return 1 / viscosity of the film summed over time from a moment until it gels. [1/Pa]"""
        later = self.t_s >= from_s
        flows, _ = self.fluidity(self.t_s[later])
        return float(np.trapezoid(flows, self.t_s[later]))

    @property
    def sets_after_s(self) -> float:
        """From the pour until the last of it has gelled. [s]"""
        return max(self._until(self.film_pa_s), self.puddle_sets_after_s)

    @property
    def puddle_sets_after_s(self) -> float:
        """From the pour until a puddle has gelled. [s]"""
        return self._until(self.pool_pa_s)

    def _until(self, viscosity: Floats) -> float:
        last = np.flatnonzero(np.isfinite(viscosity))
        return float(self.t_s[min(last[-1] + 1, len(self.t_s) - 1)]) if len(last) else 0.0


def liquid_of(
    resin: CastingResin, asked: CureAsked, poured_s: float, density_kg_m3: float | None = None
) -> Liquid:
    """Return a resin from the moment it is poured.

    Parameters
    ----------
    resin : CastingResin
    asked : CureAsked
        Its film is what the coat leaves.
    poured_s : float
        From the first contact of A and B to the pour. [s]
    density_kg_m3 : float or None
        As it lies on the wall, where something is mixed in. [kg/m^3]

    Returns
    -------
    Liquid
        Of the cured density, so that a wall weighs what it will.
    """
    model = cure_model(resin)
    film = cure(resin, asked)
    pool = cure(resin, CureAsked(asked.mass_kg, asked.room_k, asked.mould_k, asked.parts_k,
                                 PUDDLE_M, asked.catalyst))  # fmt: skip
    last = max(film.gel_film_s, pool.gel_film_s)
    t = np.linspace(poured_s, max(1.02 * last, poured_s + 1.0), _POINTS)

    def along(times: Floats, values: Floats, gel_s: float) -> Floats:
        flows = np.where(np.isfinite(values), 1.0 / values, 0.0)
        fluid = np.interp(t, times, flows, right=0.0)
        return np.where((t < gel_s) & (fluid > 0.0), 1.0 / np.maximum(fluid, 1e-12), np.inf)

    return Liquid(
        density_kg_m3 or resin.density_cured_kg_m3,
        t - poured_s,
        along(film.film.t_s, viscosity(model, film.film), film.gel_film_s),
        along(pool.film.t_s, viscosity(model, pool.film), pool.gel_film_s),
    )
