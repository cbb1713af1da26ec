"""Buying: equal to brute force, never short, never past its date."""

from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.plans import FACE, RESIN, WISH
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.errors import ConditionError, MaterialError
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.kit import Kit
from mildhusk.core.supply.besides import besides_of_cast, besides_of_mould, pooled_besides
from mildhusk.core.supply.buying import Lot, Needed, plan_order, plan_purchase

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


def test_of_open_lots_the_longest_open_goes_first_however_much_is_left():
    lots = (
        Lot("little", 0.2, TODAY - timedelta(days=1), TODAY + timedelta(days=90)),
        Lot("much", 2.0, TODAY - timedelta(days=60), TODAY + timedelta(days=200)),
    )
    assert [one.lot for one in plan_purchase(2.1, lots, KITS, TODAY).from_lots] == [
        "much",
        "little",
    ]


def test_what_is_left_keeps_as_long_as_the_shortest_of_the_kits():
    """By hand: 1.4 kg are a standard and a trial kit, 52.00; the trial kit keeps 180 days."""
    bought = plan_purchase(1.4, (), KITS, TODAY)
    assert {one.name: one.count for one in bought.kits} == {"trial": 1, "standard": 1}
    assert bought.left_over_days == 180


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


orders = st.lists(
    st.tuples(st.integers(1, 40).map(lambda tenths: tenths / 10), kits), min_size=1, max_size=2
)


@settings(max_examples=60, deadline=None)
@given(orders, st.integers(0, 20_000).map(lambda cents: Decimal(cents) / 100))
def test_an_order_that_is_large_enough_equals_brute_force(needs, minimum):
    """Exact: every number of every kit, up to what covers need and minimum alone."""
    needed = [Needed(str(n), kg, (), tuple(offers)) for n, (kg, offers) in enumerate(needs)]
    order = plan_order(needed, TODAY, minimum)
    assert order.cost == sum(one.cost for one in order.purchases)
    assert order.cost >= minimum or order.short_by == minimum - order.cost
    plain = sum(plan_purchase(one.kg, (), one.kits, TODAY).cost for one in needed)
    assert order.raised_by == order.cost - plain
    for one, need in zip(order.purchases, needed, strict=True):
        got = sum(round(kit.mass_kg * 1000) * kit.count for kit in one.kits)
        assert got >= round(need.kg * 1000)
    if len(needed) > 1 or plain >= minimum:
        assert plain < minimum or order.cost == plain
        return
    (need,) = needed
    ranges = [
        range(max(-(-round(need.kg * 1000) // round(kit.mass_kg * 1000)),
                  int(minimum / kit.price) + 1) + 1)
        for kit in need.kits
    ]  # fmt: skip
    if len(list(product(*[range(0, len(one), 1) for one in ranges]))) > 20_000:
        return
    missing = round(need.kg * 1000)
    grams = [round(kit.mass_kg * 1000) for kit in need.kits]
    (unfilled,) = (plan_purchase(one.kg, (), one.kits, TODAY) for one in needed)
    bought = sum(round(kit.mass_kg * 1000) * kit.count for kit in unfilled.kits)
    most = max(3 * missing, 2 * min(grams), bought)
    filled = [
        sum(k.price * n for k, n in zip(need.kits, counts, strict=True))
        for counts in product(*ranges)
        if missing <= sum(g * n for g, n in zip(grams, counts, strict=True)) <= most
    ]
    enough = [one for one in filled if one >= minimum]
    assert order.cost == (min(enough) if enough else plain)
    assert (order.short_by > 0) == (not enough)


def test_a_small_order_is_filled_up_with_what_is_needed():
    """By hand: 0.5 kg for 20.00 is below 40.00; two trial kits reach it."""
    order = plan_order([Needed("resin", 0.4, (), KITS)], TODAY, Decimal("40.00"))
    assert order.cost == Decimal("40.00") == 2 * KITS[0].price
    assert order.raised_by == Decimal("20.00")
    assert plan_order([Needed("resin", 0.4, (), KITS)], TODAY).raised_by == 0
    from_lots = Needed("resin", 0.4, lots_of((1.0, 30)), KITS)
    assert plan_order([from_lots], TODAY, Decimal("60.00")).cost == 0


def test_nobody_buys_thirty_times_what_is_missing_to_fill_an_order_up():
    order = plan_order([Needed("resin", 0.4, (), KITS)], TODAY, Decimal("1000.00"))
    assert order.cost == Decimal("20.00")
    assert order.short_by == Decimal("980.00")


@pytest.mark.parametrize("minimum", [Decimal(-1), Decimal(1_000_000)])
def test_an_impossible_smallest_order_is_refused(minimum):
    with pytest.raises(ConditionError, match="The smallest order"):
        plan_order([Needed("resin", 0.4, (), KITS)], TODAY, minimum)


def test_what_a_cast_takes_beside_its_resin_is_what_its_coats_say():
    """Balance: thickener, thinner, tint and filler are the sums of the coats', casts times."""
    wish = replace(WISH, tint=0.02, thinner=0.05, thickener=0.01)
    sheet = plan_cast(FACE, RESIN, wish)
    told = {one.what: one.amount for one in besides_of_cast(sheet, 3)}
    assert set(told) == {"release", "thickener", "thinner", "tint"}
    thinner = sum(coat.recipe.thinner_kg for coat in sheet.coats)
    assert told["thinner"] == pytest.approx(3 * thinner)
    both = sum(coat.recipe.neat.total_kg for coat in sheet.coats)
    assert told["tint"] == pytest.approx(3 * 0.02 * both, rel=0.05)
    assert told["release"] == pytest.approx(3 * 0.04 * FACE.area_m2)
    foamed = plan_cast(FACE, RESIN, replace(WISH, school=CoatSchool.FOAM))
    foam = next(one for one in besides_of_cast(foamed, 2) if "foam" in one.what)
    assert foam.amount == pytest.approx(2 * foamed.foam.kg)


def test_bandage_is_bought_in_whole_rolls_for_all_moulds_together():
    """Law: two moulds take no more rolls than twice one, and no fewer than their area."""
    bandage = shipped_material("shell-bandage")
    one, two = (
        next(need for need in besides_of_mould(bandage, 0.3, count) if need.unit == "rolls")
        for count in (1, 2)
    )
    assert one.amount == int(one.amount)
    assert one.amount < two.amount <= 2 * one.amount
    pooled = pooled_besides([one, two, *besides_of_mould(bandage, 0.1, 1)])
    assert len({(need.what, need.unit) for need in pooled}) == len(pooled)
    assert next(need for need in pooled if need.what == one.what).amount > one.amount + two.amount
