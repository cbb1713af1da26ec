"""Amounts: figures that know how they were made, from what, and what they may be off by."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

from mildhusk.core.wording import Unit


class Origin(StrEnum):
    """Where the values of a data sheet come from."""

    TYPICAL = "typical"
    """Typical for the class, from memory; no maker's sheet stands behind them."""
    OWN_SHEET = "own-sheet"
    """Entered in the workshop, from the sheet of the kit at hand."""


class Source(StrEnum):
    """Where a value came from."""

    MEASURED = "measured on the piece"
    OWN_SHEET = "your data sheet"
    TYPICAL = "typical for the class"
    CLASS = "typical of the class's chemistry"
    LEARNED = "learned from your pours"
    WORKSHOP_PACE = "your workshop's pace"
    LOTS = "what your lots cost"
    KITS = "kit on offer"
    WORKSHOP = "your workshop's rate"
    WISHED = "your wish"
    FITTED = "fitted to simulated casts"
    SIMULATED = "simulated for this cast"
    ASSUMED = "assumed"
    COMPUTED = "computed"


def source_of(origin: Origin) -> Source:
    """Return where a value of a data sheet came from."""
    return Source.TYPICAL if origin is Origin.TYPICAL else Source.OWN_SHEET


@dataclass(frozen=True, slots=True)
class Amount:
    """A figure with its terms.

    Parameters
    ----------
    key : str
        Names it among the figures of a plan; empty for a term that is no figure by itself.
    name : str
        What a maker calls it.
    value : float
        In the SI unit of `unit`.
    unit : Unit
    source : Source
    low, high : float
        Its band: its ends are the value itself where it is taken as exact.
    formula : str
        How the value follows from the terms, written with their names in SI; the functions in it
        are max, min and round up(value, step). Empty where a model computes it, and of a term.
    words : str
        What the formula or the model is, in a sentence.
    terms : tuple of Amount
    """

    key: str
    name: str
    value: float
    unit: Unit
    source: Source
    low: float
    high: float
    formula: str
    words: str
    terms: tuple[Amount, ...]


def bare(name: str, value: float, unit: Unit, source: Source, half_width: float = 0.0) -> Amount:
    """Return an amount that nothing stands behind, with a band about its value.

    Parameters
    ----------
    name : str
    value : float
        [`unit`]
    unit : Unit
    source : Source
    half_width : float
        Of the band. [`unit`]

    Returns
    -------
    Amount
    """
    low, high = value - half_width, value + half_width
    return Amount("", name, value, unit, source, low, high, "", "", ())


@dataclass(frozen=True, slots=True)
class Term:
    """An amount while a plan is made.

    Parameters
    ----------
    amount : Amount
    uncertain : float or UFloat
        Its value with what it depends on, so that amounts that share an input are correlated.
    """

    amount: Amount
    uncertain: float

    @property
    def value(self) -> float:
        """The value in SI."""
        return self.amount.value


def given(name: str, value: float, unit: Unit, source: Source, half_width: float = 0.0) -> Term:
    """Return a term that nothing stands behind.

    Parameters
    ----------
    name : str
    value : float
        [`unit`]
    unit : Unit
    source : Source
    half_width : float
        What it may be off by, independently of every other term. [`unit`]

    Returns
    -------
    Term
    """
    amount = bare(name, value, unit, source, half_width)
    if half_width == 0.0:
        return Term(amount, value)
    from uncertainties import ufloat

    # An uncertain float does whatever a float does.
    return Term(amount, ufloat(value, half_width, name))


Rule = Callable[..., float]


def derived(
    key: str,
    name: str,
    unit: Unit,
    formula: str,
    rule: Rule,
    *terms: Term,
    words: str = "",
    source: Source = Source.COMPUTED,
) -> Term:
    """Return an amount that follows from terms by a formula.

    Parameters
    ----------
    key, name : str
    unit : Unit
    formula : str
        See `Amount`.
    rule : callable
        The formula: takes the terms' values in their order, with or without uncertainty.
    terms : Term
    words : str
    source : Source

    Returns
    -------
    Term
        With the band that those of the terms give to the first order: independent parts add in
        squares, shared ones as they are.

    References
    ----------
    JCGM 100:2008, 5.1.2 and 5.2.
    """
    uncertain = rule(*(one.uncertain for one in terms))
    value, spread = _value_and_spread(uncertain)
    amount = Amount(
        key, name, value, unit, source, value - spread, value + spread, formula, words,
        tuple(one.amount for one in terms),
    )  # fmt: skip
    return Term(amount, uncertain)


def modelled(key: str, name: str, unit: Unit, words: str, uncertain: float, *terms: Term) -> Term:
    """Return an amount that a model computes from terms.

    Parameters
    ----------
    key, name : str
    unit : Unit
    words : str
        What the model is, in a sentence.
    uncertain : float or UFloat
        What the model gave, with its dependence on what is uncertain in the terms.
    terms : Term

    Returns
    -------
    Term
    """
    value, spread = _value_and_spread(uncertain)
    amount = Amount(
        key, name, value, unit, Source.COMPUTED, value - spread, value + spread, "", words,
        tuple(one.amount for one in terms),
    )  # fmt: skip
    return Term(amount, uncertain)


def renamed(term: Term, key: str, name: str, words: str = "") -> Term:
    """Return an amount under another key and name, and with other words where some are given.

    Parameters
    ----------
    term : Term
    key, name, words : str

    Returns
    -------
    Term
    """
    amount = replace(term.amount, key=key, name=name, words=words or term.amount.words)
    return Term(amount, term.uncertain)


def larger(one: float, other: float) -> float:
    """Return the larger of two values with all its uncertainty."""
    return one if _value_and_spread(one)[0] >= _value_and_spread(other)[0] else other


def smaller(one: float, other: float) -> float:
    """Return the smaller of two values with all its uncertainty."""
    return one if _value_and_spread(one)[0] <= _value_and_spread(other)[0] else other


def _value_and_spread(uncertain: float) -> tuple[float, float]:
    """Return value and spread of a float, or of one that the error-propagation library made."""
    if isinstance(uncertain, int | float):
        return float(uncertain), 0.0
    return float(uncertain.nominal_value), float(uncertain.std_dev)
