"""Weighing on a live scale: the cup tared by itself, stop said in time, nothing counted twice.

What is in the cup is always the scale's reading less that of the empty scale and of the cup; no
gram is ever added up from changes. So what a scale that was away did not tell does not matter, and
what a scale forgot that was switched off is found again by lifting the cup once.
"""

import math
from collections import deque
from dataclasses import dataclass, replace
from enum import StrEnum

from mildhusk.core.errors import InputError
from mildhusk.core.mixing.ratio import still_to_add

LIGHTEST_CUP_KG = 0.002
"""What is lighter is drift, or a stirring stick (assumed). [kg]"""
REACTION_S = 0.35
"""From "stop" to hands that tilt the bottle back: simple reaction to sound 0.16 s (R. D. Luce,
Response Times, 1986, from memory), and the tilt (assumed). [s]"""
DRIP_KG = 0.0003
"""What still drips from the bottle then (assumed). [kg]"""
_STEADY_S = 0.6
"""A scale has to stand still for so long to be believed. [s]"""
_RATE_OVER_S = 0.5
"""The pour's rate is the slope over the last readings of so long. [s]"""
_RUNS_KG_S = 0.0004
"""What changes more slowly is not being poured. [kg/s]"""
_SLOWLY_LEFT, _SLOWLY_S = 0.15, 1.6
"""The last of a part is poured slowly: so much of it, or what comes in so long. [1], [s]"""
_SHORT = 0.005
"""A part may be so much short of what was wanted, or one digit of the scale. [1]"""
_FAR_OVER, _FAR_OVER_KG = 0.25, 0.01
"""More than that over is no slip of the hand: perhaps the wrong bottle (assumed)."""
_NO_POUR_KG_S, _NO_POUR_PER_S = 0.1, 0.8
"""No hand that means to stop pours faster, or so much of a part in a second (assumed). [1/s]"""
_MET_S = 1.5
"""A scale just met, or silent before, may still show what was; then what is, all at once. [s]"""
_CUP_MOVED = 0.9
"""What changes by so much of what the cup weighs with what is in it is the cup. [1]"""
_CONTACT_KG = 0.0004
"""B has met A when so much of it, or three digits of the scale, has come. [kg]"""


class Say(StrEnum):
    """What the hands are told."""

    EMPTY = "empty"
    """Take everything off the scale."""
    CUP = "cup"
    """Put the cup on."""
    POUR = "pour"
    SLOWLY = "slowly"
    STOP = "stop"
    MORE = "more"
    """A little more, drop by drop."""
    WAIT = "wait"
    """It is being read."""
    FAR_OVER = "far-over"
    """Much more than was wanted: is it the right bottle?"""
    NOT_POURED = "not-poured"
    """It came too fast to have been poured: something was put on the scale."""
    BACK = "back"
    """Put the cup back."""
    LIFT = "lift"
    """The scale started anew: lift the cup off, so that its zero is known."""
    TOO_HEAVY = "too-heavy"
    LOST = "lost"
    """The scale does not answer: stop pouring."""
    BY_HAND = "by-hand"
    """The scale started anew, and what the cup weighs was never known: type in what was poured."""
    DONE = "done"


@dataclass(frozen=True, slots=True)
class WantedPart:
    """A part of a charge, as it is wanted. [kg]"""

    name: str
    kg: float


@dataclass(frozen=True, slots=True)
class ScaleReading:
    """What a scale says: when [s], how much [kg] or None above its range, whether it stands."""

    at_s: float
    kg: float | None
    steady: bool


@dataclass(frozen=True, slots=True)
class Weighing:
    """Where a weighing stands: all that has to be kept to go on with it.

    Parameters
    ----------
    parts : tuple of WantedPart
        In the order in which they are poured.
    poured_kg : tuple of float
        Those that are in the cup. [kg]
    zero_kg : float or None
        What the scale says with nothing on it. [kg]
    base_kg : float or None
        What stands on the scale besides the part at hand: cup, and what was poured. [kg]
    boot : str or None
        Since when the scale knows its zero.
    contact_s : float or None
        When B met A in the cup. [s]
    own_cup : bool
        The part at hand goes into a cup of its own.
    """

    parts: tuple[WantedPart, ...]
    poured_kg: tuple[float, ...] = ()
    zero_kg: float | None = None
    base_kg: float | None = None
    boot: str | None = None
    contact_s: float | None = None
    own_cup: bool = False

    @property
    def is_done(self) -> bool:
        """Whether every part is in."""
        return len(self.poured_kg) == len(self.parts)

    @property
    def wanted_kg(self) -> float:
        """What is wanted of the part at hand, as those before it were really poured. [kg]"""
        rest = (0.0,) * (len(self.parts) - len(self.poured_kg))
        wanted = tuple(one.kg for one in self.parts)
        return still_to_add(wanted, self.poured_kg + rest)[len(self.poured_kg)]


@dataclass(frozen=True, slots=True)
class WeighingView:
    """What a screen shows of a weighing.

    Parameters
    ----------
    say : Say
    part : str
        Its name; empty when all are in.
    wanted_kg, in_cup_kg, left_kg : float
        Of the part at hand. [kg]
    poured : tuple of WantedPart
        What is in the cup already.
    contact_s : float or None
        When B met A. [s]
    """

    say: Say
    part: str
    wanted_kg: float
    in_cup_kg: float
    left_kg: float
    poured: tuple[WantedPart, ...]
    contact_s: float | None


class Weigher:
    """Follows a weighing, reading by reading.

    Parameters
    ----------
    state : Weighing
        Where it stands; a new one, or one that was kept.
    step_kg : float
        Last digit of the scale. [kg]
    lag_s : float
        How far what it shows is behind. [s]
    """

    def __init__(self, state: Weighing, step_kg: float = 1e-4, lag_s: float = 0.3) -> None:
        if not state.parts or not all(0.0 < one.kg < 100.0 for one in state.parts):
            raise InputError("There is nothing to weigh here.", "parts")
        self.state, self.step_kg, self.lag_s = state, step_kg, lag_s
        self._last: deque[ScaleReading] = deque()
        self._stood_kg: float | None = None
        self._in_kg, self._is_lost, self._is_beyond = 0.0, False, False
        self._put_on_at_kg: float | None = None
        self._met_at_s: float | None = None
        # Until it is known on which zero its readings stand, what was kept is not believed.
        self._boot_known = state.boot is None
        self.say = Say.CUP if state.base_kg is None else Say.WAIT

    # --- what happens ---

    def begin(self, boot: str, step_kg: float, lag_s: float) -> None:
        """Hear a scale introduce itself, at first or again."""
        self.step_kg, self.lag_s = step_kg, lag_s
        self._is_lost, self._boot_known = False, True
        self._last.clear()
        self._stood_kg = self._met_at_s = None
        is_another = self.state.boot not in (None, boot)
        self.state = replace(self.state, boot=boot)
        if is_another:
            # It was off meanwhile: its zero is another.
            self._is_beyond = self._cup_kg() == 0.0
            self.state = replace(self.state, zero_kg=None)
        self.say = self._waits(is_another)

    def lose(self) -> None:
        """The scale does not answer any more."""
        self._is_lost = True
        self.say = Say.LOST

    def read(self, reading: ScaleReading) -> Say:
        """Take a reading; returns what to tell the hands."""
        if self._is_lost or self._is_beyond or not self._boot_known or self.state.is_done:
            return self.say
        if reading.kg is None:
            self._last.clear()
            self.say = Say.TOO_HEAVY
            return self.say
        if self._last and reading.at_s < self._last[-1].at_s:
            # The clock was put back: what came before it tells nothing of how fast it rises.
            self._last.clear()
            self._met_at_s = None
        is_late = bool(self._last) and reading.at_s - self._last[-1].at_s > _RATE_OVER_S
        if self._met_at_s is None or is_late:
            self._met_at_s = reading.at_s
        self._last.append(reading)
        while self._last[0].at_s < reading.at_s - max(_STEADY_S, _RATE_OVER_S):
            self._last.popleft()
        if self.state.zero_kg is None or self.state.base_kg is None:
            self._find_cup()
        else:
            self._pour(reading.at_s, reading.kg - self.state.zero_kg - self.state.base_kg)
        if self._is_steady():
            self._stood_kg = self._mean_kg()
        return self.say

    def take_as_cup(self) -> None:
        """Take what stands on the scale as the empty cup, whatever it weighs.

        Raises
        ------
        InputError
            The scale does not stand still, or something is in the cup already.
        """
        if not self._last or not self._is_steady() or self.state.poured_kg:
            raise InputError("Wait until the scale stands still, with only the cup on it.", "press")
        self.state = replace(self.state, zero_kg=self._mean_kg(), base_kg=0.0)
        self.say = Say.POUR

    def accept(self) -> None:
        """Take what is in the cup of the part at hand as it is.

        Raises
        ------
        InputError
            The scale does not stand still, or nothing is in the cup.
        """
        if self._is_lost or not self._is_steady() or self._in_kg < self.step_kg:
            raise InputError("Wait until the scale stands still with the part in the cup.", "press")
        self._take()

    # --- the cup ---

    def _find_cup(self) -> None:
        if not self._is_steady():
            return
        state, stood, on_kg = self.state, self._stood_kg, self._mean_kg()
        if state.base_kg is not None:
            self.say = Say.LIFT
            # It started anew: only what the cup changes when it is lifted or put on tells its zero.
            changed = 0.0 if stood is None else on_kg - stood
            if abs(changed) >= max(state.base_kg * _CUP_MOVED, LIGHTEST_CUP_KG):
                self.state = replace(state, zero_kg=min(on_kg, on_kg - changed))
                self.say = Say.BACK
            return
        if state.zero_kg is None or on_kg - state.zero_kg < LIGHTEST_CUP_KG:
            # An empty scale; its zero may drift until the cup is on. Less than nothing is nothing.
            is_empty = on_kg < LIGHTEST_CUP_KG
            self.state = replace(state, zero_kg=on_kg if is_empty else None)
            self.say = Say.CUP if is_empty else Say.EMPTY
        else:
            self.state = replace(state, base_kg=on_kg - state.zero_kg)
            self._in_kg = 0.0
            self.say = Say.POUR

    # --- a part ---

    def _pour(self, at_s: float, in_kg: float) -> None:
        state = self.state
        assert state.base_kg is not None
        on_kg = in_kg + state.base_kg
        is_steady = self._is_steady()
        if is_steady and state.zero_kg is not None:
            in_kg = self._mean_kg() - state.zero_kg - state.base_kg
        self._in_kg = in_kg
        if on_kg < min(LIGHTEST_CUP_KG, (state.base_kg - LIGHTEST_CUP_KG) / 2):
            self.say = Say.BACK
            return
        is_lighter = in_kg <= -max(LIGHTEST_CUP_KG, sum(state.poured_kg) / 2)
        if (is_lighter or self.say is Say.BACK) and not is_steady:
            return
        if is_lighter:
            # Another cup stands there, empty; what was poured before is in its own.
            self.state = replace(state, base_kg=on_kg, own_cup=bool(state.poured_kg))
            self._in_kg = in_kg = 0.0
        meets = len(state.poured_kg) == 1 and not self.state.own_cup and state.contact_s is None
        if meets and in_kg >= max(_CONTACT_KG, 3.0 * self.step_kg):
            self.state = replace(self.state, contact_s=at_s - self.lag_s)
        self.say = self._told(in_kg, is_steady)

    def _told(self, in_kg: float, is_steady: bool) -> Say:
        wanted, rate = self.state.wanted_kg, self._rate_kg_s()
        short = max(self.step_kg, _SHORT * wanted) * 1.001
        self._notice_what_is_put_on(in_kg, rate)
        if is_steady and rate < _RUNS_KG_S:
            if self._put_on_at_kg is not None:
                return Say.NOT_POURED
            if in_kg - wanted > max(_FAR_OVER * wanted, _FAR_OVER_KG):
                return Say.FAR_OVER
            if in_kg >= wanted - short:
                self._take()
                return self.say
            return Say.POUR if in_kg < max(0.02 * wanted, 3.0 * self.step_kg) else Say.MORE
        left = wanted - in_kg
        if rate >= _RUNS_KG_S:
            # What comes before hands have answered: behind the scale, on the way, from the lip.
            comes = rate * (self.lag_s + REACTION_S) + DRIP_KG
            if comes >= left:
                return Say.STOP
            slowly = left < _SLOWLY_LEFT * wanted or left < comes + rate * _SLOWLY_S
            # Told once to slow down, nobody is told to hurry again.
            is_slow = self.say is not Say.POUR and left < wanted / 2
            return Say.SLOWLY if slowly or is_slow else Say.POUR
        if left <= short:
            return Say.WAIT
        return self.say if self.say in (Say.STOP, Say.MORE, Say.SLOWLY) else Say.POUR

    def _notice_what_is_put_on(self, in_kg: float, rate_kg_s: float) -> None:
        """Remember what was in the cup when something came that nobody pours; until it is gone."""
        before = self._put_on_at_kg
        if before is None:
            first = in_kg - self._rise_kg()
            too_fast = rate_kg_s > max(_NO_POUR_KG_S, _NO_POUR_PER_S * self.state.wanted_kg)
            # A cup put back is none of it, nor what came while the line was lost or held up.
            if too_fast and first > -LIGHTEST_CUP_KG and self._is_followed():
                self._put_on_at_kg = max(first, 0.0)
        elif in_kg - before < max(LIGHTEST_CUP_KG / 2, 0.1 * self.state.wanted_kg):
            self._put_on_at_kg = None

    def _take(self) -> None:
        """Note the part at hand as poured; the next one stands on it."""
        state = self.state
        assert state.base_kg is not None
        poured = (*state.poured_kg, self._in_kg)
        self.state = replace(state, poured_kg=poured, base_kg=state.base_kg + self._in_kg)
        self._in_kg, self._put_on_at_kg = 0.0, None
        self._last.clear()
        self.say = Say.DONE if self.state.is_done else Say.POUR

    # --- readings ---

    def _is_steady(self) -> bool:
        """Whether the scale has stood still for long enough, by its own word and by its digits."""
        last = self._last
        if not last or last[-1].at_s - last[0].at_s < 0.8 * _STEADY_S:
            return False
        stands = [one.kg for one in last if one.kg is not None]
        return all(one.steady for one in last) and max(stands) - min(stands) <= 1.5 * self.step_kg

    def _mean_kg(self) -> float:
        """Return the mean of the last readings; between two digits where it flickers. [kg]"""
        stands = [one.kg for one in self._last if one.kg is not None]
        return math.fsum(stands) / len(stands)

    def _is_followed(self) -> bool:
        """Whether readings have come one by one for long enough to tell how fast it rises."""
        newest = self._last[-1].at_s
        met_s = newest if self._met_at_s is None else self._met_at_s
        close = [one.at_s for one in self._last if newest - one.at_s <= _RATE_OVER_S]
        return newest - met_s > _MET_S and newest - close[0] >= 0.6 * _RATE_OVER_S

    def _rise_kg(self) -> float:
        """Return by how much the newest reading is more than the least of the last. [kg]"""
        stands = [one.kg for one in self._last if one.kg is not None]
        return stands[-1] - min(stands)

    def _rate_kg_s(self) -> float:
        """Return how fast weight comes, by least squares over the last readings. [kg/s]"""
        if len(self._last) < 3:
            return 0.0
        newest = self._last[-1].at_s
        pairs = [
            (one.at_s, one.kg)
            for one in self._last
            if one.kg is not None and newest - one.at_s <= _RATE_OVER_S
        ]
        mean_s = math.fsum(at for at, _ in pairs) / len(pairs)
        spread = math.fsum((at - mean_s) ** 2 for at, _ in pairs)
        if spread <= 0.0:
            return 0.0
        return math.fsum((at - mean_s) * kg for at, kg in pairs) / spread

    def _cup_kg(self) -> float | None:
        """Return what the cup weighs; nought where it was never weighed, None before it is on."""
        state = self.state
        return None if state.base_kg is None else state.base_kg - sum(state.poured_kg)

    def _waits(self, is_another: bool) -> Say:
        if self._is_beyond:
            return Say.BY_HAND
        if self.state.base_kg is None:
            return Say.EMPTY if is_another else Say.CUP
        # Where it stands with the cup on is read first, before the cup is lifted.
        return Say.WAIT

    @property
    def view(self) -> WeighingView:
        """What a screen shows."""
        state = self.state
        done = tuple(
            WantedPart(one.name, kg) for one, kg in zip(state.parts, state.poured_kg, strict=False)
        )
        if state.is_done:
            return WeighingView(Say.DONE, "", 0.0, 0.0, 0.0, done, state.contact_s)
        wanted = state.wanted_kg
        in_kg = max(self._in_kg, 0.0)
        part = state.parts[len(state.poured_kg)].name
        left = max(wanted - in_kg, 0.0)
        return WeighingView(self.say, part, wanted, in_kg, left, done, state.contact_s)
