"""A two-part resin as it is poured: mixed by its ratio, setting by its reaction."""

from dataclasses import dataclass, replace
from math import exp
from typing import TYPE_CHECKING

from mildhusk.core.amounts import (
    Origin,
    Source,
    Term,
    bare,
    derived,
    given,
    modelled,
    smaller,
    source_of,
)
from mildhusk.core.casting.coats import CoatKind, Layer
from mildhusk.core.casting.paste import PASTE_THICKENER
from mildhusk.core.casting.pourable import TIMES, Pourable, PouredCoat, Timer, pourable_of
from mildhusk.core.casting.rules import RESIN_RULES
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.constants import MIXING_TIME_S
from mildhusk.core.cure.clock import CoatClock, Conditions, coat_clock
from mildhusk.core.cure.data_sheet import as_learned, largest_cup, working_times
from mildhusk.core.cure.dose import Doses, catalyst_doses, with_dose
from mildhusk.core.cure.kinetics import GAS_CONSTANT
from mildhusk.core.cure.model import cure_model
from mildhusk.core.errors import CoatingError
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.mixing.cup import Cup, fill_height
from mildhusk.core.mixing.ratio import smallest_charge
from mildhusk.core.mixing.recipe import Premix, Recipe, filled_density, premix, recipe
from mildhusk.core.wording import Unit

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastSheet

TEMPERATURE_BAND_K = 1.0
"""A workshop's thermometer, and the mould against the air (assumed). [K]"""
SHEET_BAND = {Origin.OWN_SHEET: 0.05, Origin.TYPICAL: 0.15}
"""Times of a data sheet from lot to lot; of a class, from maker to maker (assumed). [1]"""
LEARNED_BAND = 0.05
"""Times that measured gel times have corrected (assumed). [1]"""
ACTIVATION_BAND = 0.15
"""Activation energies within a class (assumed). [1]"""
FILM_BAND = 0.2
"""Of a rolled film about its mean (assumed). [1]"""

_BY_HEAT = (
    "By the rate and the heat of the reaction, fitted to the data sheet's cup: a coat is a film on "
    "the mould, which runs cooler than the cup and gels later (activation is the class's, and so "
    "is heat where the data sheet gives no peak)."
)
_IN_THE_CUP = (
    "The working time of this charge in its cup at this temperature, by rate and heat of the "
    "reaction."
)


class TwoPart(Pourable):
    """A two-part resin, its times as they were learned, dosed and filled as wished.

    Parameters
    ----------
    material : CastingResin
        As its data sheet says.
    wish : CastWish

    Raises
    ------
    ConditionError
        A dose out of range, or of a resin that takes none.
    """

    parts = ("A", "B")
    rules = RESIN_RULES

    def __init__(self, material: CastingResin, wish: CastWish) -> None:
        self.material: CastingResin = material
        self.resin = as_learned(material, wish.time_factor, wish.viscosity_factor)
        self.mixed = with_dose(self.resin, wish.catalyst)
        self.basis = wish.measure or self.mixed.ratio_basis
        self._wish = wish

    @property
    def coat_wall_m(self) -> float:
        """Wall that one coat by hand leaves. [m]"""
        return self.resin.coat_wall_m

    @property
    def density(self) -> Term:
        """Of the cured mix, by volumes; tint counts as resin. [kg/m^3]"""
        resin, extras = self.resin, self._wish.extras
        neat = given(
            "cured density" if not extras.filler else "density of the resin",
            resin.density_cured_kg_m3, Unit.DENSITY, source_of(resin.origin),
        )  # fmt: skip
        if not extras.filler:
            return neat
        return derived(
            "", "cured density", Unit.DENSITY,
            "(1 + share of filler) ÷ "
            "(1 ÷ density of the resin + share of filler ÷ density of the filler)",
            lambda d, f, p: (1.0 + f) / (1.0 / d + f / p),
            neat,
            given("share of filler", extras.filler, Unit.SHARE, Source.WISHED),
            given("density of the filler", extras.filler_density_kg_m3, Unit.DENSITY,
                  Source.WISHED),
            words="Of the filled resin, by volumes.",
        )  # fmt: skip

    @property
    def liquid_kg_m3(self) -> float:
        """Density of the fresh mix. [kg/m^3]"""
        b = self.mixed.weight_share_b
        neat = 1.0 / ((1.0 - b) / self.mixed.density_a_kg_m3 + b / self.mixed.density_b_kg_m3)
        return filled_density(neat, self._wish.extras)

    @property
    def part_densities_kg_m3(self) -> tuple[float, float]:
        """Of A and of B. [kg/m^3]"""
        return (self.resin.density_a_kg_m3, self.resin.density_b_kg_m3)

    @property
    def smallest_kg(self) -> float:
        """Least charge whose smaller part can be read to 1 %. [kg]"""
        wish = self._wish
        return smallest_charge(self.mixed, self.basis, wish.scale_step_kg, wish.volume_step_m3)

    @property
    def doses(self) -> Doses | None:
        """Doses of catalyst it takes; None where it takes none."""
        return catalyst_doses(self.resin)

    def largest_kg(self, at: Conditions) -> float:
        """Return the largest charge that is mixed and spread within its working time. [kg]"""
        times = working_times(self.resin, at.parts_k, at.room_k, at.catalyst)
        return at.cups * largest_cup(times, MIXING_TIME_S + at.spread_s)

    def recipe(self, layer: Layer) -> Recipe:
        """Return A and B with what is mixed in; a paste takes thickener."""
        extras = self._wish.extras
        if layer.kind is CoatKind.PASTE:
            extras = replace(extras, thickener=max(extras.thickener, PASTE_THICKENER))
        steps = (self._wish.scale_step_kg, self._wish.volume_step_m3)
        return recipe(self.mixed, layer.wanted_kg, extras, steps, self.basis)

    def clock(self, layer: Layer, mixed: Recipe, at: Conditions) -> CoatClock:
        """Return the clock of a coat by its cure."""
        # Tint and filler take no part in the reaction, but thinner and all of it fills the cup.
        return coat_clock(self.resin, at, mixed.neat.total_kg, layer.film_m)

    def premix(self, recipes: tuple[Recipe, ...]) -> Premix | None:
        """Return part B for the whole job; None where nothing is stirred into it."""
        return premix(self.mixed, recipes, self._wish.extras, self._wish.scale_step_kg)

    def marks(self, cup: Cup, mixed: Recipe) -> dict[str, float | None]:
        """Return the heights of A, and of both, where they are measured by volume. [m]"""
        if mixed.neat.basis is RatioBasis.WEIGHT:
            return {"A": None, "A+B": None}
        return {
            "A": fill_height(cup, mixed.neat.a_m3),
            "A+B": fill_height(cup, mixed.neat.a_m3 + mixed.b_m3),
        }

    def stays_kg(self, volume_m3: float) -> float:
        """Return what of A and B stays in a wall. [kg]"""
        extras = self._wish.extras
        density = filled_density(self.resin.density_cured_kg_m3, extras)
        return volume_m3 * density / (1.0 + extras.in_b + extras.on_sum)

    def timer(self, at: Conditions, largest: PouredCoat, band: float | None) -> Timer:
        """Return what tells the times of the coats, with what each input's band changes of them.

        Notes
        -----
        Temperature and film by solving the cure of the largest coat again with each moved by its
        half width; the times of the data sheet in proportion; the activation energy by its effect
        at the mould's temperature. Other coats change in the same proportion.
        """
        inputs = self._inputs(at, largest, band)
        changes = _changes(self.resin, at, largest)

        def tell(coat: PouredCoat, suffix: str) -> dict[str, Term]:
            film = given(
                "film of the coat", coat.film_m, Unit.LENGTH, Source.COMPUTED,
                FILM_BAND * coat.film_m,
            )  # fmt: skip
            # The film of one coat is off as that of another is.
            spread = (inputs.film.uncertain - inputs.film.value) / (FILM_BAND * inputs.film.value)
            film = Term(film.amount, film.value * (1.0 + FILM_BAND * spread))
            told = {}
            for key in TIMES:
                sheet = inputs.sheet_times[key]
                time = getattr(coat.clock, f"{key}_s")
                told[key] = modelled(
                    f"{key}{suffix}", TIMES[key], Unit.TIME, _BY_HEAT,
                    _changed(time, changes[key], inputs, sheet),
                    sheet, inputs.standard, inputs.room, inputs.mould, inputs.mixed_at, film,
                    inputs.activation, *inputs.peak,
                )  # fmt: skip
            told["pour_by"] = self._pour_by(at, coat, suffix, inputs, changes)
            return told

        return tell

    def _pour_by(
        self,
        at: Conditions,
        coat: PouredCoat,
        suffix: str,
        inputs: "_Inputs",
        changes: dict[str, "_Changes"],
    ) -> Term:
        sheet = inputs.sheet_times["pour_by"]
        working = modelled(
            "", "working time", Unit.TIME, _IN_THE_CUP,
            _changed(coat.clock.working_time_s, changes["working_time"], inputs, sheet),
            sheet, inputs.standard, inputs.room, inputs.mixed_at,
            given("charge in the cup", coat.reacts_kg / at.cups, Unit.MASS, Source.COMPUTED),
            inputs.activation, *inputs.peak,
        )  # fmt: skip
        return derived(
            f"pour_by{suffix}", TIMES["pour_by"], Unit.TIME,
            "working time − min(covering the mould, working time ÷ 2)",
            lambda work, cover: work - smaller(cover, work / 2.0),
            working,
            given("covering the mould", at.spread_s, Unit.TIME, Source.WORKSHOP_PACE),
            words="Mixing lies within it; what is left covers the mould once.",
        )  # fmt: skip

    def _inputs(self, at: Conditions, largest: PouredCoat, band: float | None) -> "_Inputs":
        resin, learned = self.resin, self._wish.time_factor != 1.0
        is_taught = learned or band is not None
        source = Source.LEARNED if is_taught else source_of(resin.origin)
        usual = LEARNED_BAND if learned else SHEET_BAND[resin.origin]
        share = usual if band is None else band / self._wish.time_factor
        of_sheet = {
            "pour_by": resin.working_time_s,
            "roll_until": resin.gel_s,
            "next_from": resin.tack_from_s,
            "next_until": resin.tack_until_s,
            "demould": resin.demould_s,
        }
        # All times of a data sheet are off together, as one lot differs from another.
        lot = given("the data sheet's times", 1.0, Unit.SHARE, source, share)
        times = {
            key: Term(
                bare("data sheet's time", time, Unit.TIME, source, share * time),
                time * lot.uncertain,
            )
            for key, time in of_sheet.items()
        }  # fmt: skip
        room = given("room", at.room_k, Unit.TEMPERATURE, Source.WISHED, TEMPERATURE_BAND_K)
        activation = cure_model(resin).kinetics.activation_j_mol
        peak = resin.peak_exotherm_k
        return _Inputs(
            sheet_times=times,
            standard=given("data sheet's temperature", resin.standard_temperature_k,
                           Unit.TEMPERATURE, source_of(resin.origin)),
            room=room,
            mould=_warm_as(room, "mould", at.mould_k),
            mixed_at=_warm_as(room, "A and B", at.parts_k),
            film=given("film of the largest coat", largest.film_m, Unit.LENGTH, Source.COMPUTED,
                       FILM_BAND * largest.film_m),
            activation=given("class's activation energy", activation, Unit.ENERGY, Source.CLASS,
                             ACTIVATION_BAND * activation),
            peak=() if peak is None else (
                given("data sheet's peak exotherm", peak, Unit.TEMPERATURE,
                      source_of(resin.origin)),
            ),
        )  # fmt: skip


@pourable_of.register
def _(material: CastingResin, wish: CastWish) -> Pourable:
    return TwoPart(material, wish)


def two_part_of(sheet: "CastSheet") -> TwoPart:
    """Return the resin a cast is simulated with.

    Raises
    ------
    CoatingError
        What sets by cooling is not simulated.
    """
    if not isinstance(sheet.pourable, TwoPart):
        raise CoatingError(
            f"{sheet.as_on_shelf.name} sets by cooling, which is not simulated; choose a resin.",
            "material_id",
        )
    return sheet.pourable


@dataclass(frozen=True, slots=True)
class _Inputs:
    """What the times of a sheet's coats hang on; shared, so that their errors are too."""

    sheet_times: dict[str, Term]
    standard: Term
    room: Term
    mould: Term
    mixed_at: Term
    film: Term
    activation: Term
    peak: tuple[Term, ...]


@dataclass(frozen=True, slots=True)
class _Changes:
    """What half a band of an input changes of a time, as a share of it. [1]"""

    warmer: float
    thicker: float
    energy: float


def _warm_as(room: Term, name: str, kelvin: float) -> Term:
    """A temperature that is off as the room's is: one thermometer, one workshop."""
    amount = bare(name, kelvin, Unit.TEMPERATURE, Source.WISHED, TEMPERATURE_BAND_K)
    return Term(amount, kelvin + (room.uncertain - room.value))


def _changes(resin: CastingResin, at: Conditions, largest: PouredCoat) -> dict[str, _Changes]:
    warm = replace(
        at,
        room_k=at.room_k + TEMPERATURE_BAND_K,
        mould_k=at.mould_k + TEMPERATURE_BAND_K,
        parts_k=at.parts_k + TEMPERATURE_BAND_K,
    )
    warmer = coat_clock(resin, warm, largest.reacts_kg, largest.film_m)
    thicker = coat_clock(resin, at, largest.reacts_kg, (1.0 + FILM_BAND) * largest.film_m)
    activation = cure_model(resin).kinetics.activation_j_mol
    cold = 1.0 / at.mould_k - 1.0 / resin.standard_temperature_k
    energy = abs(exp(ACTIVATION_BAND * activation / GAS_CONSTANT * cold) - 1.0)
    changes = {}
    for key in ("working_time", *TIMES):
        time = max(getattr(largest.clock, f"{key}_s"), 1e-9)
        changes[key] = _Changes(
            (getattr(warmer, f"{key}_s") - time) / time,
            (getattr(thicker, f"{key}_s") - time) / time,
            energy,
        )
    return changes


def _changed(time_s: float, changes: _Changes, inputs: _Inputs, sheet: Term) -> float:
    """Return a time with what every input's band changes of it."""
    warmer = (inputs.room.uncertain - inputs.room.value) / TEMPERATURE_BAND_K
    thicker = (inputs.film.uncertain - inputs.film.value) / (FILM_BAND * inputs.film.value)
    energy = (inputs.activation.uncertain - inputs.activation.value) / (
        ACTIVATION_BAND * inputs.activation.value
    )
    # In proportion to the sheet's own time.
    lot = sheet.uncertain / sheet.value - 1.0
    return time_s * (
        1.0 + lot + changes.warmer * warmer + changes.thicker * thicker + changes.energy * energy
    )
