"""Hands that watch the liquid: they lead it to what is thin, and take it back before the rim."""

import math
from collections.abc import Callable, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
from scipy.spatial import cKDTree

from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.figures import THICK
from mildhusk.core.coating.grid import coat_grid, even_mesh
from mildhusk.core.coating.motion import up_of
from mildhusk.core.coating.rolling import STEP_S, Rolling
from mildhusk.core.coating.turning import COARSEST_M
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.mesh import Floats, Mesh

_FACES, _NEARLY = 800, 1.5
"""Hands think ahead on a mould of about so many faces; on the mould itself where it has hardly
more. [1]"""
_LOOK_AHEAD, _LOOK_AHEAD_M, _FILM_LOOKS = (3, 8), 0.03, 40
"""Hands look ahead until the liquid has run so far [m], for so many intervals at least and at most;
a film alone, which is cheap to foresee, for so many (assumed)."""
_CHOICES, _SEED = 24, 1
"""Of so many next moves, some by chance (assumed)."""
_TILTS, _ROUNDS, _FINELY = (0.03, 0.1, 0.3, 1.0), (-1.0, -0.5, 0.0, 0.5, 1.0), 3
"""Shares of how far hands tilt at most between two decisions, of how far round, and the power by
which those by chance are the more often small: near to where the mould would run over, a degree
matters (assumed). [1]"""
_STEP = 0.2
"""Steps of what hands think ahead, of the time between two decisions. [1]"""
_EVERY_S, _SELDOM_S, _DECISIONS = 0.8, 3.0, (400, 800)
"""Hands decide this often; in a coat that takes longer so many times, and where that is too seldom
[s] so many times (assumed)."""
_MOST_TILT, _FASTEST_TILT, _FIRST_TILT = (math.radians(one) for one in (150.0, 60.0, 30.0))
_ROUND = math.radians(90.0)
"""How far over hands hold a mould, how fast they tilt it, and how fast they roll it round
(assumed). [rad], [rad/s]"""
_EASY = 0.6
"""For this share of its time a liquid is thin, forgets how it lay, and is only rolled round."""
_ROLLS_DEG, _ROCKS_DEG = (15.0, 30.0, 45.0, 60.0, 75.0, 90.0, 105.0), (0.0, 40.0)
_ROUNDS_DEG_S, _ROCKS_EVERY_S = (90.0, 120.0), 9.0
_LESS_DEG = (6.0, 12.0, 24.0, 48.0)
"""Rolls to choose from, steady and rocked up and back, and how much less far over it is held where
that one spills."""
_SPILL, _EXCESS, _DRY = 40.0, 1.0, 2.0
"""What spills, what lies so thick that it is a puddle, and what was never wet weighs so much beside
what is thin (assumed)."""
_LESS, _MORE = 0.4, 0.6
"""Of a coat's mean, so much less or more is led to where earlier coats are thick or thin."""
_MOST_SPILT, _AT_A_TIME, _DRIP = 0.008, 0.1, 0.0003
"""Hands let go over the rim at most this share in all, a tenth of what is left of that at a time,
and never mind a drip (assumed). [1]"""
_STILL_M = 0.00025
"""Liquid that runs less than this between two decisions is rolled on without a look. [m]"""

Choice = TypeVar("Choice")


@dataclass(frozen=True, slots=True)
class _Move:
    """What hands may do next: where the mould is tilted to, and how far round it goes. [rad]"""

    tilt: float
    turned: float


@dataclass(frozen=True, slots=True)
class _Roll:
    """A mould rolled round while it is held tilted, and rocked up and back. [rad], [rad/s]"""

    tilt: float
    rock: float
    rate: float

    def tilts(self, at: Floats) -> Floats:
        """Return the tilt at moments [s], from upright on. (n,) [rad]"""
        back = 0.5 * self.rock * (1.0 - np.cos(2.0 * math.pi / _ROCKS_EVERY_S * at))
        return np.asarray(np.clip(self.tilt - back, 0.0, _FIRST_TILT * at))


class ByEye:
    """Hands that watch a coat and turn the mould.

    Parameters
    ----------
    rolling : Rolling
        The coat, just poured.
    pool : Executor
        Tries moves side by side.

    Notes
    -----
    While the liquid is thin it is rolled round steadily, as far over and as fast as spreads it
    best. Then, interval by interval, hands try moves on a coarser mould that is turned alike, look
    what each leads to, and do the best one that does not spill on the mould itself: a search with a
    receding horizon.
    """

    def __init__(self, rolling: Rolling, pool: Executor) -> None:
        self._rolling, self._pool = rolling, pool
        often_s, seldom_s = (rolling.sets_s / many for many in _DECISIONS)
        rolling.every_s = max(min(max(often_s, _EVERY_S), _SELDOM_S), seldom_s)
        self._twin = _coarser(rolling)
        self._twin.most_step_s = _STEP * rolling.every_s
        self._tried = [self._twin.fork() for _ in range(2)]
        self._before = rolling.fork()
        self._chance = np.random.default_rng(_SEED)
        self._sense = 1.0 if len(rolling.mould.coats) % 2 == 0 else -1.0
        self._tilt = self._azimuth = self._from_s = 0.0
        grid = self._twin.mould.grid
        self._on_face = np.flatnonzero(~grid.lid)
        area = grid.area[self._on_face]
        self._share = area / float(area.sum())
        self._mean_m = rolling.mean_m
        before_m = self._twin.mould.wall_m[self._on_face]
        thin_m = float(before_m @ self._share) - before_m
        lead_m = np.clip(thin_m, -_LESS * self._mean_m, _MORE * self._mean_m)
        self._wanted_m = self._mean_m + lead_m
        self._roll = self._best_roll()

    def go_on(self) -> None:
        """Turn the mould for an interval."""
        rolling, twin = self._rolling, self._twin
        self._from_s, until_s = rolling.now_s, rolling.next_s
        lasts = until_s - self._from_s
        thin = self._from_s < _EASY * rolling.sets_s
        runs_m = twin.film_speed_m_s * rolling.every_s
        if thin:
            moves = self._rolled(lasts)
        elif twin.is_pooled or runs_m > _STILL_M:
            moves = self._best_moves(lasts, self._looks(runs_m, lasts))
        else:
            moves = [_Move(self._tilt, self._sense * _ROUND * lasts)]
        move = self._do_first_that_holds(moves, until_s)
        if twin is not rolling:
            twin.advance(self._ups(move, lasts), until_s)
        if thin and move is not moves[0]:
            less = moves[0].tilt - move.tilt
            self._roll = replace(self._roll, tilt=self._roll.tilt - less)
        self._tilt, self._azimuth = move.tilt, self._azimuth + move.turned

    def _looks(self, runs_m: float, lasts: float) -> int:
        """Return for how many intervals to look ahead, of a liquid that runs so far in one."""
        left = math.ceil((self._rolling.liquid.gels_at_s - self._from_s) / lasts)
        least, most = _LOOK_AHEAD
        if not self._twin.is_pooled:
            most = _FILM_LOOKS
        wanted = round(_LOOK_AHEAD_M / max(runs_m, 1e-9))
        return max(min(wanted, most, left), least)

    def _do_first_that_holds(self, moves: Sequence[_Move], until_s: float) -> _Move:
        """Do the first move that spills next to nothing, or that which spills least."""
        rolling = self._rolling
        self._before.go_to(rolling)
        spilt, lasts = rolling.spilt_share, until_s - rolling.now_s
        room = max(_AT_A_TIME * (_MOST_SPILT - spilt), _DRIP)
        least, best = math.inf, moves[0]
        for move in moves:
            rolling.advance(self._ups(move, lasts), until_s)
            more = rolling.spilt_share - spilt
            if more <= room:
                return move
            least, best = min((least, best), (more, move), key=lambda one: one[0])
            rolling.go_to(self._before)
        rolling.advance(self._ups(best, lasts), until_s)
        return best

    def _rolled(self, lasts: float) -> list[_Move]:
        """Return how the roll goes on, and the same less far over."""
        tilt = float(self._roll.tilts(np.array([self._from_s + lasts]))[0])
        turned = self._roll.rate * lasts
        return [_Move(tilt, self._sense * turned), *self._back(tilt, turned)]

    def _best_roll(self) -> "_Roll":
        """Return how a thin liquid is best rolled round."""
        rolls = [
            _Roll(math.radians(tilt), math.radians(rock), math.radians(rate))
            for tilt in _ROLLS_DEG
            for rock in _ROCKS_DEG
            for rate in _ROUNDS_DEG_S
        ]
        begun_s, every_s = self._rolling.now_s, self._rolling.every_s
        moments = np.arange(begun_s + every_s, _EASY * self._rolling.sets_s + every_s, every_s)

        def unevenness(fork: Rolling, roll: _Roll) -> float:
            def ups(at: Floats) -> Floats:
                return up_of(fork.mould.grid.out, roll.tilts(at), self._sense * roll.rate * at)

            total = 0.0
            for number, moment in enumerate(moments):
                fork.advance(ups, float(moment))
                if fork.spilt_share > _MOST_SPILT:
                    return math.inf
                # Where it lay while it ran there does not count.
                if 2 * number >= len(moments):
                    total += self._unevenness(fork)
            return total

        found = self._tried_side_by_side(unevenness, rolls)
        return rolls[int(np.argmin(found))]

    def _best_moves(self, lasts: float, looks: int) -> list[_Move]:
        """Return the moves that may come next, first what leads to the best so many moves on."""
        moves = self._moves(lasts)
        step_s = _STEP * lasts * looks / _LOOK_AHEAD[0]

        def unevenness(fork: Rolling, move: _Move) -> float:
            fork.most_step_s = step_s
            fork.advance(self._ups(move, lasts), fork.now_s + looks * lasts)
            return self._unevenness(fork)

        found = self._tried_side_by_side(unevenness, moves)
        best = [moves[at] for at in np.argsort(found, kind="stable")[:4]]
        return [*best, *self._back(self._tilt, _ROUND * lasts)]

    def _back(self, tilt: float, turned: float) -> list[_Move]:
        """Return moves that tilt less and less far, either way round."""
        tilts = [max(tilt - math.radians(less), 0.0) for less in _LESS_DEG]
        return [_Move(one, way * turned) for one in tilts for way in (self._sense, -self._sense)]

    def _moves(self, lasts: float) -> list[_Move]:
        """Return moves to try: spread ones, finer where it is held now, and some by chance."""
        fast, round_ = _FASTEST_TILT * lasts, _ROUND * lasts
        on, some = self._sense, _TILTS[2]
        pairs = [(way * tilt, on) for tilt in _TILTS for way in (-1.0, 1.0)]
        pairs += [(tilt, -on) for tilt in (-some, 0.0, some)]
        pairs += [(-some, 0.0), (some, 0.0), (0.0, on)]
        chance = self._chance.uniform(-1.0, 1.0, _CHOICES - len(pairs)) ** _FINELY
        pairs += list(zip(chance, self._chance.choice(_ROUNDS, len(chance)), strict=True))
        return [
            _Move(float(np.clip(self._tilt + tilt * fast, 0.0, _MOST_TILT)), float(turned * round_))
            for tilt, turned in pairs
        ]

    def _tried_side_by_side(
        self, unevenness: Callable[[Rolling, Choice], float], choices: Sequence[Choice]
    ) -> list[float]:
        """Return what each choice leads to, from where the coarser mould is."""

        def try_some(number: int) -> list[float]:
            fork, found = self._tried[number], []
            for choice in choices[number :: len(self._tried)]:
                fork.go_to(self._twin)
                found.append(unevenness(fork, choice))
            return found

        several = list(self._pool.map(try_some, range(len(self._tried))))
        return [several[at % len(several)][at // len(several)] for at in range(len(choices))]

    def _unevenness(self, fork: Rolling) -> float:
        """Return how far what lies in the mould is from what is wanted. [1]"""
        lacks = (self._wanted_m - fork.liquid_m[self._on_face]) / self._mean_m
        thin = np.maximum(lacks, 0.0) ** 2
        thick = np.maximum(1.0 - THICK - lacks, 0.0)
        uneven = (thin + _EXCESS * thick) @ self._share
        dry = self._share[~fork.state.wet[self._on_face]].sum()
        return float(uneven + _DRY * dry) + _SPILL * fork.spilt_share

    def _ups(self, move: _Move, lasts: float) -> Callable[[Floats], Floats]:
        """Return where up is during a move, and after it when it is rolled on alike."""
        begins_s, tilt, azimuth = self._from_s, self._tilt, self._azimuth
        out = self._rolling.mould.grid.out

        def ups(at: Floats) -> Floats:
            share = (at - begins_s) / lasts
            tilts = tilt + np.minimum(share, 1.0) * (move.tilt - tilt)
            return up_of(out, tilts, azimuth + share * move.turned)

        return ups


def _coarser(rolling: Rolling) -> Rolling:
    """Return the same coat in a mould of fewer faces, or itself where it has few."""
    grid = rolling.mould.grid
    if len(grid.area) <= _NEARLY * _FACES:
        return rolling
    face = Mesh(grid.mesh.vertices, grid.mesh.faces[~grid.lid])
    area_m2 = float(grid.area[~grid.lid].sum())
    edge_m = min(math.sqrt(area_m2 / _FACES * 4.0 / math.sqrt(3.0)), COARSEST_M)
    try:
        coarse = coat_grid(even_mesh(face, edge_m), capped=bool(grid.lid.any()))
        nearest = cKDTree(grid.centre).query(coarse.centre)[1]
        mould = Coated(coarse, rolling.mould.wall_m[nearest], rolling.mould.coats)
        charge_kg = rolling.charge_kg * float(coarse.area.sum() / grid.area.sum())
        return rolling.in_mould(mould, charge_kg, STEP_S)
    except CoatingError:
        # Too coarse for this face, or for what is poured: slower on its own faces, and as good.
        return rolling
