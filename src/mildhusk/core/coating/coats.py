"""Coats in a row: what each left on the wall, and what it looked like on its way."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np

from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.geometry.mesh import Flags, Floats


@dataclass(frozen=True, slots=True, eq=False)
class Moment:
    """What a coat looks like at a moment.

    Parameters
    ----------
    t_s : float
        [s]
    up : (3,) float
        Where up is, seen from the mould.
    liquid_m : (m,) float
        On every face, of this coat. [m]
    under : (m,) bool
        Faces under a pool.
    """

    t_s: float
    up: Floats
    liquid_m: Floats
    under: Flags


Watch = Callable[[Moment], None]


@dataclass(frozen=True, slots=True, eq=False)
class CoatRun:
    """One coat as it landed.

    Parameters
    ----------
    wall_m : (m,) float
        It added on every face. [m]
    wet : (m,) bool
        Faces that were ever wet.
    in_air : (m,) bool
        Faces that a bubble of trapped air kept dry.
    charge_kg, spilt_kg, pool_kg : float
        Poured; over the rim; in puddles, which is all that lies higher than one and a half times
        the coat's median.
    first_spill_s, all_wet_s, still_s : float or None
        When something first ran out, when everything was wet, when the last liquid stopped.
    mass_error : float
        Of what was poured, that the sum of wall, pool and spill is off by. [1]
    """

    wall_m: Floats
    wet: Flags
    in_air: Flags
    charge_kg: float
    spilt_kg: float
    pool_kg: float
    first_spill_s: float | None
    all_wet_s: float | None
    still_s: float | None
    mass_error: float


@dataclass(frozen=True, slots=True, eq=False)
class Coated:
    """A mould with its coats in it; `wall_m` is all of them together on every face. [m]"""

    grid: CoatGrid
    wall_m: Floats
    coats: tuple[CoatRun, ...] = field(default=())

    @classmethod
    def bare(cls, grid: CoatGrid) -> "Coated":
        """Nothing in it yet."""
        return cls(grid, np.zeros(len(grid.area)))

    def with_coat(self, run: "CoatRun") -> "Coated":
        """With one coat more."""
        return replace(self, wall_m=self.wall_m + run.wall_m, coats=(*self.coats, run))
