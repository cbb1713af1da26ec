"""Stand-ins on TCP, each at a port of its own: what is said is heard by all who are connected."""

import asyncio
import contextlib
import time
from collections.abc import Sequence

from mildhusk.devices.protocol import LONGEST_LINE, Line, ProtocolError, line, read_line
from mildhusk.devices.standins.base import StandIn

_EVERY_S = 0.02
_OFF_S = 1.0
"""How long a device that is switched off and on does not answer. [s]"""


class ServedStandIn:
    """A stand-in at a port.

    Parameters
    ----------
    device : StandIn
    """

    def __init__(self, device: StandIn) -> None:
        self.device, self.port = device, 0
        self._hearing: set[asyncio.StreamWriter] = set()
        self._gone_until_s = 0.0
        self._server: asyncio.Server | None = None

    async def start(self, port: int = 0) -> None:
        """Begin to listen on loopback."""
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", port)
        self.port = self._server.sockets[0].getsockname()[1]

    async def run(self) -> None:
        """Go on until it is cancelled."""
        while True:
            await asyncio.sleep(_EVERY_S)
            self._say(self.device.advance(_now_s()))

    def close(self) -> None:
        """Listen no more, and hang up."""
        if self._server is not None:
            self._server.close()
        for one in self._hearing:
            one.transport.abort()

    def lose(self, for_s: float) -> None:
        """Be out of reach for a while."""
        self._gone_until_s = _now_s() + for_s
        for one in self._hearing:
            one.transport.abort()
        self._hearing.clear()

    def _say(self, lines: Sequence[str]) -> None:
        if not lines or _now_s() < self._gone_until_s:
            return
        said = "".join(f"{one}\n" for one in lines).encode()
        for one in self._hearing:
            # Whoever does not listen is not told more and more.
            if one.transport.get_write_buffer_size() < 10_000:
                one.write(said)

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if _now_s() < self._gone_until_s:
            writer.transport.abort()
            return
        self._hearing.add(writer)
        writer.write(f"{self.device.hello()}\n".encode())
        with contextlib.suppress(OSError, ValueError):
            while said := await reader.readline():
                self._hear(said[:LONGEST_LINE])
        self._hearing.discard(writer)
        writer.close()

    def _hear(self, said: bytes) -> None:
        try:
            heard = read_line(said.decode("utf-8").strip())
            if heard.word != "order" or not self._obey(heard):
                self._say(self.device.hear(heard, _now_s()))
        except (ProtocolError, UnicodeDecodeError) as error:
            why = str(error).replace(" ", "-")[:80]
            self._say([line("refused", why=why)])

    def _obey(self, order: Line) -> bool:
        """Do what every stand-in can: be lost, be switched off and on."""
        if "lost_s" in order.fields:
            self.lose(min(order.number("lost_s"), 120.0))
            return True
        if order.is_set("reboot"):
            self.device.reboot()
            self.lose(_OFF_S)
            return True
        return False


_BEGUN_S = time.monotonic()


def _now_s() -> float:
    """Return the time since it was switched on. [s]"""
    return time.monotonic() - _BEGUN_S
