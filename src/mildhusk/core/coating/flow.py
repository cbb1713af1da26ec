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
    forget_empty,
    height,
    let_all_go,
    low_place,
    put_under,
    seen_from_above,
    settle,
)
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.geometry.mesh import Flags, Floats, Integers

Places = NDArray[np.uint32]
"""Faces by number; without a sign, so that loops need not look for one."""
SPILT, FIRST_SPILL, ALL_WET, STILL, AGED = 0, 1, 2, 3, 4
"""Places in a tally: volume; moments, below nought as long as they have not come; and the moment
until which all film has aged."""
_GATHERED = 2.5
"""What is so many times as thick as a pool must be deep is no film (assumed)."""
_MOST_LEFT_M = 0.01
"""A wall that comes out of a pool takes no more with it (assumed)."""
_LEAST_SLOPE = 0.15
"""Flatter than this a wall comes out of a pool as if it were so steep (assumed)."""
_WET_M = 1e-6
_STILL_M_S = 1e-6
"""Slower than a micrometre a second is still."""
_BINS = 1024
_ORDER_EVERY_S = 0.25
"""In so short a time order and viscosity hardly change; what is out of order waits a step."""
_AGES, _DEPTHS = 2048, 64
"""So finely viscosity is known by age, and how fast it ages by depth."""
_LOOSE = {"nnan", "ninf", "nsz", "contract", "arcp"}
"""What the compiler may take liberties with; with more, one and the same run came out otherwise
when it had just been compiled."""
_LANES = 128
"""Faces of a turn that are worked out at a time."""
_NONE, _HALF, _ONE, _THREE = np.float32(0.0), np.float32(0.5), np.float32(1.0), np.float32(3.0)
_TWO_THIRDS = np.float32(2.0 / 3.0)
_TINY, _STEPS_FIT = np.float32(1e-12), np.float32(1.0)
"""From the second on, as rate times film squared, a step is too long for the film at an edge."""
_LEAST_M3 = 1e-30
_ALL_BUT_ALL = np.float32(1.0 - 1e-6)
"""A face gives no more of what it holds in a step, so that rounding takes nothing below nought."""


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
    """A coat on its way.

    Parameters
    ----------
    film : (m,) float
        Liquid on each face that is under no pool. [m]
    depth : (m,) float
        How deep a face was under its pool at the step before. [m]
    age : (m + 1,) float
        Of its film; what runs carries its age along. The last is nobody's. [s]
    wet, air : (m,) bool
        Whether it ever was, and whether it ever was in a bubble.
    tally : (5,) float
        See `SPILT` and the others.
    """

    film: Floats
    depth: Floats
    age: Floats
    wet: Flags
    air: Flags
    tally: Floats


class Room(NamedTuple):
    """Room to work in, kept from step to step.

    Parameters
    ----------
    thick, flows, beyond, runs
        The film in single precision, 1 / its viscosity, what is in the next faces, and where it
        runs; see `_pull`.
    held, over : (m,), (3 m + 1,) float32
        What each face holds and what runs over each of its edges. [m^3]
    came : (m,) float
        What runs into each face. [m^3]
    lanes : (4, _LANES) float32
        See `_leaves`.
    high, order, bins, start, comes_from, turn, turns
        See `_from_the_top` and `_take_turns`.
    were, of, deepest
        See `_exchange`.
    """

    thick: Floats
    flows: Floats
    beyond: Floats
    runs: Floats
    held: Floats
    over: Floats
    came: Floats
    lanes: tuple[Floats, Floats, Floats, Floats]
    high: Floats
    order: Places
    bins: Integers
    start: Integers
    comes_from: Places
    turn: Integers
    turns: Integers
    were: Integers
    of: Integers
    deepest: Floats


def room_for(faces: int) -> Room:
    """Return room for a coat."""
    lanes = np.zeros((4, _LANES), np.float32)
    return Room(
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
    flows : (n,) float32
        1 / viscosity at evenly spread ages, the last nought. [1/(Pa s)]
    per_s : float
        How many of them a second has. [1/s]
    quicker : (k,) float32
        How many times faster it ages at evenly spread depths.
    per_m : float
        How many of them a metre has. [1/m]
    """

    flows: Floats
    per_s: float
    quicker: Floats
    per_m: float


def clock_of(liquid: Liquid) -> Clock:
    """Return a liquid's clock as the flow reads it."""
    lasts, deepest = max(liquid.gels_at_s, 1e-9), max(float(liquid.depth_m[-1]), 1e-6)
    flows = liquid.flows(np.linspace(0.0, lasts, _AGES + 1))
    flows[-1] = 0.0
    depths = np.linspace(0.0, deepest, _DEPTHS + 1)
    quicker = np.interp(depths, liquid.depth_m, liquid.quicker)
    return Clock(
        np.asarray(flows, np.float32),
        _AGES / lasts,
        np.asarray(quicker, np.float32),
        _DEPTHS / deepest,
    )


def dry(faces: int) -> State:
    """Return a coat before its pour."""
    return State(
        np.zeros(faces),
        np.zeros(faces),
        np.zeros(faces + 1),
        np.zeros(faces, np.bool_),
        np.zeros(faces, np.bool_),
        np.array([0.0, -1.0, -1.0, -1.0, 0.0]),
    )


@njit(cache=True, fastmath=_LOOSE)
def _heights(surface, up, high):  # type: ignore[no-untyped-def]
    """Work out how high every face lies; what has set narrows the mould."""
    x, y, z = np.float32(up[0]), np.float32(up[1]), np.float32(up[2])
    for f in range(len(high)):
        n = surface.normal[0, f] * x + surface.normal[1, f] * y + surface.normal[2, f] * z
        c = surface.centre[0, f] * x + surface.centre[1, f] * y + surface.centre[2, f] * z
        high[f] = c - np.float32(surface.solid[f]) * n


@njit(cache=True, fastmath=_LOOSE, error_model="numpy")
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


@njit(cache=True, fastmath=_LOOSE, error_model="numpy")
def _further(beyond, per):  # type: ignore[no-untyped-def]
    return beyond * per - _ONE if beyond >= _NONE else _NONE


@njit(cache=True, fastmath=_LOOSE, error_model="numpy")
def _pull(surface, room, up, c):  # type: ignore[no-untyped-def]
    """Work out where each face's film runs: `room.runs` holds how fast, and its share by edge.

    How fast is how wide it is open downhill over its area, by volume, over its viscosity.
    [1/(Pa s m^5)] What runs over an edge is as thick as the film is there, not in the middle of its
    face; less so where a step `c` is long for the face. `room.thick` is the film in single
    precision, below nought where there is none to look at: under a pool, and beyond a rim.
    """
    x, y, z, step = np.float32(up[0]), np.float32(up[1]), np.float32(up[2]), np.float32(c)
    a, per_area2 = surface.across, surface.per_area2
    thick, flows, beyond, runs = room.thick, room.flows, room.beyond, room.runs
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
        much = step * flows[f] * (first + second + third) * h * h
        part = min(_STEPS_FIT / max(much, _TINY), _ONE)
        first *= _thicker(one, per, rest, part)
        second *= _thicker(two, per, rest, part)
        third *= _thicker(three, per, rest, part)
        whole = first + second + third
        share = _ONE / max(whole, _TINY)
        beyond[0, f] = whole * flows[f] * per_area2[f] if h >= _NONE else _NONE
        beyond[1, f] = first * share
        beyond[2, f] = second * share
        beyond[3, f] = third * share
    for f in range(faces):
        for k in range(4):
            runs[f, k] = beyond[k, f]


def ground_of(surface: Surface) -> Ground:
    """Return how a surface stands, with no up yet."""
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
def _under(pools, room):  # type: ignore[no-untyped-def]
    """Note which faces are under which pool; returns how many."""
    many = 0
    for at in range(pools.listed_many[0]):
        f = pools.list_[at]
        if pools.label[f] >= 0:
            room.were[many], room.of[many] = f, pools.label[f]
            many += 1
    return many


@njit(cache=True, error_model="numpy")
def _exchange(surface, state, ground, pools, room, many, flows, pull, step_s):  # type: ignore[no-untyped-def]
    """Let pools take up the film they reach, and leave one on the wall that comes out of them.

    The first `many` of `room.were` are the faces that were under a pool, `room.of` which. How deep
    each pool is then stands in `room.deepest`. [m]
    """
    were, of, deepest = room.were, room.of, room.deepest
    deepest[:] = 0.0
    largest = 0
    for one in range(pools.many[0]):
        if pools.volume[one] > pools.volume[largest]:
            largest = one
    for at in range(pools.listed_many[0]):
        f = pools.list_[at]
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
            level_part = seen_from_above(ground, f) / surface.area[f]
            steep = np.sqrt(max(1.0 - level_part * level_part, 0.0))
            left = np.sqrt(out / (step_s * flows * pull)) / max(steep, _LEAST_SLOPE)
            left = min(left, _MOST_LEFT_M, pools.volume[was] / surface.area[f])
            state.film[f] = left
            pools.volume[was] -= left * surface.area[f]
        state.depth[f] = 0.0
    for at in range(pools.listed_many[0]):
        f = pools.list_[at]
        pool = pools.label[f]
        if pool >= 0:
            deep = max(pools.level[pool] - height(ground, f), 0.0)
            state.depth[f] = deep
            deepest[pool] = max(deepest[pool], deep)


@njit(cache=True)
def _level_part(ground, f):  # type: ignore[no-untyped-def]
    """Return how much of a face looks up: a liquid so deep over it is so much less thick on it."""
    return max(seen_from_above(ground, f) / ground.area[f], 0.0)


@njit(cache=True)
def _shallow_to_film(state, ground, pools, deepest, least_m):  # type: ignore[no-untyped-def]
    """Let pools that are less deep than they must be run like a film, from where they lie."""
    shallow = False
    for pool in range(pools.many[0]):
        if 0.0 < deepest[pool] < least_m:
            shallow = True
    if not shallow:
        return
    held = np.zeros(len(deepest))
    for at in range(pools.listed_many[0]):
        f = pools.list_[at]
        pool = pools.label[f]
        if pool >= 0 and deepest[pool] < least_m:
            state.film[f] = max(state.depth[f] * _level_part(ground, f), 1e-9)
            held[pool] += state.film[f] * ground.area[f]
    for at in range(pools.listed_many[0]):
        f = pools.list_[at]
        pool = pools.label[f]
        if pool >= 0 and deepest[pool] < least_m:
            state.film[f] *= pools.volume[pool] / held[pool]
            state.depth[f] = 0.0
            pools.label[f] = NOBODY
    for pool in range(pools.many[0]):
        if held[pool] > 0.0:
            pools.volume[pool] = 0.0


@njit(cache=True, fastmath=_LOOSE)
def _from_the_top(room):  # type: ignore[no-untyped-def]
    """Order faces from high to low, as finely as bins tell them apart."""
    high, order, bins, start = room.high, room.order, room.bins, room.start
    low = top = high[0]
    for f in range(len(high)):
        low, top = min(low, high[f]), max(top, high[f])
    scale = np.float32(_BINS - 1) / max(top - low, _TINY)
    for f in range(len(high)):
        bins[f] = np.int32((top - high[f]) * scale)
    _sort(bins, _BINS, order, start)


@njit(cache=True)
def _sort(numbers, many, order, start):  # type: ignore[no-untyped-def]
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
def _take_turns(surface, room):  # type: ignore[no-untyped-def]
    """Order faces by turns: all that runs into a face has left others in turns before its own.

    `room.runs` tells what runs where. Faces that run into each other in a ring, or stand out of
    order within a bin of height, are not told apart: what runs in there waits a step.
    """
    order, runs, turn, comes_from = room.order, room.runs, room.turn, room.comes_from
    faces = len(order)
    nowhere = np.uint32(faces)
    # Without a branch: it could not be foretold.
    for f in range(faces):
        first, second, third = surface.beyond[0, f], surface.beyond[1, f], surface.beyond[2, f]
        comes_from[f, 0] = first if runs[f, 1] <= _NONE else nowhere
        comes_from[f, 1] = second if runs[f, 2] <= _NONE else nowhere
        comes_from[f, 2] = third if runs[f, 3] <= _NONE else nowhere
    turn[:faces] = 0
    turn[faces] = -1
    last = np.int32(0)
    for at in range(faces):
        f = order[at]
        own = max(turn[comes_from[f, 0]], turn[comes_from[f, 1]])
        own = max(own, turn[comes_from[f, 2]]) + np.int32(1)
        turn[f] = own
        last = max(last, own)
    room.turns[0] = last + 1
    _sort(turn[:faces], last + 1, order, room.start)


@njit(cache=True, fastmath=_LOOSE, error_model="numpy")
def _halley(u, x):  # type: ignore[no-untyped-def]
    """Return a better root of u + x u^3 = 1."""
    much = x * u * u
    tilt = _ONE + _THREE * much
    off = u + much * u - _ONE
    return u - off * tilt / (tilt * tilt - _THREE * x * u * off)


@njit(cache=True, fastmath=_LOOSE, error_model="numpy")
def _leaves(before, had, rate, gone, many):  # type: ignore[no-untyped-def]
    """Work out what leaves some faces in a step, of what each held before and has with what came.

    Each solves V1 = V0 + came - rate (late V1 + (1 - late) V0)^3: the trapezoidal rule where the
    step is short for it and the backward one where it is long. Halley's method stops above the
    root: what it is off by stays where it is, and is not lost.
    """
    # Up to a whole number of what the machine does at a time; what is past the end is old.
    for at in range((many + 7) // 8 * 8):
        whole, first, much = had[at], before[at], rate[at]
        late = max(_ONE - _ONE / max(much * whole * whole, _ONE), _HALF)
        middle = late * whole + (_ONE - late) * first
        x = late * much * middle * middle
        u = (_ONE + x + x) / (_ONE + _THREE * x)
        u = _halley(_halley(_halley(u, x), x), x)
        # Never below nought, where the root is one but for rounding.
        gone[at] = max(min((_ONE - u) * middle / late, _ALL_BUT_ALL * whole), _NONE)


@njit(cache=True, fastmath=_LOOSE, error_model="numpy")
def _run_down(surface, state, room, usual_m2, conduct, step_s):  # type: ignore[no-untyped-def]
    """Let the film run down for a step.

    By turns, from the top down: what runs in from above is known when a face's turn comes; what
    runs in out of turn waits for the next step. What leaves one face is, to the bit, what
    comes to the next: nothing is lost, nothing gets below nought. A usual face is `usual_m2` large.

    Returns
    -------
    fastest, dripped
        How fast the film got thinner anywhere, and what ran over an open rim. [m/s], [m^3]
    """
    area, above, runs, order = surface.area, surface.above, room.runs, room.order
    held, over, (before, had, rate, gone) = room.held, room.over, room.lanes
    faces = len(area)
    for f in range(faces):
        held[f] = state.film[f] * area[f]
    over[:] = _NONE
    fastest = _NONE
    c = np.float32(step_s * conduct)
    begin = 0
    for turn in range(room.turns[0]):
        ends = room.start[turn]
        while begin < ends:
            many = min(_LANES, ends - begin)
            for at in range(many):
                f = order[np.uint32(begin + at)]
                before[at] = held[f]
                had[at] = held[f] + (over[above[f, 0]] + over[above[f, 1]] + over[above[f, 2]])
                rate[at] = c * runs[f, 0]
            _leaves(before, had, rate, gone, many)
            for at in range(many):
                f = order[np.uint32(begin + at)]
                fastest = max(gone[at], fastest)
                place = np.uint32(3) * f
                over[place] = gone[at] * runs[f, 1]
                over[place + np.uint32(1)] = gone[at] * runs[f, 2]
                over[place + np.uint32(2)] = gone[at] * runs[f, 3]
            begin += many
    came, film = room.came, state.film
    for f in range(faces):
        came[f] = (0.0 + over[above[f, 0]]) + over[above[f, 1]] + over[above[f, 2]]
    for f in range(faces):
        went = (0.0 + over[3 * f]) + over[3 * f + 1] + over[3 * f + 2]
        film[f] += (came[f] - went) / area[f]
    dripped = 0.0
    for rim in surface.rim_edge:
        dripped += over[rim]
    return fastest / (usual_m2 * step_s), dripped


@njit(cache=True)
def _gather(state, ground, pools, gathered_m):  # type: ignore[no-untyped-def]
    """Let what is too thick for a film run to the low place below, into the pool that is there.

    A film has no level: left to itself it would heap up there.
    """
    film = state.film
    for f in range(len(film)):
        if film[f] > gathered_m and pools.label[f] < 0:
            low = low_place(f, ground)
            pool = pools.label[low]
            if pool < 0:
                pool = add_pool(pools, low, 0.0)
                if pool < 0:
                    continue
                put_under(pools, low, pool)
            pools.volume[pool] += film[f] * ground.area[f]
            film[f] = 0.0


@njit(cache=True)
def _grow_older(state, clock, flows, now_s):  # type: ignore[no-untyped-def]
    """Let all film age until now, the deeper the faster; then work out 1 / its viscosity.

    Returns
    -------
    float
        The largest of them. [1/(Pa s)]
    """
    lasted_s = now_s - state.tally[AGED]
    state.tally[AGED] = now_s
    most = _NONE
    for f in range(len(flows)):
        deep = min(max(state.film[f], 0.0) * clock.per_m, float(len(clock.quicker) - 1))
        state.age[f] += lasted_s * clock.quicker[int(deep)]
        at = min(state.age[f] * clock.per_s, float(len(clock.flows) - 1))
        flows[f] = clock.flows[int(at)]
        most = max(most, flows[f])
    return most


@njit(cache=True, fastmath=_LOOSE, error_model="numpy")
def _mix_ages(surface, state, room, times):  # type: ignore[no-untyped-def]
    """Let what came to a face in so many steps like this one mix with what was there.

    By turns, as the film runs: what came has mixed with what was on its way.
    """
    above, beyond, age, over = surface.above, surface.beyond, state.age, room.over
    held, order = room.held, room.order
    for at in range(len(held)):
        f = order[at]
        # Across a rim comes nothing.
        first, second, third = over[above[f, 0]], over[above[f, 1]], over[above[f, 2]]
        own = age[f]
        older = (
            first * (age[beyond[0, f]] - own)
            + second * (age[beyond[1, f]] - own)
            + third * (age[beyond[2, f]] - own)
        )
        came = first + second + third
        age[f] = own + times * older / max(held[f] + times * came, _LEAST_M3)


@njit(cache=True)
def _spill(tally, volume, now_s):  # type: ignore[no-untyped-def]
    if volume > 0.0:
        tally[SPILT] += volume
        if tally[FIRST_SPILL] < 0.0:
            tally[FIRST_SPILL] = now_s


@njit(cache=True)
def run_coat(  # type: ignore[no-untyped-def]
    surface, state, pools, ground, room, ups, begins_s, step_s, clock, pool_flows, least_m, density
):
    """Run some steps of one coat, in place.

    Parameters
    ----------
    surface : Surface
    state : State
    pools : Pools
    ground : Ground
    room : Room
        To work in.
    ups : (n, k, 3) float
        Where up is; the pools stand level k times a step, evenly spread.
    begins_s, step_s : float
        When the first begins, and how long each is. [s]
    clock : Clock
        Of the film.
    pool_flows : (n,) float
        1 / viscosity of a pool during each step. [1/(Pa s)]
    least_m : (n,) float
        So deep a pool must be during each step; what is less deep runs like a film. [m]
    density : float
        [kg/m^3]
    """
    faces = len(surface.area)
    tally = state.tally
    ordered_s, most, mixed_s = -1.0, _NONE, begins_s
    pull = density * GRAVITY_M_S2
    usual_m2 = surface.area.mean()
    many = ups.shape[1]
    dry_from = 0
    for step in range(len(ups)):
        now_s = begins_s + (step + 1) * step_s
        mean = np.zeros(3)
        for part in range(many):
            up = ups[step, part]
            mean += up / many
            if pool_flows[step] > 0.0 and pools.many[0] > 0:
                ground.up[:] = up
                under = _under(pools, room)
                _spill(tally, settle(ground, pools), now_s)
                _exchange(
                    surface, state, ground, pools, room, under, pool_flows[step], pull,
                    step_s / many,
                )  # fmt: skip
                _shallow_to_film(state, ground, pools, room.deepest, least_m[step])
                forget_empty(pools)
        due = ordered_s < 0.0 or now_s - ordered_s > _ORDER_EVERY_S
        if due:
            most = _grow_older(state, clock, room.flows, now_s)
        if most > _NONE:
            conduct = pull / 3.0
            for f in range(faces):
                room.thick[f] = state.film[f] if pools.label[f] < 0 else -1.0
            _pull(surface, room, mean, step_s * conduct)
            if due:
                _heights(surface, mean, room.high)
                _from_the_top(room)
                _take_turns(surface, room)
                ordered_s = now_s
            fastest, dripped = _run_down(surface, state, room, usual_m2, conduct, step_s)
            ground.up[:] = mean
            _gather(state, ground, pools, _GATHERED * least_m[step])
            if due:
                _mix_ages(surface, state, room, max((now_s - mixed_s) / step_s, 1.0))
                mixed_s = now_s
            _spill(tally, dripped, now_s)
            if fastest > _STILL_M_S:
                tally[STILL] = now_s
        if tally[ALL_WET] < 0.0:
            for f in range(faces):
                state.wet[f] = state.wet[f] or state.film[f] > _WET_M
            while dry_from < faces and (state.wet[dry_from] or surface.lid[dry_from]):
                dry_from += 1
            if dry_from == faces:
                tally[ALL_WET] = now_s


@njit(cache=True)
def would_spill(pools, ground, up):  # type: ignore[no-untyped-def]
    """Return what of the pools would run out if the mould stood so. [m^3]"""
    ground.up[:] = up
    return settle(ground, pools)


@njit(cache=True)
def set_pools(surface, pools, ground, up):  # type: ignore[no-untyped-def]
    """Let the pools set where they lie; returns the depth on each face, and takes them away. [m]

    By the depth under the level, scaled so that all of it is there.
    """
    ground.up[:] = up
    depth = np.zeros(len(surface.area))
    settle(ground, pools)
    for pool in range(pools.many[0]):
        if pools.volume[pool] <= 0.0:
            continue
        whole = 0.0
        for f in range(len(surface.area)):
            if pools.label[f] == pool:
                deep = max(pools.level[pool] - height(ground, f), 0.0)
                depth[f] = deep * _level_part(ground, f)
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
    let_all_go(pools)
    return depth
