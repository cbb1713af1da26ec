"""What a cause of a fault changes of a cast sheet."""

from dataclasses import dataclass, replace
from typing import Any

from mildhusk.core.casting.coats import FLOWING
from mildhusk.core.casting.plan import CastPlan
from mildhusk.core.casting.wish import CastWish, CoatSchool
from mildhusk.core.coating.turning import MOST_COATS
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.pouring.faults import Cause

AS_IT_WAS, ONE_MORE = "as-it-was", "+1"


@dataclass(frozen=True, slots=True)
class Mend:
    """A changed wish, and what is changed in words."""

    wish: CastWish
    words: str


def mended_wish(cause: Cause, wish: CastWish, plan: CastPlan, room_k: float | None) -> Mend | None:
    """Return the wish of a sheet as a cause asks for it.

    Parameters
    ----------
    cause : Cause
    wish : CastWish
    plan : CastPlan
        Of the sheet as it is.
    room_k : float or None
        As it was at the pour; None where no probe told it. [K]

    Returns
    -------
    Mend or None
        None where nothing of the sheet mends it, or all of it is so already.
    """
    # A paste is spread besides.
    rolled = sum(coat.kind in FLOWING for coat in plan.coats)
    changed: dict[str, Any] = {}
    said = []
    for field, value in cause.change.items():
        match field, value:
            case "coats", _ if value == ONE_MORE:
                if rolled < MOST_COATS:
                    changed[field] = rolled + 1
                    said.append(f"{rolled + 1} coats")
            case "room_temperature_k", _ if value == AS_IT_WAS:
                if room_k is not None and abs(room_k - wish.room_temperature_k) >= 1.0:
                    changed[field] = room_k
                    said.append(f"a room of {room_k - ZERO_CELSIUS_K:.0f} °C")
            case "motion", _:
                if plan.motion != value:
                    changed[field] = value
                    said.append("turned by a machine")
            case "lid", _:
                if not plan.lid:
                    changed[field] = True
                    said.append("under a lid")
            case "hands", _:
                if wish.hands != value:
                    changed[field] = value
                    said.append("two pairs of hands")
            case "school", _:
                if wish.school != CoatSchool(value):
                    changed[field] = CoatSchool(value)
                    said.append("a thin detail coat first")
    return Mend(replace(wish, **changed), ", ".join(said)) if changed else None
