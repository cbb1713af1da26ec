"""Faults of a cast, and what most likely caused each: naive Bayes over signs, from one data file.

Priors and factors are common practice and no source; a workshop's own verdicts move the priors.
"""

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from mildhusk.core.errors import InputError

_ABSENT_POWER = 0.5
"""What is known not to be there speaks against a cause by so much of what it would speak for it."""
_WORTH = 8.0
"""The priors weigh as much as so many verdicts (assumed)."""


@dataclass(frozen=True, slots=True)
class Sign:
    """Something that speaks for a cause; `told` is one that only the maker knows."""

    id: str
    title: str
    told: bool


@dataclass(frozen=True, slots=True)
class Cause:
    """A cause of a fault.

    Parameters
    ----------
    id, title : str
    prior : float
        How often it is this one, before anything is known. [1]
    factors : mapping
        How many times as often a sign is seen where it is this one. [1]
    advice : str
        What to do otherwise.
    change : mapping
        Of the wish of its sheet, by field; empty where no sheet mends it.
    """

    id: str
    title: str
    prior: float
    factors: Mapping[str, float]
    advice: str
    change: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Fault:
    """A kind of fault, and what may have caused it."""

    id: str
    title: str
    causes: tuple[Cause, ...]


@dataclass(frozen=True, slots=True)
class RankedCause:
    """A cause, how likely it is, and the signs that speak for it.

    Parameters
    ----------
    cause : Cause
    share : float
        Of all causes together. [1]
    evidence : tuple of str
        Signs that are there and speak for it, as sentences.
    """

    cause: Cause
    share: float
    evidence: tuple[str, ...]


@cache
def _read() -> dict[str, Any]:
    found: dict[str, Any] = json.loads(
        files("mildhusk.core.pouring").joinpath("faults.json").read_text("utf-8")
    )
    return found


@cache
def signs() -> tuple[Sign, ...]:
    """Return the signs there are."""
    return tuple(Sign(**one) for one in _read()["signs"])


@cache
def faults() -> tuple[Fault, ...]:
    """Return the kinds of faults there are."""
    return tuple(
        Fault(one["id"], one["title"], tuple(Cause(**cause) for cause in one["causes"]))
        for one in _read()["faults"]
    )


def fault_of(kind: str) -> Fault:
    """Return a kind of fault by its id.

    Raises
    ------
    InputError
        There is none of that name.
    """
    found = next((one for one in faults() if one.id == kind), None)
    if found is None:
        raise InputError(f"There is no fault '{kind}'.", "kind")
    return found


def ranked_causes(
    kind: str, seen: Mapping[str, bool], verdicts: Mapping[str, int] | None = None
) -> tuple[RankedCause, ...]:
    """Return the causes of a fault, the likeliest first.

    Parameters
    ----------
    kind : str
        Of the fault.
    seen : mapping
        Signs by their id: whether each is there. What is not known is left out.
    verdicts : mapping or None
        How often this workshop found each cause to be it.

    Returns
    -------
    tuple of RankedCause
        Their shares sum to one.

    Notes
    -----
    Signs are taken to be independent given the cause. The prior is that of a Dirichlet
    distribution: the shipped one worth eight verdicts, then the workshop's own counts.
    """
    fault, counted = fault_of(kind), verdicts or {}
    total = _WORTH + sum(counted.get(one.id, 0) for one in fault.causes)
    titles = {one.id: one.title for one in signs()}
    weighed = []
    for cause in fault.causes:
        log = math.log((_WORTH * cause.prior + counted.get(cause.id, 0)) / total)
        for sign, factor in cause.factors.items():
            if sign in seen:
                log += math.log(factor) * (1.0 if seen[sign] else -_ABSENT_POWER)
        for_it = tuple(
            titles[sign]
            for sign, factor in cause.factors.items()
            if factor > 1.0 and seen.get(sign, False)
        )
        weighed.append((log, cause, for_it))
    most = max(log for log, _, _ in weighed)
    whole = sum(math.exp(log - most) for log, _, _ in weighed)
    ranked = [
        RankedCause(cause, math.exp(log - most) / whole, for_it) for log, cause, for_it in weighed
    ]
    return tuple(sorted(ranked, key=lambda one: -one.share))
