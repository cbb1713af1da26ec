"""A resin as the liquid that coats a mould: thin film and puddle cure each in their own way."""

import numpy as np

from mildhusk.core.coating.coats import Liquid
from mildhusk.core.cure.model import CureAsked, cure, cure_model, viscosity
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.materials.casting_resin import CastingResin

PUDDLE_M = 0.008
"""How deep a pool is that rolls in a mould (assumed)."""
_POINTS = 600


def liquid_of(resin: CastingResin, asked: CureAsked, poured_s: float) -> Liquid:
    """Return a resin from the moment it is poured.

    Parameters
    ----------
    resin : CastingResin
    asked : CureAsked
        Its film is what the coat leaves.
    poured_s : float
        From the first contact of A and B to the pour. [s]

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
        resin.density_cured_kg_m3,
        t - poured_s,
        along(film.film.t_s, viscosity(model, film.film), film.gel_film_s),
        along(pool.film.t_s, viscosity(model, pool.film), pool.gel_film_s),
    )
