"""The command `husk cure`."""

import argparse
from typing import Any

from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.materials.catalogue import shipped_resin
from mildhusk.core.wording import in_minutes
from mildhusk.quantities import read_quantity


def add_words(cure: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    cure.add_argument("--resin", required=True, metavar="KEY")
    cure.add_argument("--grams", default="100g", metavar="240", help="A and B in the cup")
    cure.add_argument("--temp", default="23C", metavar="18C", help="of the room and the parts")
    cure.add_argument("--mould-temp", metavar="20C", help="of the mould; else the room's")
    cure.add_argument("--parts-temp", metavar="20C", help="of A and B; else the room's")
    cure.add_argument("--film", default="1mm", metavar="1mm", help="on the mould")
    cure.add_argument("--catalyst", metavar="1.5%%", help="where the resin takes one")


def run(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Compute a cure."""
    # The solver is slow to load.
    from mildhusk.core.cure.answer import curve_of
    from mildhusk.core.cure.heat import DEEPEST_M, passed_in_cup, puddle_limit
    from mildhusk.core.cure.model import Cure, CureSetup, cure

    def kelvin(text: str | None, field: str, name: str, usual: float | None = None) -> float:
        if text is None and usual is not None:
            return usual
        return read_quantity(text or "", "K", "C", name=f"The {name}", field=field)

    resin = shipped_resin(given.resin)
    room = kelvin(given.temp, "room_temperature_k", "temperature of the room")
    catalyst = None
    if given.catalyst is not None:
        catalyst = read_quantity(
            given.catalyst, "dimensionless", "%", name="The catalyst", field="catalyst"
        )
    setup = CureSetup(
        mass_kg=read_quantity(given.grams, "kg", "g", name="The mass", field="grams"),
        room_k=room,
        mould_k=kelvin(given.mould_temp, "mould_temperature_k", "mould temperature", room),
        parts_k=kelvin(given.parts_temp, "parts_temperature_k", "temperature of A and B", room),
        film_m=read_quantity(given.film, "m", "mm", name="The film", field="film"),
        catalyst=catalyst,
    )
    found: Cure = cure(resin, setup)
    passed = passed_in_cup(resin, found.cup)
    puddle = puddle_limit(resin, setup.parts_k, setup.mould_k, catalyst)
    cup = curve_of(found.cup, found.viscosity_pa_s, found.demould_s)
    told = {
        "estimate": True,
        "working_time_s": found.working_time_s,
        "gel_cup_s": found.gel_cup_s,
        "gel_film_s": found.gel_film_s,
        "tack_from_s": found.tack_from_s,
        "tack_until_s": found.tack_until_s,
        "demould_s": found.demould_s,
        "peak_cup_C": found.peak_cup_k - ZERO_CELSIUS_K,
        "peak_film_C": found.peak_film_k - ZERO_CELSIUS_K,
        "passed_in_cup": [
            {
                "danger": str(one.limit.danger),
                "at_C": one.limit.temperature_k - ZERO_CELSIUS_K,
                "after_s": one.after_s,
                "what": one.limit.what,
            }
            for one in passed
        ],
        "puddle_m": None if puddle is None else puddle.depth_m,
        "curve": {
            "t_s": cup.t_s,
            "alpha": cup.degree,
            "T_C": [one - ZERO_CELSIUS_K for one in cup.temperature_k],
            "mu_Pa_s": cup.viscosity_pa_s,
        },
    }
    lines = [
        f"work it   {in_minutes(found.working_time_s)} in the cup; it gels there after "
        f"{in_minutes(found.gel_cup_s)} and gets {found.peak_cup_k - ZERO_CELSIUS_K:.0f} °C",
        f"film      gels after {in_minutes(found.gel_film_s)}, gets "
        f"{found.peak_film_k - ZERO_CELSIUS_K:.0f} °C",
        f"next coat {in_minutes(found.tack_from_s)} to {in_minutes(found.tack_until_s)}",
        f"demould   {in_minutes(found.demould_s)} (estimates from the data sheet and its class)",
    ]
    lines += [
        f"too hot   {one.limit.temperature_k - ZERO_CELSIUS_K:.0f} °C after "
        f"{in_minutes(one.after_s)} when the cup is left standing: {one.limit.what}"
        for one in passed
    ]
    lines.append(
        f"puddle    {1e3 * DEEPEST_M:.0f} mm deep and less stay cool enough"
        if puddle is None
        else f"puddle    at most {1e3 * puddle.depth_m:.1f} mm deep; a deeper one passes "
        f"{puddle.limit.temperature_k - ZERO_CELSIUS_K:.0f} °C"
    )
    return told, lines
