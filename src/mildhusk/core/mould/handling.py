"""What a mould weighs, whether one person may lift it, and how it hangs on a machine."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.checks import require_between
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.errors import MouldError

LOAD_CONSTANT_KG = 23.0
"""Load constant of the revised lifting equation (Waters, Putz-Anderson, Garg and Fine,
Ergonomics 36 (1993) 749-776, doi:10.1080/00140139308967940, from memory)."""
KNUCKLE_M = 0.75
"""Height at which the equation takes nothing off; moulds are lifted on a bench about so high."""


@dataclass(frozen=True, slots=True)
class Lift:
    """Whether one person may lift it.

    Parameters
    ----------
    weight_kg : float
    limit_kg : float
        Recommended for one person, the load close to the body. [kg]
    """

    weight_kg: float
    limit_kg: float

    @property
    def alone(self) -> bool:
        """Whether one person may lift it."""
        return self.weight_kg <= self.limit_kg


@dataclass(frozen=True, slots=True)
class Hanging:
    """A mould on a two-axis machine.

    Parameters
    ----------
    weight_kg, limit_kg : float
    moment_upright_nm, moment_across_nm : float
        Unbalance about the axis the mould stands on and about the one across it. [N m]
    counterweight_kg : float
        At 0.3 m from the axis it balances the greater. [kg]
    """

    weight_kg: float
    limit_kg: float
    moment_upright_nm: float
    moment_across_nm: float
    counterweight_kg: float

    @property
    def carried(self) -> bool:
        """Whether the machine carries it."""
        return self.weight_kg <= self.limit_kg


_COUNTERWEIGHT_AT_M = 0.3


def recommended_lift(width_m: float, height_m: float = KNUCKLE_M) -> float:
    """Recommended weight limit for one person and an occasional lift in front of the body.

    Parameters
    ----------
    width_m : float
        Of the load, away from the body. [m]
    height_m : float
        Of the hands above the floor at the start, 0 to 1.75 m. [m]

    Returns
    -------
    float
        [kg]

    Raises
    ------
    MouldError
        A width or a height out of range.

    Notes
    -----
    RWL = LC (25/H) (1 - 0.003 |V - 75|), H and V in cm; carried less than 25 cm, not turned,
    seldom, held well: the other multipliers are 1. H = 20 + W/2, at least 25.

    References
    ----------
    T. R. Waters and others, Applications manual for the revised NIOSH lifting equation, 1994
    (multipliers from memory).
    """
    require_between(width_m, 0.0, 2.0, name="The load", field="width_m", error=MouldError,
                    shown_in="mm", scale=1e3)  # fmt: skip
    require_between(height_m, 0.0, 1.75, name="The height", field="height_m", error=MouldError,
                    shown_in="mm", scale=1e3)  # fmt: skip
    away = max(25.0, 20.0 + 100.0 * width_m / 2.0)
    if away > 63.0:
        return 0.0
    return LOAD_CONSTANT_KG * (25.0 / away) * (1.0 - 0.003 * abs(100.0 * height_m - 75.0))


def lift(weight_kg: float, width_m: float) -> Lift:
    """Say whether one person may lift a mould."""
    return Lift(weight_kg, recommended_lift(width_m))


def hang(
    parts: tuple[tuple[float, tuple[float, float, float]], ...],
    crossing_m: tuple[float, float, float],
    up: tuple[float, float, float],
    limit_kg: float,
) -> Hanging:
    """Hang a mould on a two-axis machine whose axes cross at a place.

    Parameters
    ----------
    parts : tuple of (weight, place)
        Rubber, shell, wet charge: weight [kg] and centre of mass [m].
    crossing_m : tuple of 3 floats
        [m]
    up : tuple of 3 floats
        Unit vector of the axis the mould stands on.
    limit_kg : float
        What the machine carries. [kg]

    Returns
    -------
    Hanging
    """
    weights = np.array([weight for weight, _ in parts])
    places = np.array([place for _, place in parts])
    whole = float(weights.sum())
    off = (weights[:, None] * places).sum(axis=0) / whole - np.array(crossing_m)
    axis = np.array(up)
    aside = float(np.linalg.norm(off - (off @ axis) * axis))
    # The axis across may stand any way round the upright one: the whole distance counts.
    away = float(np.linalg.norm(off))
    greater = whole * max(aside, away)
    return Hanging(
        weight_kg=whole,
        limit_kg=limit_kg,
        moment_upright_nm=whole * GRAVITY_M_S2 * aside,
        moment_across_nm=whole * GRAVITY_M_S2 * away,
        counterweight_kg=greater / _COUNTERWEIGHT_AT_M,
    )


def handles(weight_kg: float) -> int:
    """Return how many handles a mould wants: none below 5 kg, two to 23, four above."""
    if weight_kg < 5.0:
        return 0
    return 2 if weight_kg <= LOAD_CONSTANT_KG else 4
