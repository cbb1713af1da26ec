"""The stand-ins that ship, one of every kind."""

from datetime import datetime

import numpy as np

from mildhusk.core.coating.motion import motion_named
from mildhusk.devices.protocol import DeviceKind
from mildhusk.devices.standins.base import StandIn
from mildhusk.devices.standins.machine import MachineStandIn
from mildhusk.devices.standins.probe import ProbeStandIn
from mildhusk.devices.standins.scale import ScaleStandIn
from mildhusk.devices.standins.turn import TurnStandIn


def shipped_standin(kind: DeviceKind) -> StandIn:
    """Return a stand-in of a kind."""
    match kind:
        case DeviceKind.SCALE:
            return ScaleStandIn()
        case DeviceKind.ROOM:
            begun = datetime.now()
            hour = begun.hour + begun.minute / 60.0
            return ProbeStandIn(hour=lambda now_s: hour + now_s / 3600.0)
        case DeviceKind.MACHINE:
            return MachineStandIn()
        case DeviceKind.TURN:
            rolled = motion_named("rim-first-roll")
            return TurnStandIn(lambda at: rolled.ups(np.array([0.0, 0.0, 1.0]), at))
