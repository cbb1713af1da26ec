"""Coats in a row: each poured, turned and set; the wall they leave."""

from dataclasses import dataclass, field, replace

import numpy as np

from mildhusk.core.coating.flow import MOST_POOLS, run_coat, set_pools
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.motion import Motion
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Flags, Floats
from mildhusk.core.geometry.sections import square_to
from mildhusk.core.progress import Tell, silent

STEP_S = 0.1
"""Between two places of the turning mould."""
_CHUNK = 50
_ROOM_AT_RIM = 1.2
"""Hands keep so much more room under the rim than the charge takes (assumed)."""
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
class CoatRun:
    """One coat as it landed.

    Parameters
    ----------
    wall_m : (m,) float
        It added on every face. [m]
    wet : (m,) bool
        Faces that were ever wet.
    charge_kg, spilt_kg, pool_kg : float
        Poured; over the rim; what set as a pool.
    first_spill_s, all_wet_s, still_s : float or None
        When something first ran out, when everything was wet, when the last liquid stopped.
    mass_error : float
        Of what was poured, that the sum of wall, pool and spill is off by. [1]
    """

    wall_m: Floats
    wet: Flags
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
    motion = motion.held_to(_held_tilt(grid, volume))
    steps = max(1, int(np.ceil(liquid.sets_after_s / step_s)))
    at = np.asarray((np.arange(steps) + 0.5) * step_s, dtype=np.float64)
    ups = motion.ups(grid.out, at)
    film_flows, pool_flows = liquid.fluidity(at)
    count = len(grid.area)
    film = np.zeros(count)
    seeds, volumes = np.zeros(MOST_POOLS, np.int64), np.zeros(MOST_POOLS)
    seeds[0] = int(np.argmin(grid.centre @ ups[0]))
    volumes[0] = volume
    label = np.full(count, -1, np.int64)
    wet = np.zeros(count, dtype=np.bool_)
    tally = np.array([0.0, -1.0, -1.0, -1.0])
    many = 1
    for begin in range(0, steps, _CHUNK):
        end = min(begin + _CHUNK, steps)
        many = run_coat(
            grid.centre, grid.normal, grid.area, grid.neighbour, grid.edge_m, grid.along,
            grid.rim_place, mould.wall_m, film, seeds, volumes, many, label, ups, step_s,
            film_flows, pool_flows, liquid.density_kg_m3, begin, end, wet, grid.lid, tally,
        )  # fmt: skip
        _refuse_if_poured_out(tally, volume, liquid, end * step_s)
        tell(end / steps, f"{end * step_s:.0f} s of {steps * step_s:.0f} s")
    pooled = set_pools(
        grid.centre, grid.normal, grid.area, grid.neighbour, grid.rim_place, mould.wall_m, seeds,
        volumes, many, label, ups[-1],
    )  # fmt: skip
    wall = film + pooled
    on_wall = float((film * grid.area).sum())
    in_pool = float((pooled * grid.area).sum())
    spilt = float(tally[0])
    run = CoatRun(
        wall_m=wall,
        wet=wet,
        charge_kg=charge_kg,
        spilt_kg=spilt * liquid.density_kg_m3,
        pool_kg=in_pool * liquid.density_kg_m3,
        first_spill_s=_moment(tally[1]),
        all_wet_s=_moment(tally[2]),
        still_s=_moment(tally[3]),
        mass_error=abs(on_wall + in_pool + spilt - volume) / volume,
    )
    return replace(mould, wall_m=mould.wall_m + wall, coats=(*mould.coats, run))


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
    film = np.array(film_m, dtype=np.float64)
    at = np.asarray((np.arange(len(ups)) + 0.5) * step_s, dtype=np.float64)
    film_flows, _ = liquid.fluidity(at)
    tally = np.array([0.0, -1.0, -1.0, -1.0])
    count = len(grid.area)
    run_coat(
        grid.centre, grid.normal, grid.area, grid.neighbour, grid.edge_m, grid.along,
        grid.rim_place, np.zeros(count), film, np.zeros(1, np.int64), np.zeros(1), 0,
        np.full(count, -1, np.int64), ups, step_s, film_flows, np.zeros(len(ups)),
        liquid.density_kg_m3, 0, len(ups), np.zeros(count, dtype=np.bool_), grid.lid, tally,
    )  # fmt: skip
    return film, float(tally[0])


def _moment(seconds: float) -> float | None:
    return None if seconds < 0.0 else float(seconds)


def _held_tilt(grid: CoatGrid, volume: float) -> float:
    """How far the mould can be tilted to any side before a volume reaches its rim. [rad]"""
    if not grid.is_open:
        return float(np.pi)
    aside, across = square_to(grid.out)
    low, high = 0.0, 0.5 * np.pi
    for _ in range(12):
        half = 0.5 * (low + high)
        ups = (
            np.cos(half) * grid.out
            - np.sin(half) * (np.cos(round_) * aside + np.sin(round_) * across)
            for round_ in np.linspace(0.0, 2.0 * np.pi, 8, endpoint=False)
        )
        if min(_holds_m3(grid, up) for up in ups) > _ROOM_AT_RIM * volume:
            low = half
        else:
            high = half
    return low


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
    if tally[0] > _RUNS_OUT * volume and at_s <= _RUNS_OUT_WITHIN_S:
        spilt_g = tally[0] * liquid.density_kg_m3 * 1e3
        raise CoatingError(
            f"{spilt_g:.0f} g of {volume * liquid.density_kg_m3 * 1e3:.0f} g run out over the rim "
            f"within {at_s:.0f} s, from {tally[1]:.0f} s on: close the opening with a lid, or take "
            "a motion that keeps it up.",
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
