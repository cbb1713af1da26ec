"""The ribbon: what the hands and the resin do, coat by coat, on one clock."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.constants import MIXING_TIME_S, WEIGHING_TIME_S
from mildhusk.core.planning.sheet import CastSheet, CoatPlan, ready_for_next_s


class Stretch(StrEnum):
    """What a stretch of the ribbon is."""

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
class RibbonStretch:
    """A stretch of one coat, in seconds from the first contact of coat 1.

    `short` tells a window in which the next coat cannot be weighed, mixed and poured, or a cup that
    leaves no time to mix it.
    """

    coat: int
    kind: Stretch
    from_s: float
    until_s: float
    hands_busy: bool
    short: bool


def ribbon(sheet: CastSheet) -> tuple[RibbonStretch, ...]:
    """Return the stretches of every coat, in the order of the coats."""
    made = []
    for before, coat in zip((None, *sheet.coats), sheet.coats, strict=False):
        clock = coat.clock
        ends: list[tuple[Stretch, float, float, bool]] = []
        if before is not None:
            ends.append((Stretch.WEIGH, -WEIGHING_TIME_S, 0.0, sheet.wish.hands == 1))
        ends += [
            (Stretch.CUP, 0.0, clock.pour_by_s, True),
            (Stretch.ROLL, clock.pour_by_s, clock.roll_until_s, True),
        ]
        if coat is sheet.last:
            ends.append((Stretch.CURE, clock.roll_until_s, clock.demould_s, False))
        else:
            ends.append((Stretch.SET, clock.roll_until_s, clock.next_from_s, False))
            ends.append((Stretch.TACK, clock.next_from_s, clock.next_until_s, False))
        made += [
            RibbonStretch(
                coat.number,
                kind,
                coat.starts_s + start,
                coat.starts_s + end,
                busy,
                _is_short(sheet, coat, kind),
            )
            for kind, start, end, busy in ends
            if end > start
        ]
    return tuple(made)


def _is_short(sheet: CastSheet, coat: CoatPlan, kind: Stretch) -> bool:
    if kind is Stretch.TACK:
        ready = ready_for_next_s(coat.clock, sheet.wish.hands) + MIXING_TIME_S
        return ready > coat.clock.next_until_s
    return kind is Stretch.CUP and coat.clock.pour_by_s < MIXING_TIME_S
