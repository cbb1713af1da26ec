"""What a pour itself tells of the causes of its faults: signs that are there, or are not."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

import numpy as np

from mildhusk.core.casting.coats import FLOWING
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.room_clock import times_in_room
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.pouring.steps import CoatRecord

_ROOM_OFF_K = 2.0
"""A room so much off is noticed. [K]"""
_LATE, _EARLY = 1.05, 0.85
"""Times that are off by so much are no slip of the hand. [1]"""
_RATIO_OFF, _MUCH, _LITTLE = 0.03, 1.1, 0.95
"""Of B by A, of a coat, of all coats together. [1]"""
_STILL_S, _STILL_DEG = 20.0, 6.0
"""A mould that moved no further for so long stood still. [s], [degrees]"""
_OPEN_LONG_DAYS, _OLD_MOULD, _THIN_SHARE = 180, 0.8, 0.05


@dataclass(frozen=True, slots=True)
class PourFacts:
    """What is known of a pour; None where it is not.

    Parameters
    ----------
    plan : PourPlan
    records : tuple of CoatRecord
    rooms_k : tuple of float or None
        Of every coat, as a probe told it. [K]
    closed_at : datetime or None
    still_s : float or None
        The longest that the mould stood still while a coat was liquid. [s]
    lot_open_days : int or None
        Of the oldest lot it was drawn from.
    lot_expired : bool or None
    mould_used : float or None
        Casts of its mould by those expected of it. [1]
    """

    plan: PourPlan
    records: tuple[CoatRecord, ...]
    rooms_k: tuple[float | None, ...]
    closed_at: datetime | None
    still_s: float | None
    lot_open_days: int | None
    lot_expired: bool | None
    mould_used: float | None


def signs_of(facts: PourFacts) -> dict[str, bool]:
    """Return the signs that a pour tells of; what it does not tell is left out."""
    found: dict[str, bool | None] = {
        "late-coat": _late_coat(facts),
        "late-pour": _late_pour(facts),
        "stopped-early": _stopped_early(facts),
        "out-early": _out_early(facts),
        "stood-still": None if facts.still_s is None else facts.still_s >= _STILL_S,
        "lot-open-long": None
        if facts.lot_open_days is None
        else facts.lot_open_days > _OPEN_LONG_DAYS,
        "lot-expired": facts.lot_expired,
        "mould-old": None if facts.mould_used is None else facts.mould_used >= _OLD_MOULD,
        **_of_the_room(facts),
        **_of_the_grams(facts),
        **_of_the_plan(facts),
    }
    return {name: there for name, there in found.items() if there is not None}


def longest_still(at_s: Floats, ups: Floats) -> float:
    """Return for how long a mould stood still at most.

    Parameters
    ----------
    at_s : (n,) float
        When each reading was taken, rising. [s]
    ups : (n, 3) float
        Where up was, seen from the mould; unit vectors.

    Returns
    -------
    float
        [s]
    """
    longest, begun = 0.0, 0
    least = np.cos(np.radians(_STILL_DEG))
    for number in range(1, len(at_s)):
        if float(ups[number] @ ups[begun]) < least:
            begun = number
        longest = max(longest, float(at_s[number] - at_s[begun]))
    return longest


def _late_coat(facts: PourFacts) -> bool | None:
    late = [
        after.poured_at > before.mixed_at + _seconds(facts, before, "next_until_s")
        for before, after in pairwise(facts.records)
        if before.mixed_at is not None and after.poured_at is not None
    ]
    return any(late) if late else None


def _late_pour(facts: PourFacts) -> bool | None:
    late = [
        one.poured_at - one.mixed_at > _LATE * _seconds(facts, one, "pour_by_s")
        for one in facts.records
        if one.mixed_at is not None and one.poured_at is not None
    ]
    return any(late) if late else None


def _stopped_early(facts: PourFacts) -> bool | None:
    early = [
        one.gelled_at - one.mixed_at < _EARLY * _seconds(facts, one, "roll_until_s")
        for one in facts.records
        if one.mixed_at is not None and one.gelled_at is not None
    ]
    return any(early) if early else None


def _out_early(facts: PourFacts) -> bool | None:
    mixed = [one.mixed_at for one in facts.records if one.mixed_at is not None]
    if not mixed or facts.closed_at is None:
        return None
    return facts.closed_at < mixed[-1] + timedelta(seconds=facts.plan.demould_s)


def _seconds(facts: PourFacts, record: CoatRecord, which: str) -> timedelta:
    """Return a time of a coat's clock as the bench showed it: by the room, else as planned."""
    at, room_k = record.number - 1, facts.rooms_k[record.number - 1]
    in_room = None if room_k is None else times_in_room(facts.plan.rooms_of(at + 1), room_k)
    return timedelta(seconds=getattr(in_room or facts.plan.coats[at], which))


def _of_the_room(facts: PourFacts) -> dict[str, bool | None]:
    planned = facts.plan.room_k
    rooms = [one for one in facts.rooms_k if one is not None]
    if planned is None or not rooms:
        return {}
    return {
        "cold": min(rooms) <= planned - _ROOM_OFF_K,
        "warm": max(rooms) >= planned + _ROOM_OFF_K,
    }


def _of_the_grams(facts: PourFacts) -> dict[str, bool | None]:
    weighed = [
        (facts.plan.coats[one.number - 1], one.a_kg, one.b_kg or 0.0)
        for one in facts.records
        if one.a_kg and one.poured_at is not None
    ]
    if not weighed:
        return {}
    parts = [(plan.parts_kg.A, plan.parts_kg.B, a, b) for plan, a, b in weighed if a]
    off = [abs(b / a / (plan_b / plan_a) - 1.0) for plan_a, plan_b, a, b in parts if plan_b > 0.0]
    coats = [(a + b) / (plan_a + plan_b) for plan_a, plan_b, a, b in parts]
    whole = sum(one.parts_kg.A + one.parts_kg.B for one in facts.plan.coats)
    flowing = {one.number for one in facts.plan.coats if one.kind in FLOWING}
    poured = {one.number for one in facts.records if one.poured_at is not None}
    return {
        "ratio-off": max(off) > _RATIO_OFF if off else None,
        "much": max(coats) > _MUCH,
        "little": sum(a + b for _, _, a, b in parts) < _LITTLE * whole,
        "fewer-coats": bool(flowing - poured),
    }


def _of_the_plan(facts: PourFacts) -> dict[str, bool | None]:
    wall = facts.plan.wall
    if wall is None:
        return {"not-simulated": True}
    return {"not-simulated": False, "thin-planned": wall.share_under > _THIN_SHARE}
