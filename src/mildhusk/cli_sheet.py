"""The commands `husk sheet` and `husk mix`."""

import argparse
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from mildhusk.core.bench import Bench
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.catalogue import shipped_materials, shipped_resin
from mildhusk.core.planning.document import Document, Known, sheet_document
from mildhusk.core.planning.paste import PastePlace
from mildhusk.core.planning.sheet import plan_cast
from mildhusk.core.planning.wish import CastWish, CoatSchool
from mildhusk.core.wording import in_minutes

if TYPE_CHECKING:
    from mildhusk.core.geometry.survey import Survey

_SHARES = ("tint", "filler", "thickener", "thinner")


def add_sheet_words(sheet: argparse.ArgumentParser) -> None:
    """Add the options of `husk sheet`."""
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
    sheet.add_argument("--hands", type=int, choices=[1, 2], default=1)
    _add_mixing_words(sheet)


def add_mix_words(mix: argparse.ArgumentParser) -> None:
    """Add the options of `husk mix`."""
    mix.add_argument("--resin", required=True, metavar="KEY")
    mix.add_argument("--grams", required=True, metavar="240g", help="everything together")
    mix.add_argument("--ratio", metavar="100:90", help="before the data sheet's")
    mix.add_argument("--poured-a", metavar="112g", help="of A, in the cup already")
    mix.add_argument("--drop", metavar="30mg", help="what a drop of part B weighs")
    _add_mixing_words(mix)


def _add_mixing_words(command: argparse.ArgumentParser) -> None:
    command.add_argument("--scale", default="0.1g", metavar="0.1g", help="its last digit")
    command.add_argument("--by", choices=[str(one) for one in RatioBasis])
    command.add_argument("--catalyst", metavar="1.5%%", help="where the resin takes one")
    for name in _SHARES:
        command.add_argument(f"--{name}", default="0%", metavar="1%%", help="of A and B together")


def _amount(given: argparse.Namespace, option: str, unit: str, usual: str, field: str) -> float:
    # The units library is slow to load.
    from mildhusk.quantities import read_quantity

    text = getattr(given, option)
    return read_quantity(text, unit, usual, name=f"The {option.replace('_', ' ')}", field=field)


def _share(given: argparse.Namespace, name: str) -> float:
    return _amount(given, name, "dimensionless", "%", name)


def _catalyst(given: argparse.Namespace) -> float | None:
    if given.catalyst is None:
        return None
    return _amount(given, "catalyst", "dimensionless", "%", "catalyst")


def wish_of(given: argparse.Namespace) -> CastWish:
    """Return what the options wish for."""

    def kelvin(option: str, field: str) -> float | None:
        return None if getattr(given, option) is None else _amount(given, option, "K", "C", field)

    return CastWish(
        wall_m=_amount(given, "wall", "m", "mm", "wall_m"),
        room_temperature_k=_amount(given, "temp", "K", "C", "room_temperature_k"),
        mould_temperature_k=kelvin("mould_temp", "mould_temperature_k"),
        parts_temperature_k=kelvin("parts_temp", "parts_temperature_k"),
        loss=_amount(given, "loss", "dimensionless", "%", "loss"),
        allowance=_amount(given, "allowance", "dimensionless", "%", "allowance"),
        school=CoatSchool(given.school),
        fixed_m3=_amount(given, "fixed", "m^3", "ml", "fixed_m3"),
        hands=given.hands,
        paste_places=tuple(_paste_place(text) for text in given.paste_at),
        measure=None if given.by is None else RatioBasis(given.by),
        catalyst=_catalyst(given),
        scale_step_kg=_amount(given, "scale", "kg", "g", "scale_step_kg"),
        tint=_share(given, "tint"),
        filler=_share(given, "filler"),
        thickener=_share(given, "thickener"),
        thinner=_share(given, "thinner"),
    )


def _paste_place(text: str) -> PastePlace:
    from mildhusk.quantities import read_quantity

    name, colon, area = text.rpartition(":")
    if not colon:
        raise ConditionError(
            f"'{text}' is no place for a paste; write its name and its area, as brow:60cm2.",
            "paste_at",
        )
    return PastePlace(name, read_quantity(area, "m^2", "cm^2", name=name, field="paste_at"))


def sheet_of(given: argparse.Namespace, found: "Survey", hints: list[str]) -> Any:
    """Plan a cast of a surveyed piece; returns the document and the lines to print."""
    resin = shipped_resin(given.resin)
    wish = wish_of(given)
    bench = Bench(hands=wish.hands, scale_step_kg=wish.scale_step_kg)
    shelf = tuple(one for one in shipped_materials() if isinstance(one, type(resin)))
    document = sheet_document(plan_cast(found.measures, resin, wish, bench), Known(lambda: shelf))
    lines = [
        f"{len(document['coats'])} coats, {document['school']['name']}"
        + ("" if document["fits"] else ": DOES NOT FIT"),
        *(_coat_line(coat) for coat in document["coats"]),
        f"mix {document['total_charge_kg'] * 1e3:.1f} g in all; the cast weighs "
        f"{document['cast_kg'] * 1e3:.0f} g; demould {in_minutes(document['demould_s'])} after "
        "the last mix (estimates)",
        *hints,
        *(f"{f['severity']}: {f['text']}" for f in document["findings"]),
        *(f"caution: {caution}" for caution in document["cautions"]),
    ]
    return document, lines


def _coat_line(coat: Document) -> str:
    parts = f"A {coat['parts_kg']['A'] * 1e3:.1f} g, B {coat['parts_kg']['B'] * 1e3:.1f} g"
    added = "".join(f", {name} {kg * 1e3:.1f} g" for name, kg in coat["added_kg"].items() if kg)
    added += "".join(
        f", of it {at['mixed_kg'] * 1e3:.1f} g on {at['name']}" for at in coat["places"]
    )
    return (
        f"coat {coat['number']}  {parts}{added}; pour before {in_minutes(coat['pour_by_s'])}, roll "
        f"until {in_minutes(coat['roll_until_s'])}, next {in_minutes(coat['next_from_s'])} to "
        f"{in_minutes(coat['next_until_s'])} (limit: {coat['binding_limit']})"
    )


def mix_of(given: argparse.Namespace) -> Any:
    """Work out one charge; returns the document and the lines to print."""
    from mildhusk.core.cure.model import with_dose
    from mildhusk.core.mixing.ratio import ratio_by, read_ratio, smallest_batch, still_to_add
    from mildhusk.core.mixing.recipe import Extras, drops, recipe

    resin = shipped_resin(given.resin)
    resin = with_dose(resin, _catalyst(given))
    if given.ratio is not None:
        ratio = read_ratio(given.ratio)
        resin = replace(resin, parts_a=ratio.a, parts_b=ratio.b)
    step = _amount(given, "scale", "kg", "g", "scale_step_kg")
    grams = _amount(given, "grams", "kg", "g", "grams")
    basis = RatioBasis(given.by) if given.by else resin.ratio_basis
    drop = None if given.drop is None else _amount(given, "drop", "kg", "mg", "drop")
    # Who counts drops reads finer than the scale.
    smallest = smallest_batch(ratio_by(resin, RatioBasis.WEIGHT), min(step, drop or step))
    if basis is RatioBasis.WEIGHT and grams < smallest:
        raise ConditionError(
            f"A batch of {grams * 1e3:g} g cannot be weighed to 1 % on a scale that shows "
            f"{step * 1e3:g} g; mix at least {smallest * 1e3:.0f} g, or take a finer scale.",
            "grams",
        )
    made = recipe(
        resin, grams, Extras(*(_share(given, name) for name in _SHARES)), (step, 1e-6), basis
    )
    a_kg, b_kg = made.neat.a_kg, made.b_kg
    if given.poured_a is not None:
        poured = _amount(given, "poured_a", "kg", "g", "poured")
        more_a, more_b = still_to_add((a_kg, b_kg), (poured, 0.0))
        a_kg, b_kg = poured + more_a, more_b
    by_volume = ratio_by(resin, RatioBasis.VOLUME)
    document: Document = {
        "charge_kg": a_kg + b_kg + made.thickener_kg + made.thinner_kg,
        "parts_kg": {"A": a_kg, "B": b_kg},
        "parts_m3": {"A": a_kg / resin.density_a_kg_m3, "B": b_kg * made.b_m3 / made.b_kg},
        "neat_b_kg": made.neat.b_kg,
        "added_kg": {"thickener": made.thickener_kg, "thinner": made.thinner_kg},
        "ratio_by_volume": [by_volume.a, by_volume.b],
        "smallest_batch_kg": smallest,
        "drops_b": None if drop is None else drops(b_kg, drop),
    }
    lines = [
        f"A {a_kg * 1e3:.1f} g, B {b_kg * 1e3:.1f} g"
        + (f" ({document['drops_b']} drops)" if document["drops_b"] else ""),
        *(f"{name} {kg * 1e3:.1f} g" for name, kg in document["added_kg"].items() if kg),
    ]
    return document, lines
