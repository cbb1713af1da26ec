"""Pools: free liquid that stands level in the low places of a mould, flows over and is spilt."""

import numpy as np
from numba import njit

LEVEL, OVER, MEET, SPILL = 0, 1, 2, 3
"""How a filling ends: level; over a saddle; into another pool; over the rim."""


@njit(cache=True)
def descend(face, height, neighbour):  # type: ignore[no-untyped-def]
    """Return the low place below a face, from neighbour to neighbour."""
    while True:
        lowest = face
        for k in range(3):
            other = neighbour[face, k]
            if other >= 0 and height[other] < height[lowest]:
                lowest = other
        if lowest == face:
            return face
        face = lowest


@njit(cache=True)
def _push(heap_z, heap_f, size, z, f):  # type: ignore[no-untyped-def]
    at = size
    heap_z[at], heap_f[at] = z, f
    while at > 0:
        parent = (at - 1) // 2
        if heap_z[parent] <= heap_z[at]:
            break
        heap_z[parent], heap_z[at] = heap_z[at], heap_z[parent]
        heap_f[parent], heap_f[at] = heap_f[at], heap_f[parent]
        at = parent
    return size + 1


@njit(cache=True)
def _pop(heap_z, heap_f, size):  # type: ignore[no-untyped-def]
    size -= 1
    heap_z[0], heap_f[0] = heap_z[size], heap_f[size]
    at = 0
    while True:
        child = 2 * at + 1
        if child >= size:
            break
        if child + 1 < size and heap_z[child + 1] < heap_z[child]:
            child += 1
        if heap_z[at] <= heap_z[child]:
            break
        heap_z[at], heap_z[child] = heap_z[child], heap_z[at]
        heap_f[at], heap_f[child] = heap_f[child], heap_f[at]
        at = child
    return size


@njit(cache=True)
def fill(  # type: ignore[no-untyped-def]
    pool, seed, volume, height, weight, neighbour, rim_height, label, heap_z, heap_f, region
):
    """Fill a volume into a mould from a low place.

    Volume under a level L is the sum over the faces below it, joined to the low place, of
    weight (L - height), weight being their area seen from above, below nought for a ceiling.
    `label` tells whose each face is, -1 nobody's; faces taken get `pool`. The heap takes faces as
    f and the rim's edges as -(3 f + k) - 2.

    Returns
    -------
    how, level, count, rest, where
        How it ended; the level; how many faces `region` holds; what goes over or out; the face it
        goes over to, or the other pool.
    """
    size = _push(heap_z, heap_f, 0, height[seed], seed)
    label[seed] = pool
    count, area, moment = 0, 0.0, 0.0
    top = -np.inf
    saddle_count, saddle_area, saddle_moment, over_face = -1, 0.0, 0.0, -1
    how, level, rest, where = LEVEL, height[seed], 0.0, -1
    ended = False
    while size > 0:
        z, f = heap_z[0], heap_f[0]
        size = _pop(heap_z, heap_f, size)
        if z >= top:
            if saddle_count >= 0:
                # What lies behind the saddle is full up to it only if there is enough.
                if area * top - moment > volume:
                    how, level, where = OVER, top, over_face
                    rest = volume - (saddle_area * top - saddle_moment)
                    for at in range(saddle_count, count):
                        label[region[at]] = -1
                    count = saddle_count
                    ended = True
                    break
                saddle_count = -1
            if count > 0 and area * z - moment >= volume:
                level = (volume + moment) / area
                ended = True
                break
            top = z
        elif saddle_count < 0 and f >= 0 and z < top - 1e-12:
            saddle_count, saddle_area, saddle_moment, over_face = count, area, moment, f
        if f < -1:
            # A rim: what stands above it runs out.
            if saddle_count < 0:
                how, level = SPILL, max(z, top)
                rest = volume - (area * level - moment)
            else:
                how, level, where = OVER, top, over_face
                rest = volume - (saddle_area * top - saddle_moment)
                for at in range(saddle_count, count):
                    label[region[at]] = -1
                count = saddle_count
            ended = True
            break
        region[count] = f
        count += 1
        area += weight[f]
        moment += weight[f] * height[f]
        for k in range(3):
            other = neighbour[f, k]
            if other < 0:
                size = _push(heap_z, heap_f, size, rim_height[f, k], -(3 * f + k) - 2)
            elif label[other] < 0:
                label[other] = pool
                size = _push(heap_z, heap_f, size, height[other], other)
            elif label[other] != pool:
                how, where = MEET, label[other]
                ended = True
        if ended:
            break
    if how == MEET:
        level = top
    elif not ended:
        level = (volume + moment) / area if area > 1e-12 else top
    # Faces that were only looked at belong to nobody.
    for at in range(size):
        if heap_f[at] >= 0:
            label[heap_f[at]] = -1
    if ended and how <= OVER and f >= 0:
        label[f] = -1
    return how, level, count, max(rest, 0.0), where


@njit(cache=True)
def settle(  # type: ignore[no-untyped-def]
    seeds, volumes, levels, many, height, weight, neighbour, rim_height, label, heap_z, heap_f,
    region,
):  # fmt: skip
    """Let every pool find its level: over saddles, into each other, over the rim.

    `seeds`, `volumes` and `levels` hold `many` pools and have room for more.

    Returns
    -------
    many, spilt
        How many pools there are now, and what ran out. [m^3]
    """
    label[:] = -1
    spilt = 0.0
    room = len(seeds)
    todo = np.arange(many)
    waiting = many
    tries = 0
    stack = np.empty(room * 12, np.int64)
    for at in range(waiting):
        stack[at] = todo[waiting - 1 - at]
    depth = waiting
    while depth > 0 and tries < 12 * room:
        tries += 1
        depth -= 1
        pool = stack[depth]
        if volumes[pool] <= 0.0:
            continue
        seed = descend(seeds[pool], height, neighbour)
        seeds[pool] = seed
        owner = label[seed]
        if owner >= 0 and owner != pool:
            # Its low place is under another pool already.
            volumes[owner] += volumes[pool]
            volumes[pool] = 0.0
            for face in range(len(label)):
                if label[face] == owner:
                    label[face] = -1
            if depth < len(stack) - 2:
                stack[depth] = owner
                depth += 1
            continue
        how, level, _, rest, where = fill(
            pool, seed, volumes[pool], height, weight, neighbour, rim_height, label, heap_z,
            heap_f, region,
        )  # fmt: skip
        levels[pool] = level
        if how == SPILL:
            spilt += rest
            volumes[pool] -= rest
        elif how == MEET:
            volumes[pool] += volumes[where]
            volumes[where] = 0.0
            for face in range(len(label)):
                if label[face] == where or label[face] == pool:
                    label[face] = -1
            if depth < len(stack) - 2:
                stack[depth] = pool
                depth += 1
        elif how == OVER and rest > 0.0:
            volumes[pool] -= rest
            low = descend(where, height, neighbour)
            other = label[low]
            if other < 0:
                for one in range(many):
                    if volumes[one] > 0.0 and one != pool and seeds[one] == low:
                        other = one
            if other >= 0 and other != pool:
                volumes[other] += rest
                if label[low] == other:
                    for face in range(len(label)):
                        if label[face] == other:
                            label[face] = -1
                    if depth < len(stack) - 2:
                        stack[depth] = other
                        depth += 1
            else:
                free = -1
                for one in range(many):
                    if volumes[one] <= 0.0 and one != pool:
                        free = one
                        break
                if free < 0 and many < room:
                    free = many
                    many += 1
                if free < 0:
                    volumes[pool] += rest
                else:
                    seeds[free], volumes[free] = low, rest
                    if depth < len(stack) - 2:
                        stack[depth] = free
                        depth += 1
    return many, spilt
