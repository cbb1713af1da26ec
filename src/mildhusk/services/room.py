"""The room as a probe tells it, and what it does to the clock of a coat."""

from datetime import timedelta
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.room_clock import CoatInRoom, coat_in_room
from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.pouring.steps import CoatTimes, coat_times
from mildhusk.devices.protocol import DeviceKind
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import Device, PouredCoat

_FRESH = timedelta(minutes=5)
"""An older reading says nothing of the room as it is."""
_COLDEST_C, _WARMEST_C = -20.0, 60.0


def keep_room(transaction: Transaction, device_id: UUID, celsius: float) -> None:
    """Keep what a probe tells; what no room has is left alone."""
    device = transaction.session.get(Device, device_id)
    if device is not None and _COLDEST_C <= celsius <= _WARMEST_C:
        device.room_k, device.told_at = celsius + ZERO_CELSIUS_K, transaction.now


def room_here(transaction: Transaction) -> float | None:
    """Return how warm the room is by its probe, the real one first; None where none tells. [K]"""
    return transaction.session.scalars(
        select(Device.room_k)
        .where(
            Device.workshop_id == transaction.workshop_id,
            Device.kind == DeviceKind.ROOM,
            Device.room_k.is_not(None),
            Device.told_at >= transaction.now - _FRESH,
        )
        .order_by(Device.is_standin, Device.told_at.desc())
        .limit(1)
    ).first()


def room_of(transaction: Transaction, coat: PouredCoat) -> float | None:
    """Return the room a coat cures in: as it is while it is liquid, then as it last was. [K]"""
    if coat.gelled_at is not None:
        return coat.room_k
    return room_here(transaction) or coat.room_k


def in_room(plan: PourPlan, number: int, room_k: float | None) -> CoatInRoom | None:
    """Return the clock of a coat in a room that differs from the planned one; else None."""
    return coat_in_room(plan.rooms_of(number), plan.room_k, room_k)


def times_of(plan: PourPlan, coat: PouredCoat, room_k: float | None) -> CoatTimes | None:
    """Return when the clocks of a mixed coat run out, in the room as it is."""
    if coat.mixed_at is None:
        return None
    planned = plan.coats[coat.number - 1]
    shifted = in_room(plan, coat.number, room_k)
    clock = planned if shifted is None else shifted.now
    return coat_times(
        coat.mixed_at,
        pour_by_s=clock.pour_by_s,
        roll_until_s=clock.roll_until_s,
        next_from_s=clock.next_from_s,
        next_until_s=clock.next_until_s,
        demould_s=plan.demould_s if shifted is None else shifted.now.demould_s,
    )
