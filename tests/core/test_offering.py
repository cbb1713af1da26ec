"""So many casts by a day, worked out by hand beside what is answered."""

from dataclasses import replace
from datetime import timedelta

import pytest

from core.random_days import MONDAY
from mildhusk.core.days.days import Days, Plan, PlanStatus
from mildhusk.core.days.making import CastTimes
from mildhusk.core.days.offering import Order, answer_to, ordered_tasks
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.solver import Kept, plan_days
from mildhusk.core.days.tasks import Task

HOUR = timedelta(hours=1)
EIGHT = MONDAY + 8 * HOUR
ADA = Person("Ada", {day: Hours(8.0, 18.0) for day in range(7)})
# Rolled in half an hour, out two hours after the first contact.
TIMES = CastTimes(1800.0, 1500.0, 7200.0)


def order(casts, due_h, **more):
    told = {"ready": casts, "delivered": EIGHT, **more}
    return Order(casts, "mould", TIMES, (), EIGHT + due_h * HOUR, **told)


def empty(days=6):
    return Days((), (ADA,), EIGHT, days=days)


def one_cast_s():
    """What one cast holds its mould for: rolled, cured, taken out, one after the other."""
    tasks, _ = ordered_tasks(order(1, 100))
    return sum(task.duration_s for task in tasks)


def test_casts_in_one_mould_follow_each_other():
    """Three casts that each hold the mould for so long end after three times that, in a day."""
    found = answer_to(empty(), Plan(PlanStatus.GOOD), order(3, 240))
    assert found.ends == EIGHT + timedelta(seconds=3 * one_cast_s())
    assert found.in_time == 3
    tasks, _ = ordered_tasks(order(3, 240))
    assert found.hands_s == sum(one.duration_s for one in tasks if one.hands)


def test_a_day_too_soon_says_how_many_are_done_by_then():
    whole_h = one_cast_s() / 3600.0
    found = answer_to(empty(), Plan(PlanStatus.GOOD), order(3, 2.5 * whole_h))
    assert found.in_time == 2
    assert found.ends > EIGHT + 2.5 * whole_h * HOUR


def test_resin_that_is_still_to_come_is_waited_for():
    delivered = EIGHT + 48 * HOUR
    found = answer_to(empty(), Plan(PlanStatus.GOOD), order(2, 240, ready=1, delivered=delivered))
    assert found.ends == delivered + timedelta(seconds=one_cast_s())
    assert found.in_time == 2


def test_another_mould_is_built_first_and_then_takes_every_second_cast():
    """Five casts take more than a day in one mould; an hour of building saves a good part of it."""
    asked = order(5, 240)
    alone = answer_to(empty(), Plan(PlanStatus.GOOD), asked, seconds=3.0)
    build = (Task("build", "Build it", "build", 3600.0),)
    tasks, held = ordered_tasks(asked, build)
    assert [one.place for one in held].count("another mould") == 2
    firsts = {one.first for one in held if one.place == "another mould"}
    after = {one.id: [a.task for a in one.after] for one in tasks}
    assert all("build" in after[key] for key in firsts)
    both = answer_to(empty(), Plan(PlanStatus.GOOD), asked, build=build, seconds=3.0)
    assert both.ends < alone.ends
    assert both.hands_s == pytest.approx(alone.hands_s + 3600.0)


def test_what_is_planned_already_stays_and_the_order_goes_round_it():
    busy = replace(empty(), tasks=(Task("sand", "Sand", "sand", 8 * 3600.0),))
    plan = plan_days(busy)
    found = answer_to(busy, plan, order(1, 240), kept=Kept({}, {}, EIGHT))
    free = answer_to(empty(), Plan(PlanStatus.GOOD), order(1, 240))
    assert found.ends > free.ends
    assert found.ends >= plan.planned[0].ends


def test_what_does_not_fit_into_the_days_says_so():
    found = answer_to(empty(days=1), Plan(PlanStatus.GOOD), order(9, 240))
    assert (found.ends, found.in_time) == (None, 0)


def test_many_casts_in_one_mould_go_round_what_is_planned():
    """Twelve that each leave the mould before the next goes in; put one by one they all fit."""
    busy = replace(empty(days=20), tasks=(Task("sand", "Sand", "sand", 8 * 3600.0),))
    plan = plan_days(busy)
    found = answer_to(busy, plan, order(12, 480), kept=Kept({}, {}, EIGHT))
    assert found.in_time == 12
    assert found.ends >= EIGHT + timedelta(seconds=12 * one_cast_s())


def test_evenings_are_given_up_only_where_that_brings_more_in_time():
    """Six casts fit into two days without evenings; by the first night only with them."""
    late = replace(ADA, week={day: Hours(8.0, 18.0, 23.0) for day in range(7)})
    days = Days((), (late,), EIGHT, days=6)
    calm = answer_to(days, Plan(PlanStatus.GOOD), order(6, 100))
    assert (calm.in_time, calm.evenings) == (6, 0)
    fits = int(10 * 3600 // one_cast_s())
    pressed = answer_to(days, Plan(PlanStatus.GOOD), order(fits + 1, 14.9))
    assert (pressed.in_time, pressed.evenings) == (fits + 1, 1)
