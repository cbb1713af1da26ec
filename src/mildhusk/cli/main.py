"""`husk`: which commands there are, and running one."""

import argparse
import sys
from importlib import import_module
from typing import NoReturn

from mildhusk.core.errors import HuskError, InputError

BAD_INPUT = 2
COMMANDS = {
    "materials": "list the materials that ship",
    "measure": "measure a shape file",
    "sheet": "plan a cast of a shape file",
    "mix": "weigh one charge, with what goes into it",
    "mould": "plan a mould of a shape file",
    "pattern": "patterns to cut at 1:1: walls, skirts, boxes, visors, strips",
    "coat": "how coats land on a turning mould",
    "cure": "when a mix does what, in its cup and as a film",
    "chain": "decide backwards from the husk",
    "check": "what happens where materials touch",
    "buy": "which kits to buy at the least cost",
    "days": "plan the days: tasks, people, places",
    "log": "read a log as it was exported",
    "learn": "what the pours of a log teach",
    "devices": "scale, probe, machine: which ports, what they say, stand-ins",
}
"""Each stands in the module of its name, with `add_words` and `run`."""


class _Parser(argparse.ArgumentParser):
    """A parser that answers bad words with one line."""

    def error(self, message: str) -> NoReturn:
        raise InputError(f"{message}; see {self.prog} --help.")


def main(arguments: list[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    try:
        words = _joined(sys.argv[1:] if arguments is None else arguments)
        given = _parser(words).parse_args(words)
        answer, lines = given.run(given)
    except HuskError as error:
        print(f"husk: {error}", file=sys.stderr)
        return BAD_INPUT
    if given.json:
        from mildhusk.cli.output import as_json

        print(as_json(answer))
    else:
        print("\n".join(lines))
    return 0


def _joined(words: list[str]) -> list[str]:
    """Join `--wall -3mm` to `--wall=-3mm`: argparse takes a leading minus for an option."""
    made: list[str] = []
    for word in words:
        if word.endswith("=--"):
            raise InputError(f"'{word}' has no value; write for instance --grams=240g.")
        negative = word[:1] == "-" and word[1:2].isdigit()
        if negative and made and made[-1].startswith("--") and "=" not in made[-1]:
            made[-1] = f"{made[-1]}={word}"
        else:
            made.append(word)
    return made


def _parser(words: list[str]) -> argparse.ArgumentParser:
    """Return a parser that knows every command, and the words of the one that is asked."""
    parser = _Parser(prog="husk", description="Plan hollow casts: charge, coats, clock.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND", parser_class=_Parser)
    asked = words[0] if words else None
    for name, says in COMMANDS.items():
        command = commands.add_parser(name, help=says)
        if name != asked:
            continue
        module = import_module(f"mildhusk.cli.{name}")
        module.add_words(command)
        command.add_argument("--json", action="store_true", help="print JSON")
        command.set_defaults(run=module.run)
    return parser


if __name__ == "__main__":
    sys.exit(main())
