"""The chain: excluded with numbers, re-judged from the link taken, both schools offered."""

from datetime import date
from itertools import combinations, product

import pytest

from mildhusk.core.choosing.answer import decided as chain_of
from mildhusk.core.choosing.chain import decide, given_up, is_whole
from mildhusk.core.choosing.judging import NO_SEALER
from mildhusk.core.choosing.task import Candidate, Link, Purpose, Standing, Task
from mildhusk.core.constants import STRETCH_SAFETY
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.catalogue import shipped_material, shipped_materials
from mildhusk.core.materials.compatibility import (
    HARMFUL,
    DabResult,
    DabTest,
    Verdict,
    can_touch,
    judge_pair,
    shipped_judge,
    shipped_rules,
)
from mildhusk.core.materials.kinds import Release, Rubber, Sealer

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


@pytest.mark.parametrize("opening", [0.56, 0.40, 0.33, 0.25, 0.15, 0.10])
def test_a_rubber_is_excluded_for_stretch_unless_the_mould_is_cut(opening):
    """One that stretches is taken where there is one; a cut frees all of them from it."""
    needed = 0.56 / opening - 1
    links = decided(opening_girth_m=opening, spun=False)
    stretches = {one.key: needed <= one.elongation / STRETCH_SAFETY for one in RUBBERS}
    cut = decided({Link.MOULD: "cut"}, opening_girth_m=opening, spun=False)
    for rubber in RUBBERS:
        one = candidate(links, Link.RUBBER, rubber.key)
        said = [reason for reason in one.reasons if "does not stretch" in reason]
        assert bool(said) is not stretches[rubber.key]
        if said:
            assert f"needed {needed * 100:.0f} %" in said[0]
            assert (one.verdict is Standing.EXCLUDED) is any(stretches.values())
        assert candidate(cut, Link.RUBBER, rubber.key).verdict is not Standing.EXCLUDED
    glove = candidate(links, Link.MOULD, "glove")
    assert (glove.verdict is Standing.EXCLUDED) is not any(stretches.values())


def test_a_soft_rubber_is_not_spun_but_makes_a_good_glove():
    """Below about A 20 a spun mould caves in; A 10 is a good still glove (common practice)."""
    spun = candidate(decided(), Link.RUBBER, "rubber-addition-soft")
    assert spun.verdict is Standing.EXCLUDED
    assert any("caves in" in reason for reason in spun.reasons)
    assert decided(spun=False)[Link.RUBBER][0].key == "rubber-addition-soft"


def test_a_master_that_poisons_a_rubber_excludes_it():
    links = decided(master=shipped_material("printed-resin"))
    firm = candidate(links, Link.RUBBER, "rubber-addition-firm")
    assert firm.verdict is Standing.EXCLUDED
    assert "stops addition rubber from curing" in firm.reasons[0]
    assert links[Link.RUBBER][0].key == "rubber-condensation"
    assert decided()[Link.RUBBER][0].key == "rubber-addition-firm"


MASTERS = (
    "clay-sulphur", "clay-sulphur-free", "clay-water", "printed-resin", "fresh-paint", "latex",
    "tin-tools", "damp-mould", None,
)  # fmt: skip
BY_KEY = {one.key: one for one in SHELF}


@pytest.mark.parametrize("purpose", Purpose)
def test_no_chain_holds_a_pair_that_harms_and_every_chain_is_whole(purpose):
    """Every master, girths that stretch and that do not, painted, spun: 72 cases a purpose."""
    for master, narrow, painted, spun in product(MASTERS, *[(False, True)] * 3):
        task = Task(purpose, 0.1 if narrow else 0.56, 0.6, painted, spun, master=BY_KEY.get(master))
        links = decide(task, SHELF, shipped_judge)
        if not is_whole(links, SHELF, shipped_judge):
            assert given_up(task, SHELF, shipped_judge), task
            continue
        taken = {
            link: next(one.key for one in candidates if one.verdict is Standing.TAKE)
            for link, candidates in links.items()
        }
        keys = [key for link, key in taken.items() if link is not Link.MOULD and key in BY_KEY]
        touched = [taken[Link.RUBBER], taken[Link.SEALER]] if master else []
        pairs = [*combinations(keys, 2), *((master, key) for key in touched if key in BY_KEY)]
        for one, other in pairs:
            verdict = shipped_judge(BY_KEY[one], BY_KEY[other]).verdict
            assert verdict not in HARMFUL, (task, one, other, verdict)


OLD_HAND = [
    # What an old hand would say: common practice, no source.
    ({}, "pu-medium-rigid", "rubber-addition-firm", "glove"),
    ({"spun": False}, "pu-medium-rigid", "rubber-addition-soft", "glove"),
    ({"purpose": Purpose.DROPPED}, "pu-semi-rigid", "rubber-addition-firm", "glove"),
    ({"purpose": Purpose.SHATTERED}, "pu-brittle", "rubber-addition-firm", "glove"),
    (
        {"purpose": Purpose.HUNG, "spun": False},
        "pu-light-filled", "rubber-addition-soft", "glove",
    ),
    (
        {"purpose": Purpose.SCULPTED, "spun": False, "painted": False},
        "clay-melted", "rubber-addition-soft", "glove",
    ),
    ({"master": "latex"}, "pu-medium-rigid", "rubber-condensation", "glove"),
    ({"master": "clay-sulphur"}, "pu-medium-rigid", "rubber-condensation", "glove"),
    ({"master": "fresh-paint"}, "pu-medium-rigid", "rubber-condensation", "glove"),
    ({"master": "clay-sulphur-free"}, "pu-medium-rigid", "rubber-addition-firm", "glove"),
    ({"opening_girth_m": 0.1}, "pu-medium-rigid", "rubber-addition-firm", "cut"),
    ({"purpose": Purpose.FOAM_BACKED}, "pu-medium-rigid", "rubber-addition-firm", "glove"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "resin", "rubber", "mould"), OLD_HAND)
def test_twelve_choices_are_those_of_an_old_hand(change, resin, rubber, mould):
    given = {**change, **({"master": BY_KEY[change["master"]]} if "master" in change else {})}
    links = decided(**given)
    taken = {
        link: next(one.key for one in candidates if one.verdict is Standing.TAKE)
        for link, candidates in links.items()
    }
    assert (taken[Link.CASTING], taken[Link.RUBBER], taken[Link.MOULD]) == (resin, rubber, mould)


@pytest.mark.parametrize(
    ("master", "sealed"),
    [
        # Common practice, no source: porous and damp masters are sealed, the others are not.
        (None, False), ("clay-sulphur-free", False), ("clay-water", True),
        ("gypsum-acrylic", True), ("printed-resin", False),
    ],
)  # fmt: skip
def test_a_porous_master_is_sealed_and_no_other(master, sealed):
    links = decided(master=None if master is None else BY_KEY[master])
    taken = next(one.key for one in links[Link.SEALER] if one.verdict is Standing.TAKE)
    assert (taken != NO_SEALER) == sealed
    if sealed:
        assert candidate(links, Link.SEALER, NO_SEALER).verdict is Standing.EXCLUDED


def test_without_a_sealer_on_the_shelf_a_porous_master_has_no_chain():
    shelf = tuple(one for one in SHELF if not isinstance(one, Sealer))
    task = Task(Purpose.WORN, 0.5, 0.6, painted=False, spun=False, master=BY_KEY["clay-water"])
    assert not is_whole(decide(task, shelf, shipped_judge), shelf, shipped_judge)
    assert any("master" in one for one in given_up(task, shelf, shipped_judge))


def test_a_spun_worn_helmet_takes_no_long_roll_and_nothing_that_shrinks_before_a_fast_urethane():
    """Practice: on a machine fast resins in a few coats; polyester shrinks visibly."""
    order = [one.key for one in decided()[Link.CASTING]]
    for slow in ("epoxy-slow", "polyester"):
        assert order.index("pu-fast-rigid") < order.index(slow)


def test_what_is_dangerous_stands_above_a_dab_test():
    peroxide, accelerator = (
        shipped_material(f"additive-{name}") for name in ("catalyst", "accelerator")
    )
    dab = DabTest(peroxide.key, accelerator.key, DabResult.CURED, date(2026, 6, 1))
    found = judge_pair(peroxide, accelerator, shipped_rules(), (dab,))
    assert found.verdict is Verdict.DANGEROUS


def test_of_what_can_meet_in_one_mould_less_than_a_quarter_is_unknown():
    met = [
        shipped_judge(one, other).verdict
        for one, other in combinations(SHELF, 2)
        if can_touch(one, other)
    ]
    assert len(met) > 500
    assert met.count(Verdict.UNKNOWN) < len(met) / 4.0


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
    assert links[Link.MOULD][0].key == "cut"
    assert candidate(links, Link.MOULD, "glove").verdict is Standing.EXCLUDED


def test_where_nothing_keeps_all_wishes_it_is_said_which_to_give_up():
    """A shelf with silicone oil alone to release: paint never holds on it."""
    shelf = tuple(
        one for one in SHELF if not isinstance(one, Release) or one.key == "release-silicone-oil"
    )
    (said,) = (
        one
        for one in given_up(Task(**TASK), shelf, shipped_judge)
        if one.startswith("Leave it unpainted:")
    )
    assert "fits together" in said


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
