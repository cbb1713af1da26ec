"""What happens where two materials touch: rules from one data file, and a small engine."""

import json
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from functools import cache
from importlib.resources import files
from itertools import combinations

from mildhusk.core.materials.catalogue import AnyMaterial, CastingMaterial
from mildhusk.core.materials.kinds import (
    Additive,
    Circumstance,
    Clay,
    Release,
    Rubber,
    Sealer,
    ShellMaterial,
)
from mildhusk.core.materials.traits import Trait


class Verdict(StrEnum):
    """How two materials get on, the worst first."""

    DANGEROUS = "dangerous"
    """They harm who brings them together; nobody can accept that, and no dab test stands above."""
    STOPS_THE_CURE = "stops-the-cure"
    BONDS_FOR_GOOD = "bonds-for-good"
    SPOILS_THE_FINISH = "spoils-the-finish"
    CAUTION = "caution"
    FINE = "fine"
    UNKNOWN = "unknown"
    """No rule covers the pair: try a dab test."""


HARMFUL = (Verdict.DANGEROUS, Verdict.STOPS_THE_CURE, Verdict.BONDS_FOR_GOOD)
"""Verdicts that no chain of materials may hold."""
SPOILING = (*HARMFUL, Verdict.SPOILS_THE_FINISH)
"""Verdicts that spoil a cast or a mould."""


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule for any two materials with these two traits, in either order.

    A dab test speaks as a rule too: about its own two materials, without traits.
    """

    id: str
    a: Trait | None
    b: Trait | None
    severity: Verdict
    reason: str
    remedy: str
    origin: str


class DabResult(StrEnum):
    """What a dab on an unseen spot came to."""

    CURED = "cured"
    SOFT = "soft"
    """Soft and gummy: the cure was stopped."""
    STUCK = "stuck"


@dataclass(frozen=True, slots=True)
class DabTest:
    """A dab test that was judged: what on what, and when."""

    first: str
    second: str
    result: DabResult
    made: date


DAB_RULE_ID = "dab-test"

_DAB_VERDICTS = {
    DabResult.CURED: (Verdict.FINE, "Your dab cured and came off clean."),
    DabResult.SOFT: (Verdict.STOPS_THE_CURE, "Your dab stayed soft and gummy."),
    DabResult.STUCK: (Verdict.BONDS_FOR_GOOD, "Your dab stuck for good."),
}


@dataclass(frozen=True, slots=True)
class PairVerdict:
    """The verdict on two materials and the rules behind it, the gravest first."""

    pair: tuple[str, str]
    verdict: Verdict
    rules: tuple[Rule, ...]


@cache
def shipped_rules() -> tuple[Rule, ...]:
    """Return the rules of `compatibility.json`."""
    text = files("mildhusk.core.materials").joinpath("compatibility.json").read_text("utf-8")
    return tuple(
        Rule(
            id=one["id"],
            a=Trait(one["a"]),
            b=Trait(one["b"]),
            severity=Verdict(one["severity"]),
            reason=one["reason"],
            remedy=one["remedy"],
            origin=one["origin"],
        )
        for one in json.loads(text)["rules"]
    )


# Which kinds of material touch in one mould, on a master or in a cup.
_TOUCHING: tuple[set[object], ...] = (
    {CastingMaterial, Rubber}, {CastingMaterial, Release}, {CastingMaterial, Additive},
    {CastingMaterial, Circumstance}, {CastingMaterial, Sealer}, {CastingMaterial, Clay},
    {Rubber, Release}, {Rubber, Clay}, {Rubber, Sealer}, {Rubber, Circumstance},
    {Rubber, Additive}, {Rubber, ShellMaterial}, {Rubber}, {ShellMaterial, Release},
    {Clay, Sealer}, {Circumstance, Sealer}, {Circumstance, Release}, {Additive},
)  # fmt: skip
_KINDS = (
    CastingMaterial, Rubber, Release, Sealer, Clay, Circumstance, Additive, ShellMaterial,
)  # fmt: skip


def can_touch(first: AnyMaterial, second: AnyMaterial) -> bool:
    """Say whether two materials meet in one mould, on one master or in one cup."""
    kinds = {
        next((kind for kind in _KINDS if isinstance(one, kind)), None) for one in (first, second)
    }
    return kinds in _TOUCHING


def judge_pair(
    first: AnyMaterial,
    second: AnyMaterial,
    rules: tuple[Rule, ...],
    dabs: tuple[DabTest, ...] = (),
) -> PairVerdict:
    """Judge two materials that touch.

    Parameters
    ----------
    first, second : AnyMaterial
    rules : tuple of Rule
    dabs : tuple of DabTest
        The newest of the pair, if there is one, stands above every general rule but a dangerous
        one.

    Returns
    -------
    PairVerdict
        `UNKNOWN` when no rule covers the pair; silence is never taken for fine.
    """
    dabbed = [dab for dab in dabs if {dab.first, dab.second} == {first.key, second.key}]
    covering = [rule for rule in rules if _covers(rule, first, second)]
    if dabbed and not any(rule.severity is Verdict.DANGEROUS for rule in covering):
        own = _own_rule(max(dabbed, key=lambda dab: dab.made))
        return PairVerdict((first.key, second.key), own.severity, (own,))
    order = list(Verdict)
    found = sorted(covering, key=lambda rule: order.index(rule.severity))
    verdict = found[0].severity if found else Verdict.UNKNOWN
    return PairVerdict((first.key, second.key), verdict, tuple(found))


def _own_rule(dab: DabTest) -> Rule:
    severity, reason = _DAB_VERDICTS[dab.result]
    remedy = "" if severity is Verdict.FINE else "Take another material, or seal it and dab again."
    origin = f"your dab test of {dab.made.isoformat()}"
    return Rule(DAB_RULE_ID, None, None, severity, reason, remedy, origin)


def shipped_judge(first: AnyMaterial, second: AnyMaterial) -> PairVerdict:
    """Judge two materials by the shipped rules alone."""
    return judge_pair(first, second, shipped_rules())


def judge_all(
    materials: tuple[AnyMaterial, ...],
    rules: tuple[Rule, ...],
    dabs: tuple[DabTest, ...] = (),
) -> tuple[PairVerdict, ...]:
    """Judge every pair of several materials, in the order in which they were given.

    Parameters
    ----------
    materials : tuple of AnyMaterial
    rules : tuple of Rule
    dabs : tuple of DabTest
        They stand above every rule.

    Returns
    -------
    tuple of PairVerdict
    """
    return tuple(judge_pair(a, b, rules, dabs) for a, b in combinations(materials, 2))


def _covers(rule: Rule, first: AnyMaterial, second: AnyMaterial) -> bool:
    return (rule.a in first.traits and rule.b in second.traits) or (
        rule.b in first.traits and rule.a in second.traits
    )
