"""Building the support shell: what each material takes, and all of them in one table."""

import json
import math
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib.resources import files
from typing import Any

from mildhusk.core.errors import MouldError
from mildhusk.core.materials.kinds import ShellMaterial
from mildhusk.core.mould.clock import Task
from mildhusk.core.mould.estimate import FLANGE_SHARE

FILLER_DENSITY_KG_M3 = 1100.0
"""Thickened rubber or clay that fills what would lock (assumed)."""


class LaidAs(StrEnum):
    """What of a shell material is cut before it is laid."""

    STRIPS = "strip"
    SQUARES = "square"
    NOTHING = ""


@dataclass(frozen=True, slots=True)
class ShellNeed:
    """One thing a shell takes: so much of it, in its unit."""

    what: str
    amount: float
    unit: str


@dataclass(frozen=True, slots=True)
class ShellBuild:
    """A shell of one material.

    Parameters
    ----------
    key, name : str
    area_m2 : float
        With flanges. [m^2]
    kg : float
    cost : float
        Of the material, in the workshop's currency.
    hours : float
        Work. [h]
    set_s : float
        Until all parts have set, one after another. [s]
    bolts_on : bool
    hazards : tuple of str
    needs : tuple of ShellNeed
    """

    key: str
    name: str
    area_m2: float
    kg: float
    cost: float
    hours: float
    set_s: float
    bolts_on: bool
    hazards: tuple[str, ...]
    needs: tuple[ShellNeed, ...]


def plies_of(strip_plies: int, overlap: float) -> float:
    """Return how many plies lie everywhere when strips overlap by a share of their width.

    Raises
    ------
    MouldError
        A share that is not from 0 to below 1, or a strip without plies.
    """
    if not 0.0 <= overlap < 1.0 or strip_plies < 1:
        raise MouldError("Strips overlap by 0 to less than all of their width, in whole plies.")
    return strip_plies / (1.0 - overlap)


def rolls_of(
    area_m2: float, width_m: float, length_m: float, overlap: float, strip_plies: int
) -> int:
    """Return how many rolls cover an area with folded strips that overlap.

    Parameters
    ----------
    area_m2 : float
        [m^2]
    width_m, length_m : float
        Of a roll. [m]
    overlap : float
        Of the width, that lies on the strip before. [1]
    strip_plies : int
        Each strip is folded to so many.

    Returns
    -------
    int
    """
    return math.ceil(area_m2 * plies_of(strip_plies, overlap) / (width_m * length_m) - 1e-9)


def build_shell(outside_m2: float, parts: int, material: ShellMaterial) -> ShellBuild:
    """Say what a shell of one material takes.

    Parameters
    ----------
    outside_m2 : float
        Outside of the rubber. [m^2]
    parts : int
        Parts of the shell; each seam has a flange on both sides.
    material : ShellMaterial

    Returns
    -------
    ShellBuild
    """
    area = outside_m2 * (1.0 + FLANGE_SHARE * max(1, parts) / 2.0)
    return ShellBuild(
        key=material.key,
        name=material.name,
        area_m2=area,
        kg=area * material.mass_per_m2,
        cost=area * material.price_per_m2,
        hours=area * material.hours_per_m2,
        set_s=max(1, parts) * material.set_s,
        bolts_on=material.bolts_on,
        hazards=material.hazards,
        needs=shell_needs(area, material),
    )


def compare_shells(
    outside_m2: float, parts: int, materials: tuple[ShellMaterial, ...]
) -> tuple[ShellBuild, ...]:
    """Return the same shell of every material, the lightest first.

    Parameters
    ----------
    outside_m2 : float
        Outside of the rubber. [m^2]
    parts : int
    materials : tuple of ShellMaterial

    Returns
    -------
    tuple of ShellBuild
    """
    built = (build_shell(outside_m2, parts, one) for one in materials)
    return tuple(sorted(built, key=lambda one: (one.kg, one.key)))


def shell_needs(area: float, material: ShellMaterial) -> tuple[ShellNeed, ...]:
    """Return what an area of shell [m^2] takes of a material, thing by thing."""
    builds = _builds()
    strips = builds["gypsum-strips"]
    made = []
    for need in builds.get(material.key, []):
        if need.get("rolls"):
            amount = float(
                rolls_of(
                    area,
                    strips["roll_width_m"],
                    strips["roll_length_m"],
                    strips["overlap"],
                    strips["strip_plies"],
                )
            )
        else:
            amount = need["per_m2"] * area
            if need["unit"] == "pieces":
                amount = float(math.ceil(amount))
        made.append(ShellNeed(need["what"], amount, need["unit"]))
    # A shell material of one's own has no list; its weight is all that is known.
    return tuple(made) or (ShellNeed(material.name, area * material.mass_per_m2, "kg"),)


def mixed_needs(area: float, material: ShellMaterial) -> tuple[ShellNeed, ...]:
    """Return what of a material is mixed for an area of shell [m^2]; what is cut is left out."""
    listed = _builds().get(material.key, [])
    needs = zip(listed, shell_needs(area, material), strict=False)
    return tuple(
        need
        for one, need in needs
        if need.unit in ("kg", "l") and not (one.get("rolls") or one.get("squares"))
    )


def laid_as(material: ShellMaterial) -> LaidAs:
    """Return what of a shell material is cut before it is laid; strips of one without a list."""
    needs = _builds().get(material.key)
    if needs is None or any(one.get("rolls") for one in needs):
        return LaidAs.STRIPS
    return LaidAs.SQUARES if any(one.get("squares") for one in needs) else LaidAs.NOTHING


WALL_CUT_S, SQUARE_METRE_CUT_S = 1500.0, 900.0
"""Cutting a wall of the part line, and the strips of a square metre of shell (assumed). [s]"""


def cutting_tasks(parts: int, area_m2: float, material: ShellMaterial) -> tuple[Task, ...]:
    """Return what is cut before a shell is built: the walls of its part lines, strips and squares.

    Parameters
    ----------
    parts : int
        Of the shell; two opposite part lines are cut in one wall.
    area_m2 : float
        Of the shell, with flanges. [m^2]
    material : ShellMaterial

    Returns
    -------
    tuple of Task
        One, or none where nothing is cut.
    """
    walls = {1: 0, 2: 1}.get(parts, parts)
    cut = laid_as(material)
    wanted = [
        *(
            ["the walls of the part line" if walls > 1 else "the wall of the part line"]
            * (walls > 0)
        ),
        *([f"the {cut}s"] * (cut is not LaidAs.NOTHING)),
    ]
    if not wanted:
        return ()
    hands_s = walls * WALL_CUT_S
    if cut is not LaidAs.NOTHING:
        hands_s += area_m2 * SQUARE_METRE_CUT_S
    return (Task("patterns", f"Cut {' and '.join(wanted)}", hands_s),)


@cache
def _builds() -> dict[str, Any]:
    text = (files("mildhusk.core.materials") / "shell_builds.json").read_text("utf-8")
    builds: dict[str, Any] = json.loads(text)["builds"]
    return builds
