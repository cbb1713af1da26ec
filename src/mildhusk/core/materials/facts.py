"""A data sheet as a list to read: what each value is called, and its unit."""

from dataclasses import dataclass, fields
from enum import Enum

from mildhusk.core.materials.catalogue import AnyMaterial
from mildhusk.core.wording import Quantity, Unit

# The end of a field's name tells its unit; the longest first.
_UNITS = {
    "_kg_m3": Unit.DENSITY,
    "_pa_s": Unit.VISCOSITY,
    "_m": Unit.LENGTH,
    "_s": Unit.TIME,
    "_k": Unit.TEMPERATURE,
    "_n_m": Unit.TEAR,
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
    "dose_low": "least dose",
    "dose_high": "largest dose",
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


def _fact(field: str, value: object) -> Fact:
    ending = next((end for end in sorted(_UNITS, key=len, reverse=True) if field.endswith(end)), "")
    label = _LABELS.get(field, field.removesuffix(ending).replace("_", " "))
    if isinstance(value, bool):
        return Fact(label, None, "yes" if value else "no")
    if isinstance(value, int | float):
        unit = Unit.SHARE if field in _SHARES else _UNITS.get(ending, Unit.COUNT)
        return Fact(label, Quantity(float(value), unit), "")
    if isinstance(value, tuple):
        return Fact(label, None, ", ".join(str(one) for one in value))
    if value is None:
        return Fact(label, None, "never")
    return Fact(label, None, str(value.value if isinstance(value, Enum) else value))
