"""Tasks made of a cast sheet, of a build clock and of a finish go into one plan."""

from datetime import UTC, datetime, timedelta

import pytest

from core.checked_days import faults_of
from core.plans import planned
from mildhusk.core.days.days import Days
from mildhusk.core.days.making import CastTimes, cast_tasks, mould_tasks
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.solver import plan_days
from mildhusk.core.finishing.finish import FinishWish, Husk, Paint, finish_of
from mildhusk.core.materials.catalogue import shipped_resin
from mildhusk.core.mould.clock import Task as BuildTask

MONDAY = datetime(2026, 3, 2, 8, tzinfo=UTC)
ADA = Person("Ada", {day: Hours(8.0, 18.0) for day in range(5)})
SHEET = planned()


def test_a_cast_holds_its_mould_until_it_is_out_and_is_primed_when_it_has_cured():
    times = CastTimes.of(SHEET, on_machine=False, hands=1)
    of = shipped_resin("pu-fast-rigid")
    husk = Husk(of, None, SHEET.area_m2, SHEET.demould_s, SHEET.full_cure_s)
    steps = finish_of(husk, FinishWish(Paint.SOLVENT))
    tasks, held = cast_tasks("helmet", "glove", times, steps)
    days = Days(tasks, (ADA,), MONDAY, held=(held,))
    plan = plan_days(days)
    assert faults_of(days, plan.planned) == []
    at = plan.by_id()
    rolled = at["helmet: roll"]
    assert at["helmet: cure"].starts == rolled.ends
    # First contact of coat 1 is after the setup of a quarter of an hour.
    first_contact = rolled.starts + timedelta(minutes=15)
    out = (at["helmet: cure"].ends - first_contact).total_seconds()
    assert SHEET.out_after_s <= out < SHEET.out_after_s + 60.0
    last_contact = first_contact + timedelta(seconds=SHEET.coats[-1].starts_s)
    waited = (at["helmet: primer"].starts - last_contact).total_seconds()
    assert SHEET.full_cure_s <= waited <= SHEET.full_cure_s + 86_400.0
    assert (held.place, held.last) == ("glove", "helmet: out")


def test_the_windows_of_rubber_are_those_of_its_build_clock():
    steps = (
        BuildTask("master", "Fix the master", 3600.0),
        BuildTask("coat-1", "Print coat", 1200.0),
        BuildTask("coat-2", "Coat 2 of rubber", 1500.0, 1500.0, 2400.0),
        BuildTask("shell-1", "Shell", 16 * 3600.0, 16 * 3600.0),
    )
    tasks = mould_tasks("mould", steps, due=MONDAY + timedelta(days=9))
    plan = plan_days(Days(tasks, (ADA,), MONDAY))
    at = plan.by_id()
    gap = (at["mould: coat-2"].starts - at["mould: coat-1"].ends).total_seconds()
    assert 1500.0 <= gap <= 2400.0
    # A shell of sixteen hours is built in two days, what follows it follows the whole.
    parts = [one for one in plan.planned if "shell" in one.id]
    assert len(parts) == 2
    assert sum((one.ends - one.starts).total_seconds() for one in parts) == pytest.approx(57_600.0)
    assert plan.tasks[-1].due == MONDAY + timedelta(days=9)


def test_what_is_cut_meanwhile_is_planned_beside_the_cure_and_before_the_shell():
    cure = 16 * 3600.0
    steps = (
        BuildTask("coat-1", "Print coat", 1200.0),
        BuildTask("patterns", "Cut the wall of the part line", 1500.0),
        BuildTask("shell-1", "Shell", 3600.0, cure, after="coat-1"),
    )
    plan = plan_days(Days(mould_tasks("mould", steps), (ADA,), MONDAY))
    at = plan.by_id()
    # The cure runs from the last coat, not from when the cutting was done.
    waited = (at["mould: shell-1"].starts - at["mould: coat-1"].ends).total_seconds()
    assert cure <= waited <= 24 * 3600.0
    assert at["mould: patterns"].ends <= at["mould: shell-1"].starts
    assert at["mould: patterns"].starts.date() == MONDAY.date()
