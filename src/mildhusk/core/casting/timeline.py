"""The timeline: what the hands and the resin do, coat by coat, on one clock."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from mildhusk.core.constants import MIXING_TIME_S, WEIGHING_TIME_S
from mildhusk.core.cure.clock import CoatClock

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import SheetCoat


class StretchKind(StrEnum):
    """What a stretch of the timeline is."""

    WEIGH = "weigh"
    """Weigh the next cup; a second pair of hands does it while the first rolls."""
    CUP = "cup"
    """Mix and pour."""
    ROLL = "roll"
    """Keep the mould turning until it gels."""
    SET = "set"
    """Hands free; still too soft for the next coat."""
    TACK = "tack"
    """The next coat may go on."""
    CURE = "cure"
    """After the last coat, until it may leave the mould."""


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of one coat, in seconds from the first contact of coat 1.

    `short` tells a window in which the next coat cannot be weighed, mixed and poured, or a cup that
    leaves no time to mix it.
    """

    coat: int
    kind: StretchKind
    from_s: float
    until_s: float
    hands_busy: bool
    short: bool


def ready_for_next_s(clock: CoatClock, hands: int) -> float:
    """Return when the next coat is mixed: the window is open, and hands have weighed it. [s]

    One pair of hands rolls until it gels and weighs then; a second weighs meanwhile.
    """
    return max(clock.next_from_s, clock.roll_until_s + weighing_s(hands))


def weighing_s(hands: int) -> float:
    """Return how long rolling hands are kept from mixing by weighing. [s]"""
    return WEIGHING_TIME_S if hands == 1 else 0.0


def timeline(coats: "Sequence[SheetCoat]", hands: int) -> tuple[Stretch, ...]:
    """Return the stretches of every coat, in the order of the coats."""
    return tuple(
        stretch
        for coat in coats
        for stretch in _of_coat(coat, hands, coat is coats[0], coat is coats[-1])
        if stretch.until_s > stretch.from_s
    )


def _of_coat(coat: "SheetCoat", hands: int, first: bool, last: bool) -> list[Stretch]:
    clock = coat.clock
    ends: list[tuple[StretchKind, float, float, bool]] = []
    if not first:
        ends.append((StretchKind.WEIGH, -WEIGHING_TIME_S, 0.0, hands == 1))
    ends += [
        (StretchKind.CUP, 0.0, clock.pour_by_s, True),
        (StretchKind.ROLL, clock.pour_by_s, clock.roll_until_s, True),
    ]
    if last:
        ends.append((StretchKind.CURE, clock.roll_until_s, clock.demould_s, False))
    else:
        ends.append((StretchKind.SET, clock.roll_until_s, clock.next_from_s, False))
        ends.append((StretchKind.TACK, clock.next_from_s, clock.next_until_s, False))
    return [
        Stretch(
            coat.number,
            kind,
            coat.starts_s + start,
            coat.starts_s + end,
            busy,
            _is_short(clock, kind, hands),
        )
        for kind, start, end, busy in ends
    ]


def _is_short(clock: CoatClock, kind: StretchKind, hands: int) -> bool:
    if kind is StretchKind.TACK:
        return ready_for_next_s(clock, hands) + MIXING_TIME_S > clock.next_until_s
    return kind is StretchKind.CUP and clock.pour_by_s < MIXING_TIME_S
