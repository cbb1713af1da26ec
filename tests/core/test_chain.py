"""The chain: excluded with numbers, re-judged from the link taken, both schools offered."""

import pytest

from mildhusk.core.choosing.answer import decided as chain_of
from mildhusk.core.choosing.chain import (
    Candidate,
    Link,
    Purpose,
    Standing,
    Task,
    decide,
)
from mildhusk.core.constants import STRETCH_SAFETY
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import shipped_material, shipped_materials
from mildhusk.core.materials.compatibility import shipped_judge
from mildhusk.core.materials.kinds import Rubber

SHELF = shipped_materials()
RUBBERS = [one for one in SHELF if isinstance(one, Rubber)]
TASK = {
    "purpose": Purpose.WORN,
    "opening_girth_m": 0.33,
    "widest_girth_m": 0.56,
    "painted": True,
    "spun": True,
}


def decided(taken=None, **change):
    return decide(Task(**{**TASK, **change}), SHELF, shipped_judge, taken)


def candidate(links, link: Link, key: str) -> Candidate:
    return next(one for one in links[link] if one.key == key)


def test_every_link_is_ranked_with_reasons_and_one_is_taken():
    links = decided()
    assert list(links) == list(Link)
    for candidates in links.values():
        assert [one.verdict for one in candidates].count(Standing.TAKE) == 1
        assert all(one.reasons for one in candidates)


def test_needed_stretch_is_the_widest_girth_by_the_opening_less_one():
    assert Task(**TASK).needed_stretch == pytest.approx(560 / 330 - 1)
    assert Task(**{**TASK, "opening_girth_m": 0.6}).needed_stretch == 0.0


@pytest.mark.parametrize("opening", [0.56, 0.40, 0.33, 0.25, 0.15])
def test_a_rubber_is_excluded_for_stretch_exactly_when_its_numbers_say_so(opening):
    links = decided(opening_girth_m=opening, spun=False)
    for rubber in RUBBERS:
        one = candidate(links, Link.RUBBER, rubber.key)
        too_little = rubber.elongation / STRETCH_SAFETY < 0.56 / opening - 1
        said = [reason for reason in one.reasons if "does not stretch" in reason]
        assert bool(said) is too_little
        if too_little:
            assert one.verdict is Standing.EXCLUDED
            assert f"needed {(0.56 / opening - 1) * 100:.0f} %" in said[0]


def test_a_soft_rubber_is_not_spun_but_makes_a_good_glove():
    """Below about A 20 a spun mould caves in; A 10 is a good still glove (common practice)."""
    spun = candidate(decided(), Link.RUBBER, "rubber-addition-soft")
    assert spun.verdict is Standing.EXCLUDED
    assert any("caves in" in reason for reason in spun.reasons)
    assert decided(spun=False)[Link.RUBBER][0].key == "rubber-addition-soft"


def test_a_printed_master_is_warned_of_with_a_test_or_a_sealer():
    links = decided(master=shipped_material("printed-resin"))
    firm = candidate(links, Link.RUBBER, "rubber-addition-firm")
    assert firm.verdict is Standing.POSSIBLE
    warning = next(reason for reason in firm.reasons if reason.startswith("Beware"))
    assert "dab test" in warning
    assert "seal" in warning
    assert links[Link.RUBBER][0].key == "rubber-condensation"
    assert decided()[Link.RUBBER][0].key == "rubber-addition-firm"


@pytest.mark.parametrize(
    ("purpose", "best_is", "excluded"),
    [
        (Purpose.WORN, "pu-medium-rigid", "pu-brittle"),
        (Purpose.DROPPED, "pu-semi-rigid", "gypsum-acrylic"),
        (Purpose.SHATTERED, "pu-brittle", "pu-semi-rigid"),
    ],
)
def test_the_resin_follows_from_what_the_husk_must_do(purpose, best_is, excluded):
    """Impact-resistant for worn props, brittle where it shall shatter (common practice)."""
    links = decided(purpose=purpose)
    assert links[Link.CASTING][0].key == best_is
    assert candidate(links, Link.CASTING, excluded).verdict is Standing.EXCLUDED


def test_taking_another_one_rejudges_the_rest():
    links = decided({Link.CASTING: "gypsum-acrylic"}, painted=False)
    assert candidate(links, Link.CASTING, "gypsum-acrylic").verdict is Standing.TAKE
    spray = candidate(links, Link.RELEASE, "release-paintable-spray")
    assert spray.verdict is Standing.EXCLUDED
    assert any("not made to release acrylic-bonded gypsum" in reason for reason in spray.reasons)


def test_a_painted_cast_excludes_releases_that_refuse_paint():
    links = decided()
    for one in links[Link.RELEASE]:
        if one.key in ("release-silicone-oil", "release-paste-wax", "release-petroleum-jelly"):
            assert one.verdict is Standing.EXCLUDED
    oil = candidate(decided(painted=False), Link.RELEASE, "release-silicone-oil")
    assert oil.verdict is Standing.POSSIBLE


def test_a_machine_wants_a_shell_with_bolts():
    assert candidate(decided(), Link.SHELL, "shell-bandage").verdict is Standing.EXCLUDED
    still = candidate(decided(spun=False), Link.SHELL, "shell-bandage")
    assert still.verdict is not Standing.EXCLUDED


def test_both_schools_are_offered_each_with_its_cost():
    for key in ("glove", "cut"):
        one = candidate(decided(), Link.MOULD, key)
        assert one.verdict is not Standing.EXCLUDED
        assert any("costs" in reason for reason in one.reasons)


def test_where_no_rubber_stretches_it_is_cut():
    links = decided(opening_girth_m=0.05)
    assert all(one.verdict is Standing.EXCLUDED for one in links[Link.RUBBER])
    assert links[Link.MOULD][0].key == "cut"


def test_an_excluded_one_names_the_nearest_alternative():
    out = [one for one in decided()[Link.CASTING] if one.verdict is Standing.EXCLUDED]
    assert out
    assert all(one.reasons[-1].startswith("Nearest alternative: ") for one in out)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"opening_girth_m": 0.0}, "opening_girth_m"),
        ({"widest_girth_m": float("nan")}, "widest_girth_m"),
        ({"area_m2": -1.0}, "area_m2"),
    ],
)
def test_impossible_girths_are_refused(change, field):
    with pytest.raises(ConditionError) as caught:
        Task(**{**TASK, **change})
    assert caught.value.field == field


def test_taking_what_is_not_there_is_refused():
    with pytest.raises(ConditionError, match="'honey' is no shell"):
        decided({Link.SHELL: "honey"})


def test_what_is_told_is_every_link_with_the_disagreements_beside_it():
    task = Task(**TASK)
    told = chain_of(task, SHELF, shipped_judge)
    assert told.links == decided()
    assert tuple(told.links) == tuple(Link)
    assert told.needed_stretch == pytest.approx(0.56 / 0.33 - 1.0)
    assert {one.id for one in told.schools} >= {"weigh-or-measure", "glove-or-cut"}


@pytest.mark.parametrize("area", [0.05, 0.2])
def test_a_resin_tells_price_and_weight_of_a_cast_and_its_first_hazard(area):
    """Exact: area x 3 mm of wall; its litres by the price of a litre, by the cured density."""
    decided = decide(Task(**{**TASK, "area_m2": area}), SHELF, shipped_judge)
    for candidate in decided[Link.CASTING]:
        resin = next(one for one in SHELF if one.key == candidate.key)
        if not isinstance(resin, CastingResin):
            continue
        kilograms = area * 0.003 * resin.density_cured_kg_m3
        said = " ".join(candidate.reasons)
        assert f"weighs about {kilograms:.2f} kg" in said
        assert f"material for about {kilograms * float(resin.price_per_kg):.2f} " in said
        assert resin.hazards[0] in candidate.reasons
