"""What happens where two materials touch: rules from one data file, and a small engine."""

import json
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib.resources import files
from itertools import combinations

from mildhusk.core.materials.catalogue import AnyMaterial
from mildhusk.core.materials.traits import Trait


class Verdict(StrEnum):
    """How two materials get on, the worst first."""

    STOPS_THE_CURE = "stops-the-cure"
    BONDS_FOR_GOOD = "bonds-for-good"
    SPOILS_THE_FINISH = "spoils-the-finish"
    CAUTION = "caution"
    FINE = "fine"
    UNKNOWN = "unknown"
    """No rule covers the pair: try a dab test."""


SPOILING = (Verdict.STOPS_THE_CURE, Verdict.BONDS_FOR_GOOD, Verdict.SPOILS_THE_FINISH)
"""Verdicts that spoil a cast or a mould."""


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule for any two materials with these two traits, in either order."""

    id: str
    a: Trait
    b: Trait
    severity: Verdict
    reason: str
    remedy: str
    origin: str


@dataclass(frozen=True, slots=True)
class PairVerdict:
    """The verdict on two materials and the rules behind it, the gravest first."""

    first: str
    second: str
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


def judge_pair(first: AnyMaterial, second: AnyMaterial, rules: tuple[Rule, ...]) -> PairVerdict:
    """Judge two materials that touch.

    Parameters
    ----------
    first, second : AnyMaterial
    rules : tuple of Rule

    Returns
    -------
    PairVerdict
        `UNKNOWN` when no rule covers the pair; silence is never taken for fine.
    """
    order = list(Verdict)
    found = sorted(
        (rule for rule in rules if _covers(rule, first, second)),
        key=lambda rule: order.index(rule.severity),
    )
    verdict = found[0].severity if found else Verdict.UNKNOWN
    return PairVerdict(first.key, second.key, verdict, tuple(found))


def judge_all(
    materials: tuple[AnyMaterial, ...], rules: tuple[Rule, ...]
) -> tuple[PairVerdict, ...]:
    """Judge every pair of several materials, in the order in which they were given."""
    return tuple(judge_pair(a, b, rules) for a, b in combinations(materials, 2))


def _covers(rule: Rule, first: AnyMaterial, second: AnyMaterial) -> bool:
    return (rule.a in first.traits and rule.b in second.traits) or (
        rule.b in first.traits and rule.a in second.traits
    )
