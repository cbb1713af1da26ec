"""The clock of a coat in a room that is not as it was planned."""

from dataclasses import replace

import pytest

from core.plans import FACE, WISH
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.room_clock import coat_in_room, is_noticed, times_in_room
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.materials.catalogue import shipped_casting_material, shipped_resins

TIMES = ("pour_by_s", "roll_until_s", "next_from_s", "next_until_s", "demould_s")
RESINS = {one.key: one for one in shipped_resins()}


def _plan(resin, room_k=WISH.room_temperature_k):
    return PourPlan.of(plan_cast(FACE, resin, replace(WISH, room_temperature_k=room_k)))


@pytest.mark.parametrize("key", RESINS)
@pytest.mark.parametrize("away_k", [-7.3, -1.7, 0.0, 2.2, 7.9])
def test_between_rooms_it_is_the_cure_itself(key, away_k):
    """Beside the cure solved for just this room and this coat."""
    plan = _plan(RESINS[key])
    room_k = plan.room_k + away_k
    found = times_in_room(plan.in_rooms[0], room_k)
    sheet = plan_cast(FACE, RESINS[key], WISH)
    at = replace(sheet.conditions, room_k=room_k, mould_k=room_k, parts_k=room_k)
    coat = sheet.coats[0]
    solved = sheet.pourable.clock(coat.layer, coat.recipe, at)
    for name in TIMES:
        near = 0.04 if name == "demould_s" else 0.01
        assert getattr(found, name) == pytest.approx(getattr(solved, name), rel=near), name


def test_as_planned_it_is_the_plan():
    plan = _plan(RESINS["pu-fast-rigid"])
    for rooms, coat in zip(plan.in_rooms, plan.coats, strict=True):
        now = times_in_room(rooms, plan.room_k)
        for name in TIMES[:-1]:
            assert getattr(now, name) == pytest.approx(getattr(coat, name), rel=1e-9)


@pytest.mark.parametrize("key", RESINS)
def test_the_warmer_the_sooner(key):
    """Cold rooms slow everything, warm ones shorten working time (common practice, no source)."""
    rooms = _plan(RESINS[key]).in_rooms[0]
    for name in TIMES:
        times = [getattr(one, name) for one in rooms]
        assert times == sorted(times, reverse=True), name


def test_parts_warmed_on_purpose_stay_warm():
    wish = replace(WISH, parts_temperature_k=WISH.room_temperature_k + 6.0)
    resin = RESINS["pu-fast-rigid"]
    kept = PourPlan.of(plan_cast(FACE, resin, wish)).in_rooms[0]
    followed = _plan(resin).in_rooms[0]

    def change(rooms):
        return rooms[0].pour_by_s / rooms[-1].pour_by_s

    # The working time is that of the cup, and the cup is as warm as its parts.
    assert change(kept) < 0.7 * change(followed)


def test_beyond_what_was_worked_out_it_is_as_at_the_end():
    rooms = _plan(RESINS["pu-fast-rigid"]).in_rooms[0]
    for far, end in ((-30.0, rooms[0]), (40.0, rooms[-1])):
        found = times_in_room(rooms, WISH.room_temperature_k + far)
        assert found.roll_until_s == pytest.approx(end.roll_until_s)
    assert times_in_room((), 293.0) is None
    assert not is_noticed(293.15, 293.55)
    assert is_noticed(293.15, 292.5)


def test_melted_clay_cools_slower_in_a_warm_room():
    clay = shipped_casting_material("clay-melted")
    plan = PourPlan.of(plan_cast(FACE, clay, replace(WISH, school=CoatSchool.CLAY)))
    cold, warm = plan.in_rooms[0][0], plan.in_rooms[0][-1]
    assert warm.roll_until_s > cold.roll_until_s


@pytest.mark.parametrize("away_k", [-6.0, 4.5])
def test_a_pattern_is_followed_at_the_pace_at_which_the_resin_ages(away_k):
    """Law: so many rounds of it fit before the gel as were planned; the gel is the cure's own."""
    resin = RESINS["pu-fast-rigid"]
    plan = _plan(resin)
    found = coat_in_room(plan.in_rooms[0], plan.room_k, plan.room_k + away_k)
    period_s = motion_named("cradle").period_s
    guided_s = motion_named("cradle").at_pace(found.pace).period_s
    sheet = plan_cast(FACE, resin, WISH)
    room_k = plan.room_k + away_k
    at = replace(sheet.conditions, room_k=room_k, mould_k=room_k, parts_k=room_k)
    coat = sheet.coats[0]
    gels_s = sheet.pourable.clock(coat.layer, coat.recipe, at).roll_until_s
    rounds = plan.coats[0].roll_until_s / period_s
    assert gels_s / guided_s == pytest.approx(rounds, rel=0.01)
    assert (found.pace > 1.0) == (away_k > 0.0)


def test_a_room_as_planned_changes_no_pace():
    plan = _plan(RESINS["pu-fast-rigid"])
    assert coat_in_room(plan.in_rooms[0], plan.room_k, plan.room_k + 0.3) is None
    assert coat_in_room(plan.in_rooms[0], plan.room_k, None) is None
    assert coat_in_room((), plan.room_k, plan.room_k + 5.0) is None
