"""Quantities inside sentences, so that a sentence can be read in metric or in imperial units."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.constants import ZERO_CELSIUS_K


class Unit(StrEnum):
    """What a value is, by its SI unit; how it is shown is decided at the edge."""

    LENGTH = "m"
    AREA = "m2"
    VOLUME = "m3"
    DENSITY = "kg/m3"
    VISCOSITY = "Pa s"
    TEAR = "N/m"
    MASS = "kg"
    TIME = "s"
    TEMPERATURE = "K"
    SHARE = "share"
    ENERGY = "J/mol"
    COUNT = "count"
    MONEY = "money"


@dataclass(frozen=True, slots=True)
class Quantity:
    """A value in SI and what it is."""

    value: float
    unit: Unit


def in_metric(quantity: Quantity) -> str:
    """Show a quantity as it is said in a metric workshop."""
    value = quantity.value
    match quantity.unit:
        case Unit.LENGTH:
            return f"{value * 1e3:,.1f} mm"
        case Unit.AREA:
            return f"{value * 1e4:,.0f} cm²"
        case Unit.VOLUME:
            return f"{value * 1e6:,.0f} ml"
        case Unit.DENSITY:
            return f"{value / 1e3:,.2f} g/ml"
        case Unit.VISCOSITY:
            return f"{value:,.3g} Pa s"
        case Unit.TEAR:
            return f"{value / 1e3:,.3g} kN/m"
        case Unit.MASS:
            return f"{value * 1e3:,.1f} g"
        case Unit.TIME:
            return in_minutes(value)
        case Unit.TEMPERATURE:
            return f"{value - ZERO_CELSIUS_K:.0f} °C"
        case Unit.SHARE:
            return f"{value * 100:.3g} %"
        case Unit.ENERGY:
            return f"{value / 1e3:,.3g} kJ/mol"
        case Unit.COUNT:
            return f"{value:,.6g}"
        case Unit.MONEY:
            return f"{value:,.2f}"


def decimals(step: float) -> int:
    """Return how many figures after the point a scale with this last digit shows, up to six."""
    return next((n for n in range(6) if abs(step * 10**n - round(step * 10**n)) < 1e-9), 6)


def weighed(kg: float, step_kg: float) -> str:
    """Show a weight as a scale with this last digit shows it: parts add up as they are read."""
    return f"{kg * 1e3:,.{decimals(step_kg * 1e3)}f}"


def in_minutes(seconds: float) -> str:
    """Show a time with two units at most: 45 s, 3 min 20 s, 2 h 05 min."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        minutes, rest = divmod(whole, 60)
        return f"{minutes} min {rest:02d} s" if rest else f"{minutes} min"
    hours, minutes = divmod(round(whole / 60), 60)
    return f"{hours} h {minutes:02d} min"


@dataclass(frozen=True, slots=True)
class Sentence:
    """Words with named quantities in braces."""

    template: str
    values: dict[str, Quantity]

    def __str__(self) -> str:
        return self.template.format(
            **{name: in_metric(value) for name, value in self.values.items()}
        )


def sentence(template: str, **values: tuple[float, Unit]) -> Sentence:
    """Return a sentence; every quantity is given as (value in SI, what it is)."""
    named = {name: Quantity(value, unit) for name, (value, unit) in values.items()}
    made = Sentence(template, named)
    str(made)  # a name that is missing shows up here and not on the bench
    return made
