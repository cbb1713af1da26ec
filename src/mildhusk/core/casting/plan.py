"""The cast sheet: what to weigh, how often, when; by the school that is wished."""

import math
from dataclasses import dataclass, replace
from decimal import Decimal

from mildhusk.core.amounts import Amount
from mildhusk.core.casting import melt, two_part  # noqa: F401 - each tells how it is poured
from mildhusk.core.casting.coats import FLOWING, CoatKind, Layer, Need
from mildhusk.core.casting.figures import Figures, figures_of
from mildhusk.core.casting.learned_bands import NOTHING_LEARNED, LearnedBands
from mildhusk.core.casting.limits import CUP_FILL, LEAST_FILM_M, RIM_SHARE, CoatLimits, Limit
from mildhusk.core.casting.paste import PasteShare, paste_area, shared_out
from mildhusk.core.casting.pourable import Pourable, pourable_of
from mildhusk.core.casting.schools import SCHOOLS, School
from mildhusk.core.casting.schools.base import FoamBacking, SchoolWords
from mildhusk.core.casting.timeline import Stretch, ready_for_next_s, timeline
from mildhusk.core.casting.unevenness import (
    StandsOn,
    Unevenness,
    estimated_unevenness,
    with_turning,
)
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.coating.motion import motion_named, motion_of_coat
from mildhusk.core.coating.turning import LeastWall, Pour
from mildhusk.core.cure.clock import CoatClock, Conditions
from mildhusk.core.cure.dose import Doses
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import ConditionError
from mildhusk.core.findings import Finding
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.wall_volume import ShellCurve, inner_area, shell_volume
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.materials.cautions import (
    CASTING,
    USUAL_CAUTION,
    OperationCautions,
    cautions_for,
)
from mildhusk.core.mixing.recipe import Premix, Recipe


@dataclass(frozen=True, slots=True)
class Parts:
    """The two parts of a charge; what has one part has nothing of B."""

    A: float
    B: float


@dataclass(frozen=True, slots=True)
class Added:
    """What goes into a charge beside A and B. [kg]"""

    thickener: float
    thinner: float
    powder: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatPlan:
    """One coat of the sheet; its times run from its own first contact of A and B.

    Parameters
    ----------
    number : int
        From 1.
    kind : CoatKind
    charge_kg : float
        All that is weighed. [kg]
    parts_kg, parts_m3 : Parts
        Part B as it is weighed, with its share of tint and filler. [kg], [m^3]
    added_kg : Added
    places : tuple of PasteShare
        Where a paste goes, where that was named.
    cup_marks_m : dict of str to float or None
        Liquid height in the cup with A in it, and with both; None above the brim. [m]
    wall_m : float
        Mean wall it adds. [m]
    binding_limit : Limit
        What would have to give for it to be larger, or has to for it to work.
    fits : bool
        It keeps every limit.
    starts_s : float
        Its first contact, from the first contact of coat 1. [s]
    pour_by_s, roll_until_s, next_from_s, next_until_s : float
        See `CoatClock`; of the last coat the tack window all the same, as one more could go on. [s]
    motion : str
        How the mould is turned meanwhile, by its name; empty where that is not said.
    """

    number: int
    kind: CoatKind
    charge_kg: float
    parts_kg: Parts
    parts_m3: Parts
    added_kg: Added
    places: tuple[PasteShare, ...]
    cup_marks_m: dict[str, float | None]
    wall_m: float
    binding_limit: Limit
    fits: bool
    starts_s: float
    pour_by_s: float
    roll_until_s: float
    next_from_s: float
    next_until_s: float
    motion: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetCoat(CoatPlan):
    """A coat with what it was made from.

    Parameters
    ----------
    layer : Layer
    recipe : Recipe
    clock : CoatClock
    """

    layer: Layer
    recipe: Recipe
    clock: CoatClock

    @property
    def reacts_kg(self) -> float:
        """What of the charge takes part in setting. [kg]"""
        return self.recipe.neat.total_kg


@dataclass(frozen=True, slots=True)
class Largest:
    """The coat with the largest charge, and what of its parts is in one cup of it."""

    number: int
    cup_kg: float


@dataclass(frozen=True, slots=True)
class ChargeEstimate:
    """What all coats weigh by formulas alone, and between what they may really come to. [kg]"""

    total_charge_kg: float
    low_kg: float
    high_kg: float


@dataclass(frozen=True, slots=True)
class ThinPlace:
    """A place that stays under the least wall: its name, size and mean wall. [m^2], [m]"""

    place: str
    area_m2: float
    wall_m: float


@dataclass(frozen=True, slots=True)
class SheetWall:
    """The wall that the coats of a plan leave, as it was simulated.

    Parameters
    ----------
    mean_m, p05_m, p01_m : float
        The mean of the whole face, and what 95 % and 99 % of the kept face have at least. [m]
    share_under : float
        Of it, what is thinner than the least wall. [1]
    never_wet : float
        Of the face, what no coat wets. [1]
    puddle_kg, spilt_kg, lid_kg : float
        [kg]
    paste_kg : float
        That fills the thin places up to the least wall. [kg]
    thin : tuple of ThinPlace
        The largest first.
    """

    mean_m: float
    p05_m: float
    p01_m: float
    share_under: float
    never_wet: float
    puddle_kg: float
    spilt_kg: float
    lid_kg: float
    paste_kg: float
    thin: tuple[ThinPlace, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CastPlan:
    """What to weigh, how often, when.

    Parameters
    ----------
    estimate : ChargeEstimate
    stands_on : StandsOn
        What is known of how the coats land.
    motion : str or None
        How the mould is turned, by its name; None where that is not said.
    lid : bool
        A lid closes every opening.
    pour : Pour or None
        Where a charge goes in; None where that is not said, or no opening stays open.
    least : LeastWall
        What part of the face the least wall is meant for.
    wall : SheetWall or None
        None before it was simulated.
    fits : bool
        Every coat keeps every limit.
    area_m2 : float
        Casting face. [m^2]
    planned_wall_m : float
        The even wall that takes as much resin as this cast. [m]
    shell_volume_m3 : float
        Resin that stays on the wall. [m^3]
    total_charge_kg : float
        Sum of the charges as they are weighed. [kg]
    total_charge_band_kg : tuple of 2 floats
        What the total may really turn out as. [kg]
    resin_kg : float
        Of it, what the kit holds: A and B. [kg]
    cast_kg, trimmed_kg : float
        Weight of the husk before and after skirt and cut-outs are cut away. [kg]
    cost : Decimal
        Of what is mixed, at the kit's price per weight.
    hands_on_s : float
        Sum of the times from first contact to gel. [s]
    demould_s, full_cure_s : float
        From the first contact of the last coat. [s]
    out_after_s : float
        From the first contact of coat 1 to demoulding. [s]
    ratio_basis : str
        Whether parts are weighed or measured.
    measured_parts : tuple of str
        What is measured out, part by part.
    scale_step_kg : float
        Last digit of the scale it is weighed on. [kg]
    time_factor : float
        On the resin's times, as pours taught. [1]
    school : SchoolWords
    limits : CoatLimits
        Of one rolled coat.
    catalyst : Doses or None
        That it takes.
    premix : Premix or None
        Part B for the whole job, where something is stirred into it.
    foam : FoamBacking or None
    largest : Largest
    coats : tuple of CoatPlan
    ribbon : tuple of Stretch
        What hands and resin do, on one clock.
    figures : tuple of Amount
        Every figure with its terms; the values above are theirs.
    findings : tuple of Finding
        The gravest first; none before somebody looked for them.
    cautions : tuple of str
    operations : tuple of OperationCautions
    """

    estimate: ChargeEstimate
    stands_on: StandsOn
    wall: SheetWall | None = None
    motion: str | None
    lid: bool
    pour: Pour | None
    least: LeastWall
    fits: bool
    area_m2: float
    planned_wall_m: float
    shell_volume_m3: float
    total_charge_kg: float
    total_charge_band_kg: tuple[float, float]
    resin_kg: float
    cast_kg: float
    trimmed_kg: float
    cost: Decimal
    hands_on_s: float
    demould_s: float
    full_cure_s: float
    out_after_s: float
    ratio_basis: str
    measured_parts: tuple[str, ...]
    scale_step_kg: float
    time_factor: float
    school: SchoolWords
    limits: CoatLimits
    catalyst: Doses | None
    premix: Premix | None
    foam: FoamBacking | None
    largest: Largest
    coats: tuple[CoatPlan, ...]
    ribbon: tuple[Stretch, ...]
    figures: tuple[Amount, ...]
    findings: tuple[Finding, ...] = ()
    cautions: tuple[str, ...]
    operations: tuple[OperationCautions, ...]

    def figure(self, key: str) -> Amount:
        """Return a figure by its key."""
        return next(one for one in self.figures if one.key == key)


@dataclass(frozen=True, slots=True, kw_only=True)
class CastSheet(CastPlan):
    """A plan with what it was made from.

    Parameters
    ----------
    face, as_on_shelf, wish, equipment
        What it was made from; what is usual for the piece is put into the wish.
    uneven : Unevenness or None
        None for an even wall.
    pourable : Pourable
        The material as it is poured.
    conditions : Conditions
        Of every coat.
    inner_area_m2 : float
        Area of the inside of the finished wall. [m^2]
    coats : tuple of SheetCoat
    """

    face: FaceMeasures
    as_on_shelf: CastingMaterial
    pourable: Pourable
    wish: CastWish
    uneven: Unevenness | None
    equipment: Equipment
    conditions: Conditions
    inner_area_m2: float
    coats: tuple[SheetCoat, ...]

    @property
    def way(self) -> School:
        """The school it is divided by."""
        return SCHOOLS[self.wish.school]

    @property
    def stays_kg(self) -> float:
        """What of the parts, as the kit holds them, stays in the cast. [kg]"""
        return self.pourable.stays_kg(self.shell_volume_m3)

    @property
    def heaviest(self) -> SheetCoat:
        """The coat with the largest charge, the first of them: the one that hurries most."""
        return self.coats[self.largest.number - 1]

    @property
    def broken(self) -> SheetCoat | None:
        """The first coat that breaks a limit; None when all fit."""
        return next((coat for coat in self.coats if not coat.fits), None)


def rolled_coats(sheet: CastSheet) -> list[SheetCoat]:
    """Return the coats that are poured and rolled until they gel: no paste, no melted clay."""
    return [coat for coat in sheet.coats if coat.kind in FLOWING]


def plan_cast(
    face: FaceMeasures,
    material: CastingMaterial,
    wish: CastWish,
    equipment: Equipment | None = None,
    uneven: Unevenness | None = None,
    bands: LearnedBands = NOTHING_LEARNED,
) -> CastSheet:
    """Plan a cast.

    Parameters
    ----------
    face : FaceMeasures
    material : CastingMaterial
        A resin or a melted clay, as its data sheet says.
    wish : CastWish
    equipment : Equipment or None
        What is worked with; None is what is usual. The wish's hands and scale stand before it.
    uneven : Unevenness or None
        As a simulation of this cast found it; None is the estimate, where it is said how the mould
        is turned.
    bands : LearnedBands
        Of those values of the wish that pours taught.

    Returns
    -------
    CastSheet

    Raises
    ------
    WallError
        The wall does not fit the piece.
    ConditionError
        A temperature, a charge or a dose for which there is no clock; a filler that packs; a school
        that does not pour such a material; an open mould turned upside down.

    Notes
    -----
    Charge = volume of the even wall x cured density / (1 - loss) / (1 - lid and rim), divided as
    the school has it; the even wall is the least one over how thin the wall is where it counts.
    Each next coat is mixed when the tack window opens and hands are there for it.
    """
    equipment = equipment or Equipment()
    made = _divided(face, material, wish, equipment, uneven)
    wish, uneven = made.wish, made.uneven
    school, pourable, at = made.school, made.pourable, made.at
    coats = made.coats(wish, equipment)
    heaviest = max(coats, key=lambda coat: coat.recipe.total_kg)
    figures: Figures = figures_of(
        face, pourable, school, wish, at, made.limits, equipment, coats, heaviest, uneven, bands
    )
    last = coats[-1].clock
    return CastSheet(
        face=face,
        as_on_shelf=material,
        pourable=pourable,
        wish=wish,
        uneven=uneven,
        equipment=equipment,
        conditions=at,
        inner_area_m2=inner_area(made.curve, made.wall_m),
        estimate=ChargeEstimate(
            figures["total_charge"].value, figures["total_charge"].low, figures["total_charge"].high
        ),
        stands_on=StandsOn.EVEN if uneven is None else uneven.stands_on,
        motion=None if uneven is None else wish.motion,
        lid=uneven is not None and wish.lid,
        pour=wish.pour if uneven is not None and face.openings and not wish.lid else None,
        least=wish.least,
        fits=made.fits,
        area_m2=face.area_m2,
        planned_wall_m=made.wall_m,
        shell_volume_m3=figures["shell_volume"].value,
        total_charge_kg=figures["total_charge"].value,
        total_charge_band_kg=(figures["total_charge"].low, figures["total_charge"].high),
        resin_kg=figures["resin"].value,
        cast_kg=figures["cast_weight"].value,
        trimmed_kg=figures["trimmed_weight"].value,
        cost=Decimal(f"{figures['cost'].value:.2f}"),
        hands_on_s=figures["hands_on"].value,
        demould_s=last.demould_s,
        full_cure_s=last.full_cure_s,
        out_after_s=figures["out_after"].value,
        ratio_basis=str(pourable.basis),
        measured_parts=pourable.parts,
        scale_step_kg=wish.scale_step_kg,
        time_factor=wish.time_factor,
        school=school.words,
        limits=made.limits,
        catalyst=pourable.doses,
        premix=pourable.premix(tuple(one.recipe for one in coats)),
        foam=figures.foam,
        largest=Largest(heaviest.number, heaviest.reacts_kg / at.cups),
        coats=coats,
        ribbon=timeline(coats, wish.hands),
        figures=figures.amounts,
        cautions=(*material.hazards, USUAL_CAUTION),
        operations=cautions_for(CASTING, (material,)),
    )


def cast_fits(
    face: FaceMeasures, material: CastingMaterial, wish: CastWish, equipment: Equipment
) -> bool:
    """Whether every coat of a cast keeps every limit: a plan without its figures and bands.

    Parameters
    ----------
    face : FaceMeasures
    material : CastingMaterial
    wish : CastWish
    equipment : Equipment

    Returns
    -------
    bool

    Raises
    ------
    WallError, ConditionError
        As `plan_cast`.
    """
    made = _divided(face, material, wish, equipment, None)
    # What has no clock cannot be poured either; but most tries fail at a limit, which costs less.
    return made.fits and len(made.coats(made.wish, equipment)) > 0


@dataclass(frozen=True, slots=True)
class _Divided:
    """A cast divided into layers, before anything is told of them."""

    school: School
    wish: CastWish
    uneven: Unevenness | None
    pourable: Pourable
    curve: ShellCurve
    wall_m: float
    at: Conditions
    limits: CoatLimits
    layers: tuple[Layer, ...]

    @property
    def fits(self) -> bool:
        return all(_keeps(layer, self.limits) for layer in self.layers)

    def coats(self, wish: CastWish, equipment: Equipment) -> tuple[SheetCoat, ...]:
        return _coats(self.layers, self.pourable, wish, self.at, self.limits, equipment)


def _keeps(layer: Layer, limits: CoatLimits) -> bool:
    # A paste is spread where it is wanted: it need not reach everywhere, nor run.
    return layer.kind not in FLOWING or limits.allows(layer.wanted_kg)


def _divided(
    face: FaceMeasures,
    material: CastingMaterial,
    wish: CastWish,
    equipment: Equipment,
    uneven: Unevenness | None,
) -> _Divided:
    school = _school_for(material, wish)
    wish = with_turning(wish, face, equipment)
    pourable = pourable_of(material, wish)
    curve = ShellCurve.of(face)
    uneven = _unevenness(face, material, wish, school, uneven)
    wall_m = wish.wall_m * (1.0 + school.allowance(wish))
    stays = 1.0 - wish.loss
    if uneven is not None:
        wall_m = wish.wall_m / uneven.thin_share
        stays *= 1.0 - uneven.astray_share
    volume_m3 = wish.area_factor * shell_volume(curve, wall_m)
    at = _conditions(face, wish, equipment, school)
    density = pourable.density.value
    carried_m = school.carried_m(pourable.coat_wall_m)
    per_m2_m = wish.area_factor * density / stays
    limits = _limits(face, pourable, equipment, at, per_m2_m, carried_m)
    layers = school.divide(
        Need(
            total_kg=volume_m3 * density / stays,
            wall_m=wall_m,
            area_m2=face.area_m2,
            carried_m=carried_m,
            per_m2_m=per_m2_m,
            fixed_kg=wish.fixed_m3 * pourable.liquid_kg_m3,
            coats=wish.coats or (None if uneven is None else uneven.coats),
            paste_m2=paste_area(wish.paste_places, face.area_m2),
            limits=limits,
            kind=school.plain_coat,
        )
    )
    return _Divided(school, wish, uneven, pourable, curve, wall_m, at, limits, layers)


def _unevenness(
    face: FaceMeasures,
    material: CastingMaterial,
    wish: CastWish,
    school: School,
    found: Unevenness | None,
) -> Unevenness | None:
    """Return how uneven the wall comes out; None where that is not told, or sets by cooling."""
    if wish.motion is None or not isinstance(material, CastingResin):
        return None
    if found is None:
        motion = motion_named(wish.motion)
        found = estimated_unevenness(face, material, motion, wish.least, lid=wish.lid)
        found = replace(found, thin_share=found.thin_share**wish.evenness)
    # Where thin places are mended by hand the rest need not be thicker.
    return replace(found, thin_share=1.0) if school.mends_thin_places else found


def _school_for(material: CastingMaterial, wish: CastWish) -> School:
    school = SCHOOLS[wish.school]
    if not school.takes(material):
        ways = ", ".join(f"'{one.name}'" for one in SCHOOLS.values() if one.takes(material))
        raise ConditionError(
            f"{material.name} is not poured as '{school.name}'; choose one of: {ways}.", "school"
        )
    return school


def _conditions(
    face: FaceMeasures, wish: CastWish, equipment: Equipment, school: School
) -> Conditions:
    return Conditions(
        room_k=wish.room_temperature_k,
        mould_k=wish.mould_k,
        parts_k=wish.parts_k,
        catalyst=wish.catalyst,
        cups=wish.hands,
        spread_s=school.spread_s(face.area_m2, wish, equipment),
    )


def _limits(
    face: FaceMeasures,
    pourable: Pourable,
    equipment: Equipment,
    at: Conditions,
    per_m2_m: float,
    carried_m: float,
) -> CoatLimits:
    film_kg_m = face.area_m2 * per_m2_m
    rim = 1.0 if not face.openings else RIM_SHARE
    liquid = pourable.liquid_kg_m3
    return CoatLimits(
        reach_kg=LEAST_FILM_M * film_kg_m,
        scale_kg=pourable.smallest_kg,
        carry_kg=carried_m * film_kg_m,
        time_kg=pourable.largest_kg(at),
        rim_kg=rim * face.volume_m3 * liquid,
        cup_kg=at.cups * CUP_FILL * equipment.cup.capacity_m3 * liquid,
        spread_s=at.spread_s,
    )


def _coats(
    layers: tuple[Layer, ...],
    pourable: Pourable,
    wish: CastWish,
    at: Conditions,
    limits: CoatLimits,
    equipment: Equipment,
) -> tuple[SheetCoat, ...]:
    coats: list[SheetCoat] = []
    starts = 0.0
    for number, layer in enumerate(layers, start=1):
        mixed = pourable.recipe(layer)
        clock = pourable.clock(layer, mixed, at)
        places: tuple[PasteShare, ...] = ()
        if layer.kind is CoatKind.PASTE:
            places = shared_out(wish.paste_places, mixed.total_kg, wish.scale_step_kg)
        coats.append(
            SheetCoat(
                layer=layer,
                recipe=mixed,
                clock=clock,
                number=number,
                kind=layer.kind,
                charge_kg=math.fsum((mixed.total_kg, layer.powder_kg)),
                parts_kg=Parts(mixed.neat.a_kg, mixed.b_kg),
                parts_m3=Parts(mixed.neat.a_m3, mixed.b_m3),
                added_kg=Added(mixed.thickener_kg, mixed.thinner_kg, layer.powder_kg),
                places=places,
                cup_marks_m=pourable.marks(equipment.cup, mixed),
                wall_m=layer.film_m,
                binding_limit=limits.binding(layer.wanted_kg),
                fits=_keeps(layer, limits),
                starts_s=starts,
                pour_by_s=clock.pour_by_s,
                roll_until_s=clock.roll_until_s,
                next_from_s=clock.next_from_s,
                next_until_s=clock.next_until_s,
                motion=_turned(wish, layer, number),
            )
        )
        starts += ready_for_next_s(clock, wish.hands)
    return tuple(coats)


def _turned(wish: CastWish, layer: Layer, number: int) -> str:
    """Return the name of a coat's motion; empty where that is not said, or nothing flows."""
    if wish.motion is None or layer.kind not in FLOWING:
        return ""
    return motion_of_coat(motion_named(wish.motion), number).name
