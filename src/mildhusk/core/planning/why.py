"""Every figure of a sheet, opened: the rule in words, its inputs, and where each came from."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from mildhusk.core.constants import LOSS_BAND, MIXING_TIME_S
from mildhusk.core.cure.model import cure_model, with_dose
from mildhusk.core.materials.casting_resin import Origin
from mildhusk.core.planning.bands import Part, Pick, half_width, time_parts
from mildhusk.core.planning.coats import CoatKind
from mildhusk.core.planning.sheet import CastSheet, CoatPlan
from mildhusk.core.wording import Quantity, Unit


class Source(StrEnum):
    """Where an input came from."""

    MEASURED = "measured on the piece"
    OWN_SHEET = "your data sheet"
    TYPICAL = "typical for the class"
    CLASS = "typical of the class's chemistry"
    LEARNED = "learned from your pours"
    WORKSHOP_PACE = "your workshop's pace"
    LOTS = "what your lots cost"
    KITS = "kit on offer"
    WORKSHOP = "your workshop's rate"
    WISHED = "your wish"
    ASSUMED = "assumed"
    COMPUTED = "computed"


@dataclass(frozen=True, slots=True)
class WhyInput:
    """One input of a figure."""

    name: str
    quantity: Quantity
    source: Source
    band: float | None = None
    """Half width of what it may be off by, in its own unit; None where it is taken as exact."""


@dataclass(frozen=True, slots=True)
class Why:
    """A figure opened; `band` is its lowest and highest likely value, None where it is exact."""

    id: str
    title: str
    figure: Quantity
    words: str
    inputs: tuple[WhyInput, ...]
    band: tuple[float, float] | None = None


def explain(sheet: CastSheet) -> tuple[Why, ...]:
    """Open every headline figure and time of a sheet."""
    return (*_amounts(sheet), *_times(sheet))


def _given(name: str, value: float, unit: Unit, source: Source) -> WhyInput:
    return WhyInput(name, Quantity(value, unit), source)


def source_of(origin: Origin) -> Source:
    """Return where a value of a data sheet came from, as a figure's input says it."""
    return Source.TYPICAL if origin is Origin.TYPICAL else Source.OWN_SHEET


def _from_sheet(sheet: CastSheet) -> Source:
    return source_of(sheet.resin.origin)


def _amounts(sheet: CastSheet) -> tuple[Why, ...]:
    face, resin, wish, limits = sheet.face, sheet.resin, sheet.wish, sheet.limits
    resin_says = _from_sheet(sheet)
    wall = _given("mean wall poured for", wish.planned_wall_m, Unit.LENGTH, Source.WISHED)
    volume = replace(
        _given("resin on the wall", sheet.shell_volume_m3, Unit.VOLUME, Source.COMPUTED),
        band=face.band * sheet.shell_volume_m3,
    )
    density = _given("cured density", resin.density_cured_kg_m3, Unit.DENSITY, resin_says)
    loss = replace(_given("loss", wish.loss, Unit.SHARE, Source.WISHED), band=LOSS_BAND * wish.loss)
    total = _given("resin to mix", sheet.total_charge_kg, Unit.MASS, Source.COMPUTED)
    count = len(sheet.coats)
    first = sheet.largest
    mixed = with_dose(resin, wish.catalyst)
    charge = first.charge
    flat = face.area_m2 * wish.planned_wall_m
    return (
        Why(
            "shell_volume",
            "Resin on the wall",
            Quantity(sheet.shell_volume_m3, Unit.VOLUME),
            "Area times wall, less what the face's bends take away as the wall grows inwards.",
            (
                _given("casting face", face.area_m2, Unit.AREA, Source.MEASURED),
                wall,
                _given("area times wall", flat, Unit.VOLUME, Source.COMPUTED),
                _given("bends", sheet.shell_volume_m3 - flat, Unit.VOLUME, Source.MEASURED),
            ),
            _around(sheet.shell_volume_m3, sheet.face.band),
        ),
        Why(
            "coats",
            "Coats",
            Quantity(count, Unit.COUNT),
            "The wall divided by what one coat of this resin usually leaves, rounded up; more "
            "where a charge would not be mixed and spread in time, run over the rim or not fit "
            "the cups; otherwise as the school has it.",
            (
                wall,
                _given(
                    "one coat leaves",
                    wish.carried_m(resin.coat_wall_m),
                    Unit.LENGTH,
                    resin_says,
                ),
                _given("spread in time at most", limits.time_kg, Unit.MASS, Source.COMPUTED),
                _given("under the rim at most", limits.rim_kg, Unit.MASS, Source.COMPUTED),
                _given("in the cups at most", limits.cup_kg, Unit.MASS, Source.COMPUTED),
            ),
        ),
        Why(
            "total_charge",
            "Resin to mix",
            Quantity(sheet.total_charge_kg, Unit.MASS),
            "Resin on the wall times its density, divided by what is left after the loss, in "
            "charges rounded up to what can be read off. The band assumes the loss to be wrong by "
            f"up to {LOSS_BAND * 100:.0f} % of itself.",
            (volume, density, loss),
            sheet.total_charge_band_kg,
        ),
        Why(
            "charge",
            "One charge",
            Quantity(first.recipe.total_kg, Unit.MASS),
            f"The largest of {count}, divided as the school has it; A and B by the data sheet's "
            "ratio, or the dose wished "
            f"({mixed.parts_a:g} : {mixed.parts_b:g} by {mixed.ratio_basis}).",
            (
                total,
                _given("at most for one coat", limits.most_kg, Unit.MASS, Source.COMPUTED),
                _given("at least for one coat", limits.least_kg, Unit.MASS, Source.COMPUTED),
                _given("coats", count, Unit.COUNT, Source.COMPUTED),
                _given("part A", charge.a_kg, Unit.MASS, resin_says),
                _given("part B", charge.b_kg, Unit.MASS, resin_says),
            ),
        ),
        Why(
            "cast_weight",
            "Weight of the cast",
            Quantity(sheet.cast_kg, Unit.MASS),
            "Resin on the wall times its cured density, before eyes, visor or skirt are cut out.",
            (volume, density),
            _around(sheet.cast_kg, sheet.face.band),
        ),
        Why(
            "cost",
            "Cost of the resin",
            Quantity(float(sheet.cost), Unit.MONEY),
            "The resin to mix at the price of the kit by weight; what is left in the kit is not "
            "counted.",
            (
                total,
                _given("kit price", float(resin.kit_price), Unit.MONEY, resin_says),
                _given("kit weight", resin.kit_mass_kg, Unit.MASS, resin_says),
            ),
        ),
    )


def _times(sheet: CastSheet) -> tuple[Why, ...]:
    """Open the times: of the coat with the largest charge, and of each whose times differ."""
    parts_of = time_parts(sheet)
    coats = [sheet.largest]
    coats += [one for one in sheet.coats if one.clock != sheet.largest.clock]
    opened: list[Why] = []
    for coat in coats:
        share = {
            name: half_width(parts_of(pick)) / max(pick(sheet.largest.clock), 1e-9)
            for name, pick in _PICKS.items()
        }
        opened += _times_of(sheet, coat, share, parts_of)
    return (*opened, *_together(sheet, parts_of))


_PICKS: dict[str, Pick] = {
    "pour_by": lambda clock: clock.pour_by_s,
    "roll_until": lambda clock: clock.roll_until_s,
    "next_from": lambda clock: clock.next_from_s,
    "next_until": lambda clock: clock.next_until_s,
    "demould": lambda clock: clock.demould_s,
}
_TITLES = {
    "pour_by": "Pour before",
    "roll_until": "Roll until",
    "next_from": "Next coat from",
    "next_until": "Next coat until",
    "demould": "Demould after the last coat",
}
_BY_HEAT = (
    "By the rate and the heat of the reaction, fitted to the data sheet's cup: a coat is a film on "
    "the mould, which runs cooler than the cup and gels later (activation is the class's, and so "
    "is heat where the data sheet gives no peak). The band adds up what each input's own band "
    "changes, in squares."
)
_IN_THE_CUP = (
    "The working time of this charge in its cup at this temperature, by rate and heat of the "
    "reaction, less the time to cover the mould once. The band adds up what each input's own band "
    "changes, in squares."
)
_BY_COOLING = (
    "By Newton's law of cooling, from when the pot comes off the heat: a film on the mould cools "
    "faster than the pot."
)


def _times_of(
    sheet: CastSheet,
    coat: CoatPlan,
    share: dict[str, float],
    parts_of: Callable[[Pick], tuple[Part, ...]],
) -> Iterator[Why]:
    resin, at, clock = sheet.resin, sheet.conditions, coat.clock
    melted = coat.kind is CoatKind.CLAY
    of_sheet = {
        "pour_by": resin.working_time_s,
        "roll_until": resin.gel_s,
        "next_from": resin.tack_from_s,
        "next_until": resin.tack_until_s,
        "demould": resin.demould_s,
    }
    learned = sheet.wish.time_factor != 1.0
    for name, pick in _PICKS.items():
        figure = pick(clock)
        widths = {part.input: part.half_width for part in parts_of(pick)}
        inputs = [
            _given("room", at.room_k, Unit.TEMPERATURE, Source.WISHED),
            _given("mould", at.mould_k, Unit.TEMPERATURE, Source.WISHED),
            _given("A and B", at.parts_k, Unit.TEMPERATURE, Source.WISHED),
            _given("film of one coat", coat.wall_m, Unit.LENGTH, Source.COMPUTED),
        ]
        if not melted:
            source = Source.LEARNED if learned else _from_sheet(sheet)
            standard = resin.standard_temperature_k
            inputs = [
                _given("data sheet's time", of_sheet[name], Unit.TIME, source),
                _given("data sheet's temperature", standard, Unit.TEMPERATURE, source),
                *inputs,
                _given(
                    "class's activation energy",
                    cure_model(resin).kinetics.activation_j_mol,
                    Unit.ENERGY,
                    Source.CLASS,
                ),
            ]
            if resin.peak_exotherm_k is not None:
                inputs.append(
                    _given("data sheet's peak exotherm", resin.peak_exotherm_k,
                           Unit.TEMPERATURE, source)
                )  # fmt: skip
        if name == "pour_by":
            inputs += [
                _given("charge in the cup", coat.charge.total_kg / at.cups, Unit.MASS,
                       Source.COMPUTED),
                _given("working time", clock.working_time_s, Unit.TIME, Source.COMPUTED),
                _given("covering the mould", at.spread_s, Unit.TIME, Source.WORKSHOP_PACE),
                _given("mixing, within it", MIXING_TIME_S, Unit.TIME, Source.ASSUMED),
            ]  # fmt: skip
        in_cup = _BY_COOLING if melted else _IN_THE_CUP if name == "pour_by" else _BY_HEAT
        yield Why(
            name if coat is sheet.largest else f"{name}:{coat.number}",
            _TITLES[name],
            Quantity(figure, Unit.TIME),
            in_cup,
            tuple(replace(one, band=_width(one, widths)) for one in inputs),
            _around(figure, share[name]),
        )


def _width(given: WhyInput, widths: dict[str, float]) -> float | None:
    width = widths.get(given.name)
    if width is not None and given.name == "data sheet's time":
        return width * given.quantity.value
    return width


def _together(sheet: CastSheet, parts_of: Callable[[Pick], tuple[Part, ...]]) -> tuple[Why, ...]:
    largest, last = sheet.largest.clock, sheet.last.clock
    count = len(sheet.coats)

    def band(value: float, pick: Pick) -> tuple[float, float]:
        return _around(value, half_width(parts_of(pick)) / max(pick(largest), 1e-9))

    return (
        Why(
            "hands_on",
            "Hands on",
            Quantity(sheet.hands_on_s, Unit.TIME),
            "From first contact to gel, for every coat.",
            (
                _given("roll until", largest.roll_until_s, Unit.TIME, Source.COMPUTED),
                _given("coats", count, Unit.COUNT, Source.COMPUTED),
            ),
            band(sheet.hands_on_s, _PICKS["roll_until"]),
        ),
        Why(
            "out_after",
            "Comes out",
            Quantity(sheet.out_after_s, Unit.TIME),
            "Each next coat is mixed when the tack window opens and it is weighed; after the last "
            "the demould time.",
            (
                _given("last coat mixed", sheet.last.starts_s, Unit.TIME, Source.COMPUTED),
                _given("coats", count, Unit.COUNT, Source.COMPUTED),
                _given("demould", last.demould_s, Unit.TIME, Source.COMPUTED),
            ),
            band(sheet.out_after_s, _PICKS["demould"]),
        ),
    )


def _around(value: float, band: float) -> tuple[float, float]:
    return (value * (1.0 - band), value * (1.0 + band))
