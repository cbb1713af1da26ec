"""The cast sheet: what to weigh, how often, when; by the school that is wished."""

import math
from dataclasses import dataclass, replace
from decimal import ROUND_HALF_UP, Decimal

from mildhusk.core.bench import Bench
from mildhusk.core.constants import LOSS_BAND, WEIGHING_TIME_S
from mildhusk.core.cure.asking import retimed
from mildhusk.core.cure.clock import CoatClock, Conditions, coat_clock
from mildhusk.core.cure.model import with_dose
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.shell import ShellCurve, inner_area, shell_volume
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.mixing.cup import Cup, fill_height
from mildhusk.core.mixing.recipe import (
    Premix,
    Recipe,
    filled_density,
    premix,
    recipe,
)
from mildhusk.core.mixing.split import Charge, up_to_step
from mildhusk.core.mould.poured import CLAY_DENSITY_KG_M3
from mildhusk.core.planning.coats import (
    CoatKind,
    FoamBacking,
    Layer,
    Need,
    divide,
    foam_backing,
)
from mildhusk.core.planning.limits import CoatLimits, Limit, coat_limits, spread_s
from mildhusk.core.planning.melted import clay_clock
from mildhusk.core.planning.paste import PASTE_THICKENER, PasteShare, paste_area, shared_out
from mildhusk.core.planning.wish import CastWish, CoatSchool

_CENT = Decimal("0.01")


@dataclass(frozen=True, slots=True)
class CoatPlan:
    """One coat of the sheet.

    Parameters
    ----------
    number : int
        From 1.
    kind : CoatKind
    recipe : Recipe
        What is mixed for it.
    powder_kg : float
        Metal powder that goes onto it. [kg]
    places : tuple of PasteShare
        Where a paste goes, where that was named.
    starts_s : float
        First contact of A and B, from the first contact of coat 1. [s]
    wall_m : float
        Mean wall it adds. [m]
    clock : CoatClock
    binding_limit : Limit
        What would have to give for it to be larger, or has to for it to work.
    fits : bool
        It keeps every limit.
    cup_mark_a_m, cup_mark_full_m : float or None
        Liquid height in the cup with A in it, and with both; None above the brim. [m]
    """

    number: int
    kind: CoatKind
    recipe: Recipe
    powder_kg: float
    places: tuple[PasteShare, ...]
    starts_s: float
    wall_m: float
    clock: CoatClock
    binding_limit: Limit
    fits: bool
    cup_mark_a_m: float | None
    cup_mark_full_m: float | None

    @property
    def charge(self) -> Charge:
        """A and B as the data sheet knows them."""
        return self.recipe.neat


@dataclass(frozen=True, slots=True)
class CastSheet:
    """What to weigh, how often, when. An estimate: the flow in the mould is not simulated.

    Parameters
    ----------
    face, as_on_shelf, wish, bench
        What it was made from.
    resin : CastingResin
        With its times as they were learned.
    conditions : Conditions
        Of every coat.
    limits : CoatLimits
        Of one rolled coat.
    shell_volume_m3 : float
        Resin that stays on the wall. [m^3]
    inner_area_m2 : float
        Area of the inside of the finished wall. [m^2]
    coats : tuple of CoatPlan
    premix : Premix or None
        Part B for the whole job, where something is stirred into it.
    backing : FoamBacking or None
    total_charge_kg : float
        Sum of the charges as they are weighed. [kg]
    resin_kg : float
        A and B of it, as the kit holds them. [kg]
    total_charge_band_kg : tuple of 2 floats
        What the total may really turn out as. [kg]
    cast_kg, trimmed_kg : float
        Weight of the husk before and after skirt and cut-outs are cut away. [kg]
    cost : Decimal
        Of the resin mixed, at the kit's price per weight.
    hands_on_s : float
        Sum of the times from first contact to gel. [s]
    out_after_s : float
        From the first contact of coat 1 to demoulding. [s]
    """

    face: FaceMeasures
    as_on_shelf: CastingResin
    resin: CastingResin
    wish: CastWish
    bench: Bench
    conditions: Conditions
    limits: CoatLimits
    shell_volume_m3: float
    inner_area_m2: float
    coats: tuple[CoatPlan, ...]
    premix: Premix | None
    backing: FoamBacking | None
    total_charge_kg: float
    resin_kg: float
    total_charge_band_kg: tuple[float, float]
    cast_kg: float
    trimmed_kg: float
    cost: Decimal
    hands_on_s: float
    out_after_s: float

    @property
    def resin_in_cast_kg(self) -> float:
        """A and B that stay in the cast. [kg]"""
        if self.wish.school is CoatSchool.CLAY:
            return 0.0
        extras = self.wish.extras
        added = extras.in_b + extras.on_sum
        density = filled_density(self.resin.density_cured_kg_m3, extras)
        return self.shell_volume_m3 * density / (1.0 + added)

    @property
    def largest(self) -> CoatPlan:
        """The coat with the largest charge, the first of them: the one that hurries most."""
        return max(self.coats, key=lambda coat: coat.recipe.total_kg)

    @property
    def cup_kg(self) -> float:
        """A and B in one cup of the largest coat: what its working time holds for. [kg]"""
        return self.largest.charge.total_kg / self.conditions.cups

    @property
    def broken(self) -> CoatPlan | None:
        """The first coat that breaks a limit; None when all fit."""
        return next((coat for coat in self.coats if not coat.fits), None)

    @property
    def last(self) -> CoatPlan:
        """The coat whose cure is waited for."""
        return self.coats[-1]

    @property
    def fits(self) -> bool:
        """Whether every coat keeps every limit."""
        return self.broken is None


def rolled_coats(sheet: CastSheet) -> list[CoatPlan]:
    """Return the coats that are poured and rolled: no paste, no melted clay."""
    return [coat for coat in sheet.coats if coat.kind in (CoatKind.ROLLED, CoatKind.POWDER)]


def plan_cast(
    face: FaceMeasures, resin: CastingResin, wish: CastWish, bench: Bench | None = None
) -> CastSheet:
    """Plan a cast.

    Parameters
    ----------
    face : FaceMeasures
    resin : CastingResin
        As its data sheet says.
    wish : CastWish
    bench : Bench or None
        What is worked with; None is what is usual. The wish's hands and scale stand before it.

    Returns
    -------
    CastSheet

    Raises
    ------
    WallError
        The wall does not fit the piece.
    ConditionError
        A temperature, a charge or a dose for which there is no clock; a filler that packs.

    Notes
    -----
    Charge = shell volume x cured density / (1 - loss), divided as the school has it. Each next coat
    is mixed when the tack window opens and hands are there for it.
    """
    bench = bench or Bench()
    as_on_shelf, resin = resin, retimed(resin, wish.time_factor)
    mixed = with_dose(resin, wish.catalyst)
    curve = ShellCurve.of(face)
    wall = wish.planned_wall_m
    volume = shell_volume(curve, wall)
    cured, liquid = _densities(mixed, wish)
    at = conditions_of(face, wish, bench)
    limits = coat_limits(face, resin, wish, bench, at, (cured, liquid))
    stays = 1.0 - wish.loss
    cast_kg = volume * cured
    need = Need(
        total_kg=cast_kg / stays,
        wall_m=wall,
        area_m2=face.area_m2,
        carried_m=wish.carried_m(resin.coat_wall_m),
        per_m2_m=cured / stays,
        fixed_kg=wish.fixed_m3 * liquid,
        paste_m2=paste_area(wish.paste_places, face.area_m2),
        limits=limits,
    )
    layers = divide(need, wish.school)
    coats = _coats(layers, (resin, mixed), wish, at, limits, bench.cup)
    total = math.fsum(coat.recipe.total_kg + coat.powder_kg for coat in coats)
    resin_kg = math.fsum(coat.charge.total_kg for coat in coats if coat.kind is not CoatKind.CLAY)
    added = sum(layer.wanted_kg * stays for layer in layers if layer.kind is CoatKind.PASTE) + sum(
        layer.powder_kg for layer in layers
    )
    husk_kg = cast_kg + added
    if wish.school is CoatSchool.FIXED:
        # Whole cups are poured, and what is more than wanted stays on the wall too.
        husk_kg = max(husk_kg, total * stays)
    backing = None
    if wish.school is CoatSchool.FOAM:
        backing = foam_backing(max(face.volume_m3 - volume, 0.0))
    return CastSheet(
        face=face,
        as_on_shelf=as_on_shelf,
        resin=resin,
        wish=wish,
        bench=bench,
        conditions=at,
        limits=limits,
        shell_volume_m3=volume,
        inner_area_m2=inner_area(curve, wall),
        coats=coats,
        premix=premix(mixed, tuple(one.recipe for one in coats), wish.extras, wish.scale_step_kg),
        backing=backing,
        total_charge_kg=total,
        resin_kg=resin_kg,
        total_charge_band_kg=_charge_band(total, wish.loss, face.band),
        cast_kg=husk_kg + (0.0 if backing is None else backing.kg),
        trimmed_kg=husk_kg * (1.0 - face.waste_share) + (0.0 if backing is None else backing.kg),
        cost=(resin.price_per_kg * Decimal(repr(resin_kg))).quantize(_CENT, ROUND_HALF_UP),
        hands_on_s=math.fsum(coat.clock.roll_until_s for coat in coats),
        out_after_s=coats[-1].starts_s + coats[-1].clock.demould_s,
    )


def conditions_of(face: FaceMeasures, wish: CastWish, bench: Bench) -> Conditions:
    """Return where the coats of a cast are mixed and cure."""
    room = wish.room_temperature_k
    return Conditions(
        room_k=room,
        mould_k=wish.mould_temperature_k or room,
        parts_k=wish.parts_temperature_k or room,
        catalyst=wish.catalyst,
        cups=wish.hands,
        spread_s=spread_s(face.area_m2, wish, bench),
    )


def _densities(resin: CastingResin, wish: CastWish) -> tuple[float, float]:
    """Return the densities of the mix, cured and liquid. [kg/m^3]"""
    if wish.school is CoatSchool.CLAY:
        return CLAY_DENSITY_KG_M3, CLAY_DENSITY_KG_M3
    b = resin.weight_share_b
    neat = 1.0 / ((1.0 - b) / resin.density_a_kg_m3 + b / resin.density_b_kg_m3)
    return (
        filled_density(resin.density_cured_kg_m3, wish.extras),
        filled_density(neat, wish.extras),
    )


def _coats(
    layers: tuple[Layer, ...],
    resins: tuple[CastingResin, CastingResin],
    wish: CastWish,
    at: Conditions,
    limits: CoatLimits,
    cup: Cup,
) -> tuple[CoatPlan, ...]:
    """Return the coats, of a resin as its times hold for it and as it is mixed."""
    timed, dosed_resin = resins
    coats: list[CoatPlan] = []
    starts = 0.0
    for number, layer in enumerate(layers, start=1):
        mixed = _recipe(layer, dosed_resin, wish)
        clock = _clock(layer, mixed, timed, at)
        by_volume = mixed.neat.basis is RatioBasis.VOLUME and layer.kind is not CoatKind.CLAY
        rolled = layer.kind in (CoatKind.ROLLED, CoatKind.POWDER)
        coats.append(
            CoatPlan(
                number=number,
                kind=layer.kind,
                recipe=mixed,
                powder_kg=layer.powder_kg,
                places=_places(layer, mixed, wish),
                starts_s=starts,
                wall_m=layer.film_m,
                clock=clock,
                binding_limit=limits.binding(layer.wanted_kg),
                # A paste is spread where it is wanted: it need not reach everywhere, nor run.
                fits=not rolled or limits.allows(layer.wanted_kg),
                cup_mark_a_m=fill_height(cup, mixed.neat.a_m3) if by_volume else None,
                cup_mark_full_m=(
                    fill_height(cup, mixed.neat.a_m3 + mixed.b_m3) if by_volume else None
                ),
            )
        )
        starts += ready_for_next_s(clock, wish.hands)
    return tuple(coats)


def _places(layer: Layer, mixed: Recipe, wish: CastWish) -> tuple[PasteShare, ...]:
    if layer.kind is not CoatKind.PASTE:
        return ()
    return shared_out(wish.paste_places, mixed.total_kg, wish.scale_step_kg)


def ready_for_next_s(clock: CoatClock, hands: int) -> float:
    """Return when the next coat is mixed: the window is open, and hands have weighed it. [s]

    One pair of hands rolls until it gels and weighs then; a second weighs meanwhile.
    """
    weighed = clock.roll_until_s + (WEIGHING_TIME_S if hands == 1 else 0.0)
    return max(clock.next_from_s, weighed)


def _recipe(layer: Layer, resin: CastingResin, wish: CastWish) -> Recipe:
    steps = (wish.scale_step_kg, wish.volume_step_m3)
    if layer.kind is CoatKind.CLAY:
        kg = up_to_step(layer.wanted_kg, wish.scale_step_kg)
        clay = Charge(kg, 0.0, kg / CLAY_DENSITY_KG_M3, 0.0, RatioBasis.WEIGHT)
        return Recipe(clay, 0.0, 0.0, 0.0, 0.0)
    extras = wish.extras
    if layer.kind is CoatKind.PASTE:
        extras = replace(extras, thickener=max(extras.thickener, PASTE_THICKENER))
    return recipe(resin, layer.wanted_kg, extras, steps, wish.measure)


def _clock(layer: Layer, mixed: Recipe, resin: CastingResin, at: Conditions) -> CoatClock:
    if layer.kind is CoatKind.CLAY:
        return clay_clock(mixed.total_kg, layer.film_m, at.room_k, at.mould_k)
    # Tint and filler take no part in the reaction, but thinner and all of it fills the cup.
    return coat_clock(resin, at, mixed.neat.total_kg, layer.film_m)


def _charge_band(total_kg: float, loss: float, area_band: float) -> tuple[float, float]:
    """Independent errors of area and loss, added in squares (JCGM 100:2008, 5.1.2)."""
    relative = math.hypot(area_band, LOSS_BAND * loss / (1.0 - loss))
    return (total_kg * (1.0 - relative), total_kg * (1.0 + relative))
