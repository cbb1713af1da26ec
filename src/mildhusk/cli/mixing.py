"""Words about what goes into a mix, and reading them."""

import argparse

from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.quantities import read_quantity

_NAMES = {
    "grams": "charge",
    "poured_a": "part A that was poured",
    "scale": "last digit of the scale",
    "mark": "finest mark of the cup",
    "temp": "temperature of the room",
}
SHARES = ("tint", "filler", "thickener", "thinner")


def add_mixing_words(command: argparse.ArgumentParser) -> None:
    """Add the options of a mix."""
    command.add_argument("--scale", default="0.1g", metavar="0.1g", help="its last digit")
    command.add_argument("--by", choices=[str(one) for one in RatioBasis])
    command.add_argument("--catalyst", metavar="1.5%%", help="where the resin takes one")
    for name in SHARES:
        command.add_argument(f"--{name}", default="0%", metavar="1%%", help="of A and B together")


def amount(given: argparse.Namespace, option: str, unit: str, usual: str, field: str) -> float:
    """Return what an option says, in SI."""
    text = getattr(given, option)
    name = _NAMES.get(option, option)
    return read_quantity(text, unit, usual, name=f"The {name}", field=field)


def share(given: argparse.Namespace, name: str) -> float:
    """Return what an option says, as a share."""
    return amount(given, name, "dimensionless", "%", name)


def catalyst(given: argparse.Namespace) -> float | None:
    """Return the dose of catalyst; None where none was said."""
    if given.catalyst is None:
        return None
    return amount(given, "catalyst", "dimensionless", "%", "catalyst")
