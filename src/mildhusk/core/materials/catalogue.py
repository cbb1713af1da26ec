"""The materials that ship with Mild Husk: generic classes with typical values."""

import json
from collections.abc import Sequence
from dataclasses import MISSING, dataclass, fields
from decimal import Decimal
from enum import Enum
from functools import cache
from importlib.resources import files
from typing import Any, TypeVar, get_args, get_type_hints

from mildhusk.core.amounts import Origin
from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.kinds import (
    Additive,
    Circumstance,
    Clay,
    Consumable,
    MeltedClay,
    Release,
    Rubber,
    Sealer,
    ShellMaterial,
    Supply,
)
from mildhusk.core.materials.kit import Kit

AnyMaterial = CastingResin | Supply
CastingMaterial = CastingResin | MeltedClay
"""What a husk can be made of."""
M = TypeVar("M", bound=AnyMaterial)

KINDS: dict[str, type[CastingResin] | type[Supply]] = {
    "casting-resin": CastingResin,
    "rubber": Rubber,
    "shell": ShellMaterial,
    "release": Release,
    "sealer": Sealer,
    "clay": Clay,
    "melted-clay": MeltedClay,
    "additive": Additive,
    "consumable": Consumable,
    "circumstance": Circumstance,
}


def kind_of(material: AnyMaterial) -> str:
    """Return the name of a material's kind."""
    return next(name for name, made in KINDS.items() if type(material) is made)


@cache
def hints_of(kind: str) -> dict[str, Any]:
    """Return the fields of a kind with their types; slow to find out, and always the same."""
    hints = get_type_hints(KINDS[kind])
    return {field.name: hints[field.name] for field in fields(KINDS[kind])}


def read_material(kind: str, values: dict[str, Any]) -> AnyMaterial:
    """Build a material of a kind from plain values, as they stand in a file or a table.

    Parameters
    ----------
    kind : str
        A key of `KINDS`.
    values : dict
        Field by field; enumerations by their value, money as text.

    Raises
    ------
    MaterialError
        An unknown kind, a missing or unknown field, or a value out of its range.
    """
    if kind not in KINDS:
        raise MaterialError(f"There is no kind '{kind}'; there are: {', '.join(KINDS)}.", "kind")
    hints = hints_of(kind)
    needed = {field.name for field in fields(KINDS[kind]) if field.default is MISSING}
    wrong = sorted(values.keys() - hints.keys()) or sorted(needed - values.keys())
    if wrong:
        said = "is not known for" if wrong[0] in values else "is missing from"
        raise MaterialError(f"'{wrong[0]}' {said} the data sheet of a {kind}.", wrong[0])
    return KINDS[kind](**{name: _read(name, hints[name], value) for name, value in values.items()})


@dataclass(frozen=True, slots=True)
class MaterialRecord:
    """A material as a row: its key, kind and name, and the values of its data sheet."""

    key: str
    kind: str
    name: str
    sheet: dict[str, Any]


def record_of(material: AnyMaterial) -> MaterialRecord:
    """Return a material as a row; money as text, so that no cent is lost."""
    values = {field.name: _plain(getattr(material, field.name)) for field in fields(material)}
    key, name = values.pop("key"), values.pop("name")
    return MaterialRecord(key, kind_of(material), name, values)


def _plain(value: Any) -> Any:
    if isinstance(value, tuple):
        return [_plain(one) for one in value]
    if isinstance(value, Enum):
        return value.value
    return str(value) if isinstance(value, Decimal) else value


def _read(field: str, wanted: Any, value: Any) -> Any:
    try:
        if isinstance(wanted, type) and issubclass(wanted, Enum):
            return wanted(value)
        if wanted is Decimal:
            return Decimal(str(value))
        if get_args(wanted)[1:] == (...,):
            return tuple(_read(field, get_args(wanted)[0], one) for one in value)
    except MaterialError:
        raise
    except (ValueError, ArithmeticError, TypeError) as error:
        raise MaterialError(
            f"The {field.replace('_', ' ')} is {value!r}; that is not known.", field
        ) from error
    allowed = get_args(wanted) or (wanted,)
    if float in allowed and isinstance(value, int) and not isinstance(value, bool):
        return float(value)
    if not isinstance(value, allowed):
        raise MaterialError(f"The {field.replace('_', ' ')} is {value!r}; give a number.", field)
    return value


@cache
def shipped_materials() -> tuple[AnyMaterial, ...]:
    """Return every shipped material, casting resins first."""
    supplies = _content("supplies.json")
    return (
        *shipped_resins(),
        *(
            read_material(kind, {**values, "origin": Origin.TYPICAL})
            for kind in KINDS
            for values in supplies.get(kind, ())
        ),
    )


@cache
def shipped_resins() -> tuple[CastingResin, ...]:
    """Return the shipped casting resins, in the order of the shelf."""
    read = (
        read_material("casting-resin", {**values, "origin": Origin.TYPICAL})
        for values in _content("casting_resins.json")["resins"]
    )
    return tuple(resin for resin in read if isinstance(resin, CastingResin))


def shipped_resin(key: str) -> CastingResin:
    """Return the shipped resin with this key.

    Raises
    ------
    MaterialError
        No such key; the sentence lists those there are.
    """
    return _with_key(key, shipped_resins(), "resin")


def shipped_material(key: str) -> AnyMaterial:
    """Return the shipped material of any kind with this key.

    Raises
    ------
    MaterialError
        No such key; the sentence lists those there are.
    """
    return _with_key(key, shipped_materials(), "material")


def shipped_casting_materials() -> tuple[CastingMaterial, ...]:
    """Return everything that ships and a husk can be made of, resins first."""
    return tuple(one for one in shipped_materials() if isinstance(one, CastingMaterial))


def shipped_casting_material(key: str) -> CastingMaterial:
    """Return the shipped resin or melted clay with this key.

    Raises
    ------
    MaterialError
        No such key; the sentence lists those there are.
    """
    return _with_key(key, shipped_casting_materials(), "resin")


@cache
def shipped_kits(key: str) -> tuple[Kit, ...]:
    """Return the kits on offer for a shipped material, the smallest first; none for many."""
    return tuple(
        Kit(one["name"], one["mass_kg"], Decimal(one["price"]), one["shelf_life_days"])
        for one in _content("kits.json")["kits"].get(key, ())
    )


def _with_key(key: str, shelf: Sequence[M], what: str) -> M:
    for material in shelf:
        if material.key == key:
            return material
    known = ", ".join(material.key for material in shelf)
    raise MaterialError(f"There is no {what} '{key}' on the shelf; there are: {known}.", what)


def _content(name: str) -> dict[str, Any]:
    text = files("mildhusk.core.materials").joinpath(name).read_text("utf-8")
    content: dict[str, Any] = json.loads(text)
    return content
