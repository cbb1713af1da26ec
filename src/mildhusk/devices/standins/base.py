"""What every stand-in is: a thing in time that says lines, hears lines, and fails to order."""

from typing import Protocol

from mildhusk.devices.protocol import Line


class StandIn(Protocol):
    """A simulated device."""

    boot: int
    """How often it was switched on."""

    def hello(self) -> str:
        """Return how it introduces itself."""

    def advance(self, now_s: float) -> list[str]:
        """Go on until now [s], and return what it says."""

    def hear(self, said: Line, now_s: float) -> list[str]:
        """Take a line, and return what it answers."""

    def reboot(self) -> None:
        """Be switched off and on: what it knew is gone."""
