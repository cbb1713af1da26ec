"""A data sheet as a list to read and as a form to fill: labels, units, what may be chosen."""

from dataclasses import dataclass, fields
from decimal import Decimal
from enum import Enum, StrEnum
from typing import Any, get_args

from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.catalogue import KINDS, AnyMaterial, hints_of
from mildhusk.core.wording import Quantity, Unit

# The end of a field's name tells its unit; the longest first.
_UNITS = {
    "_kg_m3": Unit.DENSITY,
    "_pa_s": Unit.VISCOSITY,
    "_m": Unit.LENGTH,
    "_s": Unit.TIME,
    "_k": Unit.TEMPERATURE,
    "_n_m": Unit.TEAR,
    "_j_kg_k": Unit.COUNT,
}
_SHARES = ("elongation", "shrinkage", "dose_low", "dose_high")
# Where a field's name is not how a maker says it.
_LABELS = {
    "parts_a": "parts of A",
    "parts_b": "parts of B",
    "hardness_shore_a": "hardness, Shore A",
    "life_casts": "life in casts",
    "tear_n_m": "tear strength",
    "elongation": "elongation at break",
    "hours_per_m2": "hours per m²",
    "price_per_m2": "price per m²",
    "bolts_on": "carries bolts",
    "softens_k": "softens at",
    "per_coat": "used a coat",
    "per_cast": "used a cast",
    "per_mould": "used a mould",
    "dose_low": "least dose",
    "dose_high": "largest dose",
    "heat_capacity_j_kg_k": "heat capacity, J/(kg K)",
    "melt_k": "out of the pot at",
    "pour_k": "poured at",
    "thick_k": "runs no more at",
    "set_k": "bears the next coat at",
    "cool_k": "keeps its shape at",
    "coat_wall_m": "one coat leaves",
    "kit_mass_kg": "kit weight in kg",
    "kit_price": "kit price",
}
_UNSAID = ("key", "name", "origin", "traits", "hazards")


@dataclass(frozen=True, slots=True)
class Fact:
    """One value of a data sheet: a quantity, or words."""

    label: str
    quantity: Quantity | None
    words: str


def facts_of(material: AnyMaterial) -> tuple[Fact, ...]:
    """Return the values of a data sheet beside name, origin, traits and hazards."""
    return tuple(
        _fact(field.name, getattr(material, field.name))
        for field in fields(material)
        if field.name not in _UNSAID
    )


def _said(field: str) -> tuple[str, Unit]:
    """Return how a maker says a field, and its unit."""
    ending = next((end for end in sorted(_UNITS, key=len, reverse=True) if field.endswith(end)), "")
    label = _LABELS.get(field, field.removesuffix(ending).replace("_", " "))
    return label, Unit.SHARE if field in _SHARES else _UNITS.get(ending, Unit.COUNT)


def _fact(field: str, value: object) -> Fact:
    label, unit = _said(field)
    if isinstance(value, bool):
        return Fact(label, None, "yes" if value else "no")
    if isinstance(value, int | float | Decimal):
        return Fact(label, Quantity(float(value), unit), "")
    if isinstance(value, tuple):
        return Fact(label, None, ", ".join(str(one) for one in value))
    if value is None:
        return Fact(label, None, "never")
    return Fact(label, None, str(value.value if isinstance(value, Enum) else value))


class FieldKind(StrEnum):
    """How a value of a data sheet is entered."""

    QUANTITY = "quantity"
    WHOLE = "whole"
    YES_NO = "yes-no"
    ONE_OF = "one-of"
    SOME_OF = "some-of"
    TEXT = "text"
    SENTENCES = "sentences"


@dataclass(frozen=True, slots=True)
class FormField:
    """One value of a data sheet as a form asks for it.

    Parameters
    ----------
    name, label : str
    kind : FieldKind
    unit : Unit
        Of a quantity.
    options : tuple of str
        What a choice is made from.
    may_be_empty : bool
    """

    name: str
    label: str
    kind: FieldKind
    unit: Unit
    options: tuple[str, ...] = ()
    may_be_empty: bool = False


def form_of(kind: str) -> tuple[FormField, ...]:
    """Return what a form asks for a material of a kind, beside name, key and origin.

    Raises
    ------
    MaterialError
        An unknown kind.
    """
    if kind not in KINDS:
        raise MaterialError(f"There is no kind '{kind}'; there are: {', '.join(KINDS)}.", "kind")
    hints = hints_of(kind)
    # What every material has comes after what makes the kind.
    names = [field.name for field in fields(KINDS[kind]) if field.name not in _UNSAID]
    return tuple(_form_field(name, hints[name]) for name in (*names, "traits", "hazards"))


def _form_field(name: str, wanted: Any) -> FormField:
    label, unit = _said(name)
    allowed = get_args(wanted) or (wanted,)
    several, one = get_args(wanted)[1:] == (...,), allowed[0]
    if isinstance(one, type) and issubclass(one, Enum):
        options = tuple(str(choice.value) for choice in one)
        kind = FieldKind.SOME_OF if several else FieldKind.ONE_OF
        return FormField(name, label, kind, unit, options)
    if several:
        return FormField(name, label, FieldKind.SENTENCES, unit)
    kinds = {bool: FieldKind.YES_NO, int: FieldKind.WHOLE, str: FieldKind.TEXT}
    kind = kinds.get(one, FieldKind.QUANTITY)
    return FormField(name, label, kind, unit, may_be_empty=type(None) in allowed)
