"""Buying: equal to brute force, never short, never past its date."""

from datetime import date, timedelta
from decimal import Decimal
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mildhusk.core.errors import ConditionError, MaterialError
from mildhusk.core.materials.kit import Kit
from mildhusk.core.supply.buying import Lot, plan_purchase

TODAY = date(2026, 6, 1)
KITS = (
    Kit("trial", 0.5, Decimal("20.00"), 180),
    Kit("standard", 1.0, Decimal("32.00"), 270),
    Kit("large", 5.0, Decimal("130.00"), 270),
)
kits = st.lists(
    st.builds(
        Kit,
        name=st.sampled_from(["small", "middle", "large"]),
        mass_kg=st.integers(1, 30).map(lambda tenths: tenths / 10),
        price=st.integers(100, 9000).map(lambda cents: Decimal(cents) / 100),
        shelf_life_days=st.integers(1, 700),
    ),
    min_size=1,
    max_size=3,
)


def lots_of(*left_and_days):
    return tuple(
        Lot(f"lot-{n}", left, TODAY - timedelta(days=n), TODAY + timedelta(days=days))
        for n, (left, days) in enumerate(left_and_days)
    )


@settings(max_examples=200, deadline=None)
@given(
    need=st.integers(1, 60).map(lambda tenths: tenths / 10),
    kits=kits,
    held=st.lists(
        st.tuples(st.integers(0, 20).map(lambda tenths: tenths / 10), st.integers(-30, 300)),
        max_size=3,
    ),
)
def test_a_purchase_equals_brute_force_and_is_never_short_or_out_of_date(need, kits, held):
    lots = lots_of(*held)
    bought = plan_purchase(need, lots, tuple(kits), TODAY)
    good = {lot.key: lot for lot in lots if lot.expires >= TODAY}
    for taken in bought.from_lots:
        assert 0 < taken.kg <= good[taken.lot].left_kg + 1e-9
    from_lots = sum(taken.kg for taken in bought.from_lots)
    assert from_lots == pytest.approx(min(need, sum(lot.left_kg for lot in good.values())))
    missing = round((need - from_lots) * 1000)
    got = sum(round(one.mass_kg * 1000) * one.count for one in bought.kits)
    assert got >= missing
    # Brute force: every number of every kit up to what covers the need alone.
    ranges = [range(-(-missing // round(kit.mass_kg * 1000)) + 1) for kit in kits]
    cheapest = min(
        sum(kit.price * n for kit, n in zip(kits, counts, strict=True))
        for counts in product(*ranges)
        if sum(round(k.mass_kg * 1000) * n for k, n in zip(kits, counts, strict=True)) >= missing
    )
    assert bought.cost == cheapest
    assert bought.left_over_kg == pytest.approx((got - missing) / 1000)


def test_the_oldest_open_lot_is_drawn_first():
    lots = (
        Lot("new", 1.0, None, TODAY + timedelta(days=300)),
        Lot("open-yesterday", 1.0, TODAY - timedelta(days=1), TODAY + timedelta(days=9)),
        Lot("open-long", 0.3, TODAY - timedelta(days=90), TODAY + timedelta(days=30)),
        Lot("past", 5.0, TODAY - timedelta(days=400), TODAY - timedelta(days=1)),
    )
    taken = plan_purchase(2.0, lots, KITS, TODAY).from_lots
    assert [one.lot for one in taken] == ["open-long", "open-yesterday", "new"]


def test_a_lot_may_be_used_on_its_last_day():
    lots = (Lot("last", 1.0, TODAY, TODAY),)
    assert plan_purchase(1.0, lots, KITS, TODAY).cost == 0
    assert plan_purchase(1.0, lots, KITS, TODAY + timedelta(days=1)).cost == Decimal("32.00")


def test_it_says_why_not_the_bigger_kit_and_what_a_trial_covers():
    bought = plan_purchase(0.8, (), KITS, TODAY)
    assert "The large kit would cost 98.00 more and leave 4.20 kg" in bought.why_not_bigger
    assert bought.trial_covers_kg == 0.5
    assert bought.left_over_days == 270
    assert "among them" in plan_purchase(4.8, (), KITS, TODAY).why_not_bigger


@pytest.mark.parametrize("need", [0.0, -1.0, float("nan"), 1e9])
def test_an_impossible_need_is_refused(need):
    with pytest.raises(ConditionError, match="The need is"):
        plan_purchase(need, (), KITS, TODAY)


def test_without_a_kit_on_offer_it_says_what_is_missing():
    with pytest.raises(ConditionError, match=r"0\.5 kg are missing and no kit is on offer"):
        plan_purchase(1.0, lots_of((0.5, 10)), (), TODAY)


@pytest.mark.parametrize(
    "change",
    [{"price": Decimal(0)}, {"price": Decimal("NaN")}, {"mass_kg": 0.0}, {"shelf_life_days": 0}],
)
def test_a_kit_without_price_weight_or_life_is_refused(change):
    good = {"name": "odd", "mass_kg": 1.0, "price": Decimal(1), "shelf_life_days": 10}
    with pytest.raises(MaterialError, match="kit"):
        Kit(**{**good, **change})
