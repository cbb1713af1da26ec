"""What measured gel times teach of a lot's times."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from mildhusk.core.findings import Action, Finding, Severity
from mildhusk.core.wording import Unit, sentence

FEWEST_COATS = 2
WORTH_TELLING = 0.04
_LONGEST, _SHORTEST = 3.0, 1.0 / 3.0


@dataclass(frozen=True, slots=True)
class LearnedTimes:
    """How a resin's times came out against its data sheet.

    Parameters
    ----------
    factor : float
        Measured by what the data sheet's times would have given. [1]
    coats : int
        That stand behind it.
    spread : float
        Standard deviation of one coat, as a share. [1]
    lot : str
        Of which it was learned; empty when of several.
    """

    factor: float
    coats: int
    spread: float
    lot: str


def learn_times(ratios: tuple[float, ...], lot: str) -> LearnedTimes | None:
    """Learn from the ratios of measured to planned gel times; None from too few of them.

    Notes
    -----
    The geometric mean: twice too long and half too long weigh alike. A ratio beyond threefold is
    taken for a tick at the wrong time and left out.
    """
    sane = [math.log(one) for one in ratios if _SHORTEST <= one <= _LONGEST]
    if len(sane) < FEWEST_COATS:
        return None
    mean = math.fsum(sane) / len(sane)
    variance = math.fsum((one - mean) ** 2 for one in sane) / (len(sane) - 1)
    return LearnedTimes(math.exp(mean), len(sane), math.sqrt(variance), lot)


def learned_findings(learned: LearnedTimes | None, in_use: float) -> Iterator[Finding]:
    """Propose to plan with what was learned, where it differs from what is planned with."""
    if learned is None or abs(learned.factor / in_use - 1.0) < WORTH_TELLING:
        return
    of = f"of lot '{learned.lot}'" if learned.lot else "of this resin"
    factor = round(learned.factor, 2)
    yield Finding(
        "learned-times",
        Severity.NOTE,
        sentence(
            f"Your last {{coats}} coats {of} gelled after {{share}} of the data sheet's time "
            "(give or take {spread} each): plan with that.",
            coats=(learned.coats, Unit.COUNT),
            share=(learned.factor, Unit.SHARE),
            spread=(learned.spread, Unit.SHARE),
        ),
        Action(sentence("Plan with {share}", share=(factor, Unit.SHARE)), "time_factor", factor),
    )
