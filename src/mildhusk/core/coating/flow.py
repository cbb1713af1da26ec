"""Film and pool of one coat on a turning mould, until it gels."""

import numpy as np
from numba import njit

from mildhusk.core.coating.pools import descend, settle

GRAVITY = 9.80665
MOST_POOLS = 64
"""Pools at once; drops beyond them stay films."""
_POOLS_FROM_M = 0.0025
"""A film so thick in a low place runs together into a pool (assumed)."""
_MOST_SUBSTEPS = 12
_COURANT = 0.9


@njit(cache=True)
def run_coat(  # type: ignore[no-untyped-def]
    centre, normal, area, neighbour, edge, along, rim_place, solid, film, seeds, volumes, many,
    label, ups, step_s, fluidity_film, fluidity_pool, density, begin, end, wet, never, tally,
):  # fmt: skip
    """Run motion steps `begin` to `end` of one coat, in place.

    Parameters
    ----------
    solid, film : (m,) float
        Earlier coats, and liquid on the face. [m]
    seeds, volumes : (MOST_POOLS,)
        Low place and volume of each of `many` pools. [m^3]
    label : (m,) int
        The pool each face is under, -1 none.
    ups : (n, 3) float
        Where up is at each step.
    fluidity_film, fluidity_pool : (n,) float
        1 / viscosity at each step, 0 once it has gelled. [1/(Pa s)]
    wet : (m,) bool
        Faces that were ever wet.
    tally : (4,) float
        Spilt volume, time of the first spill, time all was wet, time the last liquid moved.

    Returns
    -------
    int
        How many pools there are.
    """
    count = len(area)
    height = np.empty(count)
    weight = np.empty(count)
    rim_height = np.empty((count, 3))
    before = label.copy()
    clearance = np.zeros(count)
    levels = np.zeros(len(seeds))
    heap_z, heap_f = np.empty(4 * count), np.empty(4 * count, np.int64)
    region = np.empty(count + 1, np.int64)
    flux = np.empty((count, 3))
    change = np.empty(count)
    slope = np.empty((count, 3))
    pull = density * GRAVITY
    for step in range(begin, end):
        up = ups[step]
        # What has set narrows the mould.
        for f in range(count):
            z, w = 0.0, 0.0
            for k in range(3):
                z += (centre[f, k] - solid[f] * normal[f, k]) * up[k]
                w -= normal[f, k] * up[k]
            height[f] = z
            weight[f] = w * area[f]
            for k in range(3):
                if neighbour[f, k] < 0:
                    z = 0.0
                    for x in range(3):
                        z += (rim_place[f, k, x] - solid[f] * normal[f, x]) * up[x]
                    rim_height[f, k] = z
        # --- the pool ---
        if fluidity_pool[step] > 0.0 and many > 0:
            before[:] = label
            many, spilt = settle(
                seeds, volumes, levels, many, height, weight, neighbour, rim_height, label,
                heap_z, heap_f, region,
            )  # fmt: skip
            if spilt > 0.0:
                tally[0] += spilt
                if tally[1] < 0.0:
                    tally[1] = step * step_s
            largest = 0
            for one in range(many):
                if volumes[one] > volumes[largest]:
                    largest = one
            for f in range(count):
                pool = label[f]
                if pool >= 0:
                    # Under the level it is the pool's.
                    volumes[pool] += area[f] * film[f]
                    film[f] = 0.0
                    wet[f] = True
                    clearance[f] = height[f] - levels[pool]
                    continue
                was = before[f]
                if was >= 0 and volumes[was] <= 0.0:
                    # It ran into another one.
                    was = largest
                if was >= 0 and volumes[was] > 0.0:
                    # Withdrawn: it keeps the film that its speed leaves (Deryagin).
                    risen = max(height[f] - levels[was] - clearance[f], 0.0) / step_s
                    left = np.sqrt(risen / (fluidity_pool[step] * pull))
                    left = min(left, volumes[was] / area[f], 0.01)
                    film[f] += left
                    volumes[was] -= left * area[f]
                clearance[f] = 0.0
        # --- the film ---
        if fluidity_film[step] > 0.0:
            fastest = 0.0
            for f in range(count):
                leaves = 0.0
                for k in range(3):
                    s = 0.0
                    for x in range(3):
                        s -= along[f, k, x] * up[x]
                    slope[f, k] = s
                    if s > 0.0:
                        leaves += s * edge[f, k]
                if film[f] > 0.0:
                    # Three times the mean speed is the wave's.
                    rate = fluidity_film[step] * pull * film[f] ** 2 * leaves / area[f]
                    fastest = max(fastest, rate)
            parts = int(min(max(np.ceil(fastest * step_s / _COURANT), 1.0), _MOST_SUBSTEPS))
            dt = step_s / parts
            moved = 0.0
            for _ in range(parts):
                change[:] = 0.0
                for f in range(count):
                    thick = film[f]
                    if thick <= 0.0:
                        continue
                    third = fluidity_film[step] * pull * thick**3 / 3.0
                    total = 0.0
                    for k in range(3):
                        out = third * slope[f, k] * edge[f, k] * dt if slope[f, k] > 0.0 else 0.0
                        flux[f, k] = out
                        total += out
                    # Nothing gives more than it has.
                    most = 0.8 * thick * area[f]
                    share = 1.0 if total <= most else most / total
                    for k in range(3):
                        out = flux[f, k] * share
                        if out <= 0.0:
                            continue
                        other = neighbour[f, k]
                        if other < 0:
                            # It drips from the rim.
                            tally[0] += out
                            if tally[1] < 0.0:
                                tally[1] = step * step_s
                        else:
                            change[other] += out
                        change[f] -= out
                for f in range(count):
                    if change[f] != 0.0:
                        film[f] = max(film[f] + change[f] / area[f], 0.0)
                        moved = max(moved, abs(change[f]) / (area[f] * dt))
            # Slower than a micrometre a second is still.
            if moved > 1e-6:
                tally[3] = (step + 1) * step_s
        # --- what runs together ---
        if fluidity_pool[step] > 0.0:
            for f in range(count):
                if film[f] > 1e-6:
                    wet[f] = True
                pool = label[f]
                if pool >= 0:
                    volumes[pool] += area[f] * film[f]
                    film[f] = 0.0
                elif film[f] > _POOLS_FROM_M and many < len(seeds):
                    low = True
                    for k in range(3):
                        other = neighbour[f, k]
                        if other >= 0 and height[other] < height[f]:
                            low = False
                    if low:
                        seeds[many], volumes[many] = f, area[f] * film[f]
                        label[f] = many
                        film[f] = 0.0
                        many += 1
        if tally[2] < 0.0:
            dry = 0.0
            for f in range(count):
                if not wet[f] and not never[f]:
                    dry += area[f]
            if dry <= 0.0:
                tally[2] = (step + 1) * step_s
    return many


@njit(cache=True)
def set_pools(  # type: ignore[no-untyped-def]
    centre, normal, area, neighbour, rim_place, solid, seeds, volumes, many, label, up
):
    """Let what is left of the pools set where it lies; returns the depth on each face. [m]

    By the depth under the level, scaled so that all of it is there.
    """
    count = len(area)
    height = np.empty(count)
    weight = np.empty(count)
    rim_height = np.full((count, 3), np.inf)
    for f in range(count):
        z, w = 0.0, 0.0
        for k in range(3):
            z += (centre[f, k] - solid[f] * normal[f, k]) * up[k]
            w -= normal[f, k] * up[k]
        height[f] = z
        weight[f] = w * area[f]
    levels = np.zeros(len(seeds))
    heap_z, heap_f = np.empty(4 * count), np.empty(4 * count, np.int64)
    region = np.empty(count + 1, np.int64)
    many, _ = settle(
        seeds, volumes, levels, many, height, weight, neighbour, rim_height, label, heap_z, heap_f,
        region,
    )  # fmt: skip
    depth = np.zeros(count)
    for pool in range(many):
        if volumes[pool] <= 0.0:
            continue
        whole = 0.0
        for f in range(count):
            if label[f] == pool:
                deep = max(levels[pool] - height[f], 0.0) * max(weight[f] / area[f], 0.0)
                depth[f] = deep
                whole += deep * area[f]
        if whole <= 0.0:
            low = descend(seeds[pool], height, neighbour)
            depth[low] += volumes[pool] / area[low]
            continue
        for f in range(count):
            if label[f] == pool:
                depth[f] *= volumes[pool] / whole
    return depth
