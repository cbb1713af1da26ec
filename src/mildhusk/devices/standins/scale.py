"""A scale that is simulated: noise, drift, lag, an end of its range, and a hand that pours."""

import math
import random

from mildhusk.devices.protocol import Line, line
from mildhusk.devices.standins.hand import Hand

_SAYS_EVERY_S = 0.1
_LAG_S, _STILL_S = 0.12, 0.5
"""Time constant of what it shows, and how long it has to stand still to say so. [s]"""


class ScaleStandIn:
    """A scale of a tenth of a gram.

    Parameters
    ----------
    seed : int
    hand : Hand or None
        What pours; a usual one unless given.
    step_g, max_g, noise_g, drift_g_min : float
        Its last digit, what it carries, its noise (standard deviation), how its zero creeps.
    """

    def __init__(
        self,
        seed: int = 1,
        hand: Hand | None = None,
        *,
        step_g: float = 0.1,
        max_g: float = 2200.0,
        noise_g: float = 0.02,
        drift_g_min: float = 0.01,
    ) -> None:
        self.boot, self.hand = 1, hand or Hand(seed)
        self.step_g, self.max_g = step_g, max_g
        self.noise_g, self.drift_g_min = noise_g, drift_g_min
        self._chance = random.Random(seed + 1000)
        self._shown_g = self._zero_g = self._crept_g = 0.0
        self._now_s, self._says_s, self._still_s = 0.0, 0.0, 0.0

    def hello(self) -> str:
        """Return how it introduces itself."""
        return line(
            "hello", kind="scale", boot=str(self.boot), step_g=self.step_g, max_g=self.max_g,
            lag_s=_LAG_S + _SAYS_EVERY_S, standin=1,
        )  # fmt: skip

    def advance(self, now_s: float) -> list[str]:
        """Go on until now [s], and return what it says."""
        said = []
        while self._now_s < now_s:
            took_s = min(now_s - self._now_s, 0.02)
            self._now_s += took_s
            self.hand.advance(self._now_s)
            self._crept_g += self.drift_g_min / 60.0 * took_s
            behind = self.hand.on_scale_g - self._shown_g
            self._shown_g += behind * (1.0 - math.exp(-took_s / _LAG_S))
            self._still_s = self._still_s + took_s if abs(behind) < 0.3 * self.step_g else 0.0
            if self._now_s >= self._says_s:
                self._says_s = self._now_s + _SAYS_EVERY_S
                said.append(self._weight())
        return said

    def _weight(self) -> str:
        noisy = self._shown_g + self._crept_g + self._chance.gauss(0.0, self.noise_g)
        if self._shown_g > self.max_g:
            return line("weight", over=1, at=round(self._now_s, 3))
        says_g = round((noisy - self._zero_g) / self.step_g) * self.step_g
        steady = int(self._still_s >= _STILL_S)
        return line("weight", g=round(says_g, 4), steady=steady, at=round(self._now_s, 3))

    def hear(self, said: Line, now_s: float) -> list[str]:
        """Take a line, and return what it answers."""
        match said.word:
            case "hello":
                return [self.hello()]
            case "show":
                say, part = said.fields.get("say", ""), said.fields.get("part", "")
                self.hand.tell(say, part, now_s)
            case "order":
                self.drift_g_min = said.number_or("drift_g_min", self.drift_g_min)
                self.max_g = said.number_or("max_g", self.max_g)
        return []

    def reboot(self) -> None:
        """Be switched off and on: what stands on it is its new zero."""
        self.boot += 1
        self._zero_g = self._shown_g + self._crept_g
