"""What a room that is warmer or colder than planned does to the clock of a coat."""

import math
from dataclasses import dataclass, fields, replace
from itertools import pairwise
from typing import TYPE_CHECKING

from mildhusk.core.errors import ConditionError

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet, SheetCoat

_AWAY_K = (-9.0, -6.0, -3.0, 0.0, 3.0, 6.0, 9.0)
"""Rooms whose clocks are worked out beforehand, from the planned one; between them the times are
interpolated in their logarithm: within 1 % of the cure itself, the demould, which has a kink where
it is bound by other things, within 4 % (tests/core/test_room_clock.py)."""
_NOTICED_K = 0.5
"""A smaller difference is the probe's own. [K]"""


@dataclass(frozen=True, slots=True)
class RoomTimes:
    """Times of a coat from its first contact of A and B, in a room. [K], [s]"""

    room_k: float
    pour_by_s: float
    roll_until_s: float
    next_from_s: float
    next_until_s: float
    demould_s: float


def clocks_in_rooms(sheet: "CastSheet") -> tuple[tuple[RoomTimes, ...], ...]:
    """Return the clock of every coat in rooms about the planned one, the coldest first.

    Parts and mould that were planned as warm as the room follow it; others stay as they are. A
    room for which there is no clock is left out.
    """
    return tuple(_in_rooms(sheet, coat) for coat in sheet.coats)


def _in_rooms(sheet: "CastSheet", coat: "SheetCoat") -> tuple[RoomTimes, ...]:
    found = []
    at = sheet.conditions
    for away in _AWAY_K:
        room_k = at.room_k + away
        mould_k = room_k if at.mould_k == at.room_k else at.mould_k
        parts_k = room_k if at.parts_k == at.room_k else at.parts_k
        elsewhere = replace(at, room_k=room_k, mould_k=mould_k, parts_k=parts_k)
        try:
            clock = sheet.pourable.clock(coat.layer, coat.recipe, elsewhere)
        except ConditionError:
            continue
        found.append(
            RoomTimes(
                room_k,
                clock.pour_by_s,
                clock.roll_until_s,
                clock.next_from_s,
                clock.next_until_s,
                clock.demould_s,
            )
        )
    return tuple(found)


def times_in_room(rooms: tuple[RoomTimes, ...], room_k: float) -> RoomTimes | None:
    """Return the times of a coat in a room.

    Parameters
    ----------
    rooms : tuple of RoomTimes
        Of one coat, the coldest first.
    room_k : float
        As it is. [K]

    Returns
    -------
    RoomTimes or None
        In a room beyond those that were worked out, as in the nearest; None without any.
    """
    if not rooms:
        return None
    within_k = min(max(room_k, rooms[0].room_k), rooms[-1].room_k)
    for cold, warm in pairwise(rooms):
        if within_k <= warm.room_k:
            share = (within_k - cold.room_k) / (warm.room_k - cold.room_k)
            times = (
                _between(getattr(cold, one.name), getattr(warm, one.name), share)
                for one in fields(RoomTimes)[1:]
            )
            return RoomTimes(room_k, *times)
    return replace(rooms[-1], room_k=room_k)


@dataclass(frozen=True, slots=True)
class CoatInRoom:
    """The clock of a coat as the room has it, beside what was planned. [K], [s]

    A pattern is followed by hand `pace` times as fast, so that the mould is held as planned when
    as large a part of the time to the gel has passed. [1]
    """

    room_k: float
    planned_k: float
    now: RoomTimes
    planned: RoomTimes
    pace: float


def coat_in_room(
    rooms: tuple[RoomTimes, ...], planned_k: float | None, room_k: float | None
) -> CoatInRoom | None:
    """Return what a room does to the clock of a coat.

    Parameters
    ----------
    rooms : tuple of RoomTimes
        Of the coat, the coldest first.
    planned_k, room_k : float or None
        The room it was planned for, and as it is; None where that is not known. [K]

    Returns
    -------
    CoatInRoom or None
        None in a room as planned, and where nothing is known of it.
    """
    if room_k is None or planned_k is None or not is_noticed(planned_k, room_k):
        return None
    now, planned = times_in_room(rooms, room_k), times_in_room(rooms, planned_k)
    if now is None or planned is None:
        return None
    return CoatInRoom(room_k, planned_k, now, planned, planned.roll_until_s / now.roll_until_s)


def is_noticed(planned_k: float, room_k: float) -> bool:
    """Whether a room differs from the planned one by more than a probe may be off."""
    return abs(room_k - planned_k) >= _NOTICED_K


def _between(cold_s: float, warm_s: float, share: float) -> float:
    if min(cold_s, warm_s) <= 0.0:
        return cold_s + share * (warm_s - cold_s)
    return math.exp((1.0 - share) * math.log(cold_s) + share * math.log(warm_s))
