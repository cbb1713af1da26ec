"""The command `husk mould`."""

import argparse
from datetime import UTC, datetime
from decimal import Decimal
from typing import TYPE_CHECKING

from mildhusk.cli.output import grams
from mildhusk.cli.shape import add_shape_words, survey_of
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import shipped_kits, shipped_material, shipped_materials
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.wording import in_minutes
from mildhusk.quantities import read_quantity

if TYPE_CHECKING:
    from mildhusk.core.mould.answer import PlannedMould
    from mildhusk.core.mould.plan import MouldPlan, MouldWish

_WAYS = ("brush", "blanket", "block")


def add_words(mould: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    add_shape_words(mould)
    mould.add_argument("--rubber", required=True, metavar="KEY")
    mould.add_argument("--way", choices=_WAYS, default="brush")
    mould.add_argument("--wall", required=True, metavar="10mm")
    mould.add_argument("--shell", required=True, metavar="KEY")
    mould.add_argument("--parts", type=int, metavar="2", help="of the shell; else the fewest")
    mould.add_argument("--coat", default="3mm", metavar="3mm", help="wanted of each coat")
    mould.add_argument("--thickener", default="1%", metavar="1%%")
    mould.add_argument("--clay", metavar="3.2kg", help="what the removed blanket weighs")
    mould.add_argument("--clay-block", metavar="10x12x20cm", help="or what it was packed to")
    mould.add_argument("--coats", metavar="124g,306g", help="your own coats: do they come to it?")
    mould.add_argument("--gauze", type=int, default=0, metavar="2", help="coat it is laid into")
    mould.add_argument("--thinned", action="store_true", help="thin the print coat")


def run(given: argparse.Namespace) -> "tuple[PlannedMould, list[str]]":
    """Plan a mould of a shape file."""
    # What is wished for is read first: a survey takes seconds.
    wish = _wish_of(given)
    edited = None
    if given.coats:
        edited = tuple(
            read_quantity(one, "kg", "g", name="A coat", field="coats")
            for one in given.coats.split(",")
        )
    file = survey_of(given)
    found = file.survey
    from mildhusk.core.mould.answer import PlannedMould
    from mildhusk.core.mould.brushing import check_edited
    from mildhusk.core.mould.plan import plan_mould
    from mildhusk.core.mould.study import study_mould

    study = study_mould(found.face, wish.rubber, wish.brush.wall_m)
    shells = tuple(one for one in shipped_materials() if isinstance(one, ShellMaterial))
    plan = plan_mould(
        study,
        wish,
        shells=shells,
        rubber_price_per_kg=_price(wish.rubber.key),
        begins=datetime.now(UTC).replace(hour=8, minute=0, second=0, microsecond=0),
        equipment=Equipment(),
    )
    if edited is not None:
        check_edited(plan.coats, edited)
    told = PlannedMould.of(plan)
    said = [f"{one.severity}: {one.text}" for one in told.findings]
    return told, [*_lines(plan), *file.hints, *said]


def _wish_of(given: argparse.Namespace) -> "MouldWish":
    # Distances and rays are slow to load.
    from mildhusk.core.mould.brushing import BrushWish
    from mildhusk.core.mould.plan import MouldWish
    from mildhusk.core.mould.study import MouldWay

    rubber, shell = shipped_material(given.rubber), shipped_material(given.shell)
    if not isinstance(rubber, Rubber):
        raise InputError(f"'{given.rubber}' is no mould rubber.", "rubber")
    if not isinstance(shell, ShellMaterial):
        raise InputError(f"'{given.shell}' is no shell material.", "shell")
    wall = read_quantity(given.wall, "m", "mm", name="The wall", field="wall")
    brush = BrushWish(
        wall,
        coat_m=read_quantity(given.coat, "m", "mm", name="The coat", field="coat"),
        thinned=given.thinned,
        gauze_in=given.gauze,
        thickened_from=2 if rubber.takes_thickener else 0,
        thickener=read_quantity(
            given.thickener, "dimensionless", "%", name="The thickener", field="thickener"
        ),
    )
    return MouldWish(rubber, shell, MouldWay(given.way), brush, given.parts, _clay(given))


def _clay(given: argparse.Namespace) -> float | None:
    if given.clay is None and given.clay_block is None:
        return None
    from mildhusk.core.mould.poured import volume_of_clay

    mass = size = None
    if given.clay is not None:
        mass = read_quantity(given.clay, "kg", "kg", name="The clay", field="clay")
    if given.clay_block is not None:
        sides = given.clay_block.split("x")
        if len(sides) != 3:
            raise InputError(
                f"The block '{given.clay_block}' is not LENGTHxWIDTHxHEIGHT; write for instance "
                "10x12x20cm.",
                "clay",
            )
        # The unit stands once, behind the last side.
        unit = sides[2].lstrip("0123456789.")
        length, width, height = (
            read_quantity(
                one if one.endswith(unit) else one + unit, "m", "mm", name="The clay", field="clay"
            )
            for one in sides
        )
        size = (length, width, height)
    return volume_of_clay(mass_kg=mass, size_m=size)


def _price(key: str) -> Decimal:
    offers = shipped_kits(key)
    return min(offer.price / Decimal(repr(offer.mass_kg)) for offer in offers)


def _lines(plan: "MouldPlan") -> list[str]:
    lines = [f"rubber    {grams(plan.rubber_kg)} ({plan.wish.way})"]
    for coat in plan.coats:
        extra = [
            f"{name} {grams(value)}"
            for name, value in (
                ("thinner", coat.thinner_kg),
                ("thickener", coat.thickener_kg),
                ("tint", coat.tint_kg),
            )
            if value
        ]
        parts = ", ".join([f"A {grams(coat.a_kg)}", f"B {grams(coat.b_kg)}", *extra])
        lines.append(f"coat {coat.number}    to {coat.to_m * 1e3:.1f} mm: {parts}")
    split, let_go = plan.split, plan.study.peel
    lines += [
        f"shell     {split.parts} parts of {plan.shell.name}, {grams(plan.shell.kg)}, "
        f"locked {split.locked_m2 * 1e4:.0f} cm², filler {split.filler_m3 * 1e6:.0f} ml",
        f"stretch   needs {let_go.needed * 100:.0f} %, allowed {let_go.allowed * 100:.0f} %, "
        f"cut {let_go.cut_m * 1e3:.0f} mm",
        f"weighs    {grams(plan.weight_kg)}; costs {plan.cost}; "
        f"{in_minutes(plan.hands_s)} of hands, {in_minutes(plan.clock_s)} on the clock",
    ]
    return lines
