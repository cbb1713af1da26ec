"""The ribbon: what the hands and the resin do, coat by coat, on one clock."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.planning.sheet import CastSheet


class Stretch(StrEnum):
    """What a stretch of the ribbon is."""

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
    """A stretch of one coat, in seconds from the first contact of coat 1."""

    coat: int
    kind: Stretch
    from_s: float
    until_s: float
    hands_busy: bool


def ribbon(sheet: CastSheet) -> tuple[RibbonStretch, ...]:
    """Return the stretches of every coat, in the order of the coats."""
    clock = sheet.clock
    made = []
    for coat in sheet.coats:
        ends: list[tuple[Stretch, float, float, bool]] = [
            (Stretch.CUP, 0.0, clock.pour_by_s, True),
            (Stretch.ROLL, clock.pour_by_s, clock.roll_until_s, True),
        ]
        if coat is sheet.coats[-1]:
            ends.append((Stretch.CURE, clock.roll_until_s, clock.demould_s, False))
        else:
            ends.append((Stretch.SET, clock.roll_until_s, clock.next_from_s, False))
            ends.append((Stretch.TACK, clock.next_from_s, clock.next_until_s, False))
        made += [
            RibbonStretch(coat.number, kind, coat.starts_s + start, coat.starts_s + end, busy)
            for kind, start, end, busy in ends
            if end > start
        ]
    return tuple(made)
