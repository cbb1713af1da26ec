"""Coats in a row: each poured, turned and set; the wall they leave."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from mildhusk.core.coating.flow import (
    ALL_WET,
    FIRST_SPILL,
    SPILT,
    STILL,
    State,
    Surface,
    dry,
    new_ground,
    run_coat,
    set_pools,
    would_spill,
)
from mildhusk.core.coating.grid import NO_FACE, CoatGrid
from mildhusk.core.coating.motion import Motion
from mildhusk.core.coating.pools import Pools, add_pool, no_pools
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Flags, Floats
from mildhusk.core.progress import Tell, silent

STEP_S = 0.1
"""Between two places of the turning mould."""
_TOLD_EVERY_S = 1.0
_MOST_TILT, _TRIES = float(np.pi), 6
_RUNS_OUT = 0.5
_RUNS_OUT_WITHIN_S = 20.0


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

    @property
    def sets_after_s(self) -> float:
        """From the pour until the last of it has gelled. [s]"""
        liquid = np.isfinite(self.film_pa_s) | np.isfinite(self.pool_pa_s)
        last = np.flatnonzero(liquid)
        return float(self.t_s[min(last[-1] + 1, len(self.t_s) - 1)]) if len(last) else 0.0


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
        Poured; over the rim; what set as a pool.
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


def add_coat(
    mould: Coated,
    liquid: Liquid,
    charge_kg: float,
    motion: Motion,
    *,
    step_s: float = STEP_S,
    tell: Tell = silent,
    watch: Watch | None = None,
) -> Coated:
    """Pour a charge, turn the mould until it has set, and return what is in it then.

    Parameters
    ----------
    mould : Coated
    liquid : Liquid
    charge_kg : float
        [kg]
    motion : Motion
    step_s : float
        Between two places of the mould. [s]
    tell : callable
        Is told the progress of this coat.
    watch : callable or None
        Is shown the coat once a second.

    Returns
    -------
    Coated

    Raises
    ------
    CoatingError
        A charge that is nothing or more than fits, a motion that pours it out.

    Notes
    -----
    The pool is level at every moment and gives the faces that leave it the film that their speed
    draws out; on the wall a film runs down by its weight against its viscosity (lubrication, upwind
    finite volumes). Surface tension and inertia are left out.

    References
    ----------
    B. V. Deryagin, Acta Physicochimica URSS 20 (1945) 349 (the film withdrawn against gravity); H.
    Jeffreys, Proc. Cambridge Phil. Soc. 26 (1930) 204 (draining). Both from memory.
    """
    grid = mould.grid
    volume = charge_kg / liquid.density_kg_m3
    if not 0.0 < volume < np.inf:
        raise CoatingError("The charge is nothing; pour something.", "grams")
    holds = _holds_m3(grid) - float((mould.wall_m * grid.area).sum())
    if volume > holds:
        raise CoatingError(
            f"The charge is {volume * 1e6:,.0f} ml and the mould holds "
            f"{max(holds, 0.0) * 1e6:,.0f} ml; pour less.",
            "grams",
        )
    until = np.arange(1, max(1, int(np.ceil(liquid.sets_after_s / step_s))) + 1) * step_s
    steps, last_s = len(until), float(until[-1])
    at = until - 0.5 * np.diff(until, prepend=0.0)
    ups = motion.ups(grid.out, at)
    film_flows, pool_flows = liquid.fluidity(at)
    surface = surface_of(grid, mould.wall_m)
    state, pools, ground = dry(len(grid.area)), no_pools(len(grid.area)), new_ground(surface)
    add_pool(pools, int(np.argmin(grid.centre @ ups[0])), volume)
    hands = _Hands(motion, grid, surface) if motion.by_hand and grid.is_open else None
    # A puddle cures warmer, and sets before the film; what runs together later stays liquid as
    # long as that.
    setting = np.flatnonzero(pool_flows <= 0.0)
    sets_at = int(setting[0]) if len(setting) else steps
    pool_flows[sets_at:] = film_flows[sets_at:]
    pooled = np.zeros(len(grid.area))
    told = np.searchsorted(until, np.arange(0.0, last_s, _TOLD_EVERY_S))
    for begin, end in pairwise(sorted({*told.tolist(), sets_at, steps})):
        if hands is not None:
            ups[begin:end] = hands.ups(at[begin:end], pools, float(state.film @ grid.area))
        if begin == sets_at:
            pooled += set_pools(surface, pools, ground, ups[begin])
        run_coat(
            surface, state, pools, ground, ups, until, film_flows, pool_flows,
            liquid.density_kg_m3, begin, end,
        )  # fmt: skip
        now_s = float(until[end - 1])
        _refuse_if_poured_out(state.tally, volume, liquid, now_s)
        if watch is not None:
            watch(_moment_of(now_s, ups[end - 1], grid, state, pools, pooled))
        tell(now_s / last_s, f"{now_s:.0f} s of {last_s:.0f} s")
    pooled += set_pools(surface, pools, ground, ups[-1])
    on_wall = float(state.film @ grid.area)
    in_pool = float(pooled @ grid.area)
    spilt = float(state.tally[SPILT])
    run = CoatRun(
        wall_m=state.film + pooled,
        wet=state.wet,
        in_air=state.air & ~state.wet,
        charge_kg=charge_kg,
        spilt_kg=spilt * liquid.density_kg_m3,
        pool_kg=in_pool * liquid.density_kg_m3,
        first_spill_s=_when(state.tally[FIRST_SPILL]),
        all_wet_s=_when(state.tally[ALL_WET]),
        still_s=_when(state.tally[STILL]),
        mass_error=abs(on_wall + in_pool + spilt - volume) / volume,
    )
    return replace(mould, wall_m=mould.wall_m + run.wall_m, coats=(*mould.coats, run))


def surface_of(grid: CoatGrid, solid_m: Floats) -> Surface:
    """Return a grid with what has set on it, as the flow needs it."""
    rim = grid.neighbour == NO_FACE
    rim_face, rim_edge = np.nonzero(rim)
    return Surface(
        centre=grid.centre,
        normal=grid.normal,
        area=grid.area,
        neighbour=grid.neighbour.astype(np.int32),
        down=np.where(rim, len(grid.area), grid.neighbour).astype(np.int32),
        across=(grid.along * grid.edge_m[:, :, None]).astype(np.float32),
        rim_place=grid.rim_place,
        rim_face=rim_face,
        rim_edge=rim_edge,
        solid=solid_m,
        lid=grid.lid,
    )


def _moment_of(
    t_s: float, up: Floats, grid: CoatGrid, state: State, pools: Pools, set_m: Floats
) -> Moment:
    """Return what a coat looks like now: film, set puddles, and pools by their depth."""
    under = pools.label >= 0
    # Under a pool as deep as there is liquid over the face, seen along its normal.
    deep = np.where(under, state.depth * np.abs(grid.normal @ up), 0.0)
    return Moment(t_s, up.copy(), state.film + set_m + deep, under)


def run_film(
    grid: CoatGrid, film_m: Floats, liquid: Liquid, ups: Floats, step_s: float = STEP_S
) -> tuple[Floats, float]:
    """Let a film that is there already run on a turning face, without a pool.

    Parameters
    ----------
    grid : CoatGrid
    film_m : (m,) float
        [m]
    liquid : Liquid
    ups : (n, 3) float
        Where up is at each step.
    step_s : float
        [s]

    Returns
    -------
    film : (m,) float
        Afterwards. [m]
    dripped_m3 : float
        Over open rims. [m^3]
    """
    at = np.asarray((np.arange(len(ups)) + 0.5) * step_s, dtype=np.float64)
    film_flows, _ = liquid.fluidity(at)
    surface = surface_of(grid, np.zeros(len(grid.area)))
    state = dry(len(grid.area))
    state.film[:] = film_m
    run_coat(
        surface, state, no_pools(len(grid.area)), new_ground(surface), ups, at + 0.5 * step_s,
        film_flows, np.zeros(len(ups)), liquid.density_kg_m3, 0, len(ups),
    )  # fmt: skip
    return state.film, float(state.tally[SPILT])


def _when(seconds: float) -> float | None:
    return None if seconds < 0.0 else float(seconds)


class _Hands:
    """Hands that see the rim: they tilt an open mould as the motion says, and stop in time."""

    def __init__(self, motion: Motion, grid: CoatGrid, surface: Surface) -> None:
        self.motion, self.out, self.surface = motion, grid.out, surface
        self.trial, self.ground = no_pools(len(grid.area)), new_ground(surface)
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
            trial.many[:] = pools.many
            # All the film is taken to run to the low place.
            add_pool(trial, int(np.argmin(self.surface.centre @ up)), film_m3)
            if would_spill(self.surface, trial, self.ground, up) > 0.0:
                return True
        return False


def _holds_m3(grid: CoatGrid, up: Floats | None = None) -> float:
    """What the mould holds to its rim; with its opening up where nothing else is said."""
    up = grid.out if up is None else up
    height = grid.centre @ up
    weight = -(grid.normal @ up) * grid.area
    rim = grid.neighbour < 0
    if not rim.any():
        # All of it, by the divergence theorem.
        return abs(float((grid.centre * grid.normal).sum(axis=1) @ grid.area) / 3.0)
    level = float((grid.rim_place[rim] @ up).min())
    below = height < level
    return max(float((weight * (level - height))[below].sum()), 0.0)


def _refuse_if_poured_out(tally: Floats, volume: float, liquid: Liquid, at_s: float) -> None:
    if tally[SPILT] > _RUNS_OUT * volume and at_s <= _RUNS_OUT_WITHIN_S:
        spilt_g = tally[SPILT] * liquid.density_kg_m3 * 1e3
        raise CoatingError(
            f"{spilt_g:.0f} g of {volume * liquid.density_kg_m3 * 1e3:.0f} g run out over the rim "
            f"within {at_s:.0f} s, from {tally[FIRST_SPILL]:.0f} s on: close the opening with a "
            "lid, or take a motion that keeps it up.",
            "motion",
        )


@dataclass(frozen=True, slots=True)
class WallFigures:
    """What a wall comes to, by area, without lids. [m], [1], [kg]"""

    mean_m: float
    p05_m: float
    p50_m: float
    p95_m: float
    min_m: float
    max_m: float
    under_target: float
    cast_kg: float


def wall_figures(grid: CoatGrid, wall_m: Floats, target_m: float, density: float) -> WallFigures:
    """Return mean, percentiles by area and the share of the face under a target.

    Parameters
    ----------
    grid : CoatGrid
    wall_m : (m,) float
        [m]
    target_m : float
        [m]
    density : float
        [kg/m^3]
    """
    on_face = ~grid.lid
    wall, area = wall_m[on_face], grid.area[on_face]
    order = np.argsort(wall)
    share = (np.cumsum(area[order]) - 0.5 * area[order]) / area.sum()

    def percentile(part: float) -> float:
        return float(np.interp(part, share, wall[order]))

    return WallFigures(
        mean_m=float((wall * area).sum() / area.sum()),
        p05_m=percentile(0.05),
        p50_m=percentile(0.5),
        p95_m=percentile(0.95),
        min_m=float(wall.min()),
        max_m=float(wall.max()),
        under_target=float(area[wall < target_m].sum() / area.sum()),
        cast_kg=float((wall * area).sum() * density),
    )


def centre_of_mass(grid: CoatGrid, wall_m: Floats) -> Floats:
    """Return the centre of mass of a wall, (3,). [m]"""
    mass = np.where(grid.lid, 0.0, wall_m * grid.area)
    middle = grid.centre - 0.5 * wall_m[:, None] * grid.normal
    return np.asarray((middle * mass[:, None]).sum(axis=0) / max(mass.sum(), 1e-300))
