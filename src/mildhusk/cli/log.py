"""The command `husk log`."""

import argparse
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from mildhusk.cli.files import read_file
from mildhusk.documents.log_files import LoggedPour, read_log

_SHOWN = 40


@dataclass(frozen=True, slots=True)
class _Told:
    """A log in short. [g], [1]"""

    pours: int
    casts: int
    spoilt: int
    mixed_g: float
    stayed: float | None
    faults: dict[str, int]


def add_words(log: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    log.add_argument("file", type=Path, help="the log, exported as JSON")
    log.add_argument("--search", default="", metavar="WORDS", help="in names, faults and notes")


def run(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Read a log and tell it."""
    pours = [one for one in read_log(read_file(given.file)) if _has(one, given.search.lower())]
    casts = [one for one in pours if one.status == "cast"]
    faults: dict[str, int] = {}
    for one in pours:
        for fault in one.faults:
            faults[fault] = faults.get(fault, 0) + 1
    weighed = [one for one in casts if one.cast_g is not None and one.poured_g > 0.0]
    mixed = sum(one.poured_g for one in weighed)
    stayed = sum(one.cast_g or 0.0 for one in weighed) / mixed if mixed else None
    told = _Told(
        len(pours), len(casts), sum(one.status == "spoilt" for one in pours),
        sum(one.poured_g for one in pours), stayed, faults,
    )  # fmt: skip
    lines = [_line(one) for one in pours[:_SHOWN]]
    if len(pours) > _SHOWN:
        lines.append(f"and {len(pours) - _SHOWN} earlier ones")
    lines.append(f"{told.pours} pours, {told.casts} casts, {told.spoilt} spoilt")
    if stayed is not None:
        lines.append(f"of what was mixed {100.0 * stayed:.1f} % stayed in the casts")
    lines += [f"{count} x {fault}" for fault, count in sorted(faults.items())]
    return told, lines


def _has(pour: LoggedPour, words: str) -> bool:
    said = (pour.sheet, pour.piece, pour.resin, pour.mould, pour.note, *pour.faults)
    return any(words in one.lower() for one in said)


def _line(pour: LoggedPour) -> str:
    cast = "no cast" if pour.cast_g is None else f"{pour.cast_g:7.1f} g"
    walls = [one.wall_mm for one in pour.readings if one.wall_mm is not None]
    wall = f", wall {sum(walls) / len(walls):.1f} mm" if walls else ""
    faults = f", {'; '.join(pour.faults)}" if pour.faults else ""
    return (
        f"{pour.started_at:%Y-%m-%d %H:%M}  {pour.sheet}: {pour.poured_g:7.1f} g mixed, {cast} "
        f"(planned {pour.planned_cast_g:.1f} g){wall}{faults}"
    )
