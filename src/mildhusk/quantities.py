"""Reading quantities with units as people type them; the only place where text becomes SI."""

import math
import re
from functools import cache
from typing import TYPE_CHECKING

from mildhusk.core.errors import QuantityError

if TYPE_CHECKING:
    import pint

_NUMBER = re.compile(r"\s*([-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?)\s*(.*?)\s*\Z")

_EVERYDAY: dict[str, dict[str, tuple[float, float]]] = {
    "m": {"mm": (1e-3, 0.0), "cm": (1e-2, 0.0), "m": (1.0, 0.0), "in": (0.0254, 0.0)},
    "m^2": {"cm^2": (1e-4, 0.0), "cm2": (1e-4, 0.0), "m^2": (1.0, 0.0), "m2": (1.0, 0.0)},
    "m^3": {"ml": (1e-6, 0.0), "l": (1e-3, 0.0), "m^3": (1.0, 0.0)},
    "kg": {"mg": (1e-6, 0.0), "g": (1e-3, 0.0), "kg": (1.0, 0.0)},
    "K": {"C": (1.0, 273.15), "°C": (1.0, 273.15), "K": (1.0, 0.0)},
    "dimensionless": {"%": (1e-2, 0.0), "": (1.0, 0.0)},
    "1": {"%": (1e-2, 0.0), "": (1.0, 0.0)},
}
"""What nearly everyone types, by the SI unit it becomes: factor and offset, exact by definition
(BIPM SI brochure, 9th ed.; the inch is 25.4 mm). The units library, which reads all the rest, takes
half a second to load; a test holds the two together."""

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
    import pint

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
    number = float(found[1].replace(",", "."))
    everyday = _EVERYDAY.get(si_unit, {}).get(written)
    if everyday is not None:
        factor, offset = everyday
        value = number * factor + offset
    else:
        value = _by_library(number, written, si_unit, assumed, text, name, field)
    if not math.isfinite(value):
        raise QuantityError(f"{name} '{text}' is too large to use.", field)
    return value


def _by_library(
    number: float, written: str, si_unit: str, assumed: str, text: str, name: str, field: str
) -> float:
    import pint

    unit = _SPELLINGS.get(written.lower(), written)
    try:
        return float(_registry().Quantity(number, unit).to(si_unit).magnitude)
    except (pint.errors.PintError, AttributeError, ValueError, TypeError) as error:
        raise QuantityError(
            f"{name} '{text}' has a unit that does not fit; write for instance 3{assumed}.", field
        ) from error
