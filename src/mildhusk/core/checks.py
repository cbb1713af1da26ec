"""Range checks that speak: one sentence naming what was given and what is allowed."""

import math
from dataclasses import dataclass, field, fields
from typing import Any

from mildhusk.core.errors import InputError

_BOUNDS = "bounds"


@dataclass(frozen=True, slots=True)
class Bounds:
    """What a field of a value may be, and how a sentence speaks of it.

    Parameters
    ----------
    low, high : float
        Allowed ends, in SI.
    name : str
        What a maker calls it.
    shown_in : str
        Unit the sentence speaks in; `shown = value * scale + offset`.
    scale, offset : float
        From SI to the unit of the sentence.
    """

    low: float
    high: float
    name: str
    shown_in: str = ""
    scale: float = 1.0
    offset: float = 0.0

    def check(self, value: float, field_name: str, error: type[InputError]) -> None:
        """Raise `error` unless a value lies between the ends."""
        if math.isfinite(value) and self.low <= value <= self.high:
            return

        def show(number: float) -> str:
            return f"{number * self.scale + self.offset:,.6g} {self.shown_in}".strip()

        given = show(value) if math.isfinite(value) else "not a number"
        raise error(
            f"{self.name} is {given}; give {show(self.low)} to {show(self.high)}.", field_name
        )


def within(bounds: Bounds, default: Any) -> Any:
    """Return a dataclass field with bounds that `check_bounds` holds it to."""
    return field(default=default, metadata={_BOUNDS: bounds})


def needed_within(bounds: Bounds) -> Any:
    """Return a dataclass field without a default, with bounds."""
    return field(metadata={_BOUNDS: bounds})


def check_bounds(value: Any, error: type[InputError]) -> None:
    """Raise `error` for the first field of a dataclass outside its bounds; None is let through."""
    for one in fields(value):
        bounds = one.metadata.get(_BOUNDS)
        given = getattr(value, one.name)
        if bounds is not None and given is not None:
            bounds.check(given, one.name, error)


def require_between(
    value: float,
    low: float,
    high: float,
    *,
    name: str,
    field: str,
    error: type[InputError],
    shown_in: str = "",
    scale: float = 1.0,
    offset: float = 0.0,
) -> None:
    """Raise `error` unless `low <= value <= high`.

    Parameters
    ----------
    value, low, high : float
        The value and its allowed ends, in SI.
    name, field : str
        What a maker calls it, and the field it came in.
    error : type of InputError
        What to raise.
    shown_in : str
        Unit the sentence speaks in; `shown = value * scale + offset`.
    scale, offset : float
        From SI to the unit of the sentence.
    """
    Bounds(low, high, name, shown_in, scale, offset).check(value, field, error)


def require_text(text: str, most: int, *, name: str, field: str, error: type[InputError]) -> None:
    """Raise `error` unless a text says something, prints, and is not too long.

    Parameters
    ----------
    text : str
    most : int
        Letters.
    name, field : str
        What a maker calls it, and the field it came in.
    error : type of InputError
        What to raise.
    """
    if not text.strip():
        raise error(f"{name} is empty; fill it in.", field)
    if len(text) > most:
        raise error(f"{name} is longer than {most} characters; shorten it.", field)
    if not all(_prints(letter) for letter in text):
        raise error(f"{name} has characters that cannot be printed; leave them out.", field)


def _prints(letter: str) -> bool:
    return (letter >= " " or letter in "\n\t") and not "\ud800" <= letter <= "\udfff"
