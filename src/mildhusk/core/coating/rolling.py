"""A coat in progress: film and pools on a mould that is turned, interval by interval."""

import math
from collections.abc import Callable
from copy import copy
from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from mildhusk.core.coating.coats import Coated, CoatRun, Moment
from mildhusk.core.coating.figures import puddle_m3
from mildhusk.core.coating.flow import (
    ALL_WET,
    FIRST_SPILL,
    ORDERED,
    SPILT,
    STILL,
    Surface,
    clock_of,
    dry,
    ground_of,
    liquid_on,
    run_coat,
    set_pools,
    workspace_for,
)
from mildhusk.core.coating.grid import NO_FACE, CoatGrid
from mildhusk.core.coating.hands import Hands
from mildhusk.core.coating.liquid import Liquid
from mildhusk.core.coating.motion import Motion
from mildhusk.core.coating.pools import add_pool, no_pools
from mildhusk.core.coating.turning import Pour
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Flags, Floats

UpsAt = Callable[[Floats], Floats]
"""Gives where up is at (n,) moments [s]: (n, 3) unit vectors, seen from the mould."""
STEP_S = 0.1
"""Time step of the flow at the usual edge length, and of the mould's turning. [s]"""
POOL_S, _FILM_S, _FOLLOWED = 0.1, 1.0, 3600
"""Shortest intervals of a coat that is followed: while any stands in a pool, and when none does
[s]; and about how many a slow coat has at most. [1]"""
TOLD_EVERY_S, _MOMENTS, _SELDOM_S = 1.0, 120, 8.0
"""A coat is reported, and can be stopped, this often [s]; a long one so many times, but at least
this often. [s]"""
_FITS_M = 0.0045
"""Edge length to which STEP_S belongs; finer faces take shorter steps in proportion. [m]"""
_DISPLACEMENT_M, _COURANT, _MAX_RATIO = 0.0016, 0.4, 10.0
"""Once no pool is left, a time step lets the film move by this [m], or by this share of an edge if
that is more; it is at most so many times STEP_S."""
_FORGETS = 5.0
"""The film's first distribution is forgotten when the way it has yet to run exceeds so many times
the square root of the mould's area (assumed)."""
_LEAST_POOL_M = 0.001
"""A shallower pool is treated as film, however slowly the wall moves (assumed). [m]"""
RIM_BAND_M = 0.03
"""Width of the band on which a charge poured round the rim lands (assumed). [m]"""
RIM_FILM_M = 0.0015
"""Thickest film that stays on that band at first; the rest runs down at once (assumed). [m]"""
_RUNS_OUT, _RUNS_OUT_WITHIN_S = 0.5, 20.0
"""A motion that spills this share of the charge within this time is given up. [1], [s]"""


class Rolling:
    """A coat in progress, advanced interval by interval.

    Parameters
    ----------
    mould, liquid, charge_kg, motion, step_s, pour
        As for `add_coat`, and refused alike.
    """

    def __init__(
        self,
        mould: Coated,
        liquid: Liquid,
        charge_kg: float,
        motion: Motion,
        step_s: float = STEP_S,
        pour: Pour = Pour.RIM,
    ) -> None:
        grid = mould.grid
        self.mould, self.liquid, self._motion, self._step_s = mould, liquid, motion, step_s
        self._pour, self.most_step_s = pour, math.inf
        self.charge_kg, self._volume = charge_kg, charge_kg / liquid.density_kg_m3
        if not 0.0 < self._volume < np.inf:
            raise CoatingError("The charge is nothing; pour something.", "grams")
        holds = _holds_m3(grid) - float((mould.wall_m * grid.area).sum())
        if self._volume > holds:
            raise CoatingError(
                f"The charge is {self._volume * 1e6:,.0f} ml and the mould holds "
                f"{max(holds, 0.0) * 1e6:,.0f} ml; pour less.",
                "grams",
            )
        faces = len(grid.area)
        self.now_s, self.sets_s = 0.0, max(liquid.sets_after_s, step_s)
        self._surface = surface_of(grid, mould.wall_m)
        self._area_m2 = float(grid.area.sum())
        self.state, self.pools = dry(faces), no_pools(faces)
        self._clock, self._left = clock_of(liquid), liquid.fluidity_left()
        self._longest_s: float | None = None
        self._ground, self._work = ground_of(self._surface), workspace_for(faces)
        self._up = motion.ups(grid.out, np.zeros(1))[0]
        rest = self._volume
        if pour is Pour.RIM and grid.is_open:
            band = along_rim(grid)
            film_m = min(self._volume / float(grid.area[band].sum()), RIM_FILM_M)
            self.state.film[band] = film_m
            rest -= film_m * float(grid.area[band].sum())
        if rest > 0.0:
            add_pool(self.pools, int(np.argmin(grid.centre @ self._up)), rest)
        held = motion.by_hand and not motion.is_by_eye and grid.is_open
        self._hands = Hands(motion, grid, self._surface) if held else None
        # Hands look at the rim every time.
        seldom_s = min(max(self.sets_s / _MOMENTS, TOLD_EVERY_S), _SELDOM_S)
        self.every_s = TOLD_EVERY_S if held else seldom_s

    @property
    def has_set(self) -> bool:
        """Whether all of it has gelled."""
        return self.now_s >= self.sets_s

    def go_on(self) -> None:
        """Advance by one interval, or until something sets.

        Raises
        ------
        CoatingError
            Most of it runs out.
        """
        until_s = self.next_s
        while self.now_s < until_s:
            if self._motion.is_recorded:
                self._advance(self._ups, self._followed_s)
            else:
                self.advance(self._ups, until_s)
        _refuse_if_poured_out(self.state.tally, self._volume, self.liquid, self.now_s)

    @property
    def next_s(self) -> float:
        """When the interval ends that begins now. [s]"""
        whole = math.floor(self.now_s / self.every_s + 1.0 + 1e-9) * self.every_s
        return min(whole, self.sets_s)

    def follow(self, ups_at: UpsAt, until_s: float) -> None:
        """Advance by whole short intervals, as far as they end by a moment.

        They are the same while it is rolled in a tray and when it is simulated from how that was
        recorded, so the wall is too, however often the tray is told how it is held.

        Parameters
        ----------
        ups_at, until_s
            See `advance`.
        """
        while not self.has_set and (next_s := self._followed_s) <= until_s + 1e-9:
            self._advance(ups_at, next_s)

    @property
    def _followed_s(self) -> float:
        """When the short interval ends that begins now; it hangs on the coat alone. [s]"""
        every_s = self.sets_s / _FOLLOWED
        if self.is_pooled:
            every_s = max(POOL_S, min(every_s, self._step()))
        else:
            every_s = max(_FILM_S, every_s)
        return min(self.now_s + every_s, self.sets_s)

    def advance(self, ups_at: UpsAt, until_s: float) -> None:
        """Advance to a moment.

        Parameters
        ----------
        ups_at : callable
            Gives where up is at (n,) moments [s], as (n, 3) unit vectors.
        until_s : float
            [s]
        """
        # Forks stand elsewhere by turns: the order in the workspace may be another's.
        self.state.tally[ORDERED] = -1.0
        self._advance(ups_at, until_s)

    def _advance(self, ups_at: UpsAt, until_s: float) -> None:
        lasts = until_s - self.now_s
        count = max(1, math.ceil(lasts / self._step() - 1e-9))
        at = self.now_s + lasts * _middles(count)
        # Within a long step the film sees the mean of gravity; pools are levelled more often.
        levels = max(int(lasts / count / STEP_S + 1e-9), 1)
        ups = ups_at(self.now_s + lasts * _middles(count * levels))
        run_coat(
            self._surface, self.state, self.pools, self._ground, self._work,
            ups.reshape(count, levels, 3), self.now_s, lasts / count, self._clock,
            self._least_pool_m(ups, at, lasts / len(ups)), self.liquid.density_kg_m3,
        )  # fmt: skip
        self.stand_at(until_s, ups[-1])

    def _ups(self, stands: Floats) -> Floats:
        """Return where up is, as the motion has it and the rim allows. (n, 3)"""
        if self._hands is None:
            return self._motion.ups(self.mould.grid.out, stands)
        return self._hands.ups(stands, self.state, self.pools, self.liquid)

    def in_mould(self, mould: Coated, charge_kg: float, step_s: float) -> "Rolling":
        """Return the same pour in another mould, from its start."""
        return Rolling(mould, self.liquid, charge_kg, self._motion, step_s, self._pour)

    def fork(self) -> "Rolling":
        """Return another that is where this one is and goes its own way."""
        fork = copy(self)
        faces = len(self._surface.area)
        fork.state, fork.pools = dry(faces), no_pools(faces)
        fork._ground, fork._work = ground_of(self._surface), workspace_for(faces)
        fork.go_to(self)
        return fork

    def go_to(self, other: "Rolling") -> None:
        """Go to where another fork of the same coat is."""
        for own, its in zip((*self.state, *self.pools), (*other.state, *other.pools), strict=True):
            own[...] = its
        self.stand_at(other.now_s, other._up)

    def stand_at(self, now_s: float, up: Floats) -> None:
        """Stand at a moment, held in a way; the state is what it was given. [s], (3,)"""
        self.now_s, self._up, self._longest_s = now_s, up, None

    @property
    def lasting(self) -> tuple[NDArray[np.generic], ...]:
        """The arrays that a followed coat needs to go on to the last bit, beside `stand_at`."""
        return (*self.state, *self.pools.lasting, *self._work.lasting)

    @property
    def up(self) -> Floats:
        """Where up was in the last time step, seen from the mould, (3,)."""
        return np.asarray(self._up)

    @property
    def spilt_share(self) -> float:
        """What has run over the rim, of the charge. [1]"""
        return float(self.state.tally[SPILT]) / self._volume

    @property
    def mean_m(self) -> float:
        """What the charge comes to where it lies evenly. [m]"""
        return self._volume / self._area_m2

    @property
    def is_pooled(self) -> bool:
        """Whether any liquid stands in a pool."""
        return bool(self.pools.used[0] > 0)

    @property
    def film_speed_m_s(self) -> float:
        """How fast a film as thick as the mean of all runs down a wall now. [m/s]"""
        film_m = float(self.state.film @ self._surface.area) / self._area_m2
        fluidity = float(self.liquid.fluidity(np.array([self.now_s]))[0])
        return self.liquid.density_kg_m3 * GRAVITY_M_S2 * film_m**2 * fluidity

    def _step(self) -> float:
        if self._longest_s is None:
            self._longest_s = self._longest_step_s()
        return min(self._longest_s, self.most_step_s)

    def _longest_step_s(self) -> float:
        """Return the longest time step now. [s]

        Shorter on finer faces; twice as long while the first distribution will be forgotten; long
        once only a slow film is left.
        """
        wide_m = math.sqrt(self._area_m2 / len(self._surface.area))
        step_s = self._step_s * min(wide_m / _FITS_M, 1.0)
        pull = self.liquid.density_kg_m3 * GRAVITY_M_S2
        if self.is_pooled:
            runs_on_m = pull * (self._volume / self._area_m2) ** 2
            runs_on_m *= float(self._left[np.searchsorted(self.liquid.age_s, self.now_s)])
            forgets = runs_on_m > _FORGETS * math.sqrt(self._area_m2)
            return 2.0 * step_s if forgets else step_s
        runs_m_s = max(self.film_speed_m_s, 1e-12)
        run_m = max(_DISPLACEMENT_M, _COURANT * wide_m)
        longest = run_m / runs_m_s * self._step_s / STEP_S
        return float(np.clip(longest, step_s, _MAX_RATIO * step_s))

    def _least_pool_m(self, ups: Floats, at: Floats, every_s: float) -> Floats:
        """Return the depth from which liquid stands as a level pool, for each time step. [m]

        A moving wall carries a film up to a limiting thickness round with it, which leaves no
        puddle (H. K. Moffatt, J. de Mecanique 16 (1977) 651, from memory). It is taken to move as
        a ball of that area does.
        """
        pull = self.liquid.density_kg_m3 * GRAVITY_M_S2
        carries = pull * np.maximum(self.liquid.fluidity(at), 1e-9)
        turned = _turned(ups, self._up, len(at))
        wall_m_s = turned / every_s * math.sqrt(self._area_m2 / (4.0 * math.pi))
        return np.asarray(np.maximum(np.sqrt(wall_m_s / carries), _LEAST_POOL_M))

    @property
    def liquid_m(self) -> Floats:
        """Liquid of this coat on every face: film, set puddles, and pools by their depth. [m]"""
        return np.asarray(liquid_on(self.state, self.pools.label, self._ground.normal, self._up))

    def moment(self) -> Moment:
        """Return what it looks like now."""
        return Moment(self.now_s, self._up.copy(), self.liquid_m, self.pools.label >= 0)

    def landed(self) -> Coated:
        """Return the mould with this coat in it, what is left of its pools set where they lie."""
        grid, state, tally = self.mould.grid, self.state, self.state.tally
        density = self.liquid.density_kg_m3
        set_pools(self._surface, state, self.pools, self._ground, self._up)
        wall = state.film + state.pooled
        spilt = float(tally[SPILT])
        run = CoatRun(
            wall_m=wall,
            wet=state.wet | (state.pooled > 0.0),
            in_air=state.air & ~state.wet,
            charge_kg=self.charge_kg,
            spilt_kg=spilt * density,
            pool_kg=puddle_m3(grid, wall) * density,
            first_spill_s=_when(tally[FIRST_SPILL]),
            all_wet_s=_when(tally[ALL_WET]),
            still_s=_when(tally[STILL]),
            mass_error=abs(float(wall @ grid.area) + spilt - self._volume) / self._volume,
        )
        return self.mould.with_coat(run)


def along_rim(grid: CoatGrid) -> Flags:
    """Return the faces on which a charge lands that is poured round the rim. (m,) bool"""
    rim = grid.rim_place[grid.neighbour == NO_FACE]
    away, _ = cKDTree(rim).query(grid.centre)
    return np.asarray((away <= max(RIM_BAND_M, float(away.min()))) & ~grid.lid)


def surface_of(grid: CoatGrid, solid_m: Floats) -> Surface:
    """Return a grid with what has set on it, as the flow needs it."""
    rim = grid.neighbour == NO_FACE
    neighbour = grid.neighbour.copy()
    neighbour[rim] = -1 - np.arange(int(rim.sum()))
    across = grid.along * (grid.edge_m / grid.area[:, None])[:, :, None]
    # A piece may stand far from the origin of its file, and these are single precision.
    middle = grid.centre.mean(axis=0)
    faces = len(grid.area)
    beyond = np.where(rim, faces, grid.neighbour)
    back = (grid.neighbour[grid.neighbour] == np.arange(faces)[:, None, None]).argmax(axis=2)
    above = np.where(rim, 3 * faces, 3 * grid.neighbour + back)
    return Surface(
        centre=np.ascontiguousarray((grid.centre - middle).T, np.float32),
        normal=np.ascontiguousarray(grid.normal.T, np.float32),
        area=grid.area,
        per_area2=np.asarray(grid.area**-2.0, np.float32),
        neighbour=neighbour.astype(np.int32),
        beyond=np.ascontiguousarray(beyond.T, np.uint32),
        above=np.asarray(above, np.uint32),
        rim_edge=np.asarray(np.flatnonzero(rim), np.uint32),
        across=np.ascontiguousarray(across.transpose(1, 2, 0), np.float32),
        rim_place=grid.rim_place[rim] - middle,
        solid=solid_m,
        lid=grid.lid,
    )


@lru_cache(maxsize=256)
def _middles(parts: int) -> Floats:
    """Return where the middles of equal parts of a whole are. (parts,) [1]"""
    return np.asarray((np.arange(parts) + 0.5) / parts)


@njit(cache=True)
def _turned(ups, before, steps):  # type: ignore[no-untyped-def]
    """Return how far up turns from one direction to the next, as the mean of each step. [rad]"""
    turned = np.zeros(steps)
    each = len(ups) // steps
    for at in range(len(ups)):
        last = ups[at - 1] if at > 0 else before
        x, y, z = ups[at, 0] - last[0], ups[at, 1] - last[1], ups[at, 2] - last[2]
        turned[at // each] += np.sqrt(x * x + y * y + z * z) / each
    return turned


def _when(seconds: float) -> float | None:
    return None if seconds < 0.0 else float(seconds)


def _holds_m3(grid: CoatGrid) -> float:
    """What the mould holds to its rim, with its opening up."""
    up = grid.out
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
