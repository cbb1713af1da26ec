"""What casts and moulds take beside kits: release, additives, foam, bandage, bolts."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.materials.kinds import ShellMaterial
from mildhusk.core.mould.shells import shell_needs

RELEASE_KG_M2 = 0.04
"""Of release for one cast, brushed or sprayed on all over (assumed)."""


@dataclass(frozen=True, slots=True)
class Beside:
    """So much of something, in its unit: kg, l, rolls, pieces.

    `part_of` names the material whose kits hold it already; empty where it is bought beside them.
    """

    what: str
    amount: float
    unit: str
    part_of: str = ""


def besides_of_cast(sheet: CastSheet, casts: int) -> list[Beside]:
    """Return what casts of a sheet take beside their resin.

    Parameters
    ----------
    sheet : CastSheet
    casts : int

    Returns
    -------
    list of Beside
    """
    premix = sheet.premix
    added = [coat.added_kg for coat in sheet.coats]
    each = {
        "release": RELEASE_KG_M2 * sheet.area_m2,
        "thickener": math.fsum(one.thickener for one in added),
        "thinner": math.fsum(one.thinner for one in added),
        "metal powder": math.fsum(one.powder for one in added),
        "tint": 0.0 if premix is None else premix.tint_kg,
        "filler": 0.0 if premix is None else premix.filler_kg,
        "rigid foam, A and B": 0.0 if sheet.foam is None else sheet.foam.kg,
    }
    return [Beside(what, casts * kg, "kg") for what, kg in each.items() if kg > 0.0]


def besides_of_mould(shell: ShellMaterial, shell_m2: float, moulds: int) -> list[Beside]:
    """Return what the shells of moulds take, thing by thing.

    Parameters
    ----------
    shell : ShellMaterial
    shell_m2 : float
        Of one shell with its flanges. [m^2]
    moulds : int

    Returns
    -------
    list of Beside
    """
    needs = shell_needs(moulds * shell_m2, shell)
    return [Beside(one.what, one.amount, one.unit, shell.name) for one in needs]


def pooled_besides(needs: Iterable[Beside]) -> tuple[Beside, ...]:
    """Add up what is alike, in the order in which each was first named."""
    together: dict[tuple[str, str, str], float] = {}
    for one in needs:
        key = (one.what, one.unit, one.part_of)
        together[key] = together.get(key, 0.0) + one.amount
    return tuple(
        Beside(what, amount, unit, part_of) for (what, unit, part_of), amount in together.items()
    )
