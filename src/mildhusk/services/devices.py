"""Devices of the workshop: where they are reached, and what they are told to do."""

from collections.abc import Mapping, Sequence
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.coating.motion import MachineRates, machine_rates
from mildhusk.core.errors import ConditionError
from mildhusk.core.pouring.steps import PourStep, next_step
from mildhusk.devices.link import check_address
from mildhusk.devices.protocol import DeviceKind
from mildhusk.services.errors import ConflictError
from mildhusk.services.pour_facts import followed_by, records_of
from mildhusk.services.pours import find_pour
from mildhusk.services.transaction import Transaction
from mildhusk.store.live import ORDERS, announce
from mildhusk.store.tables import Device, Pour, PourStatus

MOST_DEVICES = 40
_NAMES = {
    DeviceKind.SCALE: "Bench scale",
    DeviceKind.ROOM: "Probe by the door",
    DeviceKind.MACHINE: "Turning machine",
    DeviceKind.TURN: "Sensor on the mould",
}
_FASTEST_RPM, _LONGEST_S = 60.0, 3600.0


def list_devices(transaction: Transaction) -> Sequence[Device]:
    """Return the devices, in the order in which they were added."""
    mine = select(Device).where(Device.workshop_id == transaction.workshop_id)
    return transaction.session.scalars(mine.order_by(Device.created_at, Device.id)).all()


def find_device(transaction: Transaction, key: UUID) -> Device:
    """Return one device."""
    return transaction.find(Device, key, "device")


def add_device(transaction: Transaction, name: str, kind: DeviceKind, address: str) -> Device:
    """Add a device; it is reached from now on."""
    if len(list_devices(transaction)) >= MOST_DEVICES:
        raise ConflictError(f"There are {MOST_DEVICES} devices already; remove one first.")
    device = Device(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        name=name,
        kind=kind,
        address=check_address(address.strip()),
        is_standin=False,
    )
    transaction.session.add(device)
    return _changed(transaction, device)


def change_device(transaction: Transaction, key: UUID, name: str, address: str) -> Device:
    """Name a device anew, or reach it elsewhere."""
    device = find_device(transaction, key)
    device.name, device.address = name, check_address(address.strip())
    return _changed(transaction, device)


def remove_device(transaction: Transaction, key: UUID) -> None:
    """Forget a device; what was weighed on it stays in the log."""
    transaction.session.delete(find_device(transaction, key))
    transaction.session.flush()
    announce(transaction.session, {"do": "devices"}, ORDERS)


def place_standins(transaction: Transaction, addresses: Mapping[DeviceKind, str]) -> None:
    """Note where the stand-ins that ship are reached, since they were started."""
    known = {one.kind: one for one in list_devices(transaction) if one.is_standin}
    for kind, address in addresses.items():
        if kind not in known:
            known[kind] = Device(
                workshop_id=transaction.workshop_id,
                created_at=transaction.now,
                name=_NAMES[kind],
                kind=kind,
                address=address,
                is_standin=True,
            )
            transaction.session.add(known[kind])
        known[kind].address = address
    transaction.session.flush()
    announce(transaction.session, {"do": "devices"}, ORDERS)


def start_machine(transaction: Transaction, key: UUID, rates: MachineRates) -> Device:
    """Tell a machine to turn."""
    device = _of_kind(transaction, key, DeviceKind.MACHINE)
    return _told(transaction, device, "start", _fields(rates))


def start_coat(transaction: Transaction, pour_id: UUID, key: UUID) -> None:
    """Tell a machine to turn as the coat in it is planned; it stops when that is ticked as gelled.

    Raises
    ------
    ConflictError
        Nothing is in the mould, or it is not planned for a machine.
    """
    pour = find_pour(transaction, pour_id)
    device = _of_kind(transaction, key, DeviceKind.MACHINE)
    coat = coat_in_mould(pour)
    if coat is None:
        raise ConflictError("Nothing is in the mould now; pour first, then start the machine.")
    rates = machine_rates(followed_by(pour).coats[coat - 1].motion)
    if rates is None:
        raise ConflictError("This coat is planned by hand; its sheet names no rates for a machine.")
    order = {"do": "turn", "id": str(device.id), "pour": str(pour.id), "fields": _fields(rates)}
    announce(transaction.session, order, ORDERS)


def coat_in_mould(pour: Pour) -> int | None:
    """Return the coat that is poured and has not gelled."""
    step = next_step(records_of(pour)) if pour.status == PourStatus.OPEN else None
    return step.coat if step is not None and step.step is PourStep.GEL else None


def _fields(rates: MachineRates) -> dict[str, float]:
    fastest = max(abs(rates.over_rpm), abs(rates.round_rpm))
    if not 0.0 < fastest <= _FASTEST_RPM:
        raise ConditionError(
            f"A machine turns at up to {_FASTEST_RPM:.0f} turns a minute, about at least one axis.",
            "over_rpm",
        )
    fields = {"over_rpm": rates.over_rpm, "round_rpm": rates.round_rpm}
    if rates.reverse_s is not None:
        if not 1.0 <= rates.reverse_s <= _LONGEST_S:
            raise ConditionError("A machine turns back after 1 s to 1 h.", "reverse_s")
        fields["reverse_s"] = rates.reverse_s
    return fields


def stop_machine(transaction: Transaction, key: UUID) -> Device:
    """Tell a machine to stop."""
    return _told(transaction, _of_kind(transaction, key, DeviceKind.MACHINE), "stop", {})


def order_standin(transaction: Transaction, key: UUID, fields: Mapping[str, float | str]) -> Device:
    """Tell a stand-in to fail, or to be whole again; a real device takes no such order."""
    device = find_device(transaction, key)
    if not device.is_standin:
        raise ConflictError("Only a stand-in fails to order; this is a real device.")
    return _told(transaction, device, "order", fields)


def _of_kind(transaction: Transaction, key: UUID, kind: DeviceKind) -> Device:
    device = find_device(transaction, key)
    if device.kind != kind:
        raise ConflictError(f"'{device.name}' is no {kind}; choose one that is.")
    return device


def _told(
    transaction: Transaction, device: Device, word: str, fields: Mapping[str, float | str]
) -> Device:
    order = {"do": "tell", "id": str(device.id), "word": word, "fields": dict(fields)}
    announce(transaction.session, order, ORDERS)
    return device


def _changed(transaction: Transaction, device: Device) -> Device:
    transaction.session.flush()
    announce(transaction.session, {"do": "devices"}, ORDERS)
    return device
