"""Findings: rules over a plan or a piece that say what, how much, and the change that mends it."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar

from mildhusk.core.wording import Sentence

T = TypeVar("T")


class Severity(StrEnum):
    """How much a finding matters."""

    STOP = "stop"
    """This plan will not work as it stands."""
    WARNING = "warning"
    """It may spoil the cast."""
    NOTE = "note"
    """Good to know."""


@dataclass(frozen=True, slots=True)
class Action:
    """A change that mends a finding: one field, its value in SI or a word, and the button's words.

    The fields are those of the wish; `material_key` takes another resin of the shelf.
    """

    label: Sentence
    field: str
    value: float | str


@dataclass(frozen=True, slots=True)
class Finding:
    """A finding: what, how much, what to do; `text` is its sentence in metric."""

    id: str
    severity: Severity
    sentence: Sentence
    action: Action | None = None
    text: str = ""

    def __post_init__(self) -> None:
        object.__setattr__(self, "text", str(self.sentence))


Rule = Callable[[T], Iterator[Finding]]


def findings_of(rules: Iterable[Rule[T]], subject: T) -> tuple[Finding, ...]:
    """Run rules over what they are about; the gravest finding first, else in the rules' order."""
    return gravest_first(finding for rule in rules for finding in rule(subject))


def gravest_first(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """Sort findings by how much they matter."""
    order = list(Severity)
    return tuple(sorted(found, key=lambda finding: order.index(finding.severity)))
