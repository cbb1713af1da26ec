"""Compatibility: every rule has a case of its own, and what no rule covers is unknown."""

from datetime import date
from itertools import combinations_with_replacement

import pytest

from mildhusk.core.errors import MaterialError
from mildhusk.core.materials.catalogue import shipped_material, shipped_materials
from mildhusk.core.materials.compatibility import (
    DabResult,
    DabTest,
    Verdict,
    judge_all,
    judge_pair,
    shipped_rules,
)

# A pair that only this rule covers, or whose rules change without it (common practice, no source).
CASES = {
    "sulphur-addition": ("clay-sulphur", "rubber-addition-firm"),
    "tin-addition": ("tin-tools", "rubber-addition-soft"),
    "latex-addition": ("latex", "rubber-addition-soft"),
    "print-addition": ("printed-resin", "rubber-addition-firm"),
    "paint-addition": ("fresh-paint", "rubber-addition-patch"),
    "silicone-silicone": ("rubber-condensation", "rubber-condensation"),
    "petroleum-polyester": ("release-petroleum-jelly", "polyester"),
    "petroleum-urethane": ("clay-sulphur-free", "pu-fast-rigid"),
    "sealer-polyester": ("sealer-heavy", "shell-glass-polyester"),
    "damp-polyester": ("damp-mould", "polyester"),
    "damp-urethane": ("damp-mould", "pu-medium-rigid"),
    "oil-paint": ("release-silicone-oil", "paint-to-come"),
    "wax-paint": ("release-paste-wax", "paint-to-come"),
    "petroleum-paint": ("release-petroleum-jelly", "paint-to-come"),
    "film-paint": ("release-alcohol-film", "paint-to-come"),
    "talc-paint": ("release-talc", "paint-to-come"),
    "thickener-refused": ("additive-thickener", "rubber-block-hard"),
    "shrink-interlock": ("polyester", "interlocking-parts"),
    "hot-silicone": ("pu-fast-rigid", "rubber-addition-firm"),
    "peroxide-accelerator": ("additive-catalyst", "additive-accelerator"),
    "urethane-silicone": ("pu-medium-rigid", "rubber-addition-firm"),
    "epoxy-silicone": ("epoxy-slow", "rubber-addition-firm"),
    "polyester-silicone": ("shell-glass-polyester", "rubber-addition-firm"),
    "gypsum-silicone": ("shell-bandage", "rubber-addition-firm"),
    "shellac-condensation": ("sealer-shellac", "rubber-condensation"),
    "acrylic-addition": ("sealer-acrylic", "rubber-addition-firm"),
    "sulphur-condensation": ("clay-sulphur", "rubber-condensation"),
    "print-condensation": ("printed-resin", "rubber-condensation"),
    "wax-polyester": ("release-paste-wax", "shell-glass-polyester"),
    "wax-urethane": ("release-paste-wax", "pu-medium-rigid"),
    "wax-silicone": ("release-paste-wax", "rubber-addition-firm"),
}
RULES = shipped_rules()


def test_every_rule_has_its_case_and_every_case_its_rule():
    assert set(CASES) == {rule.id for rule in RULES}
    assert len(RULES) == len(CASES)


@pytest.mark.parametrize("id", CASES)
def test_without_its_rule_a_case_is_judged_otherwise(id):
    first, second = map(shipped_material, CASES[id])
    judged = judge_pair(first, second, RULES)
    poorer = judge_pair(first, second, tuple(rule for rule in RULES if rule.id != id))
    assert id in {rule.id for rule in judged.rules}
    assert judged != poorer
    assert judge_pair(second, first, RULES).verdict == judged.verdict


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.id)
def test_a_rule_says_why_and_what_to_do_and_where_it_is_from(rule):
    assert rule.reason.endswith(".")
    assert rule.origin
    assert rule.remedy.endswith(".") or rule.severity is Verdict.FINE
    assert rule.severity is not Verdict.UNKNOWN


def test_the_gravest_of_several_rules_decides():
    jelly = judge_pair(
        shipped_material("clay-sulphur"), shipped_material("rubber-addition-firm"), RULES
    )
    assert jelly.verdict is Verdict.STOPS_THE_CURE
    hot = judge_pair(
        shipped_material("pu-fast-rigid"), shipped_material("rubber-addition-firm"), RULES
    )
    assert hot.verdict is Verdict.CAUTION
    assert [rule.severity for rule in hot.rules] == [Verdict.CAUTION, Verdict.FINE]


def test_a_pair_without_a_rule_is_unknown_never_fine():
    """Law: over the whole shelf, a verdict other than unknown stands on at least one rule."""
    shelf = shipped_materials()
    unknown = 0
    for first, second in combinations_with_replacement(shelf, 2):
        judged = judge_pair(first, second, RULES)
        assert (judged.verdict is Verdict.UNKNOWN) is (judged.rules == ())
        unknown += judged.verdict is Verdict.UNKNOWN
    assert unknown > 0
    assert all(
        pair.verdict is Verdict.UNKNOWN for pair in judge_all((shelf[0], shelf[1], shelf[2]), ())
    )


@pytest.mark.parametrize(
    ("result", "verdict"),
    [
        (DabResult.CURED, Verdict.FINE),
        (DabResult.SOFT, Verdict.STOPS_THE_CURE),
        (DabResult.STUCK, Verdict.BONDS_FOR_GOOD),
    ],
)
def test_a_dab_test_stands_above_every_rule_in_either_order(result, verdict):
    clay, rubber = shipped_material("clay-sulphur"), shipped_material("rubber-addition-firm")
    dabs = (
        DabTest(rubber.key, clay.key, DabResult.STUCK, date(2026, 1, 1)),
        DabTest(rubber.key, clay.key, result, date(2026, 5, 1)),
    )
    for pair in ((clay, rubber), (rubber, clay)):
        judged = judge_pair(*pair, RULES, dabs)
        assert judged.verdict is verdict
        assert judged.rules[0].origin == "your dab test of 2026-05-01"


def test_a_dab_test_says_nothing_about_other_pairs():
    dabs = (DabTest("clay-sulphur", "rubber-condensation", DabResult.SOFT, date(2026, 5, 1)),)
    latex, rubber = shipped_material("latex"), shipped_material("rubber-addition-firm")
    assert judge_pair(latex, rubber, RULES, dabs) == judge_pair(latex, rubber, RULES)


def test_every_material_of_the_shelf_is_found_by_its_key_and_no_other():
    keys = [material.key for material in shipped_materials()]
    assert len(keys) == len(set(keys))
    assert all(shipped_material(key).key == key for key in keys)
    with pytest.raises(MaterialError, match="no material 'honey'"):
        shipped_material("honey")
