"""A room probe that is simulated: it follows the day."""

import math
import random
from collections.abc import Callable

from mildhusk.devices.protocol import Line, line

_DAY_S = 86_400.0
_WARMEST_H = 15.5
_SAYS_EVERY_S = 2.0
_MEAN_RH = 48.0
"""Relative humidity at the room's usual mean. [%]"""


class ProbeStandIn:
    """A room that is warmest in the afternoon and coldest before dawn.

    Parameters
    ----------
    seed : int
    hour : callable
        Gives the hour of the day, from the time it is [s].
    mean_c, swing_c : float
        The room's mean, and how far it goes up and down with the day.
    """

    def __init__(
        self,
        seed: int = 1,
        hour: Callable[[float], float] = lambda now_s: now_s % _DAY_S / 3600.0,
        *,
        mean_c: float = 20.5,
        swing_c: float = 2.0,
    ) -> None:
        self.boot = 1
        self._chance, self._hour = random.Random(seed), hour
        self.mean_c, self.swing_c, self._says_s = mean_c, swing_c, 0.0
        self.mean_rh = _MEAN_RH

    def hello(self) -> str:
        """Return how it introduces itself."""
        return line("hello", kind="room", boot=str(self.boot), standin=1)

    def advance(self, now_s: float) -> list[str]:
        """Go on until now [s], and return what it says."""
        if now_s < self._says_s:
            return []
        self._says_s = now_s + _SAYS_EVERY_S
        warmer = math.cos((self._hour(now_s) - _WARMEST_H) / 24.0 * 2.0 * math.pi)
        c = self.mean_c + self.swing_c * warmer + self._chance.gauss(0.0, 0.03)
        # The same water in warmer air is less of what it could hold: about 6 % a degree.
        humid = self.mean_rh * math.exp(-0.06 * (c - 20.5)) + self._chance.gauss(0.0, 0.3)
        return [line("room", c=round(c, 2), rh=round(humid, 1), at=round(now_s, 2))]

    def hear(self, said: Line, now_s: float) -> list[str]:
        """Take a line, and return what it answers."""
        if said.word == "order":
            self.mean_c = said.number_or("mean_c", self.mean_c)
            self.mean_rh = said.number_or("mean_rh", self.mean_rh)
            self._says_s = 0.0
        return [self.hello()] if said.word == "hello" else []

    def reboot(self) -> None:
        """Be switched off and on."""
        self.boot += 1
