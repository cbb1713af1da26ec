"""Reading quantities with units as people type them; the only place where text becomes SI."""

import math
import re
from functools import cache

import pint

from mildhusk.core.errors import QuantityError

_NUMBER = re.compile(r"\s*([-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?)\s*(.*?)\s*\Z")

# How people write a unit -> how the units library does.
_SPELLINGS = {
    "c": "degC",
    "°c": "degC",
    "f": "degF",
    "°f": "degF",
    "k": "kelvin",
    '"': "inch",
    "inches": "inch",
    "%": "percent",
}


@cache
def _registry() -> "pint.UnitRegistry[float]":
    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


def read_quantity(text: str, si_unit: str, assumed: str, *, name: str, field: str) -> float:
    """Read a number with a unit.

    Parameters
    ----------
    text : str
        For instance "3mm", "0,12 in", "21C", "5 %".
    si_unit : str
        Unit of the answer: "m", "K", "dimensionless".
    assumed : str
        Unit meant when none is written.
    name, field : str
        What a maker calls it, and the field it came in.

    Returns
    -------
    float
        In `si_unit`.

    Raises
    ------
    QuantityError
        Not a number, an unknown unit, or a unit of something else.
    """
    found = _NUMBER.match(text)
    if not found:
        raise QuantityError(
            f"{name} '{text}' is not a number with a unit; write for instance 3{assumed}.", field
        )
    written = found[2] or assumed
    unit = _SPELLINGS.get(written.lower(), written)
    number = float(found[1].replace(",", "."))
    try:
        value = float(_registry().Quantity(number, unit).to(si_unit).magnitude)
    except (pint.errors.PintError, AttributeError, ValueError, TypeError) as error:
        raise QuantityError(
            f"{name} '{text}' has a unit that does not fit; write for instance 3{assumed}.", field
        ) from error
    if not math.isfinite(value):
        raise QuantityError(f"{name} '{text}' is too large to use.", field)
    return value
