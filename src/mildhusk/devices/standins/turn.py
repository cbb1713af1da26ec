"""A turn sensor that is simulated: where up is, seen from the mould, with a bias."""

import random
from collections.abc import Callable

import numpy as np

from mildhusk.core.geometry.mesh import Floats
from mildhusk.devices.protocol import Line, line

_SAYS_EVERY_S = 0.05
_NOISE = 0.002
Ups = Callable[[Floats], Floats]
"""Gives where up is at (n,) moments [s]: (n, 3) unit vectors, seen from the mould."""


class TurnStandIn:
    """A sensor on a mould that is turned in a known way.

    Parameters
    ----------
    ups : callable
        How the mould is really turned.
    seed : int
    bias : tuple of 3 floats
        What it adds to where up is; it was not screwed on quite straight. [1]
    """

    def __init__(
        self, ups: Ups, seed: int = 1, bias: tuple[float, float, float] = (0.01, -0.015, 0.0)
    ) -> None:
        self.boot = 1
        self._ups, self._bias, self._chance = ups, bias, random.Random(seed)
        self._says_s = 0.0

    def hello(self) -> str:
        """Return how it introduces itself."""
        return line("hello", kind="turn", boot=str(self.boot), standin=1)

    def advance(self, now_s: float) -> list[str]:
        """Go on until now [s], and return what it says."""
        said = []
        while self._says_s <= now_s:
            up = self._ups(np.array([self._says_s]))[0]
            x, y, z = (
                float(one) + bias + self._chance.gauss(0.0, _NOISE)
                for one, bias in zip(up, self._bias, strict=True)
            )
            at = round(self._says_s, 3)
            said.append(line("turn", x=round(x, 5), y=round(y, 5), z=round(z, 5), at=at))
            self._says_s += _SAYS_EVERY_S
        return said

    def hear(self, said: Line, now_s: float) -> list[str]:
        """Take a line, and return what it answers."""
        return [self.hello()] if said.word == "hello" else []

    def reboot(self) -> None:
        """Be switched off and on."""
        self.boot += 1
