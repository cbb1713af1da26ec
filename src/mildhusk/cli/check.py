"""The command `husk check`."""

import argparse

from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.compatibility import PairVerdict, can_touch, judge_all, shipped_rules


def add_words(check: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    check.add_argument("keys", metavar="KEY", nargs="+")


def run(given: argparse.Namespace) -> tuple[tuple[PairVerdict, ...], list[str]]:
    """Say what happens where materials touch."""
    if len(given.keys) < 2:
        raise InputError("Give at least two materials to compare.", "keys")
    touching = tuple(shipped_material(key) for key in given.keys)
    verdicts = judge_all(touching, shipped_rules())
    lines = []
    for one in verdicts:
        lines.append(f"{' + '.join(one.pair)}: {one.verdict}")
        lines += [f"    {rule.id}: {rule.reason} {rule.remedy}" for rule in one.rules]
        if not one.rules:
            met = can_touch(*(shipped_material(key) for key in one.pair))
            where = "" if met else "They do not meet in one mould as a rule. "
            lines.append(f"    {where}No rule covers it: make a dab test.")
    return verdicts, lines
