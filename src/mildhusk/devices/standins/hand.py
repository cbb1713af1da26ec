"""A hand that pours from a bottle, too fast, and stops when it has understood that it should."""

import random
from dataclasses import dataclass, field

_FAST_G_S, _SLOW_G_S, _DRIBBLE_G_S = (7.0, 14.0), (1.2, 2.4), (0.5, 0.9)
"""How fast it pours, told nothing; told to slow down; drop by drop (assumed). [g/s]"""
_REACTS_S, _HANDLES_S = (0.25, 0.45), (0.7, 1.4)
"""Until it does what it is told; until it has put a cup down or lifted it (assumed). [s]"""
_TILTS_S, _DRIPS_G = 0.12, (0.0, 0.3)
"""How gradually a stream starts and ends [s]; what drips afterwards [g] (assumed)."""
_SEES_NOTHING_S = 1.2
"""Told nothing for so long, it stops: the screen says that the scale is lost. [s]"""
_MOVES_AGAIN_S = 3.0
_POURS = ("pour", "slowly", "more")


@dataclass
class Hand:
    """A hand at the scale; what it does is by chance, and the same for the same seed.

    Parameters
    ----------
    seed : int
    cup_g : float
        What its cup weighs. [g]
    """

    seed: int = 1
    cup_g: float = 11.6
    on_scale_g: float = field(default=0.0, init=False)
    """What stands on the scale. [g]"""
    in_cup_g: float = field(default=0.0, init=False)
    """What is in the cup. [g]"""
    poured_g: dict[str, float] = field(default_factory=dict, init=False)
    """What it really poured of each part into the cup at hand. [g]"""

    def __post_init__(self) -> None:
        self._chance = random.Random(self.seed)
        self._told, self._part, self._heard_s = "", "", 0.0
        self._does, self._does_from_s = "", 0.0
        self._rate_g_s, self._wants_g_s, self._has_cup = 0.0, 0.0, False
        self._now_s = self._moves_s = 0.0

    def tell(self, say: str, part: str, now_s: float) -> None:
        """Tell it something: it does so after a moment."""
        self._heard_s = now_s
        if (say, part) == (self._told, self._part):
            return
        is_stream = say in (*_POURS, "stop", "wait", "far-over", "lost", "too-heavy")
        takes = _REACTS_S if is_stream else _HANDLES_S
        self._told, self._part = say, part
        self._does_from_s = now_s + self._chance.uniform(*takes)

    def advance(self, now_s: float) -> None:
        """Go on until now."""
        took_s, self._now_s = max(now_s - self._now_s, 0.0), now_s
        if now_s - self._heard_s > _SEES_NOTHING_S and self._told != "done":
            self._do("lost")
        elif now_s >= self._does_from_s:
            self._do(self._told)
        if self._rate_g_s != self._wants_g_s:
            part = min(took_s / _TILTS_S, 1.0)
            self._rate_g_s += part * (self._wants_g_s - self._rate_g_s)
            if abs(self._rate_g_s - self._wants_g_s) < 0.05:
                self._rate_g_s = self._wants_g_s
        if self._has_cup and self._rate_g_s > 0.0:
            self._pours(self._rate_g_s * took_s)

    def _do(self, say: str) -> None:
        if say == self._does:
            if say in ("cup", "lift") and self._now_s >= self._moves_s:
                # Still told so: it was on, or off, already, and is moved once more.
                self._moves_s = self._now_s + _MOVES_AGAIN_S
                self._has_cup = not self._has_cup
                self._stands()
            return
        self._moves_s = self._now_s + _MOVES_AGAIN_S
        poured, self._does = self._wants_g_s > 0.0, say
        rates = {"pour": _FAST_G_S, "slowly": _SLOW_G_S, "more": _DRIBBLE_G_S}
        self._wants_g_s = self._chance.uniform(*rates[say]) if say in rates else 0.0
        if poured and self._wants_g_s == 0.0 and self._has_cup:
            self._pours(self._chance.uniform(*_DRIPS_G))
        if say in ("cup", "back"):
            self._has_cup = True
        elif say in ("lift", "empty"):
            self._has_cup = False
        elif say == "done":
            self._has_cup, self.in_cup_g, self.poured_g = False, 0.0, {}
        self._stands()

    def _pours(self, grams: float) -> None:
        self.in_cup_g += grams
        self.poured_g[self._part] = self.poured_g.get(self._part, 0.0) + grams
        self._stands()

    def _stands(self) -> None:
        self.on_scale_g = self.cup_g + self.in_cup_g if self._has_cup else 0.0
