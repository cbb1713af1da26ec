"""The command `husk mix`."""

import argparse
from dataclasses import replace
from typing import Any

from mildhusk.cli.mixing import SHARES, add_mixing_words, amount, catalyst, share
from mildhusk.core.cure.dose import with_dose
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.catalogue import shipped_resin
from mildhusk.core.mixing.ratio import ratio_by, read_ratio, smallest_batch
from mildhusk.core.mixing.recipe import Extras, after_overshoot, b_in_drops, recipe


def add_words(mix: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    mix.add_argument("--resin", required=True, metavar="KEY")
    mix.add_argument("--grams", required=True, metavar="240g", help="everything together")
    mix.add_argument("--ratio", metavar="100:90", help="before the data sheet's")
    mix.add_argument("--poured-a", metavar="112g", help="of A, in the cup already")
    mix.add_argument("--drop", metavar="30mg", help="what a drop of part B weighs")
    add_mixing_words(mix)


def run(given: argparse.Namespace) -> tuple[dict[str, Any], list[str]]:
    """Work out one charge."""
    resin = shipped_resin(given.resin)
    resin = with_dose(resin, catalyst(given))
    if given.ratio is not None:
        ratio = read_ratio(given.ratio)
        resin = replace(resin, parts_a=ratio.a, parts_b=ratio.b)
    step = amount(given, "scale", "kg", "g", "scale_step_kg")
    grams = amount(given, "grams", "kg", "g", "grams")
    basis = RatioBasis(given.by) if given.by else resin.ratio_basis
    drop = None if given.drop is None else amount(given, "drop", "kg", "mg", "drop")
    # Who counts drops reads finer than the scale.
    smallest = smallest_batch(ratio_by(resin, RatioBasis.WEIGHT), min(step, drop or step))
    if basis is RatioBasis.WEIGHT and grams < smallest:
        raise ConditionError(
            f"A batch of {grams * 1e3:g} g cannot be weighed to 1 % on a scale that shows "
            f"{step * 1e3:g} g; mix at least {smallest * 1e3:.0f} g, or take a finer scale.",
            "grams",
        )
    extras = Extras(*(share(given, name) for name in SHARES))
    made = recipe(resin, grams, extras, (step, 1e-6), basis)
    if given.poured_a is not None:
        made = after_overshoot(made, amount(given, "poured_a", "kg", "g", "poured"), step)
    a_kg, b_kg = made.neat.a_kg, made.b_kg
    counted = None if drop is None else b_in_drops(resin, a_kg, extras, drop)
    if counted is not None and drop is not None:
        b_kg = counted * drop
    by_volume = ratio_by(resin, RatioBasis.VOLUME)
    document: dict[str, Any] = {
        "charge_kg": a_kg + b_kg + made.thickener_kg + made.thinner_kg,
        "parts_kg": {"A": a_kg, "B": b_kg},
        "parts_m3": {"A": a_kg / resin.density_a_kg_m3, "B": b_kg * made.b_m3 / made.b_kg},
        "neat_b_kg": made.neat.b_kg,
        "added_kg": {"thickener": made.thickener_kg, "thinner": made.thinner_kg},
        "ratio_by_volume": [by_volume.a, by_volume.b],
        "smallest_batch_kg": smallest,
        "drops_b": counted,
    }
    lines = [
        f"A {a_kg * 1e3:.1f} g, B {b_kg * 1e3:.1f} g"
        + (f" ({document['drops_b']} drops)" if document["drops_b"] else ""),
        *(f"{name} {kg * 1e3:.1f} g" for name, kg in document["added_kg"].items() if kg),
    ]
    return document, lines
