"""Cost of a cast and a run: lines that multiply out, and sums that add up as shown."""

from dataclasses import replace
from decimal import ROUND_HALF_UP, Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.plans import FACE, planned
from mildhusk.core.amounts import Source
from mildhusk.core.casting.unevenness import StandsOn
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.catalogue import shipped_material, shipped_materials
from mildhusk.core.materials.kinds import Consumable, Rubber, ShellMaterial
from mildhusk.core.mould.estimate import MouldBuild, estimate_mould
from mildhusk.core.supply.costing import CostGroup, MouldCosting, Rate, cost_of_mould, cost_of_run
from mildhusk.core.wording import Unit

SHEET = planned()
CONSUMABLES = tuple(one for one in shipped_materials() if isinstance(one, Consumable))
RUBBER, SHELL = shipped_material("rubber-addition-firm"), shipped_material("shell-bandage")
assert isinstance(RUBBER, Rubber)
assert isinstance(SHELL, ShellMaterial)
BUILD = MouldBuild(RUBBER, 0.010, SHELL, 50)
MOULD = MouldCosting(BUILD, estimate_mould(FACE, BUILD), Rate(Decimal("29.00"), "kg", Source.KITS))
RESIN_RATE = Rate(Decimal(20), "kg", Source.LOTS)


def cost(casts=1, mould=MOULD, hour="24.00", resin=RESIN_RATE):
    hour_rate = Rate(Decimal(hour), "h", Source.WORKSHOP)
    return cost_of_run(
        SHEET,
        casts,
        resin_rate=resin,
        hour_rate=hour_rate,
        consumables=CONSUMABLES,
        mould=mould,
    )


def lines(found):
    return {line.id: line for line in found.lines}


def test_resin_in_the_cast_and_resin_lost_are_all_that_is_mixed():
    found = lines(cost())
    weighed = found["resin-cast"].quantity.value + found["resin-lost"].quantity.value
    assert weighed == pytest.approx(SHEET.total_charge_kg, rel=1e-12)
    assert found["resin-cast"].each == round(Decimal(repr(SHEET.cast_kg)) * 20, 2)


def test_a_cost_stands_on_what_its_plan_stands_on():
    assert cost().stands_on is SHEET.stands_on
    assert StandsOn.weakest([StandsOn.SETTLED, StandsOn.ESTIMATE]) is StandsOn.ESTIMATE
    assert StandsOn.weakest([StandsOn.ESTIMATE, StandsOn.EVEN]) is StandsOn.EVEN


def test_a_line_is_its_quantity_times_its_rate_by_those_who_share_it():
    for line in cost(casts=7).lines:
        used = line.quantity.value / (3600.0 if line.quantity.unit is Unit.TIME else 1.0)
        exact = Decimal(repr(used)) * line.rate.amount / line.shared_by
        cent = Decimal("0.01")
        assert line.each == exact.quantize(cent, ROUND_HALF_UP), line.id
        assert line.run == (exact * 7).quantize(cent, ROUND_HALF_UP), line.id


@given(st.integers(1, 1000), st.decimals("0.01", "999.99", places=2))
def test_sums_are_those_of_the_lines_as_shown(casts, price):
    found = cost(casts, resin=Rate(price, "kg", Source.LOTS))
    assert found.each == sum(line.each for line in found.lines)
    assert found.run == sum(line.run for line in found.lines)
    assert all(line.each == round(line.each, 2) for line in found.lines)


def test_fifty_casts_of_a_mould_that_gives_fifty_bear_exactly_one_mould():
    """Common practice, no source: about 50 casts were planned of one mould."""
    found = lines(cost(casts=50))
    rubber_kg = found["rubber"].quantity.value
    assert found["rubber"].shared_by == 50
    assert found["rubber"].run == round(Decimal(repr(rubber_kg)) * 29, 2)


def test_all_that_a_mould_takes_is_shared_by_the_casts_of_its_life():
    """Law: rubber, shell, brushes and hours alike."""
    of_mould = [line for line in cost(casts=50).lines if line.group is CostGroup.MOULD]
    assert {"rubber", "shell", "mould-hours"} <= {line.id for line in of_mould}
    assert {line.shared_by for line in of_mould} == {50}


def test_a_whole_mould_costs_its_rubber_shell_brushes_and_hours():
    """With an hour of 24.00 and rubber of 29.00 by hand: what all casts of its life bear."""
    told = cost_of_mould(MOULD, CONSUMABLES, Rate(Decimal("24.00"), "h", Source.WORKSHOP))
    of_rubber = Decimal(repr(MOULD.estimate.rubber_kg)) * 29
    of_hours = Decimal(repr(MOULD.estimate.hours)) * 24
    of_shell = Decimal(repr(MOULD.estimate.shell_m2 * SHELL.price_per_m2))
    brushes = sum(Decimal(repr(one.per_mould * one.price)) for one in CONSUMABLES)
    assert abs(told - (of_rubber + of_hours + of_shell + brushes)) < Decimal("0.03")


@pytest.mark.parametrize(("casts", "moulds"), [(1, 1), (50, 1), (51, 2), (100, 2), (101, 3)])
def test_moulds_are_counted_whole(casts, moulds):
    assert cost(casts).moulds == moulds


def test_without_a_mould_nothing_is_shared():
    found = cost(mould=None)
    assert found.moulds == 0
    assert CostGroup.MOULD not in {line.group for line in found.lines}
    assert {line.shared_by for line in found.lines} == {1}


def test_cups_go_by_the_coat_and_gloves_by_the_cast():
    cups = next(one for one in CONSUMABLES if one.key == "consumable-cup")
    found = lines(cost())
    assert found["consumable-cup"].quantity.value == cups.per_coat * len(SHEET.coats)
    assert found["consumable-gloves"].quantity.value == 1


def test_an_hour_that_costs_nothing_leaves_the_rest_alone():
    free, paid = cost(hour="0"), cost(hour="30")
    assert free.each < paid.each
    assert {line.each for line in free.lines if line.group is CostGroup.HOURS} == {Decimal("0.00")}
    assert lines(free)["resin-cast"] == lines(paid)["resin-cast"]


def test_a_longer_life_makes_a_cast_cheaper():
    lasting = replace(MOULD, build=replace(BUILD, life_casts=100))
    assert cost(mould=lasting).each < cost().each


@pytest.mark.parametrize("casts", [0, 1001])
def test_a_run_out_of_range_is_told(casts):
    with pytest.raises(ConditionError, match=r"The run is .* casts; give 1 casts to 1,000 casts"):
        cost(casts)
