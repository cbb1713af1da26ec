"""A material as a row of text cells, and back: what a CSV holds."""

from dataclasses import fields
from decimal import Decimal
from enum import Enum
from typing import Any, get_args

from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.catalogue import KINDS, AnyMaterial, hints_of, read_material

_BETWEEN = " | "
_WORDS = {True: "yes", False: "no"}


def columns_of(kind: str) -> tuple[str, ...]:
    """Return the fields of a kind, in their order; a row holds them as text."""
    return tuple(field.name for field in fields(KINDS[kind]))


def to_cells(material: AnyMaterial) -> dict[str, str]:
    """Return a material as text cells; several values of one field are joined by a bar."""
    return {field.name: _to_text(getattr(material, field.name)) for field in fields(material)}


def _to_text(value: Any) -> str:
    if isinstance(value, bool):
        return _WORDS[value]
    if isinstance(value, tuple):
        return _BETWEEN.join(_to_text(one) for one in value)
    if value is None:
        return ""
    return str(value.value) if isinstance(value, Enum) else str(value)


def from_cells(kind: str, cells: dict[str, str]) -> AnyMaterial:
    """Build a material from text cells.

    Parameters
    ----------
    kind : str
        A key of `KINDS`.
    cells : dict of str to str
        Field by field.

    Raises
    ------
    MaterialError
        An unknown kind, a missing, unknown or unreadable cell, a value out of its range.
    """
    if kind not in KINDS:
        return read_material(kind, {})
    hints = hints_of(kind)
    values = {
        name: _from_text(name, hints[name], text.strip()) if name in hints else text
        for name, text in cells.items()
    }
    return read_material(kind, values)


def _from_text(field: str, wanted: Any, text: str) -> Any:
    allowed = get_args(wanted) or (wanted,)
    if get_args(wanted)[1:] == (...,):
        return [one.strip() for one in text.split(_BETWEEN.strip()) if one.strip()]
    if type(None) in allowed and not text:
        return None
    if bool in allowed:
        if text.lower() not in _WORDS.values():
            raise MaterialError(f"The {_said(field)} is '{text}'; write yes or no.", field)
        return text.lower() == _WORDS[True]
    try:
        if int in allowed:
            return int(text)
        if float in allowed:
            return float(text)
        if Decimal in allowed:
            return str(Decimal(text))
    except (ValueError, ArithmeticError) as error:
        raise MaterialError(
            f"The {_said(field)} is '{text}', which is not a number.", field
        ) from error
    return text


def _said(field: str) -> str:
    return field.replace("_", " ")
