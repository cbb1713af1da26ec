"""Film and pools of one coat on a turning mould, until it gels."""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from mildhusk.core.coating.liquid import Liquid
from mildhusk.core.coating.pools import (
    AIR,
    MOST_POOLS,
    NOBODY,
    Ground,
    add_pool,
    age_standing,
    clear_labels,
    drop_empty,
    height,
    label_face,
    low_place,
    projected_area,
    settle,
)
from mildhusk.core.coating.withdrawal import LOWEST_LOG, PER_DECADE, thickness_table
from mildhusk.core.constants import GRAVITY_M_S2, SURFACE_TENSION_N_M
from mildhusk.core.geometry.mesh import Flags, Floats, Integers

Places = NDArray[np.uint32]
"""Faces by number; without a sign, so that loops need not look for one."""
SPILT, FIRST_SPILL, ALL_WET, STILL, AGED, ORDERED = 0, 1, 2, 3, 4, 5
"""Places in a tally: volume; moments, below nought as long as they have not come; the moment until
which all film has aged; and that of the order in the workspace, below nought where none holds."""
_DRAIN_RATIO = 2.5
"""A film this many times as thick as the least depth of a pool drains into one (assumed)."""
_RUNS_ON_S = 1.0
"""What runs down to its low place within so long is taken to be there (assumed). [s]"""
_MOST_LEFT_M = 0.01
"""A wall that comes out of a pool takes no more with it (assumed)."""
_LEAST_SLOPE = 0.15
"""Flatter than this a wall comes out of a pool as if it were so steep (assumed)."""
_WITHDRAWN = thickness_table()
_STANDS_S = 8.0
"""A pool that keeps its low place for so long is a puddle left behind (assumed). [s]"""
_WET_M = 1e-6
_STILL_M_S = 1e-6
"""Slower than a micrometre a second is still."""
_BINS = 1024
_ORDER_EVERY_S = 0.25
"""Order, colours and viscosity are renewed this often; they hardly change in between."""
_AGES, _DEPTHS = 2048, 64
"""Rows of the tables of viscosity by age, and of the rate of ageing by depth."""
_FAST_MATH = {"nnan", "ninf", "nsz", "contract", "arcp"}
"""What the compiler may assume. Reassociation is left out: with it one and the same run came out
otherwise in the process that had just compiled it."""
_LANES = 128
"""Faces of one colour that are advanced at a time."""
_ZERO, _HALF, _ONE, _THREE = np.float32(0.0), np.float32(0.5), np.float32(1.0), np.float32(3.0)
_TWO_THIRDS = np.float32(2.0 / 3.0)
_TINY, _LONGEST_COURANT = np.float32(1e-12), np.float32(1.0)
"""Above this Courant number a time step is too long for the second-order film at an edge."""
_LEAST_M3, _LEAST_FLUIDITY = 1e-30, 1e-6
_LARGEST_SHARE = np.float32(1.0 - 1e-6)
"""Of what a face holds, at most, leaves it in a step: rounding takes nothing below nought."""


class Surface(NamedTuple):
    """The casting face as arrays; see `CoatGrid`. What is long comes last, as loops like it.

    Parameters
    ----------
    centre, normal : (3, m) float32
        Seen from the middle of the mould. [m]
    per_area2 : (m,) float32
        One over the square of the area. [1/m^4]
    beyond : (3, m) uint32
        As `neighbour`, by edge; m at a rim.
    above : (m, 3) uint32
        Three times each face beyond plus its own edge towards this one: what runs over it comes
        here. Past the last edge, where nothing runs, at a rim.
    rim_edge : (r,) uint32
        Edges, so counted, that are a rim.
    across : (3, 3, m) float32
        By edge: direction out across it times its length over the face's area. [1/m]
    neighbour, rim_place
        As `Ground` has them.
    solid : (m,) float
        What has set on each face. [m]
    """

    centre: Floats
    normal: Floats
    area: Floats
    per_area2: Floats
    neighbour: Integers
    beyond: Places
    above: Places
    rim_edge: Places
    across: Floats
    rim_place: Floats
    solid: Floats
    lid: Flags


class State(NamedTuple):
    """The state of one coat: film, its age, pools, what has run out.

    Parameters
    ----------
    film : (m,) float
        Liquid on each face that is under no pool. [m]
    depth : (m,) float
        How deep a face was under its pool at the step before. [m]
    age : (m + 1,) float
        Of its film; what runs carries its age along. The last is nobody's. [s]
    pooled : (m,) float
        What has set where it stood in a puddle. [m]
    wet, air : (m,) bool
        Whether it ever was, and whether it ever was in a bubble.
    tally : (6,) float
        See `SPILT` and the others.
    """

    film: Floats
    depth: Floats
    age: Floats
    pooled: Floats
    wet: Flags
    air: Flags
    tally: Floats


class Workspace(NamedTuple):
    """Arrays to work in, kept from step to step.

    Parameters
    ----------
    thick, fluidity, beyond, runs
        The film in single precision, 1 / its viscosity, the film of the next faces, and the flux
        coefficients; see `_flux_coefficients`.
    held, edge_flux : (m,), (3 m + 1,) float32
        What each face holds, and the flux over each of its edges in a step. [m^3]
    inflow : (m,) float
        Into each face. [m^3]
    lanes : (4, _LANES) float32
        See `_outflows`.
    high, order, bins, start, upstream, colour, colours
        See `_order_by_height` and `_colour`.
    were, of, deepest
        See `_exchange_with_pools`.
    """

    thick: Floats
    fluidity: Floats
    beyond: Floats
    runs: Floats
    held: Floats
    edge_flux: Floats
    inflow: Floats
    lanes: tuple[Floats, Floats, Floats, Floats]
    high: Floats
    order: Places
    bins: Integers
    start: Integers
    upstream: Places
    colour: Integers
    colours: Integers
    were: Integers
    of: Integers
    deepest: Floats

    @property
    def lasting(self) -> tuple[Floats | Integers | Places, ...]:
        """What holds until faces are ordered again; see `ORDERED`."""
        return self.fluidity, self.order, self.start, self.colours


def workspace_for(faces: int) -> Workspace:
    """Return the workspace of a coat."""
    lanes = np.zeros((4, _LANES), np.float32)
    return Workspace(
        np.full(faces + 1, -1.0, np.float32),
        np.empty(faces, np.float32),
        np.empty((4, faces), np.float32),
        np.empty((faces, 4), np.float32),
        np.empty(faces, np.float32),
        np.empty(3 * faces + 1, np.float32),
        np.empty(faces),
        (lanes[0], lanes[1], lanes[2], lanes[3]),
        np.empty(faces, np.float32),
        np.empty(faces, np.uint32),
        np.empty(faces, np.int32),
        np.empty(max(_BINS, faces) + 2, np.int32),
        np.empty((faces, 3), np.uint32),
        np.zeros(faces + 1, np.int32),
        np.zeros(1, np.int64),
        np.empty(faces, np.int64),
        np.empty(faces, np.int32),
        np.empty(MOST_POOLS),
    )


class Clock(NamedTuple):
    """How a liquid ages; see `Liquid`.

    Parameters
    ----------
    fluidity : (n,) float32
        1 / viscosity at evenly spread ages, the last nought. [1/(Pa s)]
    per_s : float
        How many of them a second has. [1/s]
    rate_factor : (k,) float32
        How many times faster it ages at evenly spread depths.
    per_m : float
        How many of them a metre has. [1/m]
    """

    fluidity: Floats
    per_s: float
    rate_factor: Floats
    per_m: float


def clock_of(liquid: Liquid) -> Clock:
    """Return a liquid's clock as the flow reads it."""
    lasts, deepest = max(liquid.gels_at_s, 1e-9), max(float(liquid.depth_m[-1]), 1e-6)
    fluidity = liquid.fluidity(np.linspace(0.0, lasts, _AGES + 1))
    fluidity[-1] = 0.0
    depths = np.linspace(0.0, deepest, _DEPTHS + 1)
    rate_factor = np.interp(depths, liquid.depth_m, liquid.rate_factor)
    return Clock(
        np.asarray(fluidity, np.float32),
        _AGES / lasts,
        np.asarray(rate_factor, np.float32),
        _DEPTHS / deepest,
    )


def dry(faces: int) -> State:
    """Return a coat before its pour."""
    return State(
        np.zeros(faces),
        np.zeros(faces),
        np.zeros(faces + 1),
        np.zeros(faces),
        np.zeros(faces, np.bool_),
        np.zeros(faces, np.bool_),
        np.array([0.0, -1.0, -1.0, -1.0, 0.0, -1.0]),
    )


@njit(cache=True, fastmath=_FAST_MATH)
def _heights(surface, up, high):  # type: ignore[no-untyped-def]
    """Work out how high every face lies; what has set narrows the mould."""
    x, y, z = np.float32(up[0]), np.float32(up[1]), np.float32(up[2])
    for f in range(len(high)):
        n = surface.normal[0, f] * x + surface.normal[1, f] * y + surface.normal[2, f] * z
        c = surface.centre[0, f] * x + surface.centre[1, f] * y + surface.centre[2, f] * z
        high[f] = c - np.float32(surface.solid[f]) * n


@njit(cache=True, fastmath=_FAST_MATH, error_model="numpy")
def _edge_film_cubed(beyond, per, rest, blend):  # type: ignore[no-untyped-def]
    """Return the cubed film at an edge over the cubed film of its face, van Leer's limiter.

    The limited slope is the harmonic mean of the downwind and the upwind difference; `blend` is 1
    for the second-order value and less where the time step is too long for it.

    Parameters
    ----------
    beyond : float32
        Film of the face across the edge. [m]
    per : float32
        One over the film of this face. [1/m]
    rest : float32
        Two thirds of the relative differences over all three edges; on an even triangle the upwind
        difference is the downwind one less this. [1]
    blend : float32
        [1]
    """
    downwind = _difference(beyond, per)
    # The film upwind is not below nought.
    upwind = min(downwind - rest, _ONE)
    product = max(upwind * downwind, _ZERO)
    total = upwind + downwind
    edge = _ONE + blend * product * total / (total * total + _TINY)
    return edge * edge * edge


@njit(cache=True, fastmath=_FAST_MATH, error_model="numpy")
def _difference(beyond, per):  # type: ignore[no-untyped-def]
    """Return the relative difference across an edge; none under a pool and beyond a rim. [1]"""
    return beyond * per - _ONE if beyond >= _ZERO else _ZERO


@njit(cache=True, fastmath=_FAST_MATH, error_model="numpy")
def _flux_coefficients(surface, work, up, c):  # type: ignore[no-untyped-def]
    """Work out the flux coefficients of every face: `work.runs`.

    The flux out of a face is the coefficient times the cube of what it holds: the open width
    downhill over viscosity and the cube of the area [1/(Pa s m^5)], then the share that goes over
    each edge. The film at an edge is the limited second-order one, taken back to the upwind one
    where the Courant number of a step `c` is above `_LONGEST_COURANT`. `work.thick` is the film in
    single precision, below nought where there is no film: under a pool, and beyond a rim.
    """
    x, y, z, step = np.float32(up[0]), np.float32(up[1]), np.float32(up[2]), np.float32(c)
    a, per_area2 = surface.across, surface.per_area2
    thick, fluidity, beyond, runs = work.thick, work.fluidity, work.beyond, work.runs
    faces = len(per_area2)
    # In loops without a branch, which the machine does many faces at a time.
    for k in range(3):
        for f in range(faces):
            beyond[k, f] = thick[surface.beyond[k, f]]
    for f in range(faces):
        h = thick[f]
        first = max(-(a[0, 0, f] * x + a[0, 1, f] * y + a[0, 2, f] * z), _ZERO)
        second = max(-(a[1, 0, f] * x + a[1, 1, f] * y + a[1, 2, f] * z), _ZERO)
        third = max(-(a[2, 0, f] * x + a[2, 1, f] * y + a[2, 2, f] * z), _ZERO)
        one, two, three = beyond[0, f], beyond[1, f], beyond[2, f]
        per = _ONE / max(h, _TINY)
        rest = _difference(one, per) + _difference(two, per) + _difference(three, per)
        rest *= _TWO_THIRDS
        courant = step * fluidity[f] * (first + second + third) * h * h
        blend = min(_LONGEST_COURANT / max(courant, _TINY), _ONE)
        first *= _edge_film_cubed(one, per, rest, blend)
        second *= _edge_film_cubed(two, per, rest, blend)
        third *= _edge_film_cubed(three, per, rest, blend)
        whole = first + second + third
        share = _ONE / max(whole, _TINY)
        beyond[0, f] = whole * fluidity[f] * per_area2[f] if h >= _ZERO else _ZERO
        beyond[1, f] = first * share
        beyond[2, f] = second * share
        beyond[3, f] = third * share
    for f in range(faces):
        for k in range(4):
            runs[f, k] = beyond[k, f]


def ground_of(surface: Surface) -> Ground:
    """Return the ground of a surface, its direction of up not set yet."""
    return Ground(
        np.ascontiguousarray(surface.centre.T),
        np.ascontiguousarray(surface.normal.T),
        surface.area,
        surface.solid,
        surface.neighbour,
        surface.rim_place,
        np.zeros(3),
    )


@njit(cache=True)
def _covered_by_pools(pools, work):  # type: ignore[no-untyped-def]
    """Note which faces are under which pool; returns how many."""
    many = 0
    for at in range(pools.labelled_count[0]):
        f = pools.labelled[at]
        if pools.label[f] >= 0:
            work.were[many], work.of[many] = f, pools.label[f]
            many += 1
    return many


@njit(cache=True, error_model="numpy")
def _fluidity_at(clock, age_s):  # type: ignore[no-untyped-def]
    """Return 1 / viscosity at an age; nought from gel on. [1/(Pa s)]"""
    return clock.fluidity[int(min(age_s * clock.per_s, float(len(clock.fluidity) - 1)))]


@njit(cache=True, error_model="numpy")
def _withdrawn(rises_m_s, steep, viscosity, pull):  # type: ignore[no-untyped-def]
    """Return the film on a wall that rises out of a pool; see `withdrawal`. [m]

    Along a slope the wall is faster than it rises, and gravity pulls less on its film.
    """
    speed_m_s = rises_m_s / steep
    capillary = max(viscosity * speed_m_s / SURFACE_TENSION_N_M, 1e-12)
    row = (np.log10(capillary) - LOWEST_LOG) * PER_DECADE
    row = min(max(row, 0.0), len(_WITHDRAWN) - 1.001)
    lower = int(row)
    relative = _WITHDRAWN[lower] + (row - lower) * (_WITHDRAWN[lower + 1] - _WITHDRAWN[lower])
    return relative * np.sqrt(viscosity * speed_m_s / (pull * steep))


@njit(cache=True, error_model="numpy")
def _exchange_with_pools(surface, state, ground, pools, work, many, clock, now_s, pull, step_s):  # type: ignore[no-untyped-def]
    """Let pools take up the film they reach, and leave one on the wall that comes out of them.

    The first `many` of `work.were` are the faces that were under a pool, `work.of` which. How deep
    each pool is then stands in `work.deepest`. [m]
    """
    were, of, deepest = work.were, work.of, work.deepest
    deepest[:] = 0.0
    largest = 0
    for one in range(pools.used[0]):
        if pools.volume[one] > pools.volume[largest]:
            largest = one
    for at in range(pools.labelled_count[0]):
        f = pools.labelled[at]
        pool = pools.label[f]
        if pool >= 0:
            pools.volume[pool] += surface.area[f] * state.film[f]
            state.film[f] = 0.0
            state.wet[f] = True
        elif pool == AIR:
            state.air[f] = True
    for at in range(many):
        f, was = were[at], of[at]
        if pools.label[f] >= 0:
            continue
        if pools.volume[was] <= 0.0:
            # It ran into another one.
            was = largest
        if pools.volume[was] > 0.0:
            # What has run down to it since the step before is its own.
            pools.volume[was] += surface.area[f] * state.film[f]
            out = max(height(ground, f) - pools.level[was], 0.0) + state.depth[f]
            level_part = projected_area(ground, f) / surface.area[f]
            steep = np.sqrt(max(1.0 - level_part * level_part, 0.0))
            age_s = now_s + pools.ahead_s[was]
            viscosity = 1.0 / max(_fluidity_at(clock, age_s), _LEAST_FLUIDITY)
            left = _withdrawn(out / step_s, max(steep, _LEAST_SLOPE), viscosity, pull)
            left = min(left, _MOST_LEFT_M, pools.volume[was] / surface.area[f])
            state.film[f] = left
            state.age[f] = age_s
            pools.volume[was] -= left * surface.area[f]
        state.depth[f] = 0.0
    for at in range(pools.labelled_count[0]):
        f = pools.labelled[at]
        pool = pools.label[f]
        if pool >= 0:
            deep = max(pools.level[pool] - height(ground, f), 0.0)
            state.depth[f] = deep
            deepest[pool] = max(deepest[pool], deep)


@njit(cache=True)
def _level_part(ground, f):  # type: ignore[no-untyped-def]
    """Return the horizontal share of a face: depth times this is thickness along its normal. [1]"""
    return max(projected_area(ground, f) / ground.area[f], 0.0)


@njit(cache=True)
def liquid_on(state, label, normal, up):  # type: ignore[no-untyped-def]
    """Return the liquid of a coat on every face: film, set puddles, and pools by their depth. [m]

    Under a pool as deep as there is liquid over the face, seen along its normal. `label` is the
    pools' and `normal` the ground's.
    """
    liquid = state.film + state.pooled
    for f in range(len(label)):
        if label[f] >= 0:
            upright = abs(normal[f, 0] * up[0] + normal[f, 1] * up[1] + normal[f, 2] * up[2])
            liquid[f] += state.depth[f] * upright
    return liquid


@njit(cache=True)
def _shallow_to_film(state, ground, pools, deepest, least_m):  # type: ignore[no-untyped-def]
    """Turn pools that are too shallow to stand level into film, where they lie."""
    shallow = False
    for pool in range(pools.used[0]):
        if 0.0 < deepest[pool] < least_m:
            shallow = True
    if not shallow:
        return
    held = np.zeros(len(deepest))
    for at in range(pools.labelled_count[0]):
        f = pools.labelled[at]
        pool = pools.label[f]
        if pool >= 0 and deepest[pool] < least_m:
            state.film[f] = max(state.depth[f] * _level_part(ground, f), 1e-9)
            held[pool] += state.film[f] * ground.area[f]
    for at in range(pools.labelled_count[0]):
        f = pools.labelled[at]
        pool = pools.label[f]
        if pool >= 0 and deepest[pool] < least_m:
            state.film[f] *= pools.volume[pool] / held[pool]
            state.depth[f] = 0.0
            pools.label[f] = NOBODY
    for pool in range(pools.used[0]):
        if held[pool] > 0.0:
            pools.volume[pool] = 0.0


@njit(cache=True, fastmath=_FAST_MATH)
def _order_by_height(work):  # type: ignore[no-untyped-def]
    """Order faces from high to low, as finely as bins tell them apart."""
    high, order, bins, start = work.high, work.order, work.bins, work.start
    low = top = high[0]
    for f in range(len(high)):
        low, top = min(low, high[f]), max(top, high[f])
    scale = np.float32(_BINS - 1) / max(top - low, _TINY)
    for f in range(len(high)):
        bins[f] = np.int32((top - high[f]) * scale)
    _counting_sort(bins, _BINS, order, start)


@njit(cache=True)
def _counting_sort(numbers, many, order, start):  # type: ignore[no-untyped-def]
    """Sort faces by a number each, below `many`; those of number n end at `start[n]`."""
    start[: many + 1] = 0
    for f in range(len(numbers)):
        start[np.uint32(numbers[f]) + np.uint32(1)] += 1
    for one in range(many):
        start[one + 1] += start[one]
    for f in range(len(numbers)):
        own = np.uint32(numbers[f])
        order[np.uint32(start[own])] = f
        start[own] += 1


@njit(cache=True)
def _colour(surface, work):  # type: ignore[no-untyped-def]
    """Colour faces by dependence: all flux into a face comes from faces of lower colours.

    Faces of one colour do not touch and are advanced together. `work.runs` tells what runs where.
    Faces that run into each other in a ring, or stand out of order within a bin of height, are not
    told apart: their flux is taken up in the next step.
    """
    order, runs, colour, upstream = work.order, work.runs, work.colour, work.upstream
    faces = len(order)
    nowhere = np.uint32(faces)
    # Without a branch: it could not be foretold.
    for f in range(faces):
        first, second, third = surface.beyond[0, f], surface.beyond[1, f], surface.beyond[2, f]
        upstream[f, 0] = first if runs[f, 1] <= _ZERO else nowhere
        upstream[f, 1] = second if runs[f, 2] <= _ZERO else nowhere
        upstream[f, 2] = third if runs[f, 3] <= _ZERO else nowhere
    colour[:faces] = 0
    colour[faces] = -1
    last = np.int32(0)
    for at in range(faces):
        f = order[at]
        own = max(colour[upstream[f, 0]], colour[upstream[f, 1]])
        own = max(own, colour[upstream[f, 2]]) + np.int32(1)
        colour[f] = own
        last = max(last, own)
    work.colours[0] = last + 1
    _counting_sort(colour[:faces], last + 1, order, work.start)


@njit(cache=True, fastmath=_FAST_MATH, error_model="numpy")
def _halley_step(u, x):  # type: ignore[no-untyped-def]
    """Return a better root of u + x u^3 = 1, by Halley's method."""
    cubic = x * u * u
    derivative = _ONE + _THREE * cubic
    residual = u + cubic * u - _ONE
    return u - residual * derivative / (derivative * derivative - _THREE * x * u * residual)


@njit(cache=True, fastmath=_FAST_MATH, error_model="numpy")
def _outflows(before, had, rate, outflow, count):  # type: ignore[no-untyped-def]
    """Work out what leaves some faces in a time step.

    `before` is what each held, `had` what it has with its inflow.

    Each solves V1 = V0 + inflow - rate (theta V1 + (1 - theta) V0)^3, the theta method: trapezoidal
    where the step is short for it and backward Euler where it is long. Halley's method stops above
    the root: the residual stays on the face, and is not lost.
    """
    # Up to a whole number of what the machine does at a time; what is past the end is old.
    for at in range((count + 7) // 8 * 8):
        available, initial, coefficient = had[at], before[at], rate[at]
        theta = max(_ONE - _ONE / max(coefficient * available * available, _ONE), _HALF)
        scale = theta * available + (_ONE - theta) * initial
        x = theta * coefficient * scale * scale
        u = (_ONE + x + x) / (_ONE + _THREE * x)
        u = _halley_step(_halley_step(_halley_step(u, x), x), x)
        # Never below nought, where the root is one but for rounding.
        outflow[at] = max(min((_ONE - u) * scale / theta, _LARGEST_SHARE * available), _ZERO)


@njit(cache=True, fastmath=_FAST_MATH, error_model="numpy")
def _advance_film(surface, state, work, usual_m2, conduct, step_s):  # type: ignore[no-untyped-def]
    """Advance the film by a time step.

    Colour by colour, from the top down: the flux from above is known when a colour's turn comes;
    flux against the order is taken up in the next step. What leaves one face is, to the bit, what
    comes to the next: mass is kept, and no film gets below nought. `usual_m2` is a usual face.

    Returns
    -------
    fastest, dripped
        How fast the film got thinner anywhere, and what ran over an open rim. [m/s], [m^3]
    """
    area, above, runs, order = surface.area, surface.above, work.runs, work.order
    held, edge_flux, (before, had, rate, outflow) = work.held, work.edge_flux, work.lanes
    faces = len(area)
    for f in range(faces):
        held[f] = state.film[f] * area[f]
    edge_flux[:] = _ZERO
    fastest = _ZERO
    c = np.float32(step_s * conduct)
    begin = 0
    for colour in range(work.colours[0]):
        ends = work.start[colour]
        while begin < ends:
            count = min(_LANES, ends - begin)
            for at in range(count):
                f = order[np.uint32(begin + at)]
                before[at] = held[f]
                had[at] = held[f] + (
                    edge_flux[above[f, 0]] + edge_flux[above[f, 1]] + edge_flux[above[f, 2]]
                )
                rate[at] = c * runs[f, 0]
            _outflows(before, had, rate, outflow, count)
            for at in range(count):
                f = order[np.uint32(begin + at)]
                fastest = max(outflow[at], fastest)
                place = np.uint32(3) * f
                edge_flux[place] = outflow[at] * runs[f, 1]
                edge_flux[place + np.uint32(1)] = outflow[at] * runs[f, 2]
                edge_flux[place + np.uint32(2)] = outflow[at] * runs[f, 3]
            begin += count
    inflow, film = work.inflow, state.film
    for f in range(faces):
        inflow[f] = (0.0 + edge_flux[above[f, 0]]) + edge_flux[above[f, 1]] + edge_flux[above[f, 2]]
    for f in range(faces):
        lost = (0.0 + edge_flux[3 * f]) + edge_flux[3 * f + 1] + edge_flux[3 * f + 2]
        film[f] += (inflow[f] - lost) / area[f]
    dripped = 0.0
    for rim in surface.rim_edge:
        dripped += edge_flux[rim]
    return fastest / (usual_m2 * step_s), dripped


@njit(cache=True)
def _drain_to_pools(state, ground, pools, fluidity, gathered_m, pull):  # type: ignore[no-untyped-def]
    """Move film beyond a limiting thickness into the pool at the low place below it.

    A film has no level: left to itself it would heap up there. It comes no further than its
    surface runs within `_RUNS_ON_S`, at pull h^2 / (2 mu).
    """
    film = state.film
    for f in range(len(film)):
        if film[f] > gathered_m and pools.label[f] < 0:
            low = low_place(f, ground)
            runs_m = 0.5 * pull * fluidity[f] * film[f] ** 2 * _RUNS_ON_S
            away2 = 0.0
            for k in range(3):
                away2 += (ground.centre[f, k] - ground.centre[low, k]) ** 2
            if away2 > runs_m * runs_m:
                continue
            pool = pools.label[low]
            if pool < 0:
                pool = add_pool(pools, low, 0.0)
                if pool < 0:
                    continue
                label_face(pools, low, pool)
            pools.volume[pool] += film[f] * ground.area[f]
            film[f] = 0.0


@njit(cache=True)
def _advance_age(state, clock, fluidity, now_s):  # type: ignore[no-untyped-def]
    """Advance the age of all film until now, the deeper the faster, and 1 / its viscosity.

    Returns
    -------
    float
        The largest of them. [1/(Pa s)]
    """
    elapsed_s = now_s - state.tally[AGED]
    state.tally[AGED] = now_s
    largest = _ZERO
    for f in range(len(fluidity)):
        depth = min(max(state.film[f], 0.0) * clock.per_m, float(len(clock.rate_factor) - 1))
        state.age[f] += elapsed_s * clock.rate_factor[int(depth)]
        at = min(state.age[f] * clock.per_s, float(len(clock.fluidity) - 1))
        fluidity[f] = clock.fluidity[int(at)]
        largest = max(largest, fluidity[f])
    return largest


@njit(cache=True, fastmath=_FAST_MATH, error_model="numpy")
def _advect_age(surface, state, work, times):  # type: ignore[no-untyped-def]
    """Advect age with the film: what came in `times` such steps mixes with what was there.

    In the order of the flux: what came has mixed with what was on its way.
    """
    above, beyond, age, edge_flux = surface.above, surface.beyond, state.age, work.edge_flux
    held, order = work.held, work.order
    for at in range(len(held)):
        f = order[at]
        # Across a rim comes nothing.
        first, second, third = (
            edge_flux[above[f, 0]],
            edge_flux[above[f, 1]],
            edge_flux[above[f, 2]],
        )
        own = age[f]
        advected = (
            first * (age[beyond[0, f]] - own)
            + second * (age[beyond[1, f]] - own)
            + third * (age[beyond[2, f]] - own)
        )
        inflow = first + second + third
        age[f] = own + times * advected / max(held[f] + times * inflow, _LEAST_M3)


@njit(cache=True)
def _spill(tally, volume, now_s):  # type: ignore[no-untyped-def]
    if volume > 0.0:
        tally[SPILT] += volume
        if tally[FIRST_SPILL] < 0.0:
            tally[FIRST_SPILL] = now_s


@njit(cache=True, nogil=True)
def run_coat(  # type: ignore[no-untyped-def]
    surface,
    state,
    pools,
    ground,
    work,
    ups,
    begins_s,
    step_s,
    clock,
    least_m,
    density,
):
    """Run some steps of one coat, in place.

    Parameters
    ----------
    surface : Surface
    state : State
    pools : Pools
    ground : Ground
    work : Workspace
        As the steps before left it, where the tally says that its order holds.
    ups : (n, k, 3) float
        Where up is; the pools stand level k times a step, evenly spread.
    begins_s, step_s : float
        When the first begins, and how long each is. [s]
    clock : Clock
        Of the film, of what is rolled, and of a puddle left behind.
    least_m : (n,) float
        So deep a pool must be during each step; what is less deep runs like a film. [m]
    density : float
        [kg/m^3]
    """
    faces = len(surface.area)
    tally = state.tally
    ordered_s, mobility = tally[ORDERED], _ZERO
    mixed_s = begins_s
    if ordered_s >= 0.0:
        mixed_s, mobility = ordered_s, work.fluidity.max()
    pull = density * GRAVITY_M_S2
    usual_m2 = surface.area.mean()
    many = ups.shape[1]
    first_dry = 0
    for step in range(len(ups)):
        now_s = begins_s + (step + 1) * step_s
        mean_up = np.zeros(3)
        for part in range(many):
            up = ups[step, part]
            mean_up += up / many
            if pools.used[0] > 0:
                ground.up[:] = up
                under = _covered_by_pools(pools, work)
                _spill(tally, settle(ground, pools), now_s)
                _exchange_with_pools(
                    surface, state, ground, pools, work, under, clock, now_s, pull, step_s / many
                )
                _shallow_to_film(state, ground, pools, work.deepest, least_m[step])
                age_standing(pools, step_s / many, _STANDS_S, clock.rate_factor[-1])
                _set_gelled(surface, state, pools, ground, clock, now_s)
                drop_empty(pools)
        reorders = ordered_s < 0.0 or now_s - ordered_s > _ORDER_EVERY_S
        if reorders:
            mobility = _advance_age(state, clock, work.fluidity, now_s)
        if mobility > _ZERO:
            conduct = pull / 3.0
            for f in range(faces):
                work.thick[f] = state.film[f] if pools.label[f] < 0 else -1.0
            _flux_coefficients(surface, work, mean_up, step_s * conduct)
            if reorders:
                _heights(surface, mean_up, work.high)
                _order_by_height(work)
                _colour(surface, work)
                ordered_s = now_s
            fastest, dripped = _advance_film(surface, state, work, usual_m2, conduct, step_s)
            ground.up[:] = mean_up
            gathered_m = _DRAIN_RATIO * least_m[step]
            _drain_to_pools(state, ground, pools, work.fluidity, gathered_m, pull)
            if reorders:
                _advect_age(surface, state, work, max((now_s - mixed_s) / step_s, 1.0))
                mixed_s = now_s
            _spill(tally, dripped, now_s)
            if fastest > _STILL_M_S:
                tally[STILL] = now_s
        tally[ORDERED] = ordered_s
        if tally[ALL_WET] < 0.0:
            for f in range(faces):
                state.wet[f] = state.wet[f] or state.film[f] > _WET_M
            while first_dry < faces and (state.wet[first_dry] or surface.lid[first_dry]):
                first_dry += 1
            if first_dry == faces:
                tally[ALL_WET] = now_s


@njit(cache=True)
def would_spill(pools, ground, up):  # type: ignore[no-untyped-def]
    """Return what of the pools would run out if the mould stood so. [m^3]"""
    ground.up[:] = up
    return settle(ground, pools)


@njit(cache=True)
def _set_gelled(surface, state, pools, ground, clock, now_s):  # type: ignore[no-untyped-def]
    """Set the pools whose age has reached the gel, where they stand."""
    for pool in range(pools.used[0]):
        age_s = now_s + pools.ahead_s[pool]
        if pools.volume[pool] > 0.0 and age_s * clock.per_s >= len(clock.fluidity) - 1:
            _set_pool(surface, state, pools, ground, pool)


@njit(cache=True)
def _set_pool(surface, state, pools, ground, pool):  # type: ignore[no-untyped-def]
    """Set a pool where it stands, by its depth on each face, scaled to keep its volume."""
    faces = len(surface.area)
    whole = 0.0
    for f in range(faces):
        if pools.label[f] == pool:
            deep = max(pools.level[pool] - height(ground, f), 0.0)
            whole += deep * _level_part(ground, f) * surface.area[f]
    if whole <= 0.0:
        low = low_place(pools.seed[pool], ground)
        state.pooled[low] += pools.volume[pool] / surface.area[low]
    for f in range(faces):
        if pools.label[f] == pool:
            if whole > 0.0:
                deep = max(pools.level[pool] - height(ground, f), 0.0) * _level_part(ground, f)
                state.pooled[f] += deep * pools.volume[pool] / whole
            state.depth[f] = 0.0
            pools.label[f] = NOBODY
    pools.volume[pool] = 0.0


@njit(cache=True)
def set_pools(surface, state, pools, ground, up):  # type: ignore[no-untyped-def]
    """Set all pools where they stand for a direction of up, into `state.pooled`."""
    ground.up[:] = up
    settle(ground, pools)
    for pool in range(pools.used[0]):
        if pools.volume[pool] > 0.0:
            _set_pool(surface, state, pools, ground, pool)
    pools.used[0] = 0
    clear_labels(pools)
