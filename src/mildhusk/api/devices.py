"""Devices of the workshop, and what is weighed on a live scale."""

from typing import Annotated, Literal
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, StringConstraints

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    IdPath,
    Name,
    Number,
    Shape,
    Word,
    transaction,
)
from mildhusk.core.coating.motion import MachineRates
from mildhusk.devices.protocol import DeviceKind
from mildhusk.services import devices, weighing
from mildhusk.store.tables import Device

blueprint = APIBlueprint("devices", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Devices")])

Address = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)]


class NewDevice(Body):
    """A device, and where it is reached: a serial port or socket://name:port."""

    name: Name
    kind: DeviceKind
    address: Address


class ChangedDevice(Body):
    """Its name, and where it is reached."""

    name: Name
    address: Address


class DeviceShape(Shape):
    """A device; how it is just now is told live."""

    id: UUID
    name: str
    kind: DeviceKind
    address: str
    is_standin: bool


class DeviceList(Shape):
    """The devices, in the order in which they were added."""

    devices: list[DeviceShape]


class Rates(Body):
    """How a machine shall turn. [1/min], [s]"""

    over_rpm: Number
    round_rpm: Number
    reverse_s: Number | None = None


class Fault(Body):
    """How a stand-in shall fail: be lost for so long, start anew, drift, a fault of its machine."""

    lost_s: Annotated[float, Field(ge=0.0, le=120.0)] | None = None
    reboot: bool = False
    drift_g_min: Annotated[float, Field(ge=-100.0, le=100.0)] | None = None
    max_g: Annotated[float, Field(ge=1.0, le=100_000.0)] | None = None
    mean_c: Annotated[float, Field(ge=-20.0, le=60.0)] | None = None
    mean_rh: Annotated[float, Field(ge=5.0, le=95.0)] | None = None
    fault: Literal["emergency-stop", "belt", "none"] | None = None

    def fields(self) -> dict[str, float | str]:
        """Return it as the fields of an order."""
        said = self.model_dump(exclude_none=True)
        said["reboot"] = int(self.reboot)
        return said


class OnDevice(Body):
    """Which device is used for a pour."""

    device_id: UUID


class AtScale(Body):
    """What only a person knows: the cup is on; it shall be as it is."""

    press: Literal["cup-is-on", "accept"]


class Told(Shape):
    """It was passed on; what comes of it is told live."""

    told: Word = "told"


def _shape(device: Device) -> dict[str, object]:
    return DeviceShape(
        id=device.id,
        name=device.name,
        kind=DeviceKind(device.kind),
        address=device.address,
        is_standin=device.is_standin,
    ).model_dump(mode="json")


@blueprint.get("/devices", responses={200: DeviceList}, summary="The devices")
def index() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return {"devices": [_shape(one) for one in devices.list_devices(at)]}


@blueprint.post("/devices", responses={201: DeviceShape}, summary="Add a device")
def add(body: NewDevice) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return _shape(devices.add_device(at, body.name, body.kind, body.address)), 201


@blueprint.put("/devices/<uuid:id>", responses={200: DeviceShape}, summary="Change a device")
def change(path: IdPath, body: ChangedDevice) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(devices.change_device(at, path.id, body.name, body.address))


@blueprint.delete("/devices/<uuid:id>", responses={200: Deleted}, summary="Remove a device")
def remove(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        devices.remove_device(at, path.id)
    return Deleted().model_dump()


@blueprint.post("/devices/<uuid:id>/start", responses={202: Told}, summary="Start a machine")
def start(path: IdPath, body: Rates) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        rates = MachineRates(body.over_rpm, body.round_rpm, body.reverse_s)
        devices.start_machine(at, path.id, rates)
    return Told().model_dump(), 202


@blueprint.post("/devices/<uuid:id>/stop", responses={202: Told}, summary="Stop a machine")
def stop(path: IdPath) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        devices.stop_machine(at, path.id)
    return Told().model_dump(), 202


@blueprint.post("/devices/<uuid:id>/fault", responses={202: Told}, summary="Fail a stand-in")
def fail(path: IdPath, body: Fault) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        devices.order_standin(at, path.id, body.fields())
    return Told().model_dump(), 202


@blueprint.put("/pours/<uuid:id>/scale", responses={202: Told}, summary="Weigh on a live scale")
def weigh(path: IdPath, body: OnDevice) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        weighing.begin_weighing(at, path.id, body.device_id)
    return Told().model_dump(), 202


@blueprint.delete("/pours/<uuid:id>/scale", responses={202: Told}, summary="Weigh by hand again")
def by_hand(path: IdPath) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        weighing.end_weighing(at, path.id)
    return Told().model_dump(), 202


@blueprint.post("/pours/<uuid:id>/scale/press", responses={202: Told}, summary="A press at it")
def press(path: IdPath, body: AtScale) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        weighing.press_at_scale(at, path.id, body.press)
    return Told().model_dump(), 202


@blueprint.put("/pours/<uuid:id>/machine", responses={202: Told}, summary="Turn the coat in it")
def turn(path: IdPath, body: OnDevice) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        devices.start_coat(at, path.id, body.device_id)
    return Told().model_dump(), 202
