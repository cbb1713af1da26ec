"""The finish of six husks, and when paint may go on. Common practice, no source, unless said."""

import math

import pytest

from mildhusk.core.errors import ConditionError
from mildhusk.core.finishing.finish import FinishWish, Husk, OwnStep, Paint, finish_of, paint_blocks
from mildhusk.core.materials.catalogue import shipped_material, shipped_resin

H = 3600.0


def husk(resin="pu-fast-rigid", release="release-paintable-spray", area=0.25):
    of = shipped_resin(resin)
    return Husk(
        of, None if release is None else shipped_material(release), area, of.demould_s,
        of.full_cure_s,
    )  # fmt: skip


def ids(steps):
    return [one.id for one in steps]


def in_order(steps, *wanted):
    places = [ids(steps).index(one) for one in wanted]
    return places == sorted(places)


def test_a_worn_helmet_with_a_visor():
    wish = FinishWish(
        Paint.SOLVENT, worn=True, visor=True, straps=True, padding=True, skirt=True, cut_outs=1
    )
    steps = finish_of(husk(), wish)
    assert in_order(
        steps, "wash", "skirt", "cut-outs", "edges", "sand", "primer", "fill", "primer-2", "paint",
        "paint-2", "clear", "scuff", "visor-tack", "visor-seal", "visor-bond", "straps", "padding",
        "try-on",
    )  # fmt: skip
    told = {one.id: one for one in steps}
    assert "five points or more" in told["visor-tack"].title
    assert "cracks" in told["cut-outs"].note
    assert told["paint-2"].until_s == 3600.0
    assert told["wash"].title.endswith("soap and water")
    assert any("respirator" in one for one in told["paint"].cautions)
    assert any("dust" in one for one in told["sand"].cautions)


def test_a_display_mask_on_a_wall():
    steps = finish_of(husk(), FinishWish(Paint.WATER, cut_outs=2))
    assert not {"straps", "padding", "visor-tack", "try-on", "clear", "skirt"} & set(ids(steps))
    assert "scuff" not in ids(steps)
    # Two openings of a quarter of an hour each, and five minutes to mark them.
    assert next(one for one in steps if one.id == "cut-outs").hands_s == 35 * 60


def test_a_semi_rigid_creature_mask_without_release_is_wiped_not_washed():
    steps = finish_of(husk("pu-semi-rigid", None), FinishWish(Paint.WATER, worn=True, cut_outs=3))
    assert "wash" not in ids(steps)
    assert ids(steps)[0] == "degrease"


def test_an_epoxy_bust_loses_its_bloom_and_a_polyester_skull_its_tacky_skin():
    bust = finish_of(husk("epoxy-slow"), FinishWish(Paint.WATER))
    assert in_order(bust, "wash", "bloom", "sand")
    skull = finish_of(husk("polyester", "release-paste-wax"), FinishWish(Paint.SOLVENT))
    assert in_order(skull, "wash", "styrene", "sand")
    assert skull[0].title.endswith("white spirit")


def test_a_polished_metal_face_is_not_painted():
    steps = finish_of(husk(), FinishWish(Paint.NONE, polished=True))
    assert ids(steps) == ["wash", "edges", "polish"]


def test_a_shell_that_shatters_on_set_is_left_as_it_came():
    wish = FinishWish(Paint.NONE, dropped=frozenset({"edges"}))
    assert finish_of(husk("pu-brittle", "release-none"), wish) == ()


def test_a_maker_adds_steps_where_they_belong_and_drops_others():
    wish = FinishWish(
        Paint.WATER, dropped=frozenset({"fill"}),
        own=(OwnStep("Stipple a stone texture", 1800.0, "primer-2", 7200.0),),
    )  # fmt: skip
    steps = finish_of(husk(), wish)
    assert "fill" not in ids(steps)
    at = ids(steps).index("primer-2")
    assert steps[at + 1].title == "Stipple a stone texture"
    with pytest.raises(ConditionError, match="no step of this finish"):
        finish_of(husk(), FinishWish(Paint.NONE, own=(OwnStep("Wax it", 60.0, "paint"),)))


def test_a_larger_husk_takes_longer_to_sand_and_no_longer_to_weigh():
    small, large = (
        {one.id: one.hands_s for one in finish_of(husk(area=area), FinishWish(worn=True))}
        for area in (0.1, 0.4)
    )
    assert large["sand"] - small["sand"] == pytest.approx(0.3 * 240 * 60)
    assert large["try-on"] == small["try-on"]


def test_solvent_primer_waits_for_the_cure_and_says_how_long():
    of = husk()
    waiting = paint_blocks(of, Paint.SOLVENT, cured_s=6 * H, washed=True, scuffed=True)
    assert [one.text for one in waiting] == [
        "Wait 18 h: it is not cured enough for solvent-based primer."
    ]
    assert waiting[0].wait_s == 18 * H
    assert paint_blocks(of, Paint.SOLVENT, cured_s=24 * H, washed=True, scuffed=True) == ()
    assert paint_blocks(of, Paint.WATER, cured_s=13 * H, washed=True, scuffed=True) == ()
    assert paint_blocks(of, Paint.NONE, cured_s=0.0, washed=False, scuffed=False) == ()


def test_warm_it_is_cured_through_sooner_and_primer_waits_for_that_alone():
    """Ten kelvin halve the time or better (common practice, no source): 25 of them a fifth."""
    of = husk()
    steps = finish_of(of, FinishWish(Paint.SOLVENT, post_cured=True))
    assert in_order(steps, "wash", "post-cure", "edges", "primer")
    told = {one.id: one for one in steps}
    warm_s = told["edges"].from_s
    assert 4.0 <= (of.full_cure_s - of.demould_s) / warm_s <= 13.0
    assert told["primer"].not_before_s == of.demould_s
    assert told["post-cure"].place == "hot box"
    assert "never in an oven for food" in told["post-cure"].note
    done = {"cured_s": 2 * H, "washed": True, "scuffed": True}
    assert paint_blocks(of, Paint.SOLVENT, **done, post_cured=True) == ()
    assert len(paint_blocks(of, Paint.SOLVENT, **done)) == 1
    # Left out after all, it waits as before.
    left_out = FinishWish(Paint.SOLVENT, post_cured=True, dropped=frozenset({"post-cure"}))
    primer = next(one for one in finish_of(of, left_out) if one.id == "primer")
    assert primer.not_before_s == of.full_cure_s


def test_paint_wants_the_release_off_and_tooth_and_never_holds_on_silicone_oil():
    blocks = paint_blocks(husk(), Paint.WATER, cured_s=99 * H, washed=False, scuffed=False)
    assert [one.id for one in blocks] == ["not-washed", "no-tooth"]
    oily = paint_blocks(
        husk(release="release-silicone-oil"), Paint.WATER, cured_s=99 * H, washed=True, scuffed=True
    )
    assert [one.id for one in oily] == ["release-spoils"]
    assert "Paint never holds" in oily[0].text


def test_the_primer_step_waits_as_long_as_the_readiness_says():
    """One figure, read in two places: the cure that primer needs."""
    of = husk()
    primer = next(one for one in finish_of(of, FinishWish(Paint.SOLVENT)) if one.id == "primer")
    before, after = (
        paint_blocks(
            of, Paint.SOLVENT, cured_s=primer.not_before_s + off, washed=True, scuffed=True
        )
        for off in (-60.0, 0.0)
    )
    assert (len(before), len(after)) == (1, 0)


@pytest.mark.parametrize("wrong", [{"cut_outs": -1}, {"own": (OwnStep("x", 0.0, "edges"),)}])
def test_a_finish_that_cannot_be_is_refused(wrong):
    with pytest.raises(ConditionError):
        FinishWish(**wrong)


def test_no_step_waits_for_ever_to_begin():
    for paint in Paint:
        wish = FinishWish(paint, worn=True, visor=True, straps=True, padding=True)
        for step in finish_of(husk(), wish):
            assert step.until_s is None or step.from_s <= step.until_s
            assert math.isfinite(step.from_s)
            assert step.hands_s > 0.0
