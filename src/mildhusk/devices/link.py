"""A line to a device, opened again whenever it is lost: a serial port, or TCP."""

import re
import threading
from collections.abc import Callable
from typing import Any

import serial
from serial.urlhandler import protocol_socket

from mildhusk.core.errors import ConditionError
from mildhusk.devices.protocol import LONGEST_LINE, Line, ProtocolError, line, read_line

_SOCKET = re.compile(r"socket://[A-Za-z0-9_.:\[\]-]+:\d{1,5}")
_PORT = re.compile(r"/dev/[A-Za-z0-9_./-]+|COM\d{1,3}")
_BAUD = 115_200
_READ_S = 0.02
"""What has come is looked at this often. [s]"""
_SILENT_S, _AGAIN_S = 3.0, 1.0
"""A device that says nothing for so long is lost; it is asked again after so long. [s]"""

Hears = Callable[[Line | None], None]
"""Is told each line, and None when the device is lost."""


def check_address(address: str) -> str:
    """Return the address of a device.

    Raises
    ------
    ConditionError
        It is neither a serial port nor a TCP address.
    """
    if _SOCKET.fullmatch(address) or (_PORT.fullmatch(address) and ".." not in address):
        return address
    raise ConditionError(
        f"'{address[:80]}' is no address of a device; give a serial port such as /dev/ttyUSB0 or "
        "socket://192.168.1.20:4001.",
        "address",
    )


class _Socket(protocol_socket.Serial):  # type: ignore[misc]
    """A TCP line that keeps what came first: a device introduces itself as soon as it is called."""

    def reset_input_buffer(self) -> None:
        """Keep what has come; the package forgets it when a line is opened."""


class Link:
    """A line to a device, held by a thread of its own.

    Parameters
    ----------
    address : str
        See `check_address`.
    hears : callable
        Called in that thread.
    """

    def __init__(self, address: str, hears: Hears) -> None:
        self._address, self._hears = check_address(address), hears
        self._ending, self._sending = threading.Event(), threading.Lock()
        self._port: Any = None
        self.unreadable = 0
        """Lines that could not be read."""
        self._thread = threading.Thread(target=self._keep, daemon=True)
        self._thread.start()

    def say(self, word: str, **fields: float | str) -> bool:
        """Say a line; returns whether there was anybody to say it to."""
        # A line is not closed while something is said on it: the package would trip over that.
        with self._sending:
            if self._port is None:
                return False
            try:
                self._port.write((line(word, **fields) + "\n").encode())
            except (OSError, serial.SerialException):
                return False
        return True

    def close(self) -> None:
        """Hang up."""
        self._ending.set()
        self._thread.join(2.0)

    def _keep(self) -> None:
        while not self._ending.is_set():
            try:
                kind = _Socket if _SOCKET.fullmatch(self._address) else serial.Serial
                self._port = kind(self._address, baudrate=_BAUD, timeout=_READ_S, write_timeout=0.5)
                self.say("hello")
                self._listen()
            except (OSError, ValueError, serial.SerialException):
                pass
            finally:
                self._hang_up()
                self._hears(None)
            self._ending.wait(_AGAIN_S)

    def _hang_up(self) -> None:
        with self._sending:
            port, self._port = self._port, None
            if port is not None:
                # The package leaves a socket open whose other end is gone.
                its_socket = getattr(port, "_socket", None)
                port.close()
                if its_socket is not None:
                    its_socket.close()

    def _listen(self) -> None:
        """Hear lines until it is lost, says nothing any more, or is hung up."""
        held, silent_s = b"", 0.0
        while not self._ending.is_set() and silent_s < _SILENT_S:
            came = self._port.read(256)
            silent_s = 0.0 if came else silent_s + _READ_S
            *lines, held = (held + came).split(b"\n")
            for one in lines:
                self._hear(one)
            # What never ends is no line.
            held = held[-LONGEST_LINE:]

    def _hear(self, said: bytes) -> None:
        try:
            heard = read_line(said.decode("utf-8").strip())
        except (ProtocolError, UnicodeDecodeError):
            self.unreadable += 1
        else:
            self._hears(heard)
