"""The command `husk chain`."""

import argparse

from mildhusk.core.choosing.answer import Chain, decided
from mildhusk.core.choosing.task import Link, Purpose, Task
from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import shipped_material, shipped_materials
from mildhusk.core.materials.compatibility import shipped_judge
from mildhusk.quantities import read_quantity


def add_words(chain: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    chain.add_argument("--purpose", choices=[str(p) for p in Purpose], required=True)
    chain.add_argument("--opening-girth", required=True, metavar="330mm")
    chain.add_argument("--widest-girth", required=True, metavar="560mm")
    for question in ("--paint", "--spin"):
        chain.add_argument(question, choices=["yes", "no"], default="no")
    chain.add_argument("--area", default="1500cm^2", metavar="1500cm^2")
    chain.add_argument("--master", metavar="KEY", help="what the master is made of")
    chain.add_argument("--take", action="append", default=[], metavar="LINK=KEY")


def run(given: argparse.Namespace) -> tuple[Chain, list[str]]:
    """Decide backwards from the husk."""

    def girth(text: str, name: str) -> float:
        return read_quantity(text, "m", "mm", name=f"The {name} girth", field=f"{name}_girth_m")

    task = Task(
        purpose=Purpose(given.purpose),
        opening_girth_m=girth(given.opening_girth, "opening"),
        widest_girth_m=girth(given.widest_girth, "widest"),
        painted=given.paint == "yes",
        spun=given.spin == "yes",
        area_m2=read_quantity(given.area, "m^2", "cm^2", name="The area", field="area_m2"),
        master=None if given.master is None else shipped_material(given.master),
    )
    taken = dict(_taken(words) for words in given.take)
    chain = decided(task, shipped_materials(), shipped_judge, taken)
    lines = [f"needed stretch {chain.needed_stretch * 100:.0f} %"]
    lines += chain.given_up
    for link, candidates in chain.links.items():
        for one in candidates:
            lines.append(f"{link:8} {one.verdict:9} {one.key}")
            lines += [f"{'':19}{reason}" for reason in one.reasons]
    for disagreement in chain.schools:
        lines.append(disagreement.question)
        for way in disagreement.ways:
            lines += [f"    {way.name}: + {gain}" for gain in way.gains]
            lines += [f"    {way.name}: - {cost}" for cost in way.costs]
    return chain, lines


def _taken(words: str) -> tuple[Link, str]:
    link, _, key = words.partition("=")
    if link not in list(Link) or not key:
        raise InputError(f"'{words}' is not LINK=KEY; the links are {', '.join(Link)}.", "take")
    return Link(link), key
