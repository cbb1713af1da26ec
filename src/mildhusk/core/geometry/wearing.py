"""Whether a head goes into a husk, and how much room it has there."""

import math
from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.errors import ConditionError


@dataclass(frozen=True, slots=True)
class Head:
    """A head by girth, breadth and length. [m]"""

    name: str
    girth_m: float
    breadth_m: float
    length_m: float

    def __post_init__(self) -> None:
        for field, low, high in (
            ("girth_m", 0.4, 0.75),
            ("breadth_m", 0.1, 0.2),
            ("length_m", 0.13, 0.26),
        ):
            require_between(
                getattr(self, field),
                low,
                high,
                name=f"The {field[:-2]} of the head",
                field=field,
                error=ConditionError,
                shown_in="mm",
                scale=1e3,
            )


# 2012 Anthropometric Survey of U.S. Army Personnel, Gordon et al. 2014, NATICK/TR-15/007: head
# circumference, breadth and length, 5th percentile of women, 50th of women and men, 95th of men.
# From memory, rounded to millimetres.
HEADS_SOURCE = (
    "2012 Anthropometric Survey of U.S. Army Personnel (Gordon et al. 2014), from memory, rounded"
)
HEADS = (
    Head("small (women, 5th percentile)", 0.531, 0.139, 0.176),
    Head("usual, women (50th percentile)", 0.561, 0.148, 0.188),
    Head("usual, men (50th percentile)", 0.574, 0.154, 0.199),
    Head("large (men, 95th percentile)", 0.602, 0.164, 0.212),
)


@dataclass(frozen=True, slots=True)
class Fit:
    """How a husk fits a head.

    Parameters
    ----------
    clearance_m : float
        Room all round at the widest place, beyond the head; negative where it does not go in. [m]
    passes_opening : bool
    opening_spare_m : float
        Girth of the opening inside the wall beyond the head's girth. [m]
    """

    clearance_m: float
    passes_opening: bool
    opening_spare_m: float


def fit_of(head: Head, widest_girth_m: float, opening_girth_m: float, wall_m: float) -> Fit:
    """Fit a head into a husk.

    Parameters
    ----------
    head : Head
    widest_girth_m, opening_girth_m : float
        Of the casting face. [m]
    wall_m : float
        Of the husk. [m]

    Returns
    -------
    Fit

    Notes
    -----
    A wall grown inwards shortens a girth by 2 pi t (exact for a convex outline, Steiner). Girths
    of a head and of a husk round it, both convex and an even distance c apart, differ by 2 pi c.
    """
    shorter = 2.0 * math.pi * wall_m
    spare = opening_girth_m - shorter - head.girth_m
    room = (widest_girth_m - shorter - head.girth_m) / (2.0 * math.pi)
    return Fit(clearance_m=room, passes_opening=spare > 0.0, opening_spare_m=spare)


def wall_by_weight(planned_wall_m: float, planned_kg: float, weighed_kg: float) -> float:
    """Return the even wall of a husk that weighs otherwise than planned.

    Parameters
    ----------
    planned_wall_m : float
        [m]
    planned_kg, weighed_kg : float
        Of the whole cast. [kg]

    Returns
    -------
    float
        An estimate: the weight of a thin shell goes with its wall. [m]
    """
    return planned_wall_m * weighed_kg / planned_kg
