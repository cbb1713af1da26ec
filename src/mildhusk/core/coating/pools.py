"""Pools: free liquid that stands level in the low places of a mould, flows over and is spilt."""

from typing import NamedTuple

import numpy as np
from numba import njit

from mildhusk.core.geometry.mesh import Flags, Floats, Integers

LEVEL, OVER, MEET, SPILL = 0, 1, 2, 3
"""How a filling ends: level; over a saddle; into another pool; over the rim."""
NOBODY, AIR = -1, -2
"""Labels of a face that is under no pool, and of one in a bubble that a pool has closed off."""
MOST_POOLS = 96
"""Pools at once; drops beyond them stay films."""
_POCKET_M = 0.002
"""A hollow in a ceiling holds air from this depth on; less is the mesh's own (assumed)."""

_MAX_ITERATIONS, _LEVEL_TOLERANCE_M = 5, 2e-6
"""Newton iterations for the level of a pool, and the change at which they stop."""


class Ground(NamedTuple):
    """The faces of a mould at one instant; heights are computed where they are needed.

    Parameters
    ----------
    centre, normal : (m, 3) float32
        Of each face, seen from the mould. [m]
    area, solid : (m,) float
        Of each face, and the wall that has set on it, which narrows the mould. [m^2], [m]
    neighbour : (m, 3) int
        Across each edge; at a rim -1 less the place of its edge in `rim_place`.
    rim_place : (r, 3) float
        Middle of each edge that is a rim. [m]
    up : (3,) float
        Unit vector against gravity, seen from the mould.
    """

    centre: Floats
    normal: Floats
    area: Floats
    solid: Floats
    neighbour: Integers
    rim_place: Floats
    up: Floats


@njit(cache=True)
def height(ground, f):  # type: ignore[no-untyped-def]
    """Return the height of a face's centre over an arbitrary zero. [m]"""
    c, n, up, set_ = ground.centre, ground.normal, ground.up, ground.solid[f]
    return (
        (c[f, 0] - set_ * n[f, 0]) * up[0]
        + (c[f, 1] - set_ * n[f, 1]) * up[1]
        + (c[f, 2] - set_ * n[f, 2]) * up[2]
    )


@njit(cache=True)
def projected_area(ground, f):  # type: ignore[no-untyped-def]
    """Return the area of a face projected on the horizontal, negative for a ceiling. [m^2]"""
    n, up = ground.normal, ground.up
    return -(n[f, 0] * up[0] + n[f, 1] * up[1] + n[f, 2] * up[2]) * ground.area[f]


@njit(cache=True)
def _rim_height(ground, f, rim):  # type: ignore[no-untyped-def]
    place, n, up, set_ = ground.rim_place[-1 - rim], ground.normal, ground.up, ground.solid[f]
    return (
        (place[0] - set_ * n[f, 0]) * up[0]
        + (place[1] - set_ * n[f, 1]) * up[1]
        + (place[2] - set_ * n[f, 2]) * up[2]
    )


class Pools(NamedTuple):
    """Pools in a mould.

    Parameters
    ----------
    seed : (MOST_POOLS,) int
        A face of each; from there it finds its low place.
    volume, level : (MOST_POOLS,) float
        [m^3]; [m]
    lowest, stood_s, ahead_s : (MOST_POOLS,) int, float, float
        The low place it stands in, since when it has not left it, and how much older it is than
        what is rolled. [s]
    used : (1,) int
        How many are in use; one without volume is free again.
    label : (m,) int
        The pool that covers each face, else `NOBODY` or `AIR`.
    is_labelled, labelled, labelled_count : (m,) bool, (m,) int, (1,) int
        Faces labelled since the labels were last cleared: pools cover few faces, and only those
        are visited.
    heap_z, heap_f, region, place
        Work arrays.
    """

    seed: Integers
    volume: Floats
    level: Floats
    lowest: Integers
    stood_s: Floats
    ahead_s: Floats
    used: Integers
    label: Integers
    is_labelled: Flags
    labelled: Integers
    labelled_count: Integers
    heap_z: Floats
    heap_f: Integers
    region: Integers
    place: Integers

    @property
    def lasting(self) -> tuple[Floats | Integers | Flags, ...]:
        """All but the work arrays: what a step leaves to the next."""
        return (
            self.seed, self.volume, self.level, self.lowest, self.stood_s, self.ahead_s, self.used,
            self.label, self.is_labelled, self.labelled, self.labelled_count,
        )  # fmt: skip


def no_pools(faces: int) -> Pools:
    """Return a mould without pools."""
    return Pools(
        np.zeros(MOST_POOLS, np.int64),
        np.zeros(MOST_POOLS),
        np.zeros(MOST_POOLS),
        np.full(MOST_POOLS, NOBODY),
        np.zeros(MOST_POOLS),
        np.zeros(MOST_POOLS),
        np.zeros(1, np.int64),
        np.full(faces, NOBODY, np.int32),
        np.zeros(faces, np.bool_),
        np.zeros(faces, np.int64),
        np.zeros(1, np.int64),
        np.empty(4 * faces + 4),
        np.empty(4 * faces + 4, np.int64),
        np.empty(faces + 1, np.int64),
        np.empty(faces, np.int64),
    )


@njit(cache=True)
def label_face(pools, face, pool):  # type: ignore[no-untyped-def]
    """Label a face with a pool."""
    pools.label[face] = pool
    if not pools.is_labelled[face]:
        pools.is_labelled[face] = True
        pools.labelled[pools.labelled_count[0]] = face
        pools.labelled_count[0] += 1


@njit(cache=True)
def clear_labels(pools):  # type: ignore[no-untyped-def]
    """Clear the labels of all faces."""
    for at in range(pools.labelled_count[0]):
        face = pools.labelled[at]
        pools.label[face] = NOBODY
        pools.is_labelled[face] = False
    pools.labelled_count[0] = 0


@njit(cache=True)
def add_pool(pools, seed, volume):  # type: ignore[no-untyped-def]
    """Add a pool; returns its number, or -1 where all are in use."""
    for one in range(pools.used[0]):
        if pools.volume[one] <= 0.0:
            _begin(pools, one, seed, volume)
            return one
    one = pools.used[0]
    if one == len(pools.seed):
        return -1
    pools.used[0] += 1
    _begin(pools, one, seed, volume)
    return one


@njit(cache=True)
def _begin(pools, pool, seed, volume):  # type: ignore[no-untyped-def]
    pools.seed[pool], pools.volume[pool], pools.level[pool] = seed, volume, -np.inf
    pools.lowest[pool], pools.stood_s[pool], pools.ahead_s[pool] = NOBODY, 0.0, 0.0


@njit(cache=True)
def age_standing(pools, elapsed_s, patience_s, rate_factor):  # type: ignore[no-untyped-def]
    """Let pools that stay in their low place for long age by their own, faster clock.

    What moves on is mixed with what is rolled, and is as old as it.

    Parameters
    ----------
    pools : Pools
    elapsed_s : float
        Since the last time. [s]
    patience_s : float
        A pool that stays so long is a puddle left behind. [s]
    rate_factor : float
        How many times faster a puddle ages. [1]
    """
    for pool in range(pools.used[0]):
        if pools.volume[pool] <= 0.0:
            continue
        if pools.seed[pool] != pools.lowest[pool]:
            pools.lowest[pool] = pools.seed[pool]
            pools.stood_s[pool] = pools.ahead_s[pool] = 0.0
            continue
        pools.stood_s[pool] += elapsed_s
        if pools.stood_s[pool] > patience_s:
            pools.ahead_s[pool] += elapsed_s * (rate_factor - 1.0)


@njit(cache=True)
def low_place(face, ground):  # type: ignore[no-untyped-def]
    """Return the local minimum of height below a face, by steepest descent over its neighbours."""
    low_m = height(ground, face)
    while True:
        lowest = face
        for k in range(3):
            other = ground.neighbour[face, k]
            if other >= 0:
                other_m = height(ground, other)
                if other_m < low_m:
                    lowest, low_m = other, other_m
        if lowest == face:
            return face
        face = lowest


@njit(cache=True)
def _push(heap_z, heap_f, size, z, f):  # type: ignore[no-untyped-def]
    at = size
    while at > 0:
        parent = (at - 1) // 2
        if heap_z[parent] <= z:
            break
        heap_z[at], heap_f[at] = heap_z[parent], heap_f[parent]
        at = parent
    heap_z[at], heap_f[at] = z, f
    return size + 1


@njit(cache=True)
def _pop(heap_z, heap_f, size):  # type: ignore[no-untyped-def]
    size -= 1
    z, f = heap_z[size], heap_f[size]
    at = 0
    while True:
        child = 2 * at + 1
        if child >= size:
            break
        if child + 1 < size and heap_z[child + 1] < heap_z[child]:
            child += 1
        if z <= heap_z[child]:
            break
        heap_z[at], heap_f[at] = heap_z[child], heap_f[child]
        at = child
    heap_z[at], heap_f[at] = z, f
    return size


@njit(cache=True)
def _fill(pool, seed, ground, pools):  # type: ignore[no-untyped-def]
    """Fill a pool's volume into the mould from a local minimum, face by face in order of height.

    The volume under a level L is the sum over the connected faces below it of projected area times
    (L - height). Faces taken get the pool's label. On the heap a face is f, a rim's edge a number
    below -1.

    Returns
    -------
    how, count, rest, where
        How it ended; faces in `region`; volume that overflows or spills; the face it overflows to,
        or the other pool.
    """
    heap_z, heap_f, region, label = pools.heap_z, pools.heap_f, pools.region, pools.label
    volume = pools.volume[pool]
    size = _push(heap_z, heap_f, 0, height(ground, seed), seed)
    label_face(pools, seed, pool)
    count, area, moment = 0, 0.0, 0.0
    top = -np.inf
    # The state at a saddle, while the basin behind it is explored.
    kept, kept_area, kept_moment, behind = -1, 0.0, 0.0, -1
    how, rest, where = -1, 0.0, -1
    last = -1
    while size > 0 and how < 0:
        z, f = heap_z[0], heap_f[0]
        size = _pop(heap_z, heap_f, size)
        last = f
        if z >= top:
            if kept >= 0:
                if area * top - moment > volume:
                    how, where = OVER, behind
                    break
                kept = -1
            if count > 0 and area * z - moment >= volume:
                how = LEVEL
                break
            top = z
        elif kept < 0 and f >= 0:
            kept, kept_area, kept_moment, behind = count, area, moment, f
        if f < -1:
            # A rim: the volume above it spills, here or behind the saddle.
            if kept < 0:
                how, rest = SPILL, volume - (area * top - moment)
            else:
                how, where = OVER, behind
            break
        if label[f] != pool:
            # A face of another pool, level with this one or behind the saddle.
            if kept < 0:
                how, where = MEET, label[f]
            else:
                how, where = OVER, behind
            break
        region[count] = f
        count += 1
        weight = projected_area(ground, f)
        area += weight
        moment += weight * z
        last = -1
        for k in range(3):
            other = ground.neighbour[f, k]
            if other < 0:
                size = _push(heap_z, heap_f, size, _rim_height(ground, f, other), other - 1)
            elif label[other] != pool:
                if label[other] < 0:
                    label_face(pools, other, pool)
                size = _push(heap_z, heap_f, size, height(ground, other), other)
    # Faces on the heap were only candidates.
    for at in range(size):
        if heap_f[at] >= 0 and label[heap_f[at]] == pool:
            label[heap_f[at]] = NOBODY
    if last >= 0 and label[last] == pool:
        label[last] = NOBODY
    if how == OVER:
        rest = volume - (kept_area * top - kept_moment)
        for at in range(kept, count):
            label[region[at]] = NOBODY
        count = kept
    level = top
    if (how == LEVEL or how < 0) and area > 1e-12:
        level = max((volume + moment) / area, top)
    pools.level[pool] = level
    return max(how, LEVEL), count, min(max(rest, 0.0), volume), where


@njit(cache=True)
def _spread(pool, seed, ground, pools):  # type: ignore[no-untyped-def]
    """Find a pool's level by Newton's method, from the level it had.

    Returns
    -------
    int
        Faces in `region`; 0 at a rim, another pool or a saddle that it overflows, where `_fill` is
        needed: then nothing is labelled.
    """
    region, high, label = pools.region, pools.heap_z, pools.label
    level, lowest = pools.level[pool], height(ground, seed)
    for _ in range(_MAX_ITERATIONS):
        if level <= lowest:
            return 0
        label_face(pools, seed, pool)
        region[0] = seed
        high[0] = lowest
        count, at, area, moment, simple = 1, 0, 0.0, 0.0, True
        while at < count and simple:
            f = region[at]
            weight = projected_area(ground, f)
            area += weight
            moment += weight * high[at]
            at += 1
            for k in range(3):
                other = ground.neighbour[f, k]
                if other < 0:
                    simple = simple and _rim_height(ground, f, other) >= level
                elif label[other] != pool:
                    other_m = height(ground, other)
                    if other_m < level:
                        simple = simple and label[other] < 0
                        if simple:
                            label_face(pools, other, pool)
                            region[count], high[count] = other, other_m
                            count += 1
        if simple and area > 1e-12:
            found = (pools.volume[pool] + moment) / area
            if abs(found - level) < _LEVEL_TOLERANCE_M:
                pools.level[pool] = found
                return count
            level = found
        else:
            level = -np.inf
        for one in range(count):
            label[region[one]] = NOBODY
    return 0


@njit(cache=True)
def _root(parent, at):  # type: ignore[no-untyped-def]
    while parent[at] != at:
        parent[at] = parent[parent[at]]
        at = parent[at]
    return at


@njit(cache=True)
def _keep_air(pool, count, ground, pools):  # type: ignore[no-untyped-def]
    """Label as air the hollows under a ceiling that a pool has closed off.

    Faces are united from the top down (union-find). A hollow begins at a ceiling that is a local
    maximum; it closes where it meets faces connected to the open air above the level. The volume of
    trapped air does not raise the level.
    """
    region, label, place = pools.region, pools.label, pools.place
    ceiling = False
    for at in range(count):
        ceiling = ceiling or projected_area(ground, region[at]) < 0.0
    if not ceiling:
        return
    high = np.empty(count)
    for at in range(count):
        high[at] = height(ground, region[at])
        place[region[at]] = at
    parent = np.full(count, -1)
    reaches_air = np.zeros(count, np.bool_)
    mouth = np.full(count, np.inf)
    for at in np.argsort(-high):
        f = region[at]
        alone, open_ = True, False
        for k in range(3):
            other = ground.neighbour[f, k]
            if other < 0 or label[other] != pool:
                open_ = True
            elif parent[place[other]] >= 0:
                alone = False
                # Below a closed hollow it is liquid.
                open_ = open_ or mouth[_root(parent, place[other])] < np.inf
        # A bump of the floor holds no air: what is above it is liquid.
        reaches_air[at] = open_ or (alone and projected_area(ground, f) >= 0.0)
        parent[at] = at
        for k in range(3):
            other = ground.neighbour[f, k]
            if other < 0 or label[other] != pool or parent[place[other]] < 0:
                continue
            one, two = _root(parent, at), _root(parent, place[other])
            if one == two or mouth[one] < np.inf or mouth[two] < np.inf:
                continue
            if reaches_air[one] != reaches_air[two]:
                mouth[two if reaches_air[one] else one] = high[at]
            elif high[one] < high[two]:
                parent[one] = two
            else:
                parent[two] = one
    for at in range(count):
        root = _root(parent, at)
        if high[at] > mouth[root] and high[root] - mouth[root] > _POCKET_M:
            label[region[at]] = AIR


@njit(cache=True)
def _clear_label(pools, pool):  # type: ignore[no-untyped-def]
    for at in range(pools.labelled_count[0]):
        face = pools.labelled[at]
        if pools.label[face] == pool:
            pools.label[face] = NOBODY


@njit(cache=True)
def settle(ground, pools):  # type: ignore[no-untyped-def]
    """Bring every pool to its level: it overflows saddles, merges with others, spills at the rim.

    Parameters
    ----------
    ground : Ground
    pools : Pools
        Changed in place: seeds, levels, labels and what each holds.

    Returns
    -------
    float
        What ran out. [m^3]
    """
    clear_labels(pools)
    volume, label = pools.volume, pools.label
    spilt = 0.0
    room = len(pools.seed)
    waiting = np.zeros(room, np.bool_)
    waiting[: pools.used[0]] = True
    over_to = np.full(room, -1)
    for _ in range(16 * room):
        pool = -1
        for one in range(pools.used[0]):
            if waiting[one] and volume[one] > 0.0:
                pool = one
                break
        if pool < 0:
            break
        waiting[pool] = False
        seed = low_place(pools.seed[pool], ground)
        pools.seed[pool] = seed
        owner = label[seed]
        if owner >= 0:
            # Its minimum lies under another pool already: they merge.
            volume[owner] += volume[pool]
            volume[pool] = 0.0
            _clear_label(pools, owner)
            waiting[owner] = True
            continue
        how, rest, where = LEVEL, 0.0, -1
        count = _spread(pool, seed, ground, pools)
        if count == 0:
            how, count, rest, where = _fill(pool, seed, ground, pools)
        if how == MEET:
            volume[pool] += volume[where]
            volume[where] = 0.0
            if height(ground, pools.seed[where]) < height(ground, seed):
                pools.seed[pool] = pools.seed[where]
            _clear_label(pools, where)
            _clear_label(pools, pool)
            waiting[pool] = True
            continue
        if how == SPILL:
            spilt += rest
            volume[pool] -= rest
        elif how == OVER and rest > 0.0:
            low = low_place(where, ground)
            other = label[low]
            if other < 0:
                for one in range(pools.used[0]):
                    if waiting[one] and volume[one] > 0.0 and pools.seed[one] == low:
                        other = one
            if other == pool:
                continue
            if other >= 0 and over_to[other] == pool:
                # Both are full to the saddle between them: they merge.
                volume[pool] += volume[other]
                volume[other] = 0.0
                _clear_label(pools, other)
                _clear_label(pools, pool)
                over_to[pool] = over_to[other] = -1
                waiting[pool] = True
                continue
            over_to[pool] = other
            if other >= 0:
                volume[other] += rest
                _clear_label(pools, other)
            else:
                other = add_pool(pools, low, rest)
                over_to[pool] = other
            if other >= 0:
                volume[pool] -= rest
                waiting[other] = True
        if volume[pool] <= 0.0:
            # All of it overflowed, as at a face of a ceiling.
            _clear_label(pools, pool)
            continue
        _keep_air(pool, count, ground, pools)
    return spilt


@njit(cache=True)
def drop_empty(pools):  # type: ignore[no-untyped-def]
    """Drop pools without volume, with their labels."""
    emptied = False
    for one in range(pools.used[0]):
        emptied = emptied or pools.volume[one] <= 0.0
    if not emptied:
        return
    for at in range(pools.labelled_count[0]):
        face = pools.labelled[at]
        pool = pools.label[face]
        if pool >= 0 and pools.volume[pool] <= 0.0:
            pools.label[face] = NOBODY
    while pools.used[0] > 0 and pools.volume[pools.used[0] - 1] <= 0.0:
        pools.used[0] -= 1
    if pools.used[0] == 0:
        clear_labels(pools)
