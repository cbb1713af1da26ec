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
    "wax-epoxy": ("epoxy-slow", "release-paintable-spray"),
    "petroleum-epoxy": ("epoxy-slow", "release-petroleum-jelly"),
    "petroleum-gypsum": ("gypsum-acrylic", "release-petroleum-jelly"),
    "wax-gypsum": ("gypsum-acrylic", "release-paintable-spray"),
    "petroleum-silicone": ("rubber-addition-soft", "release-petroleum-jelly"),
    "water-clay-silicone": ("rubber-addition-soft", "clay-water"),
    "water-clay-gypsum": ("gypsum-acrylic", "clay-water"),
    "talc-urethane": ("pu-fast-rigid", "release-talc"),
    "talc-polyester": ("polyester", "release-talc"),
    "talc-epoxy": ("epoxy-slow", "release-talc"),
    "talc-gypsum": ("gypsum-acrylic", "release-talc"),
    "talc-silicone": ("rubber-addition-soft", "release-talc"),
    "oil-urethane": ("pu-fast-rigid", "release-silicone-oil"),
    "oil-polyester": ("polyester", "release-silicone-oil"),
    "oil-epoxy": ("epoxy-slow", "release-silicone-oil"),
    "oil-gypsum": ("gypsum-acrylic", "release-silicone-oil"),
    "oil-silicone": ("rubber-addition-soft", "release-silicone-oil"),
    "film-urethane": ("pu-fast-rigid", "release-alcohol-film"),
    "film-polyester": ("polyester", "release-alcohol-film"),
    "film-epoxy": ("epoxy-slow", "release-alcohol-film"),
    "film-gypsum": ("gypsum-acrylic", "release-alcohol-film"),
    "film-silicone": ("rubber-addition-soft", "release-alcohol-film"),
    "sealer-urethane": ("pu-fast-rigid", "sealer-heavy"),
    "sealer-epoxy": ("epoxy-slow", "sealer-heavy"),
    "sealer-gypsum": ("gypsum-acrylic", "sealer-heavy"),
    "sealer-silicone": ("rubber-addition-soft", "sealer-heavy"),
    "damp-epoxy": ("epoxy-slow", "clay-water"),
    "damp-gypsum": ("gypsum-acrylic", "damp-mould"),
    "damp-silicone": ("rubber-addition-soft", "damp-mould"),
    "shellac-addition": ("rubber-addition-soft", "sealer-shellac"),
    "acrylic-condensation": ("rubber-condensation", "sealer-acrylic"),
    "shellac-urethane": ("pu-fast-rigid", "sealer-shellac"),
    "acrylic-urethane": ("pu-fast-rigid", "sealer-acrylic"),
    "shellac-polyester": ("polyester", "sealer-shellac"),
    "acrylic-polyester": ("polyester", "sealer-acrylic"),
    "shellac-epoxy": ("epoxy-slow", "sealer-shellac"),
    "acrylic-epoxy": ("epoxy-slow", "sealer-acrylic"),
    "shellac-gypsum": ("gypsum-acrylic", "sealer-shellac"),
    "acrylic-gypsum": ("gypsum-acrylic", "sealer-acrylic"),
    "latex-condensation": ("rubber-condensation", "latex"),
    "paint-condensation": ("rubber-condensation", "fresh-paint"),
    "tin-condensation": ("rubber-condensation", "tin-tools"),
    "urethane-urethane": ("pu-fast-rigid", "pu-fast-rigid"),
    "polyester-urethane": ("pu-fast-rigid", "polyester"),
    "epoxy-urethane": ("pu-fast-rigid", "epoxy-slow"),
    "epoxy-polyester": ("polyester", "epoxy-slow"),
    "epoxy-epoxy": ("epoxy-slow", "epoxy-slow"),
    "gypsum-urethane": ("pu-fast-rigid", "gypsum-acrylic"),
    "gypsum-polyester": ("polyester", "gypsum-acrylic"),
    "gypsum-epoxy": ("epoxy-slow", "gypsum-acrylic"),
    "latex-urethane": ("pu-fast-rigid", "latex"),
    "paint-polyester": ("polyester", "fresh-paint"),
    "paint-urethane": ("pu-fast-rigid", "fresh-paint"),
    "print-urethane": ("pu-fast-rigid", "printed-resin"),
    "print-polyester": ("polyester", "printed-resin"),
    "tint-urethane": ("pu-fast-rigid", "additive-tint"),
    "tint-polyester": ("polyester", "additive-tint"),
    "tint-epoxy": ("epoxy-slow", "additive-tint"),
    "tint-gypsum": ("gypsum-acrylic", "additive-tint"),
    "tint-silicone": ("rubber-addition-soft", "additive-tint"),
    "filler-urethane": ("pu-fast-rigid", "additive-filler"),
    "metal-urethane": ("pu-fast-rigid", "additive-metal-powder"),
    "filler-polyester": ("polyester", "additive-filler"),
    "metal-polyester": ("polyester", "additive-metal-powder"),
    "filler-epoxy": ("epoxy-slow", "additive-filler"),
    "metal-epoxy": ("epoxy-slow", "additive-metal-powder"),
    "filler-gypsum": ("gypsum-acrylic", "additive-filler"),
    "metal-gypsum": ("gypsum-acrylic", "additive-metal-powder"),
    "filler-silicone": ("rubber-addition-soft", "additive-filler"),
    "thickener-silicone": ("rubber-addition-soft", "additive-thickener"),
    "thickener-urethane": ("pu-fast-rigid", "additive-thickener"),
    "thinner-urethane": ("pu-fast-rigid", "additive-thinner"),
    "thickener-polyester": ("polyester", "additive-thickener"),
    "thinner-polyester": ("polyester", "additive-thinner"),
    "thickener-epoxy": ("epoxy-slow", "additive-thickener"),
    "thinner-epoxy": ("epoxy-slow", "additive-thinner"),
    "thickener-gypsum": ("gypsum-acrylic", "additive-thickener"),
    "thinner-gypsum": ("gypsum-acrylic", "additive-thinner"),
    "peroxide-polyester": ("polyester", "additive-catalyst"),
    "accelerator-polyester": ("polyester", "additive-accelerator"),
    "peroxide-urethane": ("pu-fast-rigid", "additive-catalyst"),
    "accelerator-urethane": ("pu-fast-rigid", "additive-accelerator"),
    "peroxide-epoxy": ("epoxy-slow", "additive-catalyst"),
    "accelerator-epoxy": ("epoxy-slow", "additive-accelerator"),
    "peroxide-gypsum": ("gypsum-acrylic", "additive-catalyst"),
    "accelerator-gypsum": ("gypsum-acrylic", "additive-accelerator"),
    "peroxide-silicone": ("rubber-addition-soft", "additive-catalyst"),
    "accelerator-silicone": ("rubber-addition-soft", "additive-accelerator"),
    "metal-peroxide": ("additive-metal-powder", "additive-catalyst"),
    "shellac-water-clay": ("sealer-shellac", "clay-water"),
    "acrylic-water-clay": ("sealer-acrylic", "clay-water"),
    "heavy-water-clay": ("sealer-heavy", "clay-water"),
    "shellac-oil-clay": ("sealer-shellac", "clay-sulphur"),
    "acrylic-oil-clay": ("sealer-acrylic", "clay-sulphur"),
    "heavy-oil-clay": ("sealer-heavy", "clay-sulphur"),
    "shellac-print": ("sealer-shellac", "printed-resin"),
    "acrylic-print": ("sealer-acrylic", "printed-resin"),
    "heavy-print": ("sealer-heavy", "printed-resin"),
    "shellac-paint": ("sealer-shellac", "fresh-paint"),
    "acrylic-paint": ("sealer-acrylic", "fresh-paint"),
    "shellac-latex": ("sealer-shellac", "latex"),
    "acrylic-latex": ("sealer-acrylic", "latex"),
    "damp-film": ("release-alcohol-film", "damp-mould"),
    "damp-wax": ("release-paintable-spray", "damp-mould"),
    "damp-shellac": ("sealer-shellac", "damp-mould"),
    "damp-acrylic": ("sealer-acrylic", "damp-mould"),
    "damp-talc": ("release-talc", "damp-mould"),
    "urethane-paint-to-come": ("pu-fast-rigid", "paint-to-come"),
    "polyester-paint-to-come": ("polyester", "paint-to-come"),
    "epoxy-paint-to-come": ("epoxy-slow", "paint-to-come"),
    "gypsum-paint-to-come": ("gypsum-acrylic", "paint-to-come"),
    "oil-clay-paint-to-come": ("clay-melted", "paint-to-come"),
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
