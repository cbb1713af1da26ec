"""What a cause of a fault changes of a sheet."""

from dataclasses import replace

import pytest

from core.plans import FACE, RESIN, WISH
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.pouring.faults import fault_of, faults
from mildhusk.core.pouring.mends import mended_wish


def _cause(kind, name):
    return next(one for one in fault_of(kind).causes if one.id == name)


def test_one_more_coat_is_one_more_than_the_plan_has():
    plan = plan_cast(FACE, RESIN, WISH)
    mend = mended_wish(_cause("thin", "plan-too-thin"), WISH, plan, None)
    assert mend.words == f"{len(plan.coats) + 1} coats"
    assert len(plan_cast(FACE, RESIN, mend.wish).coats) == len(plan.coats) + 1


def test_a_room_is_planned_for_as_it_was_where_it_was_told_and_was_another():
    plan, cause = plan_cast(FACE, RESIN, WISH), _cause("soft", "cold")
    assert mended_wish(cause, WISH, plan, None) is None
    assert mended_wish(cause, WISH, plan, WISH.room_temperature_k - 0.4) is None
    mend = mended_wish(cause, WISH, plan, 288.15)
    assert mend.words == "a room of 15 °C"
    assert mend.wish == replace(WISH, room_temperature_k=288.15)


def test_what_the_sheet_has_already_is_not_offered():
    cause = _cause("pool", "stood-still")
    plan = plan_cast(FACE, RESIN, WISH)
    assert mended_wish(cause, WISH, plan, None).words == "turned by a machine, under a lid"
    already = replace(plan, motion="machine", lid=True)
    assert mended_wish(cause, WISH, already, None) is None
    two = replace(WISH, hands=2)
    assert mended_wish(_cause("crack", "between-coats"), two, plan, None) is None
    detail = replace(WISH, school=CoatSchool.DETAIL)
    assert mended_wish(_cause("bubble", "first-coat-thick"), detail, plan, None) is None


@pytest.mark.parametrize("kind", [one.id for one in faults()])
def test_every_change_of_every_cause_is_a_wish_that_can_be_planned(kind):
    plan = plan_cast(FACE, RESIN, WISH)
    for cause in fault_of(kind).causes:
        mend = mended_wish(cause, WISH, plan, 289.15)
        assert (mend is None) == (not cause.change)
        if mend is not None:
            assert plan_cast(FACE, RESIN, mend.wish).coats
