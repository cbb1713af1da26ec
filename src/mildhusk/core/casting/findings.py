"""The findings of a sheet: what to know before mixing, each with its remedy."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

from mildhusk.core.casting.limits import Limit
from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.casting.remedies import nearest_mend
from mildhusk.core.constants import MIXING_TIME_S
from mildhusk.core.findings import Finding, Severity, findings_of, gravest_first
from mildhusk.core.geometry.findings import piece_findings
from mildhusk.core.learning.learned import Learned, Value
from mildhusk.core.learning.offers import OFFERED, learned_findings
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.wording import Unit, sentence

Shelf = Callable[[], tuple[CastingMaterial, ...]]


@dataclass(frozen=True, slots=True)
class Known:
    """What findings may propose beside a plan: other materials, values that were learned.

    The shelf is read only when a plan does not fit.
    """

    shelf: Shelf = tuple
    learned: Mapping[Value, Learned] = field(default_factory=dict)


NOTHING_KNOWN = Known()


def with_findings(sheet: CastSheet, known: Known = NOTHING_KNOWN) -> CastSheet:
    """Return a sheet with what is found of it.

    Parameters
    ----------
    sheet : CastSheet
    known : Known
    """
    return replace(sheet, findings=sheet_findings(sheet, known))


def sheet_findings(sheet: CastSheet, known: Known = NOTHING_KNOWN) -> tuple[Finding, ...]:
    """Return the findings of a sheet, the gravest first.

    Parameters
    ----------
    sheet : CastSheet
    known : Known
    """
    return gravest_first(
        (
            *_does_not_fit(sheet, known.shelf),
            *findings_of(sheet.pourable.rules, sheet),
            *piece_findings(sheet.face),
            *learned_findings(known.learned, {key: getattr(sheet.wish, key) for key in OFFERED}),
        )
    )


_BREAKS: dict[Limit, tuple[str, Severity, str]] = {
    Limit.TIME: (
        "short-working-time",
        Severity.STOP,
        "Coat {number} can be worked for {working} in its cup, but mixing and covering the mould "
        "take about {needed}.",
    ),
    Limit.REACH: (
        "does-not-reach",
        Severity.STOP,
        "Coat {number} is {charge}; less than {least} does not reach everywhere.",
    ),
    Limit.CARRY: (
        "too-much-at-once",
        Severity.WARNING,
        "Coat {number} is {charge}; more than {most} runs down and pools before it gels.",
    ),
    Limit.RIM: (
        "over-the-rim",
        Severity.WARNING,
        "Coat {number} is {charge}; more than {most} runs out over the rim when it is tipped.",
    ),
    Limit.CUP: (
        "cup-too-small",
        Severity.WARNING,
        "Coat {number} is {charge}; the cups hold {most} with room to stir.",
    ),
    Limit.SCALE: (
        "coarse-scale",
        Severity.WARNING,
        "Coat {number} is {charge}; below {least} the smaller part cannot be read to 1 %. Use a "
        "finer scale or a syringe.",
    ),
}


def _does_not_fit(sheet: CastSheet, shelf: Shelf) -> Iterator[Finding]:
    """Tell the first coat that breaks a limit, and the nearest change with which all fit."""
    broken = sheet.broken
    if broken is None:
        return
    limit = broken.binding_limit
    id, severity, words = _BREAKS[limit]
    action = nearest_mend(sheet, shelf())
    if action is None:
        words += " No single change mends it: take a slower resin, or a smaller piece."
    bound = sheet.limits.at(limit)
    yield Finding(
        id,
        severity,
        sentence(words, **{
            name: value
            for name, value in {
                "number": (broken.number, Unit.COUNT),
                "charge": (broken.recipe.total_kg, Unit.MASS),
                "least": (bound, Unit.MASS),
                "most": (bound, Unit.MASS),
                "working": (broken.clock.working_time_s, Unit.TIME),
                "needed": (MIXING_TIME_S + sheet.conditions.spread_s, Unit.TIME),
            }.items()
            if f"{{{name}}}" in words
        }),
        action,
    )  # fmt: skip
