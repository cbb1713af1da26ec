"""The casting resins that ship with Mild Husk: generic classes with typical values."""

import json
from decimal import Decimal
from functools import cache
from importlib.resources import files

from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.casting_resin import CastingResin, Origin, RatioBasis


@cache
def shipped_resins() -> tuple[CastingResin, ...]:
    """Return the shipped casting resins, in the order of the shelf."""
    text = files("mildhusk.core.materials").joinpath("casting_resins.json").read_text("utf-8")
    return tuple(
        CastingResin(
            **{
                **sheet,
                "origin": Origin.TYPICAL,
                "ratio_basis": RatioBasis(sheet["ratio_basis"]),
                "hazards": tuple(sheet["hazards"]),
                "kit_price": Decimal(sheet["kit_price"]),
            }
        )
        for sheet in json.loads(text)["resins"]
    )


def shipped_resin(key: str) -> CastingResin:
    """Return the shipped resin with this key.

    Raises
    ------
    MaterialError
        No such key; the sentence lists those there are.
    """
    for resin in shipped_resins():
        if resin.key == key:
            return resin
    known = ", ".join(resin.key for resin in shipped_resins())
    raise MaterialError(f"There is no resin '{key}' on the shelf; there are: {known}.", "resin")
