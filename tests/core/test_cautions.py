"""Cautions stand where they belong, and nowhere else."""

import json
from importlib.resources import files

import pytest

from core.plans import RESIN
from mildhusk.core.materials.catalogue import shipped_materials, shipped_resin
from mildhusk.core.materials.cautions import (
    CASTING,
    FINISHING,
    MOULD_MAKING,
    Operation,
    cautions_for,
)
from mildhusk.core.materials.traits import Trait

CONTENT = json.loads(files("mildhusk.core.materials").joinpath("cautions.json").read_text("utf-8"))
LISTED = [
    (one["id"], caution["traits"], caution.get("unless", []), caution["text"])
    for one in CONTENT["operations"]
    for caution in one["cautions"]
]


def told(operation, materials):
    return [text for found in cautions_for((operation,), materials) for text in found.sentences]


def test_every_operation_has_its_cautions():
    assert {one["id"] for one in CONTENT["operations"]} == {str(one) for one in Operation}
    assert set(CASTING) | set(MOULD_MAKING) | set(FINISHING) == set(Operation)


@pytest.mark.parametrize(("operation", "traits", "unless", "text"), LISTED)
def test_a_caution_stands_with_its_materials_only(operation, traits, unless, text):
    def those(names):
        return tuple(m for m in shipped_materials() if set(names) & {str(t) for t in m.traits})

    spared = those(unless)
    assert bool(spared) == bool(unless), "no material on the shelf would ever take it away"
    having = tuple(m for m in those(traits) if m not in spared)
    kept = tuple(m for m in shipped_materials() if m not in spared)
    assert text in told(Operation(operation), having or kept)
    without = tuple(m for m in kept if m not in having)
    assert (text in told(Operation(operation), without)) == (not traits)
    for one in spared:
        assert text not in told(Operation(operation), (one,))
    assert not traits or having, "no material on the shelf would ever bring it up"


@pytest.mark.parametrize(
    ("key", "operation", "word"),
    [
        ("pu-fast-rigid", Operation.MIX, "socyanate"),
        ("polyester", Operation.MIX, "Styrene"),
        ("polyester", Operation.MIX, "Peroxide"),
        ("epoxy-slow", Operation.MIX, "Hardener"),
        ("gypsum-acrylic", Operation.CLEAN, "drain"),
        ("pu-light-filled", Operation.TRIM, "filler"),
    ],
)
def test_the_known_dangers_of_a_resin_are_told_where_they_arise(key, operation, word):
    """Common practice, no source: the dangers that every maker is warned of."""
    assert any(word in sentence for sentence in told(operation, (shipped_resin(key),)))


def test_operations_come_in_the_order_of_the_work():
    found = cautions_for(CASTING, (RESIN,))
    order = [one.operation for one in found]
    assert order == [one for one in CASTING if one in order]
    assert Trait.URETHANE in RESIN.traits
