"""The command `husk learn`."""

import argparse
from pathlib import Path
from typing import Any

from mildhusk.cli.files import read_file
from mildhusk.core.errors import InputError
from mildhusk.documents.log_files import LoggedPour, read_log


def add_words(learn: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    learn.add_argument("file", type=Path, help="the log, exported as JSON")
    learn.add_argument("--resin", metavar="NAME", help="as the log names it; else the newest's")
    learn.add_argument("--mould", metavar="NAME", help="as the log names it; else the newest's")
    learn.add_argument("--lot", metavar="LABEL", help="as the log names it; else the newest's")


def run(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Tell what the pours of a log teach."""
    # Its numerics are slow to load.
    from mildhusk.core.learning.learned import Taught, Value, hands, learn
    from mildhusk.core.learning.pooling import Groups, Level

    def groups(resin: str, lot: str, mould: str, piece: str, *, by_hand: bool) -> Groups:
        return {
            Level.WORKSHOP: "this log",
            Level.RESIN: resin,
            Level.LOT: lot or f"of {resin}",
            Level.MOULD: mould or f"of {piece}",
            Level.HANDS: hands(by_hand=by_hand),
        }

    pours = [one for one in read_log(read_file(given.file)) if one.lesson is not None]
    if not pours:
        raise InputError("No pour of this log teaches anything yet.", "file")
    newest = max((_of(pours, given.resin, "resin")), key=lambda one: one.started_at)
    mould = newest.mould if given.mould is None else _of(pours, given.mould, "mould")[0].mould
    lot = newest.lot if given.lot is None else _of(pours, given.lot, "lot")[0].lot
    assert newest.lesson is not None
    taught = []
    for pour in pours:
        if pour.lesson is not None:
            hand = pour.lesson.by_hand
            of = groups(pour.resin, pour.lot, pour.mould, pour.piece, by_hand=hand)
            taught.append(Taught(pour.lesson, of, pour.started_at, pour.sheet))
    wanted = groups(newest.resin, lot, mould, newest.piece, by_hand=newest.lesson.by_hand)
    found = [learn(key, taught, wanted) for key in Value]
    where = f", lot '{lot}'" if lot else ""
    lines = [f"{newest.resin}{where}, {mould or newest.piece}: bands of 90 %"]
    for one in found:
        since = "" if one.since is None else f", since {one.since:%Y-%m-%d}"
        lines.append(
            f"{one.title:<44} {100 * one.value:6.1f} % ({100 * one.low:.1f} to "
            f"{100 * one.high:.1f}), from {one.pours} of your pours{since}"
        )
        lines += [
            f"  counts for {out.weight:.2f} of one: {out.name}, {out.at:%Y-%m-%d} "
            f"({100 * out.value:.1f} %)"
            for out in one.outliers
        ]
    return found, lines


def _of(pours: list[LoggedPour], name: str | None, field: str) -> list[LoggedPour]:
    """Return the pours whose field has a name, or all of them."""
    found = [one for one in pours if name is None or getattr(one, field) == name]
    if not found:
        names = sorted({getattr(one, field) for one in pours} - {""})
        raise InputError(f"The log has no {field} '{name}'; it has {', '.join(names)}.", field)
    return found
