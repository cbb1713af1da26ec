"""Where a mix cures and what takes its heat: air round a cup, rubber and air about a film."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError
from mildhusk.core.geometry.mesh import Floats

CUP_SURFACE = 5.5
"""Surface of a cup of a volume V is about this times V^(2/3) (assumed)."""
AIR_U_W_M2_K = 9.0
"""Heat given to still air, by convection and radiation together (from memory)."""
RESIN_CONDUCTIVITY_W_M_K = 0.2
"""Of liquid and cured resins (handbooks give 0.15 to 0.25; from memory)."""
RUBBER_CONDUCTIVITY_W_M_K = 0.22
"""Of silicone rubber (handbooks give 0.2 to 0.25 without filler; from memory)."""
RUBBER_HEAT_J_M3_K = 1.485e6
"""Density by heat capacity of silicone rubber: 1100 kg/m3 by 1350 J/(kg K) (from memory)."""
RUBBER_M = 0.010
"""Rubber behind a film (common practice, no source: 9 to 13 mm)."""

_CELLS, _GROWTH = 5, 1.6
"""The rubber's layers grow from the film outwards: heat of a fast coat stays near it."""


@dataclass(frozen=True, slots=True, eq=False)
class Surroundings:
    """A chain of heat capacities from the mix outwards, with air at both ends.

    Parameters
    ----------
    start_k, around_k : float
        Temperature of the mix at first contact, and of all that is round it. [K]
    capacity : (n,) float
        Of the mix first, then of each layer behind it. [J/K], or [J/(m^2 K)] of a film
    conductance : (n - 1,) float
        Between neighbours. [W/K] or [W/(m^2 K)]
    to_air, behind : float
        From the mix to the air, and from the last layer. [W/K] or [W/(m^2 K)]
    """

    start_k: float
    around_k: float
    capacity: Floats
    conductance: Floats
    to_air: float
    behind: float

    @classmethod
    def lumped(cls, start_k: float, around_k: float, cooling_1_s: float) -> "Surroundings":
        """Return those of a mix that cools by U A / (m cp) [1/s]; 0 keeps all heat."""
        return cls(start_k, around_k, np.ones(1), np.zeros(0), cooling_1_s, 0.0)


def in_cup(
    heat_capacity_j_kg_k: float,
    mass_kg: float,
    density_kg_m3: float,
    start_k: float,
    room_k: float,
) -> Surroundings:
    """Return the surroundings of a mass in a cup.

    Parameters
    ----------
    heat_capacity_j_kg_k : float
        [J/(kg K)]
    mass_kg : float
        [kg]
    density_kg_m3 : float
        [kg/m^3]
    start_k, room_k : float
        Of the mix when it is poured together, and of the air. [K]

    Returns
    -------
    Surroundings

    Raises
    ------
    ConditionError
        A mass that nobody mixes.
    """
    require_between(
        mass_kg, 0.001, 20.0, name="The mass in the cup", field="grams", error=ConditionError,
        shown_in="g", scale=1e3,
    )  # fmt: skip
    surface = CUP_SURFACE * (mass_kg / density_kg_m3) ** (2.0 / 3.0)
    cooling = AIR_U_W_M2_K * surface / (mass_kg * heat_capacity_j_kg_k)
    return Surroundings.lumped(start_k, room_k, cooling)


def in_film(
    heat_capacity_j_kg_k: float,
    thickness_m: float,
    density_kg_m3: float,
    start_k: float,
    mould_k: float,
) -> Surroundings:
    """Return the surroundings of a film on a mould, or of a puddle as deep.

    Parameters
    ----------
    heat_capacity_j_kg_k : float
        [J/(kg K)]
    thickness_m : float
        [m]
    density_kg_m3 : float
        [kg/m^3]
    start_k, mould_k : float
        Of the mix when it reaches the mould, and of the mould. [K]

    Returns
    -------
    Surroundings

    Raises
    ------
    ConditionError
        A film that is none.

    Notes
    -----
    The film has one temperature; its heat leaves it over the mean way of a layer that makes heat
    evenly, a third of its thickness, to the air and into the rubber. The rubber stores what a fast
    coat gives off and passes on what a slow one does, so no one coefficient serves both.
    """
    require_between(
        thickness_m, 0.00005, 0.2, name="The film", field="film", error=ConditionError,
        shown_in="mm", scale=1e3,
    )  # fmt: skip
    layers = _GROWTH ** np.arange(_CELLS)
    layers *= RUBBER_M / layers.sum()
    way = thickness_m / (3.0 * RESIN_CONDUCTIVITY_W_M_K)
    half = 0.5 * layers / RUBBER_CONDUCTIVITY_W_M_K
    return Surroundings(
        start_k,
        mould_k,
        np.concatenate(
            [[density_kg_m3 * thickness_m * heat_capacity_j_kg_k], RUBBER_HEAT_J_M3_K * layers]
        ),
        1.0 / np.concatenate([[way + half[0]], half[:-1] + half[1:]]),
        1.0 / (way + 1.0 / AIR_U_W_M2_K),
        1.0 / (half[-1] + 1.0 / AIR_U_W_M2_K),
    )
