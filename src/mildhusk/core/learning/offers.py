"""What was learned, offered to a plan: never taken unasked."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from mildhusk.core.findings import Action, Finding, Severity
from mildhusk.core.learning.learned import Learned, Value
from mildhusk.core.wording import Unit, sentence


@dataclass(frozen=True, slots=True)
class _Offer:
    """From how many pours a value is offered, from which difference on, and in which words."""

    id: str
    fewest: int
    from_off: float
    words: str


_OFFERS = {
    Value.TIME: _Offer(
        "learned-times", 1, 0.04,
        "This resin gelled after {share} of the data sheet's time ({low} to {high}, from {pours} "
        "of your pours): plan with that.",
    ),
    Value.LOSS: _Offer(
        "learned-loss", 2, 0.01,
        "Of what is mixed {share} stays in the cup and on the stick ({low} to {high}, from {pours} "
        "of your casts): plan with that.",
    ),
    Value.AREA: _Offer(
        "learned-area", 2, 0.015,
        "The area to cover is {share} of the measured one ({low} to {high}, from the walls of "
        "{pours} of your casts): plan with that.",
    ),
    Value.VISCOSITY: _Offer(
        "learned-viscosity", 3, 0.1,
        "This resin is {share} as viscous as its data sheet says ({low} to {high}, from the walls "
        "of {pours} of your casts): plan with that.",
    ),
    Value.EVENNESS: _Offer(
        "learned-evenness", 3, 0.1,
        "Your walls come out {share} as uneven as they are simulated ({low} to {high}, from the "
        "walls of {pours} of your casts): plan with that.",
    ),
}  # fmt: skip
OFFERED = tuple(_OFFERS)
"""What a plan can be made with."""
_RANGES = {
    Value.LOSS: (0.0, 0.5),
    Value.AREA: (0.5, 1.5),
    Value.TIME: (0.25, 4.0),
    Value.VISCOSITY: (0.25, 4.0),
    Value.EVENNESS: (0.25, 2.5),
}
"""What a wish takes. [1]"""


def learned_findings(
    learned: Mapping[Value, Learned], in_use: Mapping[Value, float]
) -> Iterator[Finding]:
    """Offer to plan with what was learned, where it differs from what is planned with.

    Parameters
    ----------
    learned : mapping of Value to Learned
    in_use : mapping of Value to float
        What the plan is made with. [1]
    """
    for key, offer in _OFFERS.items():
        found = learned.get(key)
        if found is None or found.pours < offer.fewest:
            continue
        value = taken_as(found)
        if abs(value - in_use[key]) < offer.from_off:
            continue
        yield Finding(
            offer.id,
            Severity.NOTE,
            sentence(
                offer.words,
                share=(value, Unit.SHARE),
                low=(found.low, Unit.SHARE),
                high=(found.high, Unit.SHARE),
                pours=(found.pours, Unit.COUNT),
            ),
            Action(sentence("Plan with {share}", share=(value, Unit.SHARE)), key, value),
        )


def taken_as(found: Learned) -> float:
    """Return a learned value as a plan takes it: to two figures, as it is said. [1]"""
    least, most = _RANGES[found.key]
    return round(min(max(found.value, least), most), 2)


def band_if_taken(learned: Mapping[Value, Learned], key: Value, in_use: float) -> float | None:
    """Return half of the band of a value that a plan has taken.

    Parameters
    ----------
    learned : mapping of Value to Learned
    key : Value
    in_use : float
        What the plan is made with. [1]

    Returns
    -------
    float or None
        None where the plan has another value. [1]
    """
    found = learned.get(key)
    if found is None or found.pours < _OFFERS[key].fewest:
        return None
    return found.half_width if abs(taken_as(found) - in_use) < 0.0051 else None
