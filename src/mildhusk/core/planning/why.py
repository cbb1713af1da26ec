"""Every figure of a sheet, opened: the rule in words, its inputs, and where each came from."""

from dataclasses import dataclass
from enum import StrEnum

from mildhusk.core.constants import (
    LOSS_BAND,
    MIXING_TIME_S,
    SPREADING_TIME_S,
    TIME_BAND,
)
from mildhusk.core.materials.casting_resin import Origin
from mildhusk.core.planning.sheet import CastSheet
from mildhusk.core.wording import Quantity, Unit


class Source(StrEnum):
    """Where an input came from."""

    MEASURED = "measured on the piece"
    OWN_SHEET = "your data sheet"
    TYPICAL = "typical for the class"
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
    face, resin, wish = sheet.face, sheet.resin, sheet.wish
    resin_says = _from_sheet(sheet)
    wall = _given("mean wall poured for", wish.planned_wall_m, Unit.LENGTH, Source.WISHED)
    volume = _given("resin on the wall", sheet.shell_volume_m3, Unit.VOLUME, Source.COMPUTED)
    density = _given("cured density", resin.density_cured_kg_m3, Unit.DENSITY, resin_says)
    loss = _given("loss", wish.loss, Unit.SHARE, Source.WISHED)
    total = _given("resin to mix", sheet.total_charge_kg, Unit.MASS, Source.COMPUTED)
    count = len(sheet.coats)
    charge = sheet.coats[0].charge
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
            "The wall divided by what one coat of this resin usually leaves, rounded up.",
            (wall, _given("one coat leaves", resin.coat_wall_m, Unit.LENGTH, resin_says)),
        ),
        Why(
            "total_charge",
            "Resin to mix",
            Quantity(sheet.total_charge_kg, Unit.MASS),
            "Resin on the wall times its density, divided by what is left after the loss, in equal "
            "charges rounded up to what can be read off. The band assumes the loss to be wrong by "
            f"up to {LOSS_BAND * 100:.0f} % of itself.",
            (volume, density, loss),
            sheet.total_charge_band_kg,
        ),
        Why(
            "charge",
            "One charge",
            Quantity(charge.total_kg, Unit.MASS),
            f"The resin to mix in {count} equal charges; A and B by the data sheet's ratio "
            f"({resin.parts_a:g} : {resin.parts_b:g} by {resin.ratio_basis}).",
            (
                total,
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
    resin, clock, count = sheet.resin, sheet.clock, len(sheet.coats)
    resin_says = _from_sheet(sheet)
    charge = sheet.coats[0].charge.total_kg
    scaled = (
        "By the rate and the heat of the reaction, fitted to the data sheet's cup: a coat is a "
        "film on the mould, which runs cooler than the cup and gels later (heat and activation "
        "are the class's)."
    )
    film = _given("film of one coat", sheet.coats[0].wall_m, Unit.LENGTH, Source.COMPUTED)
    room = _given("room", sheet.wish.room_temperature_k, Unit.TEMPERATURE, Source.WISHED)
    at = _given(
        "data sheet's temperature", resin.standard_temperature_k, Unit.TEMPERATURE, resin_says
    )

    def timed(key: str, title: str, value: float, sheet_value: float) -> Why:
        given = _given("data sheet's time", sheet_value, Unit.TIME, resin_says)
        figure = Quantity(value, Unit.TIME)
        return Why(key, title, figure, scaled, (given, at, room, film), _around(value, TIME_BAND))

    return (
        Why(
            "pour_by",
            "Pour before",
            Quantity(clock.pour_by_s, Unit.TIME),
            "The working time of this charge in its cup at this temperature, by rate and heat of "
            "the reaction, less the time to cover the mould once.",
            (
                _given("charge in the cup", charge, Unit.MASS, Source.COMPUTED),
                room,
                _given("working time", clock.working_time_s, Unit.TIME, Source.COMPUTED),
                _given("covering the mould", SPREADING_TIME_S, Unit.TIME, Source.ASSUMED),
                _given("mixing, within it", MIXING_TIME_S, Unit.TIME, Source.ASSUMED),
            ),
            _around(clock.pour_by_s, TIME_BAND),
        ),
        timed("roll_until", "Roll until", clock.roll_until_s, resin.gel_s),
        timed("next_from", "Next coat from", clock.next_from_s, resin.tack_from_s),
        timed("next_until", "Next coat until", clock.next_until_s, resin.tack_until_s),
        timed("demould", "Demould after the last coat", clock.demould_s, resin.demould_s),
        Why(
            "hands_on",
            "Hands on",
            Quantity(sheet.hands_on_s, Unit.TIME),
            "From first contact to gel, for every coat.",
            (
                _given("roll until", clock.roll_until_s, Unit.TIME, Source.COMPUTED),
                _given("coats", count, Unit.COUNT, Source.COMPUTED),
            ),
            _around(sheet.hands_on_s, TIME_BAND),
        ),
        Why(
            "out_after",
            "Comes out",
            Quantity(sheet.out_after_s, Unit.TIME),
            "Each next coat is mixed when the tack window opens; after the last the demould time.",
            (
                _given("next coat from", clock.next_from_s, Unit.TIME, Source.COMPUTED),
                _given("coats", count, Unit.COUNT, Source.COMPUTED),
                _given("demould", clock.demould_s, Unit.TIME, Source.COMPUTED),
            ),
            _around(sheet.out_after_s, TIME_BAND),
        ),
    )


def _around(value: float, band: float) -> tuple[float, float]:
    return (value * (1.0 - band), value * (1.0 + band))
