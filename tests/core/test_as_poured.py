"""A cast as it was poured: what lands in the mould, when, and how the mould is held meanwhile."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from core.plans import planned
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.coating.motion import BY_EYE, motion_named
from mildhusk.core.errors import CoatingError
from mildhusk.core.pouring.as_poured import CoatAsPoured, charges_as_planned, charges_as_poured
from mildhusk.core.pouring.steps import CoatRecord

MIXED = datetime(2026, 3, 4, 9, 30, tzinfo=UTC)
OUT = np.array([0.0, 0.0, 1.0])


def _plan(motion):
    plan = PourPlan.of(planned(coats=2))
    return replace(plan, coats=tuple(replace(one, motion=motion) for one in plan.coats))


def _poured(plan, number, factor=1.0, after_s=95.0, room_k=None, recorded=None):
    parts = plan.coats[number - 1].parts_kg
    record = CoatRecord(
        number,
        factor * parts.A,
        factor * parts.B,
        MIXED - timedelta(minutes=2),
        MIXED,
        MIXED + timedelta(seconds=after_s),
    )
    return CoatAsPoured(record, room_k, recorded)


def test_what_was_weighed_lands_when_it_was_poured():
    """Law: a fifth more of A and B is a fifth more in the mould."""
    plan = _plan("cradle")
    first, second = charges_as_poured(
        plan, [_poured(plan, 1, 1.2, 140.0), _poured(plan, 2, 0.9, 60.0)]
    )
    as_planned = charges_as_planned(plan)
    assert first.weighed_kg == pytest.approx(1.2 * as_planned[0].weighed_kg)
    assert second.weighed_kg == pytest.approx(0.9 * as_planned[1].weighed_kg)
    assert (first.poured_s, second.poured_s) == (140.0, 60.0)
    assert first.room_k == plan.room_k


def test_what_never_came_into_the_mould_is_left_out():
    plan = _plan("cradle")
    spoilt = replace(_poured(plan, 1), record=replace(_poured(plan, 1).record, poured_at=None))
    (left,) = charges_as_poured(plan, [spoilt, _poured(plan, 2, 1.1)])
    assert left.weighed_kg == pytest.approx(1.1 * plan.coats[1].charge_kg)


@pytest.mark.parametrize("away_k", [-5.0, 6.0])
def test_a_pattern_by_hand_goes_as_fast_as_the_resin_ages(away_k):
    """Law: at the same part of the time to the gel the mould is held alike, in any room."""
    plan = _plan("rim-first-roll")
    room_k = plan.room_k + away_k
    (charge,) = charges_as_poured(plan, [_poured(plan, 1, room_k=room_k)])
    rooms = plan.rooms_of(1)
    near = min(rooms, key=lambda one: abs(one.room_k - room_k))
    assert (near.roll_until_s < plan.coats[0].roll_until_s) == (away_k > 0.0)
    pace = motion_named("rim-first-roll").period_s / charge.motion.period_s
    assert (pace > 1.0) == (away_k > 0.0)
    moments = np.linspace(0.0, 60.0, 301)
    held = charge.motion.ups(OUT, moments / pace)
    assert np.allclose(held, motion_named("rim-first-roll").ups(OUT, moments), atol=1e-9)


@pytest.mark.parametrize("motion", [BY_EYE, "machine:8,3.1", "slow-tumble"])
def test_a_machine_and_an_eye_follow_no_guide(motion):
    plan = _plan(motion)
    (charge,) = charges_as_poured(plan, [_poured(plan, 1, room_k=plan.room_k + 6.0)])
    assert charge.motion == motion_named(motion)
    assert charge.room_k == plan.room_k + 6.0


def test_what_was_recorded_goes_before_what_was_planned():
    plan = _plan("cradle")
    recorded = motion_named("eight-corners")
    (charge,) = charges_as_poured(
        plan, [_poured(plan, 1, room_k=plan.room_k + 6.0, recorded=recorded)]
    )
    assert charge.motion == recorded


def test_a_plan_that_names_no_motion_says_so():
    plan = _plan("")
    with pytest.raises(CoatingError, match="does not say how the mould is turned for coat 2"):
        charges_as_poured(plan, [_poured(plan, 2)])
