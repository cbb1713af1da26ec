"""Classes of chemistry: their kinetics, heat, degree at gel, doses, and where heat is a danger."""

import json
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from importlib.resources import files
from typing import Any

from mildhusk.core.materials.casting_resin import CastingResin


class Danger(StrEnum):
    """What heat does to a mix that stands too thick."""

    SOFTENS = "softens"
    """Its cup."""
    BOILS = "boils"
    """Something in it."""
    SCORCHES = "scorches"
    """It comes apart and fumes."""
    LIGHTS = "lights"
    """What lies beside it."""


@dataclass(frozen=True, slots=True)
class HeatLimit:
    """A temperature that a mix must stay below, what happens there, and who says so.

    Parameters
    ----------
    danger : Danger
    temperature_k : float
        [K]
    what, source : str
    """

    danger: Danger
    temperature_k: float
    what: str
    source: str


@dataclass(frozen=True, slots=True)
class DoseRange:
    """Least and largest dose of catalyst, of A by weight. [1]"""

    low: float
    high: float


@dataclass(frozen=True, slots=True)
class CureClass:
    """What all resins of a chemistry have in common.

    Parameters
    ----------
    activation_j_mol, viscosity_activation_j_mol : float
        Of the rate, and apparent of the viscosity. [J/mol]
    c, m, n, induction : float
        Of the rate, see `Kinetics`. [1]
    heat_j_kg : float
        Heat of cure. [J/kg]
    heat_capacity_j_kg_k : float
        [J/(kg K)]
    gel_degree : float
        Degree of cure at which it stops flowing. [1]
    heat_limits : tuple of HeatLimit
        The coolest first.
    catalyst : DoseRange or None
        Where it takes one.
    sources : dict
        Where its values come from.
    """

    activation_j_mol: float
    c: float
    m: float
    n: float
    induction: float
    heat_j_kg: float
    heat_capacity_j_kg_k: float
    gel_degree: float
    viscosity_activation_j_mol: float
    heat_limits: tuple[HeatLimit, ...]
    sources: dict[str, str]
    catalyst: DoseRange | None = None


def class_of(resin: CastingResin) -> CureClass:
    """Return a resin's class; one that names none cures as a urethane."""
    classes = cure_classes()
    names = {str(trait) for trait in resin.traits}
    return next((classes[name] for name in classes if name in names), classes["urethane"])


@lru_cache(maxsize=1)
def cure_classes() -> dict[str, CureClass]:
    """Return the classes by name."""
    told = json.loads((files("mildhusk.core.cure") / "cure_classes.json").read_text("utf-8"))
    return {name: _class(one, told["heat_limits"]) for name, one in told["classes"].items()}


def _class(told: dict[str, Any], of_all: list[dict[str, Any]]) -> CureClass:
    limits = [
        HeatLimit(**{**one, "danger": Danger(one["danger"])})
        for one in (*told["heat_limits"], *of_all)
    ]
    dose = told.get("catalyst")
    return CureClass(**{
        **told,
        "heat_limits": tuple(sorted(limits, key=lambda one: one.temperature_k)),
        "catalyst": None if dose is None else DoseRange(**dose),
    })  # fmt: skip
