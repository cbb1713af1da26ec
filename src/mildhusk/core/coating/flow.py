"""Film and pools of one coat on a turning mould, until it gels."""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from mildhusk.core.coating.pools import (
    AIR,
    NOBODY,
    Ground,
    add_pool,
    forget_empty,
    low_place,
    settle,
)
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.geometry.mesh import Flags, Floats, Integers

Places = NDArray[np.uint32]
"""Faces by number; without a sign, so that loops need not look for one."""
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
_BINS = 1024
_ORDER_EVERY_S = 0.25
"""In so short a time the order hardly changes; what is out of it waits a step."""
_MUCH, _FINE = 4.0, 512
"""Up to here what stays of a film in a step is read off a table, so many places for each one."""
_NONE, _ONE, _TWO_THIRDS = np.float32(0.0), np.float32(1.0), np.float32(2.0 / 3.0)
_TINY, _STEPS_FIT = np.float32(1e-12), np.float32(0.6)
"""From the second on, as rate times film squared, a step is too long for the film at an edge."""
_ALL_BUT_ALL = 1.0 - 1e-6
"""A face gives no more of what it holds in a step, so that rounding takes nothing below nought."""


class Surface(NamedTuple):
    """The casting face as arrays; see `CoatGrid`. What is long comes last, as loops like it.

    Parameters
    ----------
    centre, normal : (3, m) float32
        Seen from the middle of the mould. [m]
    per_area2 : (m,) float32
        One over the square of the area. [1/m^4]
    down : (m, 3) uint32
        As `neighbour`, with m at a rim.
    beyond : (3, m) uint32
        The same by edge.
    across : (3, 3, m) float32
        By edge: direction out across it times its length over the face's area. [1/m]
    rim_face, rim_edge : (r,) int
        The edges that are a rim.
    rim_place : (r, 3) float
        Their middles. [m]
    solid : (m,) float
        What has set on each face. [m]
    stays : (k,) float
        The root u of u + x u^3 = 1, for x by `_FINE`.
    """

    centre: Floats
    normal: Floats
    area: Floats
    per_area2: Floats
    neighbour: Integers
    down: Places
    beyond: Places
    across: Floats
    rim_place: Floats
    rim_face: Integers
    rim_edge: Integers
    solid: Floats
    lid: Flags
    stays: Floats


def what_stays() -> Floats:
    """Return the root u of u + x u^3 = 1 for x from 0 on, by Cardano's formula."""
    x = np.arange(1, int(_MUCH * _FINE) + 2) / _FINE
    half = 0.5 / x
    root = np.sqrt(half**2 + 1.0 / (27.0 * x**3))
    return np.asarray(np.r_[1.0, np.cbrt(half + root) + np.cbrt(half - root)])


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
    x, y, z = np.float32(up[0]), np.float32(up[1]), np.float32(up[2])
    for f in range(len(surface.area)):
        n = surface.normal[0, f] * x + surface.normal[1, f] * y + surface.normal[2, f] * z
        c = surface.centre[0, f] * x + surface.centre[1, f] * y + surface.centre[2, f] * z
        ground.height[f] = c - surface.solid[f] * n
        ground.weight[f] = -n * surface.area[f]


@njit(cache=True)
def _stand_rims(surface, up, ground):  # type: ignore[no-untyped-def]
    for at in range(len(surface.rim_face)):
        f, k = surface.rim_face[at], surface.rim_edge[at]
        z = 0.0
        for x in range(3):
            z += (surface.rim_place[at, x] - surface.solid[f] * surface.normal[x, f]) * up[x]
        ground.rim_height[f, k] = z


@njit(cache=True, fastmath=True, error_model="numpy")
def _thicker(beyond, per, rest, part):  # type: ignore[no-untyped-def]
    """Return the cube of a film at an edge over that in its face, by van Leer's limiter.

    `beyond` is how thick it is in the next face, `per` one over how thick it is in this one, `rest`
    two thirds of how much thicker it is in all three next to it, as a share. On even triangles the
    difference is how much thinner it is in the face before.
    """
    on = _further(beyond, per)
    # It was not less than nothing there.
    rise = min(on - rest, _ONE)
    both = max(rise * on, _NONE)
    twice = rise + on
    edge = _ONE + part * both * twice / (twice * twice + _TINY)
    return edge * edge * edge


@njit(cache=True, fastmath=True, error_model="numpy")
def _further(beyond, per):  # type: ignore[no-untyped-def]
    return beyond * per - _ONE if beyond >= _NONE else _NONE


@njit(cache=True, fastmath=True, error_model="numpy")
def _pull(surface, thick, up, c, beyond, runs):  # type: ignore[no-untyped-def]
    """Work out where each face's film runs: `runs` holds how fast, and its share by edge.

    How fast is how wide it is open downhill over its area, by volume. [1/m^5] What runs over an
    edge is as thick as the film is there, not in the middle of its face; less so where a step `c`
    is long for the face. `thick` is the film in single precision, below nought where there is none
    to look at: under a pool, and beyond a rim.
    """
    x, y, z, step = np.float32(up[0]), np.float32(up[1]), np.float32(up[2]), np.float32(c)
    a, per_area2 = surface.across, surface.per_area2
    faces = len(per_area2)
    # In loops without a branch, which the machine does many faces at a time.
    for k in range(3):
        for f in range(faces):
            beyond[k, f] = thick[surface.beyond[k, f]]
    for f in range(faces):
        h = thick[f]
        first = max(-(a[0, 0, f] * x + a[0, 1, f] * y + a[0, 2, f] * z), _NONE)
        second = max(-(a[1, 0, f] * x + a[1, 1, f] * y + a[1, 2, f] * z), _NONE)
        third = max(-(a[2, 0, f] * x + a[2, 1, f] * y + a[2, 2, f] * z), _NONE)
        one, two, three = beyond[0, f], beyond[1, f], beyond[2, f]
        per = _ONE / max(h, _TINY)
        rest = _further(one, per) + _further(two, per) + _further(three, per)
        rest *= _TWO_THIRDS
        part = min(_STEPS_FIT / max(step * (first + second + third) * h * h, _TINY), _ONE)
        first *= _thicker(one, per, rest, part)
        second *= _thicker(two, per, rest, part)
        third *= _thicker(three, per, rest, part)
        whole = first + second + third
        share = _ONE / max(whole, _TINY)
        beyond[0, f] = whole * per_area2[f] if h >= _NONE else _NONE
        beyond[1, f] = first * share
        beyond[2, f] = second * share
        beyond[3, f] = third * share
    for f in range(faces):
        for k in range(4):
            runs[f, k] = beyond[k, f]


def new_ground(surface: Surface) -> Ground:
    """Return room for how high everything stands."""
    faces = len(surface.area)
    return Ground(np.empty(faces), np.empty(faces), np.full((faces, 3), np.inf), surface.neighbour)


@njit(cache=True, error_model="numpy")
def _exchange(surface, state, ground, pools, before, deepest, flows, pull, step_s):  # type: ignore[no-untyped-def]
    """Let pools take up the film they reach, and leave one on the wall that comes out of them.

    How deep each of them is then stands in `deepest`. [m]
    """
    deepest[:] = 0.0
    largest = 0
    for one in range(pools.many[0]):
        if pools.volume[one] > pools.volume[largest]:
            largest = one
    for f in range(len(surface.area)):
        pool, was = pools.label[f], before[f]
        if pool == NOBODY and was < 0:
            continue
        if pool >= 0:
            pools.volume[pool] += surface.area[f] * state.film[f]
            state.film[f] = 0.0
            state.wet[f] = True
            deep = max(pools.level[pool] - ground.height[f], 0.0)
            state.depth[f] = deep
            deepest[pool] = max(deepest[pool], deep)
            continue
        if pool == AIR:
            state.air[f] = True
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


@njit(cache=True, fastmath=True)
def _from_the_top(height, order, bins, start):  # type: ignore[no-untyped-def]
    """Order faces from high to low, as finely as bins tell them apart."""
    low, high = height.min(), height.max()
    scale = (_BINS - 1) / max(high - low, 1e-12)
    for f in range(len(height)):
        bins[f] = np.int32((high - height[f]) * scale)
    start[:] = 0
    for f in range(len(height)):
        start[np.uint32(bins[f]) + np.uint32(1)] += 1
    for one in range(_BINS):
        start[one + 1] += start[one]
    for f in range(len(height)):
        own = np.uint32(bins[f])
        order[np.uint32(start[own])] = f
        start[own] += 1


@njit(cache=True, error_model="numpy")
def _runs_dry(had, before, much, rate):  # type: ignore[no-untyped-def]
    """Return what leaves a face that the step is long for: the later what it holds, the less."""
    late = max(1.0 - 1.0 / much, 0.5)
    middle = late * had + (1.0 - late) * before
    x = late * rate * middle * middle
    # By Halley's method; what it is off by stays where it is, and is not lost.
    u = (1.0 + 2.0 * x) / (1.0 + 3.0 * x)
    for _ in range(8):
        tilt = 1.0 + 3.0 * x * u * u
        off = u + x * u * u * u - 1.0
        u -= off * tilt / (tilt * tilt - 3.0 * x * u * off)
    return max((1.0 - u) * middle / late, 0.0)


@njit(cache=True, error_model="numpy", fastmath=True)
def _run_down(surface, state, pools, order, runs, held, conduct, step_s):  # type: ignore[no-untyped-def]
    """Let the film run down for a step.

    From the top down: what ran in from above is known when a face's turn comes, so each solves its
    own cubic V1 = V0 + in - c (late V1 + (1 - late) V0 ...)^3, the trapezoidal rule where the step
    is short and the backward one where it is long. Nothing is lost, nothing gets below nought.

    Returns
    -------
    fastest, dripped
        How fast the film got thinner anywhere, and what ran over an open rim. [m/s], [m^3]
    """
    area, stays, down = surface.area, surface.stays, surface.down
    faces = len(area)
    for f in range(faces):
        held[f, 0] = held[f, 1] = state.film[f] * area[f]
    held[faces, 0] = 0.0
    fastest = 0.0
    c = step_s * conduct
    for at in range(faces):
        f = order[at]
        had = held[f, 0]
        if had <= 0.0:
            continue
        rate = c * runs[f, 0]
        if rate <= 0.0:
            if had > _POOL_FROM_M * area[f] and pools.label[f] < 0:
                pool = add_pool(pools, f, had)
                if pool >= 0:
                    pools.label[f] = pool
                    held[f, 0] = 0.0
            continue
        # Runs out by what it holds in the middle of the step; later where it would run dry.
        much = rate * had * had
        middle = 0.5 * had + 0.5 * held[f, 1]
        place = 0.5 * _FINE * rate * middle * middle
        if much <= 2.0 and place < _FINE * _MUCH:
            below = np.uint32(place)
            u = stays[below]
            u += (place - below) * (stays[below + np.uint32(1)] - u)
            gone = 2.0 * (1.0 - u) * middle
        else:
            gone = _runs_dry(had, held[f, 1], much, rate)
        most = _ALL_BUT_ALL * had
        gone = gone if gone < most else most
        fastest = gone if gone > fastest else fastest
        first, second, third = gone * runs[f, 1], gone * runs[f, 2], gone * runs[f, 3]
        held[f, 0] = had - (first + second + third)
        # What a rim lets out gathers in the place after the last face.
        held[down[f, 0], 0] += first
        held[down[f, 1], 0] += second
        held[down[f, 2], 0] += third
    whole = 0.0
    for f in range(faces):
        state.film[f] = held[f, 0] / area[f]
        whole += area[f]
    return fastest * faces / (whole * step_s), held[faces, 0]


@njit(cache=True)
def _spill(tally, volume, now_s):  # type: ignore[no-untyped-def]
    if volume > 0.0:
        tally[SPILT] += volume
        if tally[FIRST_SPILL] < 0.0:
            tally[FIRST_SPILL] = now_s


@njit(cache=True)
def run_coat(  # type: ignore[no-untyped-def]
    surface, state, pools, ground, ups, begins_s, step_s, film_flows, pool_flows, density
):
    """Run some steps of one coat, in place.

    Parameters
    ----------
    surface : Surface
    state : State
    pools : Pools
    ground : Ground
        Room to work in.
    ups : (n, k, 3) float
        Where up is; the pools stand level k times a step, evenly spread.
    begins_s, step_s : float
        When the first begins, and how long each is. [s]
    film_flows, pool_flows : (n,) float
        1 / viscosity during each step, 0 once it has gelled. [1/(Pa s)]
    density : float
        [kg/m^3]
    """
    faces = len(surface.area)
    before = np.empty(faces, np.int32)
    order = np.empty(faces, np.uint32)
    bins, start = np.empty(faces, np.int32), np.empty(_BINS + 1, np.int32)
    deepest = np.empty(len(pools.seed))
    beyond = np.empty((4, faces), np.float32)
    runs, thick = np.empty((faces, 4), np.float32), np.full(faces + 1, -1.0, np.float32)
    held = np.empty((faces + 1, 2))
    tally = state.tally
    ordered_s = -1.0
    pull = density * GRAVITY_M_S2
    many = ups.shape[1]
    for step in range(len(ups)):
        now_s = begins_s + (step + 1) * step_s
        mean = np.zeros(3)
        for part in range(many):
            up = ups[step, part]
            mean += up / many
            if pool_flows[step] > 0.0 and pools.many[0] > 0:
                stand(surface, up, ground)
                _stand_rims(surface, up, ground)
                before[:] = pools.label
                _spill(tally, settle(ground, pools), now_s)
                _exchange(
                    surface, state, ground, pools, before, deepest, pool_flows[step], pull,
                    step_s / many,
                )  # fmt: skip
                _shallow_to_film(surface, state, pools, deepest)
                forget_empty(pools)
        if film_flows[step] > 0.0:
            if ordered_s < 0.0 or now_s - ordered_s > _ORDER_EVERY_S:
                stand(surface, mean, ground)
                _from_the_top(ground.height, order, bins, start)
                ordered_s = now_s
            conduct = film_flows[step] * pull / 3.0
            for f in range(faces):
                thick[f] = state.film[f] if pools.label[f] < 0 else -1.0
            _pull(surface, thick, mean, step_s * conduct, beyond, runs)
            fastest, dripped = _run_down(surface, state, pools, order, runs, held, conduct, step_s)
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
