"""The command `husk days`."""

import argparse
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from mildhusk.cli.files import read_file
from mildhusk.core.days.collisions import DayWish, changes_that_free, colliding
from mildhusk.core.days.days import Days, Plan, PlanStatus
from mildhusk.core.days.first_come import first_come
from mildhusk.core.days.solver import plan_days
from mildhusk.documents.days_files import read_days


@dataclass(frozen=True, slots=True)
class _TriedChange:
    """A change with which nothing is late, and how long the plan then lasts. [s]"""

    kind: str
    of: str
    text: str
    lasts_s: float


@dataclass(frozen=True, slots=True)
class _Told:
    """The plan, what collides, which changes free it, and how long it takes first come. [s]"""

    plan: Plan
    gap: float
    collides: tuple[DayWish, ...]
    changes: tuple[_TriedChange, ...]
    first_come_s: float | None


def add_words(days: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    days.add_argument("file", type=Path, help="tasks, people and places as JSON (docs/days.md)")
    days.add_argument(
        "--seconds", type=float, default=2.0, metavar="S", help="how long to look (default 2)"
    )


def run(given: argparse.Namespace) -> tuple[Any, list[str]]:
    """Plan the days of a file and tell them."""
    days = read_days(read_file(given.file))
    plan = plan_days(days, seconds=given.seconds)
    by_hand = first_come(days)
    late = plan.standing is PlanStatus.NONE or (plan.cost is not None and plan.cost.late_s > 0.0)
    collided = (colliding(days) or ()) if late else ()
    changes = changes_that_free(days, plan, seconds=given.seconds) if late else ()
    told = _Told(
        plan,
        plan.gap,
        collided,
        tuple(
            _TriedChange(one.made.kind, one.made.of, one.made.text, one.plan.cost.lasts_s)
            for one in changes
            if one.plan.cost is not None
        ),
        None if by_hand.cost is None else by_hand.cost.lasts_s,
    )
    return told, list(_lines(days, told))


def _lines(days: Days, told: _Told) -> Iterator[str]:
    zone = ZoneInfo(days.people[0].zone) if days.people else ZoneInfo("UTC")
    titles = {one.id: f"{one.title} ({one.job})" for one in told.plan.tasks}
    day = None
    for one in told.plan.planned:
        starts, ends = one.starts.astimezone(zone), one.ends.astimezone(zone)
        if starts.date() != day:
            day = starts.date()
            yield f"{starts:%A %d %B}"
        until = f"{ends:%H:%M}" if ends.date() == day else f"{ends:%d %b %H:%M}"
        who = ", ".join(one.people) or "by itself"
        yield f"  {starts:%H:%M} to {until}  {titles[one.id]}: {who}"
    if told.plan.standing is PlanStatus.NONE:
        yield "nothing can be planned so"
    elif told.plan.cost is not None:
        cost = told.plan.cost
        how = (
            "the best there is"
            if told.plan.standing is PlanStatus.BEST
            else (f"at most {100.0 * told.gap:.0f} % above the best")
        )
        yield f"done after {cost.lasts_s / 86_400.0:.1f} days; {how}"
        if cost.evenings:
            yield f"evenings given up: {cost.evenings}"
        if cost.late_s > 0.0:
            yield f"late by {cost.late_s / 3600.0:.1f} h in all"
    if told.collides:
        yield f"cannot be kept together: {'; '.join(one.text for one in told.collides)}"
    for change in told.changes:
        yield f"in time with {change.text}: done after {change.lasts_s / 86_400.0:.1f} days"
