"""Faults and their causes: worked cases, and the law of the shares."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from core.plans import FACE, RESIN, WISH
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.errors import InputError
from mildhusk.core.pouring.faults import fault_of, faults, ranked_causes, signs
from mildhusk.core.pouring.signs import PourFacts, longest_still, signs_of
from mildhusk.core.pouring.steps import CoatRecord

# What an old hand would say at once (common practice, no source).
CASES = [
    ("thin", {"stood-still": True, "little": False, "not-simulated": False}, "turned-too-little"),
    ("thin", {"fewer-coats": True, "little": True}, "too-little-resin"),
    ("thin", {"late-pour": True, "warm": True, "stood-still": False}, "gelled-too-soon"),
    ("thin", {"thin-planned": True, "not-simulated": False, "little": False}, "plan-too-thin"),
    ("pool", {"stood-still": True, "much": False}, "stood-still"),
    ("pool", {"much": True, "stopped-early": False, "cold": False}, "too-much-at-once"),
    ("pool", {"cold": True, "much": False, "stopped-early": False}, "gelled-late"),
    ("bubble", {"damp": True, "stirred-in-air": False}, "damp"),
    ("bubble", {"stirred-in-air": True, "damp": False}, "stirred-in"),
    ("bubble", {"late-pour": True, "much": True, "damp": False}, "first-coat-thick"),
    ("tear", {"mould-old": True, "out-early": False}, "mould-worn"),
    ("tear", {"no-release": True, "mould-old": False}, "no-release"),
    ("tacky", {"ratio-off": True, "not-scraped": False}, "off-ratio"),
    ("tacky", {"ratio-off": False, "not-scraped": True}, "not-mixed"),
    ("tacky", {"lot-expired": True, "ratio-off": False, "cold": False}, "old-lot"),
    ("soft", {"out-early": True, "ratio-off": False}, "out-early"),
    ("soft", {"cold": True, "out-early": False, "ratio-off": False}, "cold"),
    ("warped", {"not-seated": True, "out-early": False}, "not-seated"),
    ("crack", {"late-coat": True, "much": False}, "between-coats"),
    ("paint-lifts", {"release-left": True, "painted-soon": False}, "release-left"),
]


def test_an_old_hand_would_say_the_same():
    places = []
    for kind, seen, cause in CASES:
        ranked = [one.cause.id for one in ranked_causes(kind, seen)]
        places.append(ranked.index(cause))
    assert sum(place == 0 for place in places) >= 15
    assert sum(place < 3 for place in places) >= 19


def test_with_nothing_known_the_priors_stand():
    for fault in faults():
        ranked = ranked_causes(fault.id, {})
        assert {one.cause.id: one.share for one in ranked} == pytest.approx(
            {one.id: one.prior for one in fault.causes}
        )


def test_shares_are_those_of_bayes_theorem():
    """Two causes by hand: 0.30 x 9 against 0.22, 0.26 and 0.22 with a late coat at a crack."""
    ranked = ranked_causes("crack", {"late-coat": True})
    whole = 0.30 * 9 + 0.22 + 0.26 + 0.22
    assert ranked[0].share == pytest.approx(0.30 * 9 / whole)
    assert ranked[0].evidence == ("a coat went on after its window had closed",)
    assert sum(one.share for one in ranked) == pytest.approx(1.0)


def test_verdicts_move_the_priors_as_a_dirichlet_distribution_has_it():
    """Eight verdicts of prior, twelve that it was handled: (8 x 0.26 + 12) / 20."""
    ranked = ranked_causes("crack", {}, {"handled": 12})
    assert ranked[0].cause.id == "handled"
    assert ranked[0].share == pytest.approx((8 * 0.26 + 12) / 20)


def test_every_factor_is_of_a_sign_there_is_and_every_prior_sums():
    known = {one.id for one in signs()}
    for fault in faults():
        assert sum(one.prior for one in fault.causes) == pytest.approx(1.0)
        for cause in fault.causes:
            assert set(cause.factors) <= known
            assert all(factor > 0.0 for factor in cause.factors.values())
    with pytest.raises(InputError, match="no fault 'ghost'"):
        fault_of("ghost")


BEGUN = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)


def _facts(**change):
    """A pour that went as planned, but for a change."""
    plan = PourPlan.of(plan_cast(FACE, RESIN, WISH))
    records, mixed = [], BEGUN
    for coat in plan.coats:
        mixed = BEGUN + timedelta(seconds=coat.starts_s)
        records.append(
            CoatRecord(
                coat.number, coat.parts_kg.A, coat.parts_kg.B, mixed, mixed,
                mixed + timedelta(seconds=0.8 * coat.pour_by_s),
                mixed + timedelta(seconds=coat.roll_until_s),
            )
        )  # fmt: skip
    facts = {
        "plan": plan, "records": tuple(records), "rooms_k": (plan.room_k,) * len(records),
        "closed_at": mixed + timedelta(seconds=1.1 * plan.demould_s), "still_s": 3.0,
        "lot_open_days": 20, "lot_expired": False, "mould_used": 0.2,
    }  # fmt: skip
    return PourFacts(**{**facts, **change})


def _changed(facts, number, **change):
    records = list(facts.records)
    old = records[number - 1]
    names = CoatRecord.__dataclass_fields__
    records[number - 1] = CoatRecord(**{**{name: getattr(old, name) for name in names}, **change})
    return signs_of(_facts(records=tuple(records)))


def test_a_pour_as_planned_shows_no_sign():
    assert [name for name, there in signs_of(_facts()).items() if there] == ["not-simulated"]


def test_each_slip_is_the_sign_of_itself_and_of_no_other():
    facts = _facts()
    first, second = facts.records[0], facts.records[1]
    plan = facts.plan.coats[0]
    late = first.mixed_at + timedelta(seconds=plan.next_until_s + 60)
    cases = {
        "ratio-off": _changed(facts, 1, b_kg=0.9 * first.b_kg),
        "much": _changed(facts, 1, a_kg=1.2 * first.a_kg, b_kg=1.2 * first.b_kg),
        "late-coat": _changed(facts, 2, mixed_at=late - timedelta(seconds=60), poured_at=late,
                              gelled_at=late + timedelta(seconds=plan.roll_until_s)),
        "stopped-early": _changed(
            facts, 1, gelled_at=first.mixed_at + timedelta(seconds=0.7 * plan.roll_until_s)
        ),
        "late-pour": _changed(
            facts, 1, poured_at=first.mixed_at + timedelta(seconds=1.2 * plan.pour_by_s)
        ),
        "out-early": signs_of(_facts(closed_at=facts.records[-1].mixed_at)),
        "stood-still": signs_of(_facts(still_s=40.0)),
        "lot-expired": signs_of(_facts(lot_expired=True)),
        "lot-open-long": signs_of(_facts(lot_open_days=300)),
        "mould-old": signs_of(_facts(mould_used=0.9)),
    }  # fmt: skip
    assert second.poured_at is not None
    for name, seen in cases.items():
        there = {one for one, is_there in seen.items() if is_there} - {
            "not-simulated",
            "early-coat",
        }
        assert there == {name}, name


def test_clocks_are_those_of_the_room_as_the_bench_showed_them():
    """Law: what gels on the planned minute in a cold room was not turned until it gelled."""
    plan = _facts().plan
    count = len(plan.coats)
    colder = signs_of(_facts(rooms_k=(plan.room_k - 6.0,) * count))
    assert (colder["cold"], colder["stopped-early"], colder["late-pour"]) == (True, True, False)
    warmer = signs_of(_facts(rooms_k=(plan.room_k + 10.0,) * count))
    assert (warmer["warm"], warmer["stopped-early"], warmer["late-pour"]) == (True, False, True)


def test_what_is_not_known_is_left_out():
    seen = signs_of(_facts(still_s=None, lot_expired=None, lot_open_days=None, mould_used=None,
                           rooms_k=(None,) * len(_facts().records)))  # fmt: skip
    unknown = {"stood-still", "lot-expired", "lot-open-long", "mould-old", "cold", "warm"}
    assert unknown.isdisjoint(seen)


def test_how_long_a_mould_stood_still():
    at = np.arange(0.0, 100.0, 0.1)
    turned = np.where(at < 30.0, at, np.where(at < 70.0, 30.0, at - 40.0))
    ups = motion_named("machine").ups(np.array([0.0, 0.0, 1.0]), turned)
    assert longest_still(at, ups) == pytest.approx(40.0, abs=0.8)
    assert longest_still(at[:1], ups[:1]) == 0.0
