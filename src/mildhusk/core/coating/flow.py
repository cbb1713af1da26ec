"""Film and pools of one coat on a turning mould, until it gels."""

from typing import NamedTuple

import numpy as np
from numba import njit

from mildhusk.core.coating.pools import (
    AIR,
    NOBODY,
    Ground,
    add_pool,
    low_place,
    settle,
)
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.geometry.mesh import Flags, Floats, Integers

SPILT, FIRST_SPILL, ALL_WET, STILL = 0, 1, 2, 3
"""Places in a tally: volume; and moments, below nought as long as they have not come."""
_POOL_FROM_M, _FILM_FROM_M = 0.0025, 0.001
"""Film that gathers in a low place stands level from the first on; a pool no deeper than the second
runs like a film (assumed)."""
_MOST_LEFT_M = 0.01
"""A wall that comes out of a pool takes no more with it (assumed)."""
_LEAST_SLOPE = 0.15
"""Flatter than this a wall comes out of a pool as if it were so steep (assumed)."""
_WET_M = 1e-6
_STILL_M_S = 1e-6
"""Slower than a micrometre a second is still."""
_BINS = 4096
_ORDER_EVERY_S = 0.15
"""In so short a time the order from high to low hardly changes; what is out of order waits a step."""
_MUCH = 3.0
"""Up to here two rounds solve the film of a step to a ten-thousandth."""


class Surface(NamedTuple):
    """The casting face as arrays; see `CoatGrid`.

    Parameters
    ----------
    down : (m, 3) int
        As `neighbour`, with m at a rim.
    across : (m, 3, 3) float32
        Direction out across each edge times its length. [m]
    rim_face, rim_edge : (r,) int
        The edges that are a rim.
    solid : (m,) float
        What has set on each face. [m]
    """

    centre: Floats
    normal: Floats
    area: Floats
    neighbour: Integers
    down: Integers
    across: Floats
    rim_place: Floats
    rim_face: Integers
    rim_edge: Integers
    solid: Floats
    lid: Flags


class State(NamedTuple):
    """A coat on its way.

    Parameters
    ----------
    film : (m,) float
        Liquid on each face that is under no pool. [m]
    depth : (m,) float
        How deep a face was under its pool at the step before. [m]
    wet, air : (m,) bool
        Whether it ever was, and whether it ever was in a bubble.
    tally : (4,) float
        See `SPILT` and the others.
    """

    film: Floats
    depth: Floats
    wet: Flags
    air: Flags
    tally: Floats


def dry(faces: int) -> State:
    """Return a coat before its pour."""
    return State(
        np.zeros(faces),
        np.zeros(faces),
        np.zeros(faces, np.bool_),
        np.zeros(faces, np.bool_),
        np.array([0.0, -1.0, -1.0, -1.0]),
    )


@njit(cache=True, fastmath=True)
def stand(surface, up, ground):  # type: ignore[no-untyped-def]
    """Work out how high everything stands; what has set narrows the mould. Changes `ground`."""
    x, y, z = up[0], up[1], up[2]
    for f in range(len(surface.area)):
        n = surface.normal[f, 0] * x + surface.normal[f, 1] * y + surface.normal[f, 2] * z
        c = surface.centre[f, 0] * x + surface.centre[f, 1] * y + surface.centre[f, 2] * z
        ground.height[f] = c - surface.solid[f] * n
        ground.weight[f] = -n * surface.area[f]


@njit(cache=True)
def _stand_rims(surface, up, ground):  # type: ignore[no-untyped-def]
    for at in range(len(surface.rim_face)):
        f, k = surface.rim_face[at], surface.rim_edge[at]
        z = 0.0
        for x in range(3):
            z += (surface.rim_place[f, k, x] - surface.solid[f] * surface.normal[f, x]) * up[x]
        ground.rim_height[f, k] = z


@njit(cache=True, fastmath=True)
def _pull(surface, up, through, leaves):  # type: ignore[no-untyped-def]
    """Work out how wide each face is open downhill, across each edge and in all. [m]"""
    x, y, z = np.float32(up[0]), np.float32(up[1]), np.float32(up[2])
    for f in range(len(surface.area)):
        for k in range(3):
            a = surface.across[f, k]
            through[f, k] = max(-(a[0] * x + a[1] * y + a[2] * z), np.float32(0.0))
        leaves[f] = (
            np.float64(through[f, 0]) + np.float64(through[f, 1]) + np.float64(through[f, 2])
        )


def new_ground(surface: Surface) -> Ground:
    """Return room for how high everything stands."""
    faces = len(surface.area)
    return Ground(np.empty(faces), np.empty(faces), np.full((faces, 3), np.inf), surface.neighbour)


@njit(cache=True, error_model="numpy")
def _exchange(surface, state, ground, pools, before, flows, pull, step_s):  # type: ignore[no-untyped-def]
    """Let pools take up the film they reach, and leave one on the wall that comes out of them."""
    largest = 0
    for one in range(pools.many[0]):
        if pools.volume[one] > pools.volume[largest]:
            largest = one
    for f in range(len(surface.area)):
        pool = pools.label[f]
        if pool >= 0:
            pools.volume[pool] += surface.area[f] * state.film[f]
            state.film[f] = 0.0
            state.wet[f] = True
            state.depth[f] = max(pools.level[pool] - ground.height[f], 0.0)
            continue
        if pool == AIR:
            state.air[f] = True
        was = before[f]
        if was < 0:
            continue
        if pools.volume[was] <= 0.0:
            # It ran into another one.
            was = largest
        if pools.volume[was] > 0.0:
            out = max(ground.height[f] - pools.level[was], 0.0) + state.depth[f]
            level_part = ground.weight[f] / surface.area[f]
            steep = np.sqrt(max(1.0 - level_part * level_part, 0.0))
            left = np.sqrt(out / (step_s * flows * pull)) / max(steep, _LEAST_SLOPE)
            left = min(left, _MOST_LEFT_M, pools.volume[was] / surface.area[f])
            state.film[f] += left
            pools.volume[was] -= left * surface.area[f]
        state.depth[f] = 0.0


@njit(cache=True)
def _shallow_to_film(surface, state, pools, deepest):  # type: ignore[no-untyped-def]
    """Let pools that are hardly deeper than a film run like one, from where they lie."""
    deepest[:] = 0.0
    for f in range(len(surface.area)):
        pool = pools.label[f]
        if pool >= 0:
            deepest[pool] = max(deepest[pool], state.depth[f])
    shallow = False
    for pool in range(pools.many[0]):
        if 0.0 < deepest[pool] < _FILM_FROM_M:
            shallow = True
    if not shallow:
        return
    held = np.zeros(len(deepest))
    for f in range(len(surface.area)):
        pool = pools.label[f]
        if pool >= 0 and deepest[pool] < _FILM_FROM_M:
            held[pool] += max(state.depth[f], 1e-9) * surface.area[f]
    for f in range(len(surface.area)):
        pool = pools.label[f]
        if pool >= 0 and deepest[pool] < _FILM_FROM_M:
            state.film[f] = max(state.depth[f], 1e-9) * pools.volume[pool] / held[pool]
            state.depth[f] = 0.0
            pools.label[f] = NOBODY
    for pool in range(pools.many[0]):
        if held[pool] > 0.0:
            pools.volume[pool] = 0.0


@njit(cache=True)
def _from_the_top(height, order, start):  # type: ignore[no-untyped-def]
    """Order faces from high to low, as finely as bins tell them apart."""
    low, high = height.min(), height.max()
    scale = (_BINS - 1) / max(high - low, 1e-12)
    start[:] = 0
    for f in range(len(height)):
        start[int((high - height[f]) * scale) + 1] += 1
    for one in range(_BINS):
        start[one + 1] += start[one]
    for f in range(len(height)):
        one = int((high - height[f]) * scale)
        order[start[one]] = f
        start[one] += 1


@njit(cache=True, error_model="numpy")
def _run_down(surface, state, pools, order, through, leaves, held, conduct, step_s):  # type: ignore[no-untyped-def]
    """Let the film run down for a step.

    From the top down: what ran in from above is known when a face's turn comes, so each solves its
    own cubic h1 = h0 + in - c (late h1 + (1 - late) h0 ...)^3, the trapezoidal rule where the step
    is short and the backward one where it is long. Nothing is lost, nothing gets below nought.

    Returns
    -------
    fastest, dripped
        How fast the film got thinner anywhere, and what ran over an open rim. [m/s], [m^3]
    """
    film, area = state.film, surface.area
    faces = len(area)
    for f in range(faces):
        held[f] = film[f] * area[f]
    held[faces] = 0.0
    fastest = 0.0
    c = step_s * conduct
    for f in order:
        volume = held[f]
        if volume <= 0.0 or pools.label[f] >= 0:
            continue
        had = volume / area[f]
        if leaves[f] <= 0.0:
            if had > _POOL_FROM_M:
                pool = add_pool(pools, f, volume)
                if pool >= 0:
                    pools.label[f] = pool
                    held[f] = 0.0
            continue
        # Runs out by what it holds in the middle of the step; later where it would run dry.
        rate = c * leaves[f] / area[f]
        late = max(0.5, 1.0 - 1.0 / (rate * had * had))
        middle = late * had + (1.0 - late) * film[f]
        x = late * rate * middle * middle
        # u + x u^3 = 1 by Halley's method; what it is off by stays where it is, and is not lost.
        u = (1.0 + 2.0 * x) / (1.0 + 3.0 * x)
        for _ in range(2 if x < _MUCH else 8):
            slope = 1.0 + 3.0 * x * u * u
            off = u + x * u * u * u - 1.0
            u -= off * slope / (slope * slope - 3.0 * x * u * off)
        gone = min(max(1.0 - u, 0.0) * middle / (late * had), 1.0)
        fastest = max(fastest, gone * had)
        gone *= volume
        held[f] = volume - gone
        gone /= leaves[f]
        # What a rim lets out gathers in the place after the last face.
        held[surface.down[f, 0]] += gone * through[f, 0]
        held[surface.down[f, 1]] += gone * through[f, 1]
        held[surface.down[f, 2]] += gone * through[f, 2]
    for f in range(faces):
        film[f] = held[f] / area[f]
    return fastest / step_s, held[faces]


@njit(cache=True)
def _spill(tally, volume, now_s):  # type: ignore[no-untyped-def]
    if volume > 0.0:
        tally[SPILT] += volume
        if tally[FIRST_SPILL] < 0.0:
            tally[FIRST_SPILL] = now_s


@njit(cache=True)
def run_coat(  # type: ignore[no-untyped-def]
    surface, state, pools, ground, ups, until_s, film_flows, pool_flows, density, begin, end
):
    """Run steps `begin` to `end` of one coat, in place.

    Parameters
    ----------
    surface : Surface
    state : State
    pools : Pools
    ground : Ground
        Room to work in.
    ups : (n, 3) float
        Where up is during each step.
    until_s : (n,) float
        When each step ends; the first begins at 0. [s]
    film_flows, pool_flows : (n,) float
        1 / viscosity during each step, 0 once it has gelled. [1/(Pa s)]
    density : float
        [kg/m^3]
    begin, end : int
    """
    faces = len(surface.area)
    before = np.empty(faces, np.int32)
    order = np.empty(faces, np.int32)
    start = np.empty(_BINS + 1, np.int32)
    deepest = np.empty(len(pools.seed))
    through, leaves = np.empty((faces, 3), np.float32), np.empty(faces)
    held = np.empty(faces + 1)
    tally = state.tally
    ordered_s = -1.0
    pull = density * GRAVITY_M_S2
    for step in range(begin, end):
        up = ups[step]
        now_s = until_s[step]
        step_s = now_s - (until_s[step - 1] if step > 0 else 0.0)
        stand(surface, up, ground)
        _stand_rims(surface, up, ground)
        if pool_flows[step] > 0.0 and pools.many[0] > 0:
            before[:] = pools.label
            _spill(tally, settle(ground, pools), now_s)
            _exchange(surface, state, ground, pools, before, pool_flows[step], pull, step_s)
            _shallow_to_film(surface, state, pools, deepest)
        if film_flows[step] > 0.0:
            if now_s - ordered_s > _ORDER_EVERY_S:
                _from_the_top(ground.height, order, start)
                ordered_s = now_s
            conduct = film_flows[step] * pull / 3.0
            _pull(surface, up, through, leaves)
            fastest, dripped = _run_down(
                surface, state, pools, order, through, leaves, held, conduct, step_s
            )
            _spill(tally, dripped, now_s)
            if fastest > _STILL_M_S:
                tally[STILL] = now_s
        if tally[ALL_WET] < 0.0:
            wet = True
            for f in range(faces):
                if state.film[f] > _WET_M:
                    state.wet[f] = True
                wet = wet and (state.wet[f] or surface.lid[f])
            if wet:
                tally[ALL_WET] = now_s


@njit(cache=True)
def would_spill(surface, pools, ground, up):  # type: ignore[no-untyped-def]
    """Return what of the pools would run out if the mould stood so. [m^3]"""
    stand(surface, up, ground)
    _stand_rims(surface, up, ground)
    return settle(ground, pools)


@njit(cache=True)
def set_pools(surface, pools, ground, up):  # type: ignore[no-untyped-def]
    """Let the pools set where they lie; returns the depth on each face, and takes them away. [m]

    By the depth under the level, scaled so that all of it is there.
    """
    stand(surface, up, ground)
    _stand_rims(surface, up, ground)
    depth = np.zeros(len(surface.area))
    settle(ground, pools)
    for pool in range(pools.many[0]):
        if pools.volume[pool] <= 0.0:
            continue
        whole = 0.0
        for f in range(len(surface.area)):
            if pools.label[f] == pool:
                deep = max(pools.level[pool] - ground.height[f], 0.0)
                depth[f] = deep * max(ground.weight[f] / surface.area[f], 0.0)
                whole += depth[f] * surface.area[f]
        if whole <= 0.0:
            low = low_place(pools.seed[pool], ground)
            depth[low] += pools.volume[pool] / surface.area[low]
        else:
            for f in range(len(surface.area)):
                if pools.label[f] == pool:
                    depth[f] *= pools.volume[pool] / whole
        pools.volume[pool] = 0.0
    pools.many[0] = 0
    pools.label[:] = NOBODY
    return depth
