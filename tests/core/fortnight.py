"""A full fortnight: six moulds and fourteen casts with their finish, in two workshops' hours."""

from datetime import UTC, datetime, timedelta

from mildhusk.core.days.days import Days
from mildhusk.core.days.making import CastTimes, cast_tasks, mould_tasks
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.tasks import Place
from mildhusk.core.finishing.finish import FinishWish, Husk, Paint, finish_of
from mildhusk.core.materials.catalogue import shipped_material, shipped_resin
from mildhusk.core.mould.clock import Task as BuildTask

BEGINS = datetime(2026, 3, 2, 7, tzinfo=UTC)
MOULDS, CASTS, IN_ROTATION = 6, 14, 3
BUILD = (
    BuildTask("master", "Fix, close and seal the master", 2 * 3600.0),
    BuildTask("coat-1", "Print coat", 1200.0),
    *(BuildTask(f"coat-{n}", f"Coat {n} of rubber", 1500.0, 1500.0, 2700.0) for n in (2, 3, 4)),
    BuildTask("shell-1", "Shell", 2.5 * 3600.0, 16 * 3600.0),
    BuildTask("strip", "Strip, wash, seat again", 3600.0, 2 * 3600.0),
)


def fortnight(*, due_days: float | None = None) -> Days:
    """A maker with evenings to give up and a helper on two days; casts take turns in moulds."""
    resin = shipped_resin("pu-fast-rigid")
    release = shipped_material("release-paintable-spray")
    husk = Husk(resin, release, 0.2, resin.demould_s, resin.full_cure_s)
    steps = finish_of(husk, FinishWish(Paint.WATER, cut_outs=2))
    times = CastTimes(1800.0, 1500.0, 1500.0 + resin.demould_s, on_machine=True)
    due = None if due_days is None else BEGINS + timedelta(days=due_days)
    tasks, held = [], []
    for number in range(MOULDS):
        tasks += mould_tasks(f"mould {number + 1}", BUILD)
    for number in range(CASTS):
        made, holds = cast_tasks(
            f"cast {number + 1}", f"mould in use {number % IN_ROTATION + 1}", times, steps, due=due
        )
        tasks += made
        held.append(holds)
    people = (
        Person("Maker", {day: Hours(8.0, 18.0, 21.0) for day in range(6)}, "Europe/Berlin"),
        Person("Helper", {day: Hours(9.0, 15.0) for day in (1, 3)}, "Europe/Berlin"),
    )
    return Days(tuple(tasks), people, BEGINS, (Place("bench", 2),), tuple(held), days=28)
