"""How makers divide the resin into coats: each school with when to take it."""

import math
from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.constants import USUAL_UNEVENNESS
from mildhusk.core.planning.limits import CoatLimits
from mildhusk.core.planning.wish import CoatSchool

MOST_COATS = 60
POWDER_KG_M2 = 0.06
"""Metal powder that a wet first coat takes when it is dusted (assumed)."""
DETAIL_SHARE = 0.5
"""A detail coat is so thick as a share of what one coat leaves (assumed)."""
LEAST_CUP_KG = 0.002
"""Less than this is not stirred in a cup (assumed)."""
CLAY_COAT_M = 0.0025
"""What melted clay leaves when it is rolled as it thickens (assumed)."""
FOAM_KG_M3 = 120.0
"""Density of a rigid foam that rises freely (assumed; its data sheet stands above it)."""
FOAM_LIQUID_KG_M3 = 1100.0
"""Of its two parts, stirred (assumed)."""
FOAM_PACKED = 1.1
"""Filled a little more than it would rise freely (assumed)."""
# A wall this little above a whole number of coats does not ask for one more.
_COAT_NOISE = 1e-6

WHEN: dict[CoatSchool, tuple[str, str]] = {
    CoatSchool.EQUAL: (
        "equal charges",
        "The usual way: every cup alike, nothing to mix up at the bench.",
    ),
    CoatSchool.FIXED: (
        "small fixed volumes",
        "When one size of cup is filled to one mark: more coats, each easily spread in time.",
    ),
    CoatSchool.DETAIL: (
        "thin detail coat first",
        "For fine surfaces: a thin first coat runs into every line and carries no bubbles there.",
    ),
    CoatSchool.MACHINE: (
        "few big ones on a machine",
        "When a machine turns the mould: it never rests, so a coat may be thicker.",
    ),
    CoatSchool.LONG: (
        "one long roll",
        "For a slow resin and patience: no seams between coats, but what gels last pools.",
    ),
    CoatSchool.PASTE: (
        "last coat as a paste",
        "For rims, edges and corners that come out thin: less resin than a thicker wall all over.",
    ),
    CoatSchool.FOAM: (
        "thin skin, backed with foam",
        "For props that need no hollow: light and stiff. The hollow is filled and lost.",
    ),
    CoatSchool.POWDER: (
        "powder in the first coat",
        "For a metal face that is polished later: powder in a thin first coat, plain ones behind.",
    ),
    CoatSchool.CLAY: (
        "melted clay",
        "For a copy to work on: clay rolled as it thickens; too hot, it melts what has set.",
    ),
}
"""Name of each school, and when to take it."""


class CoatKind(StrEnum):
    """What a coat is."""

    ROLLED = "rolled"
    PASTE = "paste"
    POWDER = "powder"
    CLAY = "clay"


@dataclass(frozen=True, slots=True)
class Layer:
    """A coat as it is divided off: what it is, its least weight mixed, the wall it leaves.

    Parameters
    ----------
    kind : CoatKind
    wanted_kg : float
        [kg]
    film_m : float
        Mean, where it goes. [m]
    powder_kg : float
        Dusted or stirred into it. [kg]
    """

    kind: CoatKind
    wanted_kg: float
    film_m: float
    powder_kg: float = 0.0


@dataclass(frozen=True, slots=True)
class Need:
    """What is to be divided.

    Parameters
    ----------
    total_kg : float
        To mix for the wall, loss and all. [kg]
    wall_m : float
        Mean, to pour for. [m]
    area_m2 : float
    carried_m : float
        Wall that one coat leaves. [m]
    per_m2_m : float
        Mixed for a metre of wall on a square metre, loss and all. [kg/m^3]
    fixed_kg : float
        Of every coat, where its volume is fixed. [kg]
    paste_m2 : float
        Where a paste goes. [m^2]
    limits : CoatLimits
    """

    total_kg: float
    wall_m: float
    area_m2: float
    carried_m: float
    per_m2_m: float
    fixed_kg: float
    paste_m2: float
    limits: CoatLimits


def coat_count(wall_m: float, coat_wall_m: float) -> int:
    """Number of coats for a wall, when one coat leaves at most `coat_wall_m`."""
    return max(1, math.ceil(wall_m / coat_wall_m - _COAT_NOISE))


def divide(need: Need, school: CoatSchool) -> tuple[Layer, ...]:
    """Divide the resin for a wall into coats.

    Parameters
    ----------
    need : Need
    school : CoatSchool

    Returns
    -------
    tuple of Layer
        Together at least the need; a limit that even the school's division breaks is the finding's
        to tell.
    """
    match school:
        case CoatSchool.FIXED:
            return _fixed(need)
        case CoatSchool.DETAIL:
            return _first_then_equal(need, CoatKind.ROLLED, DETAIL_SHARE, 0.0)
        case CoatSchool.POWDER:
            powder = POWDER_KG_M2 * need.area_m2
            return _first_then_equal(need, CoatKind.POWDER, DETAIL_SHARE, powder)
        case CoatSchool.LONG:
            return (Layer(CoatKind.ROLLED, need.total_kg, need.wall_m),)
        case CoatSchool.PASTE:
            film = need.wall_m * USUAL_UNEVENNESS
            # What is too little to be weighed out is mixed larger, and goes on thicker.
            paste = max(film * need.paste_m2 * need.per_m2_m, LEAST_CUP_KG, need.limits.scale_kg)
            return (*_equal(need, need.total_kg, need.wall_m), Layer(CoatKind.PASTE, paste, film))
        case CoatSchool.CLAY:
            count = coat_count(need.wall_m, CLAY_COAT_M)
            each = Layer(CoatKind.CLAY, need.total_kg / count, need.wall_m / count)
            return (each,) * count
        case _:
            return _equal(need, need.total_kg, need.wall_m)


def _equal(need: Need, kg: float, wall_m: float) -> tuple[Layer, ...]:
    count = coat_count(wall_m, need.carried_m)
    limits = need.limits
    held = min(limits.time_kg, limits.rim_kg, limits.cup_kg)
    # More coats only where that helps: none is so small that it does not reach everywhere.
    if held >= limits.least_kg:
        count = max(count, math.ceil(kg / held - _COAT_NOISE))
    count = min(count, MOST_COATS)
    return (Layer(CoatKind.ROLLED, kg / count, wall_m / count),) * count


def _fixed(need: Need) -> tuple[Layer, ...]:
    count = max(1, math.ceil(need.total_kg / need.fixed_kg - _COAT_NOISE))
    each = Layer(CoatKind.ROLLED, need.fixed_kg, need.wall_m * need.fixed_kg / need.total_kg)
    return (each,) * min(count, MOST_COATS)


def _first_then_equal(
    need: Need, kind: CoatKind, share: float, powder_kg: float
) -> tuple[Layer, ...]:
    film = min(share * need.carried_m, 0.5 * need.wall_m)
    first_kg = need.total_kg * film / need.wall_m
    first = Layer(kind, first_kg, film, powder_kg)
    return (first, *_equal(need, need.total_kg - first_kg, need.wall_m - film))


@dataclass(frozen=True, slots=True)
class FoamBacking:
    """Foam that fills what the skin leaves hollow.

    Parameters
    ----------
    hollow_m3 : float
    kg : float
        A and B of the foam together. [kg]
    expansion : float
        Its volume risen by its volume stirred. [1]
    """

    hollow_m3: float
    kg: float
    expansion: float


def foam_backing(hollow_m3: float) -> FoamBacking:
    """Return the foam for a hollow."""
    return FoamBacking(
        hollow_m3, FOAM_PACKED * FOAM_KG_M3 * hollow_m3, FOAM_LIQUID_KG_M3 / FOAM_KG_M3
    )
