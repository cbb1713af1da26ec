"""Range checks that speak: one sentence naming what was given and what is allowed."""

import math

from mildhusk.core.errors import InputError


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
    if math.isfinite(value) and low <= value <= high:
        return

    def show(number: float) -> str:
        return f"{number * scale + offset:,.6g} {shown_in}".strip()

    given = show(value) if math.isfinite(value) else "not a number"
    raise error(f"{name} is {given}; give {show(low)} to {show(high)}.", field)
