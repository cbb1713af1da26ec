"""The command `husk devices`: which ports there are, what a device says, a stand-in to try with."""

import argparse
import asyncio
import time
from contextlib import suppress
from dataclasses import dataclass

from mildhusk.core.errors import InputError
from mildhusk.devices.link import Link, check_address
from mildhusk.devices.protocol import DeviceKind, Hello, Line, ProtocolError

_LONGEST_S = 3600.0
_FIRST_S = 5.0


@dataclass(frozen=True, slots=True)
class FoundPort:
    """A serial port of this machine, and what its system calls it."""

    address: str
    says: str


@dataclass(frozen=True, slots=True)
class Heard:
    """What a device said.

    Parameters
    ----------
    address : str
    hello : Hello or None
        How it introduced itself; None where it did not.
    lines : dict of str to int
        How many there were of each word.
    unreadable : int
    last : dict of str to str
        The fields of its last line.
    """

    address: str
    hello: Hello | None
    lines: dict[str, int]
    unreadable: int
    last: dict[str, str]


def add_words(devices: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    devices.add_argument("what", choices=("list", "try", "standin"))
    devices.add_argument("where", nargs="?", help="try: an address; standin: a kind of device")
    devices.add_argument("--seconds", default="3", help="how long it is listened to, or runs")
    devices.add_argument("--port", default="0", help="standin: where it listens; 0 is any")


def run(given: argparse.Namespace) -> tuple[object, list[str]]:
    """List ports, try a device, or stand in for one."""
    seconds = _number(given.seconds, "--seconds", 0.1, _LONGEST_S)
    if given.what == "list":
        return _ports()
    if given.where is None:
        wants = "an address" if given.what == "try" else f"one of {', '.join(DeviceKind)}"
        raise InputError(f"husk devices {given.what} needs {wants}.", "where")
    if given.what == "try":
        return _try(check_address(given.where), seconds)
    if given.where not in list(DeviceKind):
        kinds = ", ".join(DeviceKind)
        raise InputError(f"There is no stand-in for '{given.where}'; take {kinds}.", "where")
    return _stand_in(DeviceKind(given.where), int(_number(given.port, "--port", 0, 65535)), seconds)


def _number(text: str, name: str, least: float, most: float) -> float:
    with suppress(ValueError):
        value = float(text)
        if least <= value <= most:
            return value
    raise InputError(f"{name} is '{text[:40]}'; give a number from {least:g} to {most:g}.", name)


def _ports() -> tuple[list[FoundPort], list[str]]:
    from serial.tools.list_ports import comports

    found = [FoundPort(one.device, one.description) for one in comports()]
    lines = [f"{one.address:20} {one.says}" for one in found]
    return found, lines or [
        "This machine has no serial port; a device may be at socket://HOST:PORT."
    ]


def _try(address: str, seconds: float) -> tuple[Heard, list[str]]:
    said: list[Line] = []
    link = Link(address, lambda one: None if one is None else said.append(one))
    began = time.monotonic()
    while time.monotonic() - began < (seconds if said else max(seconds, _FIRST_S)):
        time.sleep(0.05)
    link.close()
    if not said and link.unreadable == 0:
        raise InputError(
            f"Nothing was heard at {address}: is it on, and is it the right port?", "where"
        )
    words: dict[str, int] = {}
    for one in said:
        words[one.word] = words.get(one.word, 0) + 1
    hello = next((one for one in said if one.word == "hello"), None)
    introduced = None
    if hello is not None:
        try:
            introduced = Hello.of(hello)
        except ProtocolError as error:
            raise InputError(f"What is at {address} is not understood: {error}", "where") from error
    heard = Heard(address, introduced, words, link.unreadable, said[-1].fields if said else {})
    lines = [
        f"It is a {introduced.kind}." if introduced else "It does not say what it is (no hello).",
        *(f"{count:6} x {word}" for word, count in words.items()),
    ]
    if link.unreadable:
        lines.append(f"{link.unreadable:6} lines could not be read")
    if said:
        lines.append("last: " + " ".join(f"{k}={v}" for k, v in said[-1].fields.items()))
    return heard, lines


def _stand_in(kind: DeviceKind, port: int, seconds: float) -> tuple[object, list[str]]:
    from mildhusk.devices.standins.serving import ServedStandIn
    from mildhusk.devices.standins.shipped import shipped_standin

    served = ServedStandIn(shipped_standin(kind))

    async def serve() -> None:
        await served.start(port)
        print(f"A simulated {kind} is at socket://127.0.0.1:{served.port}", flush=True)
        with suppress(TimeoutError):
            await asyncio.wait_for(served.run(), seconds)
        served.close()

    try:
        asyncio.run(serve())
    except OSError as error:
        raise InputError(f"Port {port} cannot be listened at: {error.strerror}.", "port") from error
    except KeyboardInterrupt:
        pass
    return {"kind": kind, "port": served.port}, ["It has ended."]
