"""The command `husk sheet`."""

import argparse
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from mildhusk.cli.mixing import add_mixing_words, amount, catalyst, share
from mildhusk.cli.output import grams
from mildhusk.cli.shape import add_shape_words, survey_of
from mildhusk.core.casting.paste import PastePlace
from mildhusk.core.casting.wish import CastWish, CoatSchool
from mildhusk.core.coating.motion import motion_words
from mildhusk.core.coating.turning import LeastWall, Pour
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.catalogue import (
    shipped_casting_material,
    shipped_casting_materials,
)
from mildhusk.core.wording import in_minutes, weighed
from mildhusk.quantities import read_quantity

if TYPE_CHECKING:
    from mildhusk.core.casting.plan import CastPlan, CoatPlan


def add_words(sheet: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    add_shape_words(sheet)
    sheet.add_argument("--resin", required=True, metavar="KEY")
    sheet.add_argument("--wall", required=True, metavar="3mm")
    sheet.add_argument("--temp", default="23C", metavar="23C", help="of the room")
    sheet.add_argument("--mould-temp", metavar="20C", help="of the mould; else the room's")
    sheet.add_argument("--parts-temp", metavar="20C", help="of A and B; else the room's")
    sheet.add_argument("--loss", default="5%", metavar="5%%")
    sheet.add_argument(
        "--allowance", default="0%", metavar="0%%", help="added to the wall for unevenness"
    )
    sheet.add_argument(
        "--school", choices=[str(one) for one in CoatSchool], default=str(CoatSchool.EQUAL)
    )
    sheet.add_argument("--fixed", default="100ml", metavar="100ml", help="of every coat")
    sheet.add_argument(
        "--paste-at", action="append", default=[], metavar="NAME:60cm2",
        help="a place where the paste goes; give one for each",
    )  # fmt: skip
    sheet.add_argument(
        "--motion", metavar="machine|NAME|machine:R,R",
        help="how the mould is turned, or 'usual'; else the wall is taken to be even",
    )  # fmt: skip
    sheet.add_argument("--lid", action="store_true", help="a lid closes every opening")
    sheet.add_argument(
        "--pour", choices=[str(one) for one in Pour], default=str(Pour.RIM),
        help="where a charge goes into an open mould",
    )  # fmt: skip
    sheet.add_argument(
        "--on", choices=[str(one) for one in LeastWall], default=str(LeastWall.MOST),
        help="what part of the face the wall is the least of",
    )  # fmt: skip
    sheet.add_argument("--coats", type=int, metavar="4", help="so many equal ones")
    sheet.add_argument(
        "--settle", action="store_true", help="simulate the coats, and plan by what they leave"
    )
    sheet.add_argument("--hands", type=int, choices=[1, 2], default=1)
    add_mixing_words(sheet)


def wish_of(given: argparse.Namespace) -> CastWish:
    """Return what the options wish for."""

    def kelvin(option: str, field: str) -> float | None:
        return None if getattr(given, option) is None else amount(given, option, "K", "C", field)

    return CastWish(
        wall_m=amount(given, "wall", "m", "mm", "wall_m"),
        room_temperature_k=amount(given, "temp", "K", "C", "room_temperature_k"),
        mould_temperature_k=kelvin("mould_temp", "mould_temperature_k"),
        parts_temperature_k=kelvin("parts_temp", "parts_temperature_k"),
        loss=amount(given, "loss", "dimensionless", "%", "loss"),
        allowance=amount(given, "allowance", "dimensionless", "%", "allowance"),
        school=CoatSchool(given.school),
        fixed_m3=amount(given, "fixed", "m^3", "ml", "fixed_m3"),
        hands=given.hands,
        motion=given.motion,
        lid=given.lid,
        pour=Pour(given.pour),
        least=LeastWall(given.on),
        coats=given.coats,
        paste_places=tuple(_paste_place(text) for text in given.paste_at),
        measure=None if given.by is None else RatioBasis(given.by),
        catalyst=catalyst(given),
        scale_step_kg=amount(given, "scale", "kg", "g", "scale_step_kg"),
        tint=share(given, "tint"),
        filler=share(given, "filler"),
        thickener=share(given, "thickener"),
        thinner=share(given, "thinner"),
    )


def _paste_place(text: str) -> PastePlace:
    name, colon, area = text.rpartition(":")
    if not colon:
        raise ConditionError(
            f"'{text}' is no place for a paste; write its name and its area, as brow:60cm2.",
            "paste_at",
        )
    return PastePlace(name, read_quantity(area, "m^2", "cm^2", name=name, field="paste_at"))


def run(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Plan a cast of a shape file."""
    # What is wished for is read first: a survey takes seconds.
    wish = wish_of(given)
    material = shipped_casting_material(given.resin)
    file = survey_of(given)
    found, hints = file.survey, file.hints
    # The solver is slow to load.
    from pydantic import TypeAdapter

    from mildhusk.core.casting.findings import Known, with_findings
    from mildhusk.core.casting.plan import CastPlan, plan_cast

    equipment = Equipment(hands=wish.hands, scale_step_kg=wish.scale_step_kg)
    if given.settle:
        from mildhusk.core.casting.planner import Piece, settle

        piece = Piece(found.face, found.cut_away, found.measures)
        planned = settle(piece, material, wish, equipment).sheet
    else:
        planned = plan_cast(found.measures, material, wish, equipment)
    sheet = with_findings(planned, Known(shipped_casting_materials))
    return TypeAdapter(CastPlan).dump_python(sheet, mode="json"), [*_lines(sheet, hints)]


def _lines(sheet: "CastPlan", hints: list[str]) -> list[str]:
    return [
        f"{len(sheet.coats)} coats, {sheet.school.name}" + ("" if sheet.fits else ": DOES NOT FIT"),
        *(_coat_line(sheet, coat) for coat in sheet.coats),
        f"mix {sheet.total_charge_kg * 1e3:.1f} g in all; the cast weighs "
        f"{sheet.cast_kg * 1e3:.0f} g; demould {in_minutes(sheet.demould_s)} after the last mix "
        "(estimates)",
        *_wall_lines(sheet),
        *hints,
        *(f"{one.severity}: {one.text}" for one in sheet.findings),
        *(f"caution: {caution}" for caution in sheet.cautions),
    ]


def _wall_lines(sheet: "CastPlan") -> Iterator[str]:
    """Say what the plan stands on, and what its coats leave."""
    estimate, wall = sheet.estimate, sheet.wall
    if sheet.motion is not None:
        yield (
            f"turned {motion_words(sheet.motion)}{', with a lid' if sheet.lid else ''}"
            f"{f', poured {sheet.pour.words}' if sheet.pour else ''}; stands on "
            f"{sheet.stands_on}; estimate {grams(estimate.total_charge_kg)}, between "
            f"{grams(estimate.low_kg)} and {grams(estimate.high_kg)}"
        )
    if wall is not None:
        yield (
            f"wall mean {wall.mean_m * 1e3:.2f} mm, 95 % have {wall.p05_m * 1e3:.2f} mm, 99 % "
            f"{wall.p01_m * 1e3:.2f} mm; {wall.share_under * 100:.1f} % of the face under the wish"
        )
        yield (
            f"on the lid {grams(wall.lid_kg)}, over the rim {grams(wall.spilt_kg)}, in puddles "
            f"{grams(wall.puddle_kg)}; a paste of {grams(wall.paste_kg)} fills the thin places"
        )
        for at in wall.thin:
            yield f"thin: {at.place}, {at.wall_m * 1e3:.2f} mm on {at.area_m2 * 1e4:.0f} cm2"


def _coat_line(sheet: "CastPlan", coat: "CoatPlan") -> str:
    def grams(kg: float) -> str:
        return f"{weighed(kg, sheet.scale_step_kg)} g"

    each = zip(sheet.measured_parts, (coat.parts_kg.A, coat.parts_kg.B), strict=False)
    parts = ", ".join(f"{part} {grams(kg)}" for part, kg in each)
    if sheet.ratio_basis == "volume":
        measured = (coat.parts_m3.A, coat.parts_m3.B)
        parts = ", ".join(
            f"{part} {m3 * 1e6:,.0f} ml ({grams(kg)})"
            for part, m3, kg in zip(
                sheet.measured_parts, measured, (coat.parts_kg.A, coat.parts_kg.B), strict=True
            )
        )
    added = coat.added_kg
    named = {"thickener": added.thickener, "thinner": added.thinner, "powder": added.powder}
    more = "".join(f", {name} {grams(kg)}" for name, kg in named.items() if kg)
    more += "".join(f", of it {grams(at.mixed_kg)} on {at.name}" for at in coat.places)
    return (
        f"coat {coat.number}  {parts}{more}; pour before {in_minutes(coat.pour_by_s)}, roll "
        f"until {in_minutes(coat.roll_until_s)}, next {in_minutes(coat.next_from_s)} to "
        f"{in_minutes(coat.next_until_s)} (limit: {coat.binding_limit})"
    )
