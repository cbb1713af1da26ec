"""Reading quantities with units as people type them; the only place where text becomes SI."""

import math
import re
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from typing import TYPE_CHECKING

from mildhusk.core.errors import QuantityError
from mildhusk.unit_names import FINE_UNITS, UNITS, UNSURE_UNITS

if TYPE_CHECKING:
    import pint

# One number: a fraction, alone or behind a whole number; groups of three with blanks or marks
# between them; anything of figures, points and commas.
_NUMBER = re.compile(
    r"\s*(?P<sign>[-+]?)\s*(?:"
    r"(?:(?P<whole>\d+)[ -])?(?P<above>\d+)/(?P<below>\d+)"
    r"|(?P<groups>\d{1,3}(?:[ '_]\d{3})+(?:[.,]\d+)?)(?!\d)"
    r"|(?P<plain>(?:\d[\d.,]*|[.,]\d+)(?:[eE][-+]?\d+)?)"
    r")"
)
_UNIT = re.compile(
    r"\s*(?P<unit>[^\W\d_°%]*[°%\"']*(?:[^\W\d_]|[ ./^*]{1,2}(?=[^\W\d_]))*\.?(?:\^?[23])?)"
)
_VULGAR = {
    "½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8",
    "⅓": "1/3", "⅔": "2/3",
}  # fmt: skip
_SAME_SIGNS = str.maketrans(
    {
        "−": "-", "–": "-", "⁄": "/", "″": '"', "“": '"', "”": '"', "′": "'", "’": "'", "²": "2",
        "³": "3", "μ": "µ", "\u00a0": " ", "\u2009": " ", "\u202f": " ", "\t": " ",
    }
)  # fmt: skip
_ALIKE = {"dimensionless": "1"}


@dataclass(frozen=True, slots=True)
class _UnsureNumberError(Exception):
    """Digits that mean one thing to some and another to others."""

    readings: tuple[float, float]


@cache
def _registry() -> "pint.UnitRegistry[float]":
    import pint

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


def read_quantity(text: str, si_unit: str, assumed: str, *, name: str, field: str) -> float:
    """Read a number with a unit.

    Parameters
    ----------
    text : str
        For instance "3mm", "0,12 in", "1 1/2 in", "1,420.0 g", "3 min 20 s", "21C", "5 %".
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
        Not a number, a number that can be read in two ways, an unknown unit, one of something
        else, or one that is not the same everywhere.

    Notes
    -----
    A point is a decimal point, and so is a comma, but for groups of three figures: with a point or
    another comma beside it a comma parts thousands, and with units so small that nobody gives
    three decimals of them (g, ml, mm); "1,500 kg" is asked about.
    """
    say = _Refusal(text, assumed, name, field)
    plain = _plain(text)
    parts = _parts(plain, say)
    values = []
    for number, written in parts:
        unit = written or assumed
        try:
            amount = _amount(number, unit)
        except _UnsureNumberError as unsure:
            raise say.unsure_number(unsure.readings, unit) from None
        values.append(_in_si(amount, unit, si_unit, say))
    if len(values) > 1 and (any(not unit for _, unit in parts) or not _falling(values)):
        raise say.not_a_number()
    value = sum(values)
    if not math.isfinite(value):
        raise QuantityError(f"{name} '{text}' is too large to use; write a smaller number.", field)
    return value


@dataclass(frozen=True, slots=True)
class _Refusal:
    """Says why a text is not read, each time with what to write."""

    text: str
    assumed: str
    name: str
    field: str

    def not_a_number(self) -> QuantityError:
        return QuantityError(
            f"{self.name} '{self.text}' is not a number with a unit; write for instance "
            f"3{self.assumed}.",
            self.field,
        )

    def unsure_number(self, readings: tuple[float, float], unit: str) -> QuantityError:
        one, other = (f"{value:.12g} {unit}".strip() for value in readings)
        return QuantityError(
            f"{self.name} '{self.text}' can be read as {one} or as {other}; write a point "
            "before decimals and nothing between thousands.",
            self.field,
        )

    def unsure_unit(self, why: str) -> QuantityError:
        return QuantityError(f"{self.name} '{self.text}': {why}.", self.field)

    def wrong_unit(self) -> QuantityError:
        return QuantityError(
            f"{self.name} '{self.text}' has a unit that does not fit; write for instance "
            f"3{self.assumed}.",
            self.field,
        )


def _plain(text: str) -> str:
    for sign, fraction in _VULGAR.items():
        # One and a half is written without a blank.
        text = re.sub(rf"(?<=\d){sign}", f" {fraction}", text).replace(sign, fraction)
    return text.translate(_SAME_SIGNS).strip()


def _parts(plain: str, say: _Refusal) -> list[tuple["re.Match[str]", str]]:
    """Return numbers and the units behind them: one, or several as in 3 min 20 s."""
    found: list[tuple[re.Match[str], str]] = []
    at = 0
    while at < len(plain) or not found:
        number = _NUMBER.match(plain, at)
        if number is None:
            raise say.not_a_number()
        unit = _UNIT.match(plain, number.end())
        written = unit["unit"] if unit else ""
        at = unit.end() if unit else number.end()
        while at < len(plain) and plain[at] in " ,;":
            at += 1
        found.append((number, written.strip()))
    if any(number["sign"] for number, _ in found[1:]):
        raise say.not_a_number()
    return found


def _falling(values: list[float]) -> bool:
    """Say whether each part is smaller than the one before: pounds and ounces, not two lengths."""
    sizes = [abs(value) for value in values]
    return all(one > other for one, other in pairwise(sizes)) or (
        sizes[0] == 0.0 or sizes[-1] == 0.0
    )


def _amount(number: "re.Match[str]", unit: str) -> float:
    sign = -1.0 if number["sign"] == "-" else 1.0
    if number["above"] is not None:
        if int(number["below"]) == 0:
            return math.inf
        fraction = int(number["above"]) / int(number["below"])
        return sign * (int(number["whole"] or 0) + fraction)
    if number["groups"] is not None:
        return sign * float(re.sub(r"[ '_]", "", number["groups"]).replace(",", "."))
    return sign * _figures(number["plain"], unit)


def _figures(plain: str, unit: str) -> float:
    """Read figures with points and commas among them."""
    figures, mark, power = plain.lower().partition("e")
    exponent = mark + power
    points, commas = figures.count("."), figures.count(",")
    last = max(figures.rfind("."), figures.rfind(","))
    if points and commas:
        decimal = figures[last]
        grouped = figures[:last].split("," if decimal == "." else ".")
        if figures.count(decimal) > 1 or not _is_grouped(grouped):
            raise _UnsureNumberError((_joined(figures, last), _joined(figures, len(figures))))
        return float(f"{''.join(grouped)}.{figures[last + 1 :]}{exponent}")
    if points + commas > 1:
        grouped = re.split("[.,]", figures)
        if not _is_grouped(grouped):
            raise _UnsureNumberError((_joined(figures, last), _joined(figures, len(figures))))
        return float("".join(grouped) + exponent)
    if commas and not exponent and _is_grouped(figures.split(",")):
        thousands, decimals = float(figures.replace(",", "")), float(figures.replace(",", "."))
        if unit.lower() not in FINE_UNITS:
            raise _UnsureNumberError((thousands, decimals))
        return thousands
    return float(figures.replace(",", ".") + exponent)


def _is_grouped(groups: list[str]) -> bool:
    """Say whether figures stand in groups as thousands do: 1,420 and 12,000,000, not 0,300."""
    head, *rest = groups
    return (
        1 <= len(head) <= 3
        and not head.startswith("0")
        and len(rest) > 0
        and all(len(group) == 3 for group in rest)
    )


def _joined(figures: str, at: int) -> float:
    """Read figures with the separator at a place as the decimal point, without all others."""
    whole, decimals = (re.sub("[.,]", "", part) for part in (figures[:at], figures[at:]))
    return float(f"{whole or 0}.{decimals or 0}")


def _in_si(number: float, written: str, si_unit: str, say: _Refusal) -> float:
    wanted = _ALIKE.get(si_unit, si_unit)
    name = re.sub(r"[\s.]+", " ", written).strip().lower().replace("μ", "µ")
    # A capital M alone is no metre, and T no tonne.
    known = None if written in ("M", "T") else UNITS.get(wanted, {}).get(name)
    if known is not None:
        return number * known.factor + known.offset
    if name in UNSURE_UNITS:
        raise say.unsure_unit(UNSURE_UNITS[name])
    if any(name in units for units in UNITS.values()):
        raise say.wrong_unit()
    return _by_library(number, written, si_unit, say)


def _by_library(number: float, written: str, si_unit: str, say: _Refusal) -> float:
    import pint

    try:
        return float(_registry().Quantity(number, written).to(si_unit).magnitude)
    except (pint.errors.PintError, AttributeError, ValueError, TypeError) as error:
        raise say.wrong_unit() from error
