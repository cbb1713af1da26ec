"""Data sheets: the shipped ones are whole, and a contradiction is told field by field."""

import json
import math
from dataclasses import asdict, fields, replace
from decimal import Decimal

import pytest

from core.plans import RESIN
from mildhusk.core.amounts import Origin
from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.catalogue import record_of, shipped_resin, shipped_resins

CLASSES = (
    "pu-fast-rigid", "pu-medium-rigid", "pu-semi-rigid", "pu-clear-tintable", "pu-light-filled",
    "polyester", "epoxy-slow",
)  # fmt: skip


def test_every_wanted_class_and_more_is_shipped_with_a_whole_sheet():
    keys = [resin.key for resin in shipped_resins()]
    assert set(CLASSES) < set(keys)
    assert len(keys) == len(set(keys)) >= 8
    assert all(resin.origin is Origin.TYPICAL and resin.hazards for resin in shipped_resins())


def test_both_ways_of_measuring_are_on_the_shelf():
    assert {resin.ratio_basis for resin in shipped_resins()} == set(RatioBasis)


@pytest.mark.parametrize("key", CLASSES)
def test_shipped_values_are_plausible_for_their_class(key):
    """Ranges of castable resins: common practice, no source."""
    resin = shipped_resin(key)
    assert 700 <= resin.density_cured_kg_m3 <= 1300
    assert 0.05 <= resin.viscosity_pa_s <= 2
    assert 0.0005 <= resin.coat_wall_m <= 0.003
    fast = key == "pu-fast-rigid"
    assert (120 <= resin.working_time_s <= 180) is fast


def test_polyester_shrinks_most_and_takes_little_catalyst():
    """1 to 2 % catalyst; shrinkage of a few percent (common practice, no source)."""
    polyester = shipped_resin("polyester")
    assert 0.01 <= polyester.weight_share_b <= 0.02
    assert polyester.shrinkage == max(resin.shrinkage for resin in shipped_resins())


def test_an_unknown_key_lists_the_known_ones():
    with pytest.raises(MaterialError, match="there are: pu-fast-rigid"):
        shipped_resin("marmalade")


def test_the_document_has_the_agreed_form_and_survives_json():
    record = record_of(shipped_resin("polyester"))
    document = json.loads(json.dumps(asdict(record)))
    assert set(document) == {"key", "kind", "name", "sheet"}
    assert document == asdict(record)


NUMBERS = [field.name for field in fields(RESIN) if isinstance(getattr(RESIN, field.name), float)]


@pytest.mark.parametrize("field", NUMBERS)
@pytest.mark.parametrize("value", [-1.0, math.nan, math.inf])
def test_a_number_that_cannot_be_names_its_field(field, value):
    with pytest.raises(MaterialError, match="give") as caught:
        replace(RESIN, **{field: value})
    assert caught.value.field == field


@pytest.mark.parametrize("field", ["density_a_kg_m3", "density_b_kg_m3", "density_cured_kg_m3"])
def test_a_resin_without_density_is_refused(field):
    with pytest.raises(MaterialError, match="density"):
        replace(RESIN, **{field: 0.0})


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"gel_s": 200.0}, "gel_s"),
        ({"tack_from_s": 350.0}, "tack_from_s"),
        ({"tack_until_s": 450.0}, "tack_until_s"),
        ({"tack_until_s": 500.0}, "tack_until_s"),
        ({"demould_s": 350.0}, "demould_s"),
        ({"full_cure_s": 1000.0}, "full_cure_s"),
        ({"name": "  "}, "name"),
        ({"kit_price": Decimal(0)}, "kit_price"),
        ({"kit_price": Decimal("NaN")}, "kit_price"),
    ],
)
def test_a_sheet_that_contradicts_itself_names_the_later_field(change, field):
    with pytest.raises(MaterialError) as caught:
        replace(RESIN, **change)
    assert caught.value.field == field
