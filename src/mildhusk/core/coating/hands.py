"""Hands that turn an open mould with an eye on its rim."""

import math

import numpy as np
from numba import njit

from mildhusk.core.coating.flow import State, Surface, ground_of, would_spill
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.liquid import Liquid
from mildhusk.core.coating.motion import Motion
from mildhusk.core.coating.pools import Pools, add_pool, height, no_pools
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.geometry.mesh import Floats

_MOST_TILT, _TRIES = math.pi, 6
_LOOK_AHEAD_S = 2.0
"""How far ahead hands think of what runs (assumed). [s]"""
_MOST_DRIPS_1_S = 1e-4
"""Hands tilt back when more than this share drips over the rim (assumed). [1/s]"""


def running_film_m3(film_m: Floats, area_m2: Floats, pull_1_m_s: float) -> float:
    """Return how much of a film hands reckon to be at the low place soon.

    Parameters
    ----------
    film_m, area_m2 : (m,) float
        [m], [m^2]
    pull_1_m_s : float
        Weight of a volume over viscosity. [1/(m s)]

    Returns
    -------
    float
        [m^3]

    Notes
    -----
    Of each face the share that its film runs in the time hands look ahead, of the radius of a ball
    as large as the mould.
    """
    radius_m = math.sqrt(float(area_m2.sum()) / (4.0 * math.pi))
    run_m = pull_1_m_s / 3.0 * film_m**2 * _LOOK_AHEAD_S
    return float((film_m * area_m2) @ np.minimum(run_m / radius_m, 1.0))


class Hands:
    """Hands that turn an open mould as a pattern says, no further than it holds."""

    def __init__(self, motion: Motion, grid: CoatGrid, surface: Surface) -> None:
        self._motion, self._out, self._surface = motion, grid.out, surface
        self._trial, self._ground = no_pools(len(grid.area)), ground_of(surface)
        self._limit = 0.0

    def ups(self, at: Floats, state: State, pools: Pools, liquid: Liquid) -> Floats:
        """Return where up is at the next moments, with what is in the mould now. (n, 3)"""
        free, before = _MOST_TILT, self._limit
        if self._loses(at, state, pools, liquid, free):
            held = 0.0
            for _ in range(_TRIES):
                half = 0.5 * (held + free)
                loses = self._loses(at, state, pools, liquid, half)
                held, free = (held, half) if loses else (half, free)
            free = held
        self._limit = free
        # From where it was held to where it may be held now.
        limits = np.linspace(min(before, free), free, len(at) + 1)[1:]
        return self._motion.ups(self._out, at, limits)

    def _loses(self, at: Floats, state: State, pools: Pools, liquid: Liquid, limit: float) -> bool:
        """Whether something would run over the rim, were it tilted so far."""
        film_m3 = float(state.film @ self._surface.area)
        held_m3 = film_m3 + float(pools.volume[: pools.used[0]].sum())
        pull = liquid.density_kg_m3 * GRAVITY_M_S2 * float(liquid.fluidity(at[:1])[0])
        runs_m3 = running_film_m3(state.film, self._surface.area, pull)
        return any(
            _runs_out(self._ground, pools, self._trial, up, runs_m3) > 0.0
            or _drips(self._surface, state.film, up, pull) > _MOST_DRIPS_1_S * held_m3
            for up in self._motion.ups(self._out, at[[0, len(at) // 2, -1]], limit)
        )


@njit(cache=True)
def _runs_out(ground, pools, trial, up, film_m3):  # type: ignore[no-untyped-def]
    """Return what would run out with a direction of up, some film gathered at the low place."""
    trial.seed[:] = pools.seed
    trial.volume[:] = pools.volume
    trial.used[:] = pools.used
    ground.up[:] = up
    if film_m3 > 0.0:
        lowest, low_m = 0, np.inf
        for f in range(len(ground.area)):
            high_m = height(ground, f)
            if high_m < low_m:
                lowest, low_m = f, high_m
        add_pool(trial, lowest, film_m3)
    return would_spill(trial, ground, up)


@njit(cache=True)
def _drips(surface, film, up, pull):  # type: ignore[no-untyped-def]
    """Return how fast film runs over the open rims. [m^3/s]

    `pull` is the weight of a volume over viscosity [1/(m s)]; the flux of a film is that times its
    cube over three.
    """
    total = 0.0
    for edge in surface.rim_edge:
        f, k = edge // 3, edge % 3
        downhill = -(
            surface.across[k, 0, f] * up[0]
            + surface.across[k, 1, f] * up[1]
            + surface.across[k, 2, f] * up[2]
        )
        if downhill > 0.0:
            total += pull / 3.0 * film[f] ** 3 * downhill * surface.area[f]
    return total
