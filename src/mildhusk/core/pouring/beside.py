"""Pours beside each other: what differed, ranked by how unusual it was here."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from mildhusk.core.pouring.signs import PourFacts
from mildhusk.core.wording import Unit

_FEWEST = 5
"""Pours that tell what is usual."""
_DIFFERS = 1e-9


@dataclass(frozen=True, slots=True)
class Input:
    """Something that goes into a pour."""

    key: str
    title: str
    unit: Unit
    usual: float
    """By how much it usually differs, where too few pours tell (assumed). [`unit`]"""


INPUTS = (
    Input("room", "Room", Unit.TEMPERATURE, 2.0),
    Input("room_off", "Room, off its plan", Unit.COUNT, 2.0),
    Input("grams", "Mixed, by the plan", Unit.SHARE, 0.03),
    Input("ratio", "B by A, by the plan", Unit.SHARE, 0.01),
    Input("to_pour", "From mixing to the pour", Unit.TIME, 30.0),
    Input("late", "Latest coat, after its window", Unit.TIME, 120.0),
    Input("coats", "Coats", Unit.COUNT, 1.0),
    Input("still", "Longest the mould stood still", Unit.TIME, 10.0),
    Input("lot_days", "Days its lot was open", Unit.COUNT, 30.0),
    Input("mould_used", "Of the mould's life, used", Unit.SHARE, 0.2),
)
"""All of them common practice, no source."""


@dataclass(frozen=True, slots=True)
class Difference:
    """An input of some pours, beside what is usual here.

    Parameters
    ----------
    input : Input
    values : tuple of float or None
        Of each pour. [`input.unit`]
    usual : float or None
        Median of the workshop's pours; None of too few. [`input.unit`]
    unusual : tuple of float or None
        How far each is off the usual, in usual spreads. [1]
    """

    input: Input
    values: tuple[float | None, ...]
    usual: float | None
    unusual: tuple[float | None, ...]


def inputs_of(facts: PourFacts) -> dict[str, float]:
    """Return what went into a pour, by the key of its input; what is not known is left out."""
    plan, poured = facts.plan, [one for one in facts.records if one.poured_at is not None]
    rooms = [one for one in facts.rooms_k if one is not None]
    planned = [plan.coats[one.number - 1] for one in poured]
    a_kg = math.fsum(one.a_kg or 0.0 for one in poured)
    b_kg = math.fsum(one.b_kg or 0.0 for one in poured)
    planned_a = math.fsum(one.parts_kg.A for one in planned)
    planned_b = math.fsum(one.parts_kg.B for one in planned)
    waits = [
        (one.poured_at - one.mixed_at).total_seconds()
        for one in poured
        if one.poured_at is not None and one.mixed_at is not None
    ]
    found: dict[str, float | None] = {
        "room": sum(rooms) / len(rooms) if rooms else None,
        "room_off": sum(rooms) / len(rooms) - plan.room_k if rooms and plan.room_k else None,
        "grams": (a_kg + b_kg) / (planned_a + planned_b) if planned_a + planned_b else None,
        "ratio": b_kg / a_kg / (planned_b / planned_a) if a_kg and planned_b else None,
        "to_pour": max(waits, default=None),
        "late": _latest(facts),
        "coats": float(len(poured)),
        "still": facts.still_s,
        "lot_days": None if facts.lot_open_days is None else float(facts.lot_open_days),
        "mould_used": facts.mould_used,
    }
    return {key: value for key, value in found.items() if value is not None}


def _latest(facts: PourFacts) -> float | None:
    late = [
        (after.mixed_at - before.mixed_at).total_seconds()
        - facts.plan.coats[before.number - 1].next_until_s
        for before, after in pairwise(facts.records)
        if before.mixed_at is not None and after.mixed_at is not None
    ]
    return max(0.0, *late) if late else None


def differences(
    pours: Sequence[Mapping[str, float]], known: Sequence[Mapping[str, float]]
) -> list[Difference]:
    """Return what differs between pours, the most unusual first.

    Parameters
    ----------
    pours : sequence of mapping
        See `inputs_of`.
    known : sequence of mapping
        Of the workshop's pours: what is usual.

    Returns
    -------
    list of Difference
        What is the same in all of them, or known of none, is left out.
    """
    found = []
    for one in INPUTS:
        values = tuple(pour.get(one.key) for pour in pours)
        there = [value for value in values if value is not None]
        if not there or (len(there) == len(values) and max(there) - min(there) < _DIFFERS):
            continue
        usual = sorted(pour[one.key] for pour in known if one.key in pour)
        middle = usual[len(usual) // 2] if len(usual) >= _FEWEST else None
        spread = _spread(usual, middle, one.usual)
        centre = middle if middle is not None else sum(there) / len(there)
        unusual = tuple(None if value is None else (value - centre) / spread for value in values)
        found.append(Difference(one, values, middle, unusual))
    return sorted(found, key=lambda one: -max(abs(off) for off in one.unusual if off is not None))


def _spread(usual: Sequence[float], middle: float | None, assumed: float) -> float:
    """Return the usual spread: the median distance from the median, as of a normal law."""
    if middle is None:
        return assumed
    off = sorted(abs(value - middle) for value in usual)
    # Where nearly all are alike, a hair's breadth would be unusual.
    return max(1.4826 * off[len(off) // 2], 0.25 * assumed)
