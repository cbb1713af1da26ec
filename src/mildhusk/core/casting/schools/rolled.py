"""Schools that only roll resin: equal, fixed volumes, a detail coat, a machine, one roll."""

from mildhusk.core.amounts import Source, Term, derived, given, larger
from mildhusk.core.casting.coats import (
    MOST_COATS,
    CoatKind,
    Layer,
    Need,
    equal_layers,
    whole_number,
)
from mildhusk.core.casting.limits import POUR_S
from mildhusk.core.casting.schools.base import Husk, School
from mildhusk.core.casting.wish import CastWish, CoatSchool
from mildhusk.core.equipment import Equipment
from mildhusk.core.wording import Unit

MACHINE_CARRIES = 1.8
"""A machine never rests, and carries so much more in one coat than hands do (assumed)."""
MACHINE_SPREAD_S = 20.0
"""A machine covers a mould in about one turn of each axis (assumed)."""
DETAIL_SHARE = 0.5
"""A detail coat is so thick as a share of what one coat leaves (assumed)."""


class Equal(School):
    """Every charge alike."""

    key = CoatSchool.EQUAL
    name = "equal charges"
    when = "The usual way: every cup alike, nothing to mix up at the bench."
    explains_more_coats = True

    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Divide into equal coats within the limits."""
        return equal_layers(need, need.total_kg, need.wall_m)


class Machine(Equal):
    """Few big charges on a machine."""

    key = CoatSchool.MACHINE
    name = "few big ones on a machine"
    when = "When a machine turns the mould: it never rests, so a coat may be thicker."

    def carried_m(self, usual_m: float) -> float:
        """Return the wall that one coat leaves on a machine. [m]"""
        return usual_m * MACHINE_CARRIES

    def spread_s(self, area_m2: float, wish: CastWish, equipment: Equipment) -> float:
        """Return how long a machine takes to cover the mould once. [s]"""
        return POUR_S + MACHINE_SPREAD_S


class FixedVolume(School):
    """One size of cup, filled to one mark."""

    key = CoatSchool.FIXED
    name = "small fixed volumes"
    when = "When one size of cup is filled to one mark: more coats, each easily spread in time."

    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Divide into as many whole cups as the wall takes."""
        count = max(1, whole_number(need.total_kg / need.fixed_kg))
        each = Layer(need.kind, need.fixed_kg, need.wall_m * need.fixed_kg / need.total_kg)
        return (each,) * min(count, MOST_COATS)

    def to_mix(self, husk: Husk) -> Term:
        """Return what the whole cups weigh. [kg]"""
        return derived(
            "", "whole cups", Unit.MASS, "cups × volume of a cup × density of the mix",
            lambda n, v, d: n * v * d,
            given("cups", len(husk.layers), Unit.COUNT, Source.COMPUTED),
            given("volume of a cup", husk.wish.fixed_m3, Unit.VOLUME, Source.WISHED),
            given("density of the mix", husk.liquid_kg_m3, Unit.DENSITY, Source.COMPUTED),
        )  # fmt: skip

    def skin(self, husk: Husk) -> Term:
        """Return the husk's weight: what is poured beyond the need stays on the wall too. [kg]"""
        mixed = given("resin mixed", husk.mixed_kg, Unit.MASS, Source.COMPUTED)
        return derived(
            "", "set on the wall, whole cups", Unit.MASS,
            "max(set on the wall, resin mixed × (1 − loss))",
            lambda wall, mix, loss: larger(wall, mix * (1.0 - loss)),
            husk.on_wall, mixed, husk.loss,
        )  # fmt: skip


class Detail(School):
    """A thin first coat that runs into every line."""

    key = CoatSchool.DETAIL
    name = "thin detail coat first"
    when = "For fine surfaces: a thin first coat runs into every line and carries no bubbles there."

    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Divide into a thin first coat and equal ones."""
        return thin_first(need, CoatKind.ROLLED, 0.0)


class LongRoll(School):
    """One coat of a slow resin."""

    key = CoatSchool.LONG
    name = "one long roll"
    when = "For a slow resin and patience: no seams between coats, but what gels last pools."

    def divide(self, need: Need) -> tuple[Layer, ...]:
        """Leave it undivided."""
        return (Layer(need.kind, need.total_kg, need.wall_m),)


def thin_first(need: Need, kind: CoatKind, powder_kg: float) -> tuple[Layer, ...]:
    """Divide into a thin first coat of a kind and equal ones behind it.

    Parameters
    ----------
    need : Need
    kind : CoatKind
        Of the first coat.
    powder_kg : float
        That goes onto it. [kg]

    Returns
    -------
    tuple of Layer
    """
    film = min(DETAIL_SHARE * need.carried_m, 0.5 * need.wall_m)
    first_kg = need.total_kg * film / need.wall_m
    first = Layer(kind, first_kg, film, powder_kg)
    return (first, *equal_layers(need, need.total_kg - first_kg, need.wall_m - film))
