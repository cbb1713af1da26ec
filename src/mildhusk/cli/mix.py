"""The command `husk mix`."""

import argparse
from dataclasses import replace
from typing import Any

from mildhusk.cli.mixing import SHARES, add_mixing_words, amount, catalyst, share
from mildhusk.core.cure.dose import with_dose
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin, RatioBasis
from mildhusk.core.materials.catalogue import shipped_material, shipped_resin
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mixing.ratio import ratio_by, read_parts, read_ratio, smallest_charge
from mildhusk.core.mixing.recipe import Extras, after_overshoot, b_in_drops, recipe
from mildhusk.core.mixing.split import require_step
from mildhusk.core.wording import decimals, in_minutes

WITNESS = "keep what is left in the cup until it has set: it proves this batch"


def add_words(mix: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    mix.add_argument("--resin", required=True, metavar="KEY", help="a casting resin or a rubber")
    mix.add_argument("--grams", required=True, metavar="240g", help="everything together")
    mix.add_argument("--ratio", metavar="100:90", help="before the data sheet's; a rubber's "
                     "catalyst with a fast part as 100:5:5")  # fmt: skip
    mix.add_argument("--poured-a", metavar="112g", help="of A, in the cup already")
    mix.add_argument("--drop", metavar="30mg", help="what a drop of part B weighs")
    mix.add_argument("--mark", default="1ml", metavar="1ml", help="finest mark of the cup")
    mix.add_argument("--temp", default="23C", metavar="18C", help="of the room, for a rubber")
    add_mixing_words(mix)


def run(given: argparse.Namespace) -> tuple[dict[str, Any], list[str]]:
    """Work out one charge."""
    material = shipped_material(given.resin)
    if isinstance(material, Rubber):
        return _rubber(given, material)
    return _resin(given, shipped_resin(given.resin))


def _resin(given: argparse.Namespace, resin: CastingResin) -> tuple[dict[str, Any], list[str]]:
    resin = with_dose(resin, catalyst(given))
    if given.ratio is not None:
        ratio = read_ratio(given.ratio)
        resin = replace(resin, parts_a=ratio.a, parts_b=ratio.b)
    step = amount(given, "scale", "kg", "g", "scale_step_kg")
    mark = amount(given, "mark", "m^3", "ml", "volume_step_m3")
    grams = amount(given, "grams", "kg", "g", "grams")
    basis = RatioBasis(given.by) if given.by else resin.ratio_basis
    require_step(step)
    drop = None if given.drop is None else amount(given, "drop", "kg", "mg", "drop")
    # Who counts drops reads finer than the scale.
    smallest = smallest_charge(resin, basis, min(step, drop or step), mark)
    if grams < smallest:
        shown = (
            f"weighed to 1 % on a scale that shows {step * 1e3:g} g"
            if basis is RatioBasis.WEIGHT
            else f"measured to 1 % in a cup with a mark each {mark * 1e6:g} ml"
        )
        raise ConditionError(
            f"A batch of {grams * 1e3:g} g cannot be {shown}; mix at least "
            f"{smallest * 1e3:.0f} g, or take a finer "
            f"{'scale' if basis is RatioBasis.WEIGHT else 'cup or a syringe'}.",
            "grams",
        )
    extras = Extras(*(share(given, name) for name in SHARES))
    made = recipe(resin, grams, extras, (step, mark), basis)
    if given.poured_a is not None:
        made = after_overshoot(made, amount(given, "poured_a", "kg", "g", "poured"), step)
    a_kg, b_kg = made.neat.a_kg, made.b_kg
    counted = None if drop is None else b_in_drops(resin, a_kg, extras, drop)
    if counted is not None and drop is not None:
        b_kg = counted * drop
    by_volume = ratio_by(resin, RatioBasis.VOLUME)
    b_m3 = b_kg * made.b_m3 / made.b_kg
    document: dict[str, Any] = {
        "charge_kg": a_kg + b_kg + made.thickener_kg + made.thinner_kg,
        "parts_kg": {"A": a_kg, "B": b_kg},
        "parts_m3": {"A": a_kg / resin.density_a_kg_m3, "B": b_m3},
        "neat_b_kg": made.neat.b_kg,
        "added_kg": {"thickener": made.thickener_kg, "thinner": made.thinner_kg},
        "ratio_by_volume": [by_volume.a, by_volume.b],
        "smallest_batch_kg": smallest,
        "drops_b": counted,
    }
    return document, _lines(document, basis, step)


def _lines(document: dict[str, Any], basis: RatioBasis, step: float) -> list[str]:
    drops = document["drops_b"]
    # Drops are finer than the scale.
    figures = max(decimals(step * 1e3), 2 if drops else 0)

    def part(name: str) -> str:
        grams = f"{document['parts_kg'][name] * 1e3:,.{figures}f} g"
        ml = document["parts_m3"][name] * 1e6
        if basis is RatioBasis.VOLUME:
            return f"{name} {ml:,.{1 if ml < 20 else 0}f} ml ({grams})"
        return f"{name} {grams} ({ml:,.1f} ml)"

    lines = [
        f"{part('A')}, {part('B')}" + (f", {drops} drops" if drops else ""),
        *(f"{name} {kg * 1e3:,.{figures}f} g" for name, kg in document["added_kg"].items() if kg),
        f"together {document['charge_kg'] * 1e3:,.{figures}f} g",
    ]
    return [*lines, WITNESS]


def _rubber(given: argparse.Namespace, rubber: Rubber) -> tuple[dict[str, Any], list[str]]:
    # Doses and times are read from a data file that resins do not need.
    from mildhusk.core.mould.batch import (
        AFTER_FALL_S,
        RubberDose,
        batch_from_a,
        rubber_batch,
        usual_dose,
    )

    step = amount(given, "scale", "kg", "g", "scale_step_kg")
    wanted = amount(given, "grams", "kg", "g", "grams")
    room = amount(given, "temp", "K", "C", "room_temperature_k")
    for name in ("tint", "filler"):
        if share(given, name):
            raise ConditionError(
                f"The {name} of a rubber is not reckoned here; leave it out.", name
            )
    dose = RubberDose(
        usual_dose(rubber).share,
        thinner=share(given, "thinner"),
        thickener=share(given, "thickener"),
    )
    asked = catalyst(given)
    if asked is not None:
        dose = replace(dose, share=asked)
    if given.ratio is not None:
        first, *others = read_parts(given.ratio, most=3)
        fast = others[1] if len(others) == 2 else 0.0
        both = others[0] + fast
        dose = replace(dose, share=both / first, fast_share=fast / both)
    batch = rubber_batch(rubber, wanted, dose, step, room)
    if given.poured_a is not None:
        poured = amount(given, "poured_a", "kg", "g", "poured")
        times = (batch.pot_life_s, batch.cure_s, batch.life)
        batch = batch_from_a(rubber, max(poured, batch.a_kg), dose, step, times)
    parts = {
        "A": batch.a_kg, "B": batch.b_kg, "fast": batch.fast_kg, "thinner": batch.thinner_kg,
        "thickener": batch.thickener_kg,
    }  # fmt: skip
    document: dict[str, Any] = {
        "charge_kg": batch.total_kg,
        "parts_kg": parts,
        "pot_life_s": batch.pot_life_s,
        "cure_s": batch.cure_s,
        "life": batch.life,
        "vacuum_vessel_m3": batch.vessel_m3,
        "thread_s": batch.thread_s,
        "thread_in_time": batch.thread_in_time,
    }
    figures = decimals(step * 1e3)
    names = {"B": "B" if not batch.fast_kg else "catalyst", "fast": "fast catalyst"}
    weighed = ", ".join(
        f"{names.get(name, name)} {kg * 1e3:,.{figures}f} g" for name, kg in parts.items() if kg
    )
    low, high = AFTER_FALL_S
    lines = [
        weighed,
        f"together {batch.total_kg * 1e3:,.{figures}f} g",
        f"pot life {in_minutes(batch.pot_life_s)}, cures in {in_minutes(batch.cure_s)}"
        + (f"; the mould lasts {batch.life * 100:.0f} % of its casts" if batch.life < 1.0 else ""),
        f"air: in vacuum in a vessel of {batch.vessel_m3 * 1e3:.1f} l or more (the froth rises, "
        f"falls, then {low:.0f} to {high:.0f} s; only a vessel made for vacuum, behind a guard); "
        f"or as a thin high thread, {in_minutes(batch.thread_s)}"
        + ("" if batch.thread_in_time else ", which is too long for its pot life"),
    ]
    return document, [*lines, WITNESS]
