"""The plan of days: against a whole search, checked by other code, on odd days and clocks."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from core.checked_days import collides, faults_of, is_there, least_cost
from core.random_days import MONDAY, larger, small
from mildhusk.core.days.collisions import (
    ChangeKind,
    WishKind,
    changes_that_free,
    colliding,
    wishes_of,
    without,
)
from mildhusk.core.days.days import Days, Planned, PlanStatus, Why
from mildhusk.core.days.first_come import first_come
from mildhusk.core.days.following import plan_anew
from mildhusk.core.days.shifts import Hours, Person, shifts_of
from mildhusk.core.days.solver import plan_days
from mildhusk.core.days.tasks import After, Held, Place, Task
from mildhusk.core.errors import DaysError

H = 3600.0
WEEK = {day: Hours(8.0, 18.0) for day in range(5)}
ADA = Person("Ada", WEEK)


@pytest.mark.parametrize("seed", range(8))
def test_the_plan_costs_what_the_best_of_all_plans_costs(seed):
    """Twenty-five cases a seed, 200 in all, against a search of every plan there is."""
    rng = np.random.default_rng(seed)
    planned = 0
    for _ in range(25):
        days = small(rng)
        # Time enough to prove it, however slow the machine is just now.
        found, least = plan_days(days, seconds=30.0), least_cost(days)
        if least is None:
            assert found.standing is PlanStatus.NONE
            continue
        planned += 1
        assert found.standing is PlanStatus.BEST
        assert found.cost.whole_s == pytest.approx(least)
        assert found.bound_s <= least + 1e-6
        assert faults_of(days, found.planned) == []
    assert planned >= 12


@pytest.mark.parametrize("seed", range(20))
def test_no_window_hour_hand_or_place_is_ever_violated(seed):
    """A hundred cases a seed, 2,000 in all, checked by code that shares nothing with the plan's."""
    rng = np.random.default_rng([77, seed])
    planned = 0
    for _ in range(100):
        days = larger(rng)
        by_hand = first_come(days)
        found = plan_days(days, seconds=0.4)
        for plan in (by_hand, found):
            if plan.standing is not PlanStatus.NONE:
                assert faults_of(replace(days, tasks=plan.tasks), plan.planned) == []
        if found.standing is not PlanStatus.NONE:
            planned += 1
            assert found.bound_s <= found.cost.whole_s + 1e-6
        if by_hand.standing is not PlanStatus.NONE:
            # Of plans to the minute it is the best; a minute late costs ten.
            minutes = 1 + 10 * sum(one.due is not None for one in days.tasks)
            assert found.cost.whole_s <= by_hand.cost.whole_s + 60.0 * minutes
    assert planned >= 60


def brushed(count=4, job="mould"):
    """Coats of rubber, each 30 to 45 minutes after the last (common practice, no source)."""
    return [
        Task(
            f"{job} {n}", f"Coat {n + 1}", job, 1500.0, places=("bench",),
            after=(After(f"{job} {n - 1}", 1800.0, 2700.0),) if n else (),
        )
        for n in range(count)
    ]  # fmt: skip


def test_coats_that_would_run_into_the_night_begin_the_next_morning():
    coats = brushed(4)
    begins = MONDAY + timedelta(hours=16)
    found = plan_days(Days(tuple(coats), (ADA,), begins))
    # Four coats of 25 min, half an hour between: 3 h 10 min; until 18:00 there are two hours.
    assert found.planned[0].starts == MONDAY + timedelta(days=1, hours=8)
    assert found.planned[-1].ends == MONDAY + timedelta(days=1, hours=11, minutes=10)
    late = replace(ADA, week={d: Hours(8.0, 18.0, 21.0) for d in range(5)})
    evening = plan_days(Days(tuple(coats), (late,), begins))
    assert evening.cost.evenings == 1
    assert evening.planned[-1].ends == MONDAY + timedelta(hours=19, minutes=10)


def test_a_mould_takes_no_second_cast_before_the_first_is_out():
    """While one cures another mould is rolled, by the same pair of hands."""

    def cast(number, mould):
        roll = Task(f"roll {number}", "Roll", f"cast {number}", 0.5 * H)
        cure = Task(f"cure {number}", "Cure", roll.job, 3 * H, hands=0, after=(After(roll.id),))
        out = Task(f"out {number}", "Take out", roll.job, 0.5 * H, after=(After(cure.id),))
        return (roll, cure, out), Held(mould, roll.id, out.id)

    def lasts(moulds):
        made = [cast(n, f"mould {n % moulds}") for n in range(2)]
        days = Days(
            sum((tasks for tasks, _ in made), ()), (ADA,), MONDAY + timedelta(hours=8),
            held=tuple(held for _, held in made),
        )  # fmt: skip
        return plan_days(days).cost.lasts_s / H

    assert lasts(1) == pytest.approx(8.0)
    assert lasts(2) == pytest.approx(4.5)


def test_what_takes_longer_than_a_day_is_put_down_only_where_it_may_be():
    sanding = Task("sand", "Sand", "helmet", 14 * H)
    none = plan_days(Days((sanding,), (ADA,), MONDAY))
    assert none.standing is PlanStatus.NONE
    found = plan_days(Days((replace(sanding, interruptible=True),), (ADA,), MONDAY))
    assert [one.id for one in found.planned] == ["sand, part 1", "sand"]
    assert sum((one.ends - one.starts).total_seconds() for one in found.planned) == 14 * H
    assert found.planned[1].starts.day == 3


def test_what_cannot_be_left_alone_waits_until_somebody_is_there():
    heat = Task("bake", "Hot box", "rubber", 5 * H, hands=0, left_alone=False)
    begins = MONDAY + timedelta(hours=15)
    alone = plan_days(Days((replace(heat, left_alone=True),), (ADA,), begins))
    assert alone.planned[0].starts == begins
    assert plan_days(Days((heat,), (ADA,), begins)).planned[0].starts == MONDAY + timedelta(
        days=1, hours=8
    )


BERLIN = ZoneInfo("Europe/Berlin")


@pytest.mark.parametrize(
    ("day", "lasts_h"),
    [
        # Directive 2000/84/EC: summer time begins on the last Sunday of March, ends on that of
        # October, at 1:00 UTC.
        (date(2026, 3, 29), 23.0),
        (date(2026, 10, 25), 25.0),
        (date(2028, 2, 29), 24.0),
    ],
)
def test_a_day_is_as_long_as_it_is_on_the_wall(day, lasts_h):
    person = Person("Ada", {n: Hours(0.0, 24.0) for n in range(7)}, zone="Europe/Berlin")
    begins = datetime(day.year, day.month, day.day, tzinfo=BERLIN) - timedelta(days=1)
    (shift,) = [
        one for one in shifts_of(person, begins, begins + timedelta(days=4)) if one.day == day
    ]
    assert (shift.ends - shift.starts).total_seconds() == lasts_h * H
    assert is_there(person, shift.starts, shift.ends)


def test_a_night_shift_goes_past_midnight_and_two_zones_are_two_mornings():
    night = Person("Bo", {0: Hours(22.0, 30.0)}, zone="Europe/Berlin")
    task = Task("watch", "Watch it set", "mould", 7 * H)
    (one,) = plan_days(Days((task,), (night,), MONDAY)).planned
    assert one.starts == datetime(2026, 3, 2, 22, 0, tzinfo=BERLIN)
    far = Person("Cy", {0: Hours(8.0, 16.0)}, zone="America/New_York")
    (other,) = plan_days(Days((task,), (far,), MONDAY)).planned
    assert other.starts == datetime(2026, 3, 2, 13, 0, tzinfo=UTC)


@pytest.mark.parametrize("seed", range(3))
def test_what_collides_is_a_smallest_set_of_wishes(seed):
    rng = np.random.default_rng([5, seed])
    seen = 0
    while seen < 6:
        days = small(rng)
        if len(days.tasks) > 3 or len(wishes_of(days)) > 4:
            continue
        size, found = collides(days, wishes_of(days), without), colliding(days)
        assert (None if found is None else len(found)) == size
        seen += size is not None


def test_a_date_that_cannot_be_kept_is_freed_by_changes_that_were_tried():
    coats = brushed(4)
    coats[-1] = replace(coats[-1], due=MONDAY + timedelta(hours=18, minutes=30))
    days = Days(tuple(coats), (ADA,), MONDAY + timedelta(hours=16))
    plan = plan_days(days)
    assert plan.cost.late_s == pytest.approx((16 * 60 + 40) * 60.0)
    collided = colliding(days)
    # The date cannot be kept from four o'clock on, whoever works when: 3 h 10 min of coats.
    assert [one.kind for one in collided] == [WishKind.DUE]
    later = replace(coats[-1], due=MONDAY + timedelta(hours=20))
    days = replace(days, tasks=(*coats[:-1], later))
    assert [one.kind for one in colliding(days)] == [WishKind.DUE, WishKind.HOURS]
    plan = plan_days(days)
    changes = changes_that_free(days, plan)
    kinds = {one.made.kind for one in changes}
    assert {ChangeKind.LATER, ChangeKind.EVENINGS} <= kinds
    assert ChangeKind.HELPER not in kinds
    for one in changes:
        assert one.plan.cost.late_s == 0.0
        assert faults_of(one.made.days, one.plan.planned) == []
        # Made, it is made use of: what was late moves, though it could stay where it was.
        made, _ = plan_anew(one.made.days, plan, {}, days.begins, wishes_changed=True)
        assert made.cost.late_s == 0.0, one.made.text
        assert faults_of(one.made.days, made.planned) == []


def test_after_a_late_start_as_few_tasks_as_can_be_move_and_say_why():
    coats = brushed(3)
    sand = Task("sand", "Sand", "helmet", 2 * H)
    file = Task("file", "File the eyes", "mask", 1 * H)
    days = Days((*coats, sand, file), (ADA,), MONDAY + timedelta(hours=8))
    plan = plan_days(days)
    stood = plan.by_id()
    # The first coat began twenty minutes late: the other two have to follow.
    first = stood["mould 0"]
    late = timedelta(minutes=20)
    done = {"mould 0": Planned(first.id, first.starts + late, first.ends + late, first.people)}
    now = first.starts + late
    anew, moves = plan_anew(days, plan, done, now)
    assert faults_of_rest(days, anew, done) == []
    moved = {one.id: one for one in moves}
    assert moved["mould 1"].why is Why.AFTER
    assert moved["mould 1"].by == "mould 0"
    assert {"mould 1", "mould 2"} <= set(moved)
    same = plan_anew(days, plan, {}, days.begins)
    assert same[1] == ()
    assert same[0].planned == plan.planned


def test_a_window_missed_by_a_minute_is_told_and_the_rest_goes_on():
    """The second coat may go on until 45 min after the first; it is looked at a minute later."""
    coats = brushed(3)
    days = Days(tuple(coats), (ADA,), MONDAY + timedelta(hours=8))
    plan = plan_days(days)
    first = plan.by_id()["mould 0"]
    in_time, _ = plan_anew(days, plan, {first.id: first}, first.ends + timedelta(minutes=45))
    assert in_time.missed == ()
    late, moves = plan_anew(days, plan, {first.id: first}, first.ends + timedelta(minutes=46))
    assert late.missed == ("mould 1",)
    assert late.by_id()["mould 1"].starts == first.ends + timedelta(minutes=46)
    assert {one.id for one in moves} == {"mould 1", "mould 2"}


def test_who_no_longer_works_here_is_planned_for_no_more():
    bo = Person("Bo", WEEK)
    tasks = [Task(name, name, name, 2 * H) for name in ("file", "sand", "prime")]
    days = Days(tuple(tasks), (ADA, bo), MONDAY + timedelta(hours=8))
    plan = plan_days(days)
    first = plan.planned[0]
    (left,) = [one for one in (ADA, bo) if one.name not in first.people]
    alone = replace(days, people=(left,))
    anew, _ = plan_anew(alone, plan, {first.id: first}, first.ends)
    assert faults_of_rest(days, anew, {first.id: first}) == []
    assert {one.people for one in anew.planned if one.id != first.id} == {(left.name,)}


def faults_of_rest(days, plan, done):
    """What is wrong with the tasks that were not done yet."""
    return [one for one in faults_of(days, plan.planned) if not any(key in one for key in done)]


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        (lambda: Days((brushed(1)[0], brushed(1)[0]), (ADA,), MONDAY), "Two tasks are called"),
        (
            lambda: Days((Task("a", "A", "j", H, after=(After("b"),)),), (ADA,), MONDAY),
            "which is no task",
        ),
        (
            lambda: Days(
                (
                    Task("a", "A", "j", H, after=(After("b"),)),
                    Task("b", "B", "j", H, after=(After("a"),)),
                ),
                (ADA,),
                MONDAY,
            ),
            "wait for each other",
        ),
        (lambda: After("a", 60.0, 30.0), "close its window before it opens"),
        (lambda: Hours(18.0, 8.0), "begin before they end"),
        (lambda: Person("A", WEEK, zone="Mars/Olympus"), "is no time zone"),
        (lambda: Task("a", "A", "j", 0.0), "has to take some time"),
        (
            lambda: Days(
                (Task("a", "A", "j", H, places=("box",), temperature_k=333.15),),
                (ADA,), MONDAY, (Place("box", 1, 313.15),),
            ),
            "needs 60 °C",
        ),
        (lambda: Days((), (ADA,), datetime(2026, 3, 2)), "in which zone"),
    ],
)  # fmt: skip
def test_what_cannot_be_planned_is_a_sentence(wrong, said):
    with pytest.raises(DaysError, match=said):
        wrong()


def test_nothing_to_do_and_nobody_there():
    assert plan_days(Days((), (ADA,), MONDAY)).planned == ()
    task = Task("a", "A", "j", H)
    assert plan_days(Days((task,), (), MONDAY)).standing is PlanStatus.NONE
    assert colliding(Days((task,), (), MONDAY)) == ()
