"""Melted clay as it is poured: one part, setting as it cools."""

from mildhusk.core.amounts import Source, Term, given, modelled, source_of
from mildhusk.core.casting.coats import Layer
from mildhusk.core.casting.pourable import TIMES, Pourable, PouredCoat, Timer, pourable_of
from mildhusk.core.casting.rules import MELT_RULES
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.cure.clock import CoatClock, Conditions
from mildhusk.core.cure.cooling import melt_clock
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.kinds import MeltedClay
from mildhusk.core.mixing.recipe import Recipe
from mildhusk.core.mixing.split import Charge, up_to_step
from mildhusk.core.wording import Unit

TEMPERATURE_BAND_K = 1.0
"""A workshop's thermometer (assumed). [K]"""
FILM_BAND = 0.2
"""Of a rolled film about its mean (assumed). [1]"""
READ_TO = 0.01
"""Least charge: the last digit of the scale is this share of it. [1]"""
_BY_COOLING = (
    "By Newton's law of cooling, from when the pot comes off the heat: a film on the mould cools "
    "faster than the pot."
)
_MIXED_IN = ("tint", "filler", "thickener", "thinner", "catalyst")


class Melt(Pourable):
    """A melted clay.

    Parameters
    ----------
    material : MeltedClay
    wish : CastWish

    Raises
    ------
    ConditionError
        Something is to be mixed into it.
    """

    parts = ("clay",)
    whole = "clay to melt"
    rules = MELT_RULES
    basis = RatioBasis.WEIGHT

    def __init__(self, material: MeltedClay, wish: CastWish) -> None:
        self.material: MeltedClay = material
        self._wish = wish
        for name in _MIXED_IN:
            if getattr(wish, name):
                raise ConditionError(
                    f"{material.name} is poured as it is; leave the {name} out.", name
                )

    @property
    def coat_wall_m(self) -> float:
        """Wall that one pour leaves. [m]"""
        return self.material.coat_wall_m

    @property
    def density(self) -> Term:
        """Of the clay. [kg/m^3]"""
        source = source_of(self.material.origin)
        return given("density", self.material.density_kg_m3, Unit.DENSITY, source)

    @property
    def liquid_kg_m3(self) -> float:
        """Of the clay. [kg/m^3]"""
        return self.material.density_kg_m3

    @property
    def part_densities_kg_m3(self) -> tuple[float, float]:
        """Of the clay. [kg/m^3]"""
        return (self.liquid_kg_m3, self.liquid_kg_m3)

    @property
    def smallest_kg(self) -> float:
        """Least weight that can be read to 1 %. [kg]"""
        return self._wish.scale_step_kg / READ_TO

    def largest_kg(self, at: Conditions) -> float:
        """Return no bound: the more is in the pot, the longer it stays liquid. [kg]"""
        return 1e3

    def recipe(self, layer: Layer) -> Recipe:
        """Return the clay of a pour."""
        kg = up_to_step(layer.wanted_kg, self._wish.scale_step_kg)
        clay = Charge(kg, 0.0, kg / self.liquid_kg_m3, 0.0, RatioBasis.WEIGHT)
        return Recipe(clay, 0.0, 0.0, 0.0, 0.0)

    def clock(self, layer: Layer, mixed: Recipe, at: Conditions) -> CoatClock:
        """Return the clock of a pour by its cooling."""
        return melt_clock(self.material, mixed.total_kg, layer.film_m, at.room_k, at.mould_k)

    def stays_kg(self, volume_m3: float) -> float:
        """Return the clay that stays in a wall. [kg]"""
        return volume_m3 * self.material.density_kg_m3

    def timer(self, at: Conditions, largest: PouredCoat, band: float | None) -> Timer:
        """Return what tells the times of the pours, with what a degree and a film change."""
        room = given("room", at.room_k, Unit.TEMPERATURE, Source.WISHED, TEMPERATURE_BAND_K)
        mould = given("mould", at.mould_k, Unit.TEMPERATURE, Source.WISHED, TEMPERATURE_BAND_K)
        typical = source_of(self.material.origin)
        temperatures = [
            given(name, getattr(self.material, field), Unit.TEMPERATURE, typical)
            for name, field in _TEMPERATURES.items()
        ]

        def tell(coat: PouredCoat, suffix: str) -> dict[str, Term]:
            film = given(
                "film of the coat", coat.film_m, Unit.LENGTH, Source.COMPUTED,
                FILM_BAND * coat.film_m,
            )  # fmt: skip
            pot = given("clay in the pot", coat.reacts_kg, Unit.MASS, Source.COMPUTED)
            moved = [
                (room, melt_clock(self.material, coat.reacts_kg, coat.film_m,
                                  at.room_k - TEMPERATURE_BAND_K, at.mould_k), -TEMPERATURE_BAND_K),
                (mould, melt_clock(self.material, coat.reacts_kg, coat.film_m, at.room_k,
                                   at.mould_k - TEMPERATURE_BAND_K), -TEMPERATURE_BAND_K),
                (film, melt_clock(self.material, coat.reacts_kg, (1.0 + FILM_BAND) * coat.film_m,
                                  at.room_k, at.mould_k), FILM_BAND * coat.film_m),
            ]  # fmt: skip

            def when(key: str) -> float:
                value: float = getattr(coat.clock, f"{key}_s")
                found = value
                for term, other, by in moved:
                    slope = (getattr(other, f"{key}_s") - value) / by
                    found = found + slope * (term.uncertain - term.value)
                return found

            return {
                key: modelled(f"{key}{suffix}", name, Unit.TIME, _BY_COOLING, when(key),
                              room, mould, pot, film, *temperatures)
                for key, name in TIMES.items()
            }  # fmt: skip

        return tell


_TEMPERATURES = {
    "out of the pot": "melt_k",
    "poured at": "pour_k",
    "runs no more at": "thick_k",
    "bears the next coat at": "set_k",
    "keeps its shape at": "cool_k",
}


@pourable_of.register
def _(material: MeltedClay, wish: CastWish) -> Pourable:
    return Melt(material, wish)
