"""A part line that leaves its plane: where a shell leans back least, as a chain of straight pieces.

Seen along its border, a part line is a path over heights: how far it lies aside of the plane. It is
found as a shortest path on a grid (R. Bellman, "Dynamic Programming", Princeton 1957, chapter 3).
"""

from dataclasses import dataclass

import numpy as np
import shapely

from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh, face_frames, middle_of
from mildhusk.core.geometry.sections import square_to
from mildhusk.core.mould.locks import TOLERANCE

LEVELS = 96
"""Heights at which the path may turn."""
SHORTEST_M = 0.04
"""No piece of a wall is lower than this below the crown. [m]"""
# A path is first drawn with so few straight pieces as stay within this of it. [m]
_STRAIGHT_M = 0.004
# A joint costs so much of the wall: it has to be cut, bevelled and held (assumed). [m]
_JOINT_M = 0.005
# Over the crown the path is upright: there the walls of all borders meet.
_CROWN = 0.9


@dataclass(frozen=True, slots=True, eq=False)
class Border:
    """Between two parts of a shell: its axes, and the pulls of the part before and after it.

    Parameters
    ----------
    outward, aside : (3,) float
        Unit vectors: from the axis of the mould, and square to it, towards the part after.
    before, after : (3,) float
        Pulls of the two parts.
    """

    outward: Floats
    aside: Floats
    before: Floats
    after: Floats


def borders(up: Floats, angle: float, parts: int) -> list[Border]:
    """Return the borders of a shell in parts, each in its half plane from the axis.

    Parameters
    ----------
    up : (3,) float
        The axis, away from the board.
    angle : float
        Pull of the first part, round the axis. [rad]
    parts : int

    Returns
    -------
    list of Border
    """
    square = square_to(up)

    def way(at: float) -> Floats:
        return np.asarray(np.array([np.cos(at), np.sin(at)]) @ square)

    turn = 2.0 * np.pi / parts
    made = []
    for k in range(parts):
        middle = angle + turn * (k + 0.5)
        outward = way(middle)
        aside = np.cross(up, outward)
        made.append(Border(outward, aside, way(middle - turn / 2), way(middle + turn / 2)))
    return made


@dataclass(frozen=True, slots=True, eq=False)
class _Leaning:
    """By height and offset: what leans back if the part line lies there.

    Parameters
    ----------
    offsets : (k,) float
        [m]
    area : (levels, k) float
        [m^2]
    met : (levels, k) bool
        Whether rubber lies there.
    step_m : float
    """

    offsets: Floats
    area: Floats
    met: Flags
    step_m: float


def follow(
    rubber: Mesh, up: Floats, angle: float, parts: int, flange_m: float, on_board: bool
) -> list[Floats]:
    """Find the part lines along which a shell leans back least.

    Parameters
    ----------
    rubber : Mesh
        Outside of the rubber. [m]
    up : (3,) float
        Away from the board.
    angle : float
        Pull of the first part. [rad]
    parts : int
    flange_m : float
        Width of the wall: what a path is longer than the plane costs so much of it. [m]
    on_board : bool
        Nothing is below the rubber; else the walls meet there too.

    Returns
    -------
    list of (n, 2) float
        For each border the corners of its path: aside of the plane, and up from the lowest place;
        a straight one where nothing is gained. [m]

    Notes
    -----
    The path costs the area that leans back against the pull of the part it falls to, the wall that
    it is longer, and its joints. It turns aside by 45 degrees at most. A shell in two meets over
    the crown wherever that costs least; of more parts the walls meet on the axis.
    """
    centre, normal, area = face_frames(rubber)
    height = rubber.vertices @ up
    low, high = float(height.min()), float(height.max())
    middle = middle_of(rubber)
    whole = borders(up, angle, parts)
    step = (high - low) / LEVELS
    level = np.clip(((centre @ up - low) / step).astype(int), 0, LEVELS - 1)
    reach = float(np.linalg.norm((centre - middle) @ square_to(up).T, axis=1).max())
    side = int(np.ceil(reach / step))
    fields = [
        _leaning(one, centre - middle, normal, area, level, side, step, np.pi / parts)
        for one in whole
    ]
    found = [_shortest(one, flange_m, None if on_board else side) for one in fields]
    if parts == 2:
        # The second border counts its offsets the other way.
        ends = np.argmin(found[0].cost + found[1].cost[::-1])
        tips = [int(ends), 2 * side - int(ends)]
    else:
        tips = [side] * parts
    paths = [
        _fewer(one, _corners(one, path.to(tip), low, high), flange_m)
        for one, path, tip in zip(fields, found, tips, strict=True)
    ]
    straight = [np.array([[0.0, 0.0], [0.0, high - low]])] * parts

    def cost(lines: list[Floats]) -> float:
        return sum(_cost(one, line, flange_m) for one, line in zip(fields, lines, strict=True))

    return paths if cost(paths) < cost(straight) else straight


def parts_of(rubber: Mesh, up: Floats, angle: float, paths: list[Floats]) -> Integers:
    """Return the part that each face of the rubber falls to, between part lines that may wander.

    Parameters
    ----------
    rubber : Mesh
        [m]
    up : (3,) float
    angle : float
        Pull of the first part. [rad]
    paths : list of (n, 2) float
        Of `follow`.

    Returns
    -------
    (m,) int
    """
    centre, _, _ = face_frames(rubber)
    off = centre - middle_of(rubber)
    level = centre @ up - float((rubber.vertices @ up).min())
    flat = off @ square_to(up).T
    parts = len(paths)
    turn = 2.0 * np.pi / parts
    away = np.arctan2(flat[:, 1], flat[:, 0]) - angle
    border = np.floor(away / turn).astype(int) % parts
    made = np.zeros(len(centre), dtype=np.int64)
    for k, (one, path) in enumerate(zip(borders(up, angle, parts), paths, strict=True)):
        mine = border == k
        beyond = (off[mine] @ one.aside) > np.interp(level[mine], path[:, 1], path[:, 0])
        made[mine] = np.where(beyond, (k + 1) % parts, k)
    return made


def _leaning(
    border: Border,
    off: Floats,
    normal: Floats,
    area: Floats,
    level: Integers,
    side: int,
    step_m: float,
    half_turn: float,
) -> _Leaning:
    across, aside = off @ border.outward, off @ border.aside
    mine = np.abs(np.arctan2(aside, across)) <= half_turn
    at = np.clip(np.round(aside / step_m).astype(int) + side, 0, 2 * side)

    def summed(pull: Floats) -> Floats:
        leans = mine & (normal @ pull < -TOLERANCE)
        made = np.zeros((LEVELS, 2 * side + 1))
        np.add.at(made, (level[leans], at[leans]), area[leans])
        return made

    before, after = summed(border.before), summed(border.after)
    # What lies beyond the path falls to the part after it; of its own column half to either.
    beyond = after[:, ::-1].cumsum(axis=1)[:, ::-1] - after / 2.0
    within = before.cumsum(axis=1) - before / 2.0
    met = np.zeros((LEVELS, 2 * side + 1), dtype=bool)
    met[level[mine], at[mine]] = True
    met[:, 1:-1] |= met[:, :-2] | met[:, 2:]
    met[:, side] = True
    offsets = np.asarray((np.arange(2 * side + 1) - side) * step_m, dtype=np.float64)
    return _Leaning(offsets, beyond + within, met, step_m)


@dataclass(frozen=True, slots=True, eq=False)
class _Paths:
    """The cheapest paths from the bottom to every offset at the top."""

    cost: Floats
    turns: Integers

    def to(self, end: int) -> Integers:
        """Return the path to one offset, (levels,)."""
        at = np.empty(len(self.turns), dtype=np.int64)
        at[-1] = end
        for level in range(len(at) - 1, 0, -1):
            at[level - 1] = at[level] - self.turns[level, at[level]]
        return at


def _shortest(leaning: _Leaning, flange_m: float, begins: int | None) -> _Paths:
    cost = np.where(leaning.met, leaning.area, np.inf)
    count = cost.shape[1]
    best = cost[0].copy()
    if begins is not None:
        best[np.arange(count) != begins] = np.inf
    turns: Integers = np.zeros(cost.shape, dtype=np.int64)
    longer = flange_m * leaning.step_m * (np.sqrt(2.0) - 1.0)
    crown = int(_CROWN * len(cost))
    for level in range(1, len(cost)):
        ways = [np.r_[best[1:], np.inf] + longer, best, np.r_[np.inf, best[:-1]] + longer]
        if level >= crown or (begins is not None and level <= len(cost) - crown):
            ways[0], ways[2] = np.full(count, np.inf), np.full(count, np.inf)
        stacked = np.stack(ways)
        # Of ways that cost the same the straight one is taken.
        stacked[1] -= 1e-12
        chosen = stacked.argmin(axis=0)
        turns[level] = chosen - 1
        best = stacked.min(axis=0) + cost[level]
    return _Paths(best, turns)


def _corners(
    leaning: _Leaning,
    at: Integers,
    low: float,
    high: float,
) -> Floats:
    level = (np.arange(len(at)) + 0.5) * leaning.step_m
    aside = leaning.offsets[at]
    crown = int(_CROWN * len(at))
    points = np.c_[aside, level][: crown + 1]
    points = np.r_[[[points[0, 0], 0.0]], points]
    thinned = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), _STRAIGHT_M))
    return np.asarray(np.r_[thinned, [[thinned[-1, 0], high - low]]])


def _fewer(leaning: _Leaning, path: Floats, flange_m: float) -> Floats:
    """Return a path without the corners that gain less than they cost, or stand too close."""
    while len(path) > 3:
        # The last corner begins the crown, where the walls meet; it stays.
        without = [np.delete(path, at, axis=0) for at in range(1, len(path) - 2)]
        if not without:
            break
        costs = [_cost(leaning, one, flange_m) for one in without]
        least = int(np.argmin(costs))
        low = np.linalg.norm(np.diff(path[:-1], axis=0), axis=1) < SHORTEST_M
        if low.any():
            # Of the corners of low pieces the one that gains least goes.
            near = np.flatnonzero(low[:-1] | low[1:])
            least = int(near[np.argmin(np.array(costs)[near])])
        elif costs[least] > _cost(leaning, path, flange_m):
            break
        path = without[least]
    return path


def _cost(leaning: _Leaning, path: Floats, flange_m: float) -> float:
    count = len(leaning.area)
    level = (np.arange(count) + 0.5) * leaning.step_m
    aside = np.interp(level, path[:, 1], path[:, 0])
    at = np.interp(aside, leaning.offsets, np.arange(len(leaning.offsets)))
    below = np.clip(at.astype(int), 0, len(leaning.offsets) - 2)
    share = at - below
    rows = np.arange(count)
    area = (1.0 - share) * leaning.area[rows, below] + share * leaning.area[rows, below + 1]
    length = float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())
    joints = len(path) - 2
    return float(area.sum()) + flange_m * (length - float(path[-1, 1]) + joints * _JOINT_M)
