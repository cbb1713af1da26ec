"""The values that pours teach, each from a prior of all makers: what they are, and from what."""

import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum
from functools import cache, lru_cache
from importlib.resources import files
from typing import Any

from mildhusk.core.learning.lesson import Lesson, Told
from mildhusk.core.learning.pooling import Groups, Level, Observed, Outlier, Pooled, Prior, pooled
from mildhusk.core.learning.viscosity import told_alone

MOST_POURS = 60
"""The newest so many are learned from."""


class Value(StrEnum):
    """What is learned; those that a wish has are named as its fields."""

    LOSS = "loss"
    AREA = "area_factor"
    TIME = "time_factor"
    COAT = "coat_wall"
    EVENNESS = "evenness"
    VISCOSITY = "viscosity_factor"


@dataclass(frozen=True, slots=True)
class Taught:
    """What a pour teaches, and what it was poured of."""

    lesson: Lesson
    groups: Groups
    at: datetime
    name: str = ""


@dataclass(frozen=True, slots=True)
class Known:
    """A value with the ends of its 90 % band. [1]"""

    low: float
    value: float
    high: float


@dataclass(frozen=True, slots=True)
class Learned:
    """A value as this workshop's pours taught it.

    Parameters
    ----------
    key : Value
    title : str
    value, low, high : float
        With its 90 % band. [1]
    before : Known
        Before the first pour.
    pours : int
        That stand behind it.
    since : datetime or None
        When the first of them was poured.
    moves : float
        By how much one more pour would usually move it. [1]
    outliers : tuple of Outlier
        Pours far off the others; they count for less.
    course : tuple of Known
        After each of the newest pours, the oldest first.
    """

    key: Value
    title: str
    value: float
    low: float
    high: float
    before: Known
    pours: int
    since: datetime | None
    moves: float
    outliers: tuple[Outlier, ...]
    course: tuple[Known, ...] = ()

    @property
    def half_width(self) -> float:
        """Half of its band. [1]"""
        return 0.5 * (self.high - self.low)


@dataclass(frozen=True, slots=True)
class _Kind:
    """A value's title and prior, and the scale on which pours scatter evenly about it."""

    title: str
    prior: Prior

    @staticmethod
    def scaled(key: Value, value: float) -> float:
        match key:
            case Value.LOSS:
                return -math.log1p(-value)
            case Value.EVENNESS:
                return value
            case _:
                return math.log(value)

    @staticmethod
    def plain(key: Value, scaled: float) -> float:
        match key:
            case Value.LOSS:
                # Nobody pours more out of a cup than was in it.
                return -math.expm1(-max(scaled, 0.0))
            case Value.EVENNESS:
                return scaled
            case _:
                return math.exp(scaled)


@cache
def _kinds() -> Mapping[Value, _Kind]:
    kept = json.loads(files(__package__).joinpath("values.json").read_text("utf-8"))["values"]
    return {Value(name): _kind(Value(name), one) for name, one in kept.items()}


def _kind(key: Value, kept: dict[str, Any]) -> _Kind:
    spreads = {Level(level): spread for level, spread in kept["spreads"].items()}
    nuisances = tuple(map(Level, kept.get("nuisances", ())))
    mean = _Kind.scaled(key, kept["mean"])
    return _Kind(kept["title"], Prior(mean, spreads, kept["noise"], nuisances))


def learn(key: Value, taught: Sequence[Taught], groups: Groups, *, course: int = 0) -> Learned:
    """Return what pours teach of a value.

    Parameters
    ----------
    key : Value
    taught : sequence of Taught
        Pours in any order; the newest `MOST_POURS` that tell of it count.
    groups : Groups
        Of which workshop, resin, lot and mould it is wanted.
    course : int
        After how many of the newest pours it is told too.

    Returns
    -------
    Learned
        With nothing taught, what is known of all makers.
    """
    kind = _kinds()[key]
    told = sorted((one for one in taught if _told(key, one)), key=lambda one: one.at)[-MOST_POURS:]
    observed = [_observed(key, kind.prior, one) for one in told]
    found = _pooled(key, _frozen(observed), _sorted(groups))
    before = _known(key, _pooled(key, (), _sorted(groups)))
    now = _known(key, found)
    steps = range(max(len(observed) - course, 0) + 1, len(observed) + 1) if course else ()
    return Learned(
        key,
        kind.title,
        now.value,
        now.low,
        now.high,
        before=before,
        pours=found.pours,
        since=found.since,
        moves=_moves(key, found),
        outliers=tuple(replace(one, value=kind.plain(key, one.value)) for one in found.outliers),
        course=tuple(
            _known(key, _pooled(key, _frozen(observed[:n]), _sorted(groups))) for n in steps
        ),
    )


_Groups = tuple[tuple[Level, str], ...]
_Frozen = tuple[float, _Groups, datetime, str, float]


def _sorted(groups: Groups) -> _Groups:
    return tuple(sorted(groups.items()))


def _frozen(observed: Sequence[Observed]) -> tuple[_Frozen, ...]:
    """Return observations as what can be remembered by."""
    return tuple((one.value, _sorted(one.groups), one.at, one.name, one.noise) for one in observed)


@lru_cache(maxsize=1024)
def _pooled(key: Value, observed: tuple[_Frozen, ...], groups: _Groups) -> Pooled:
    """Return what observations pool to; the same is asked at every change of a sheet."""
    known = [
        Observed(value, dict(belongs), at, name, noise)
        for value, belongs, at, name, noise in observed
    ]
    return pooled(_kinds()[key].prior, known, dict(groups))


def _told(key: Value, taught: Taught) -> Told | None:
    told: Told | None = getattr(taught.lesson, key)
    return told


def _observed(key: Value, prior: Prior, taught: Taught) -> Observed:
    told = _told(key, taught)
    assert told is not None
    if key is Value.VISCOSITY:
        told = told_alone(told)
    value = told.value if key in (Value.LOSS, Value.EVENNESS) else max(told.value, 1e-3)
    noise = 1.0
    if told.noise is not None:
        # Of times it is over that of one coat; of the others in the value's own scale.
        noise = told.noise if key is Value.TIME else max(told.noise / prior.noise, 0.2)
    return Observed(_Kind.scaled(key, value), taught.groups, taught.at, taught.name, noise)


def hands(*, by_hand: bool) -> str:
    """Return what names hands or a machine among the groups of pours."""
    return "by hand" if by_hand else "on a machine"


def _known(key: Value, found: Pooled) -> Known:
    low, value, high = (_Kind.plain(key, one) for one in (found.low, found.value, found.high))
    return Known(low, value, high)


def _moves(key: Value, found: Pooled) -> float:
    return abs(_Kind.plain(key, found.value + found.moves) - _Kind.plain(key, found.value))
