"""Hands that turn an open mould and watch its rim."""

import numpy as np

from mildhusk.core.coating.flow import Surface, ground_of, would_spill
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.motion import Motion
from mildhusk.core.coating.pools import Pools, add_pool, no_pools
from mildhusk.core.geometry.mesh import Floats

_MOST_TILT, _TRIES = float(np.pi), 6


class Hands:
    """Hands that see the rim: they tilt an open mould as the motion says, and stop in time."""

    def __init__(self, motion: Motion, grid: CoatGrid, surface: Surface) -> None:
        self.motion, self.out, self.surface = motion, grid.out, surface
        self.trial, self.ground = no_pools(len(grid.area)), ground_of(surface)
        self.limit = 0.0

    def ups(self, at: Floats, pools: Pools, film_m3: float) -> Floats:
        """Return where up is at the next moments, with what is in the mould now. (n, 3)"""
        free, before = _MOST_TILT, self.limit
        if self._spills(at, pools, film_m3, free):
            held = 0.0
            for _ in range(_TRIES):
                half = 0.5 * (held + free)
                spills = self._spills(at, pools, film_m3, half)
                held, free = (held, half) if spills else (half, free)
            free = held
        self.limit = free
        # From where it was held to where it may be held now.
        limits = np.linspace(min(before, free), free, len(at) + 1)[1:]
        return self.motion.ups(self.out, at, limits)

    def _spills(self, at: Floats, pools: Pools, film_m3: float, limit: float) -> bool:
        looked_at = at[[0, len(at) // 2, -1]]
        trial = self.trial
        for up in self.motion.ups(self.out, looked_at, limit):
            trial.seed[:], trial.volume[:] = pools.seed, pools.volume
            trial.used[:] = pools.used
            # All the film is taken to run to the low place.
            add_pool(trial, int(np.argmin(up @ self.surface.centre)), film_m3)
            if would_spill(trial, self.ground, up) > 0.0:
                return True
        return False
