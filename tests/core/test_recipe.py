"""Mixing, complete: identities that hold whatever is mixed, and the practice checks."""

import math
from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from core.plans import BY_VOLUME, RESIN
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.mixing.ratio import Ratio, ratio_by, read_ratio, smallest_batch, still_to_add
from mildhusk.core.mixing.recipe import (
    NO_EXTRAS,
    Extras,
    after_overshoot,
    drops,
    filled_density,
    filler_volume_share,
    premix,
    recipe,
    thickened_by,
)

STEPS = (1e-4, 1e-6)
EXTRAS = st.builds(
    Extras,
    tint=st.floats(0.0, 0.05),
    filler=st.floats(0.0, 1.0),
    thickener=st.floats(0.0, 0.05),
    thinner=st.floats(0.0, 0.2),
)


@given(wanted=st.floats(0.02, 5.0), extras=EXTRAS, part_b=st.floats(5.0, 150.0))
def test_parts_sum_to_the_charge_and_are_enough(wanted, extras, part_b):
    resin = replace(RESIN, parts_b=part_b)
    made = recipe(resin, wanted, extras, STEPS)
    weighed = (made.neat.a_kg, made.b_kg, made.thickener_kg, made.thinner_kg)
    steps = [round(one / STEPS[0]) for one in weighed]
    assert sum(steps) == round(made.total_kg / STEPS[0])
    assert wanted - 3 * STEPS[0] <= made.total_kg <= wanted + 7 * STEPS[0]


@given(wanted=st.floats(0.05, 2.0), extras=EXTRAS, by_volume=st.booleans())
def test_premixed_b_keeps_a_to_pure_b_as_the_sheet_has_it(wanted, extras, by_volume):
    """Law: what is stirred into B changes the ratio on the scale, never A to pure B."""
    resin = BY_VOLUME if by_volume else RESIN
    coats = tuple(recipe(resin, share * wanted, extras, STEPS) for share in (1.0, 0.5, 0.7))
    job = premix(resin, coats, extras, STEPS[0])
    assume(extras.in_b > 1e-3)
    assert job is not None
    pure = job.b_kg / job.total_kg
    ratio = resin.weight_share_b / (1.0 - resin.weight_share_b)
    for coat in coats:
        # A millilitre, or a tenth of a gram, is what can be read.
        read = 2e-6 / coat.b_m3 if by_volume else 2e-4 / coat.b_kg
        assert coat.b_kg * pure / coat.neat.a_kg == pytest.approx(ratio, rel=0.005 + read)
    assert job.total_kg == pytest.approx(math.fsum(one.b_kg for one in coats), abs=1e-9)
    assert job.parts_b / resin.parts_a == pytest.approx(ratio / pure, rel=0.02)


def test_without_extras_a_recipe_is_the_charge():
    made = recipe(RESIN, 0.150, NO_EXTRAS, STEPS)
    assert (made.neat.a_kg, made.b_kg) == pytest.approx((0.100, 0.050))
    assert made.total_kg == pytest.approx(0.150)
    assert premix(RESIN, (made,), NO_EXTRAS, STEPS[0]) is None


def test_practice_check_of_330_grams_with_thinner():
    """330 g at 100:10 take 33 g, and 36.3 g thinner at 10 % (common practice, no source)."""
    resin = replace(RESIN, parts_a=100.0, parts_b=10.0)
    made = recipe(resin, 0.363 * 1.1, Extras(thinner=0.1), STEPS)
    weighed = (made.neat.a_kg, made.b_kg, made.thinner_kg)
    assert weighed == pytest.approx((0.330, 0.033, 0.0363), abs=2e-4)


def test_practice_check_of_an_epoxy():
    """100:20 by weight: 120 g are 100 g and 20 g (common practice, no source)."""
    made = recipe(replace(RESIN, parts_a=100.0, parts_b=20.0), 0.120, NO_EXTRAS, STEPS)
    assert (made.neat.a_kg, made.b_kg) == pytest.approx((0.100, 0.020))


@given(
    a=st.floats(0.5, 500.0),
    b=st.floats(0.5, 390.0),
    densities=st.tuples(st.floats(800.0, 2000.0), st.floats(800.0, 2000.0)),
)
def test_by_volume_to_by_weight_and_back(a, b, densities):
    resin = replace(
        BY_VOLUME, parts_a=a, parts_b=b, density_a_kg_m3=densities[0], density_b_kg_m3=densities[1]
    )
    weight = ratio_by(resin, RatioBasis.WEIGHT)
    back = ratio_by(
        replace(resin, ratio_basis=RatioBasis.WEIGHT, parts_a=weight.a, parts_b=weight.b),
        RatioBasis.VOLUME,
    )
    assert (back.a, back.b) == pytest.approx((a, b))
    assert weight.b / weight.a == pytest.approx(b / a * densities[1] / densities[0])


def test_a_resin_by_volume_can_be_weighed_and_the_other_way_round():
    """Law: 1:1 by volume at 1000 and 1250 kg/m3 is 100 g and 125 g."""
    weighed = recipe(BY_VOLUME, 0.225, NO_EXTRAS, STEPS, RatioBasis.WEIGHT)
    assert (weighed.neat.a_kg, weighed.b_kg) == pytest.approx((0.100, 0.125))
    assert weighed.neat.basis is RatioBasis.WEIGHT
    measured = recipe(RESIN, 0.150, NO_EXTRAS, STEPS, RatioBasis.VOLUME)
    assert (measured.neat.a_m3, measured.b_m3) == pytest.approx((100e-6, 40e-6), abs=1e-6)


@given(
    wanted=st.lists(st.floats(1.0, 500.0), min_size=2, max_size=4),
    poured=st.lists(st.floats(0.0, 800.0), min_size=4, max_size=4),
)
def test_overshoot_never_asks_to_take_out_and_ends_in_the_ratio(wanted, poured):
    got = tuple(poured[: len(wanted)])
    more = still_to_add(tuple(wanted), got)
    assert all(one >= 0.0 for one in more)
    ends = [a + b for a, b in zip(got, more, strict=True)]
    grown = ends[0] / wanted[0]
    assert grown >= 1.0 - 1e-12
    for end, part in zip(ends, wanted, strict=True):
        assert end == pytest.approx(grown * part)


def test_a_gram_over_is_followed():
    """34 g where 33 were wanted: the other part grows by 1/33 (exact)."""
    assert still_to_add((0.330, 0.033), (0.0, 0.034)) == pytest.approx((0.340, 0.0))
    assert still_to_add((0.330, 0.033), (0.330, 0.0)) == pytest.approx((0.0, 0.033))
    with pytest.raises(ConditionError, match="every part"):
        still_to_add((1.0, 1.0), (0.5,))
    with pytest.raises(ConditionError, match="cannot be below 0"):
        still_to_add((1.0, 1.0), (-0.5, 0.0))


def test_the_smallest_batch_reads_its_smaller_part_to_a_hundredth():
    """Exact: a 0.1 g scale errs by 0.05 g, which is 1 % of 5 g."""
    assert smallest_batch(Ratio(1.0, 1.0), 1e-4) == pytest.approx(0.010)
    assert smallest_batch(Ratio(100.0, 10.0), 1e-4) == pytest.approx(0.055)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("100:90:5", "has 3 parts; give A and B"),
        ("100", "is not A:B"),
        ("a:b", "is not A:B"),
        ("1:0", "is not A:B"),
        ("1:-2", "is not A:B"),
    ],
)
def test_ratios_that_cannot_be_are_told(text, said):
    with pytest.raises(ConditionError, match=said) as caught:
        read_ratio(text)
    assert caught.value.field == "ratio"


def test_a_ratio_is_read_as_it_is_printed():
    assert read_ratio(" 100 : 90 ") == Ratio(100.0, 90.0)


def test_a_filled_resin_weighs_by_volumes():
    """Closed form: equal weights of 1000 and 9000 kg/m3 make 2 kg in 1/1000 + 1/9000 m3."""
    extras = Extras(filler=1.0, filler_density_kg_m3=9000.0)
    assert filled_density(1000.0, extras) == pytest.approx(2.0 / (1 / 1000 + 1 / 9000))
    assert filler_volume_share(1000.0, extras) == pytest.approx(0.1)
    assert filled_density(1100.0, NO_EXTRAS) == 1100.0


def test_a_filler_thickens_as_spheres_do():
    """Limit: Einstein's 1 + 2.5 phi for few spheres (1906, 1911); no flow when packed."""
    assert thickened_by(0.0) == 1.0
    assert (thickened_by(1e-4) - 1.0) / 1e-4 == pytest.approx(2.5, rel=1e-3)
    # Krieger and Dougherty 1959 at half the packing: 2^1.6.
    assert thickened_by(0.32) == pytest.approx(2.0**1.6)
    with pytest.raises(ConditionError, match="it would not flow"):
        thickened_by(0.64)


def test_catalyst_by_drops():
    """Exact: twenty drops weighed 0.6 g, so 1.5 g are fifty."""
    assert drops(1.5e-3, 0.6e-3 / 20) == 50
    assert drops(1e-6, 3e-5) == 1
    with pytest.raises(ConditionError, match="A drop is 0 mg"):
        drops(1e-3, 0.0)


@pytest.mark.parametrize(
    "field", ["tint", "filler", "thickener", "thinner", "filler_density_kg_m3"]
)
def test_extras_out_of_range_name_their_field(field):
    with pytest.raises(ConditionError, match="give") as caught:
        Extras(**{field: -0.1})
    assert caught.value.field == field


@given(st.floats(0.1, 2.0), EXTRAS, st.floats(1.0, 1.8))
def test_all_that_is_mixed_in_follows_an_overshoot(wanted, extras, over):
    """Law: everything grows as A did, to a step of the scale; nothing is taken out."""
    made = recipe(RESIN, wanted, extras, STEPS)
    poured = made.neat.a_kg * over
    grown = after_overshoot(made, poured, STEPS[0])
    assert grown.neat.a_kg == pytest.approx(poured)
    for name in ("b_kg", "thickener_kg", "thinner_kg"):
        expected = getattr(made, name) * over
        assert getattr(grown, name) == pytest.approx(expected, abs=0.5001 * STEPS[0])
    assert grown.b_m3 / grown.b_kg == pytest.approx(made.b_m3 / made.b_kg)
    assert after_overshoot(made, 0.5 * made.neat.a_kg, STEPS[0]).neat.a_kg == made.neat.a_kg
