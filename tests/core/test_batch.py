"""A batch of rubber: catalyst, its fast part, thinner, what a scale reads, how air gets out."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mildhusk.core.errors import ConditionError, MouldError
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mould.batch import (
    THREAD_M3_S,
    RubberBatch,
    RubberDose,
    batch_from_a,
    rubber_batch,
    usual_dose,
)

ROOM, STEP = 296.15, 1e-4


def rubber(key: str) -> Rubber:
    found = shipped_material(key)
    assert isinstance(found, Rubber)
    return found


TIN, PLATINUM = rubber("rubber-condensation"), rubber("rubber-addition-soft")


def batch(kg=1.0, dose=None, of=TIN, step=STEP, room=ROOM) -> RubberBatch:
    return rubber_batch(of, kg, dose or usual_dose(of), step, room)


def test_330_g_take_33_g_of_catalyst_and_36_of_thinner():
    """Common practice, no source: 100 A : 10 B, thinner a tenth of the sum."""
    made = batch_from_a(TIN, 0.330, RubberDose(0.10, thinner=0.10), STEP, (2700.0, 86_400.0, 1.0))
    grams = [round(1e3 * kg, 1) for kg in (made.a_kg, made.b_kg, made.thinner_kg)]
    assert grams == [330.0, 33.0, 36.3]
    assert made.total_kg == pytest.approx(0.3993)


def test_half_of_the_catalyst_fast_brings_45_minutes_to_20_and_a_day_to_two_hours():
    """Common practice, no source: 100:5:5."""
    usual, fast = batch(), batch(dose=RubberDose(0.10, fast_share=0.5))
    assert usual.pot_life_s == pytest.approx(45 * 60)
    assert usual.cure_s == pytest.approx(86_400)
    assert fast.pot_life_s == pytest.approx(20 * 60)
    assert fast.cure_s == pytest.approx(2 * 3600)
    assert fast.life < 1.0
    assert fast.b_kg == pytest.approx(fast.fast_kg)
    assert fast.b_kg + fast.fast_kg == pytest.approx(usual.b_kg, abs=2 * STEP)


def test_a_hot_day_is_met_by_eight_percent():
    """Common practice, no source: less catalyst for more time; warm rooms take it away again."""
    hot, cut = (batch(dose=RubberDose(share), room=ROOM + 5.0) for share in (0.10, 0.08))
    assert cut.b_kg / cut.a_kg == pytest.approx(0.08, rel=2e-3)
    assert batch().pot_life_s > cut.pot_life_s > hot.pot_life_s


def test_a_room_ten_degrees_warmer_halves_the_pot_life_of_both_kinds():
    """Rule of thumb (common practice, no source)."""
    for one in (TIN, PLATINUM):
        cool, warm = (batch(of=one, room=ROOM + off) for off in (0.0, 10.0))
        assert cool.pot_life_s == pytest.approx(one.pot_life_s)
        assert cool.pot_life_s / warm.pot_life_s == pytest.approx(2.0)


@given(st.floats(0.15, 8.0), st.floats(0.08, 0.12), st.floats(0.0, 0.3))
def test_a_batch_is_enough_and_its_parts_are_whole_steps(kg, share, thinner):
    made = batch(kg, RubberDose(share, thinner=thinner if thinner > 0.05 else 0.0))
    assert kg - 2 * STEP <= made.total_kg <= kg + 3 * STEP
    for part in (made.a_kg, made.b_kg, made.thinner_kg):
        assert part / STEP == pytest.approx(round(part / STEP), abs=1e-6)
    assert made.b_kg == pytest.approx(share * made.a_kg, abs=0.5001 * STEP)


def test_a_vessel_holds_the_froth_and_a_thin_thread_takes_its_time():
    """Exact: volume by weight and density; four times of it in vacuum (common practice)."""
    made = batch(2.0)
    volume = made.total_kg / TIN.density_kg_m3
    assert made.vessel_m3 == pytest.approx(4.0 * volume)
    assert made.thread_s == pytest.approx(volume / THREAD_M3_S)
    assert made.thread_in_time
    assert not batch(8.0).thread_in_time
    assert not batch(2.0, RubberDose(0.1, fast_share=0.5), room=ROOM + 10.0).thread_in_time


@pytest.mark.parametrize(
    ("change", "error", "said"),
    [
        ({"of": PLATINUM, "dose": RubberDose(0.08)}, ConditionError, "100:100 and no other"),
        ({"dose": RubberDose(0.2)}, MouldError, "The catalyst is 20 %"),
        ({"kg": 0.05, "step": 1e-3}, ConditionError, "mix at least 550 g, or take a finer scale"),
        (
            {"of": rubber("rubber-block-hard"), "dose": RubberDose(0.1, thickener=0.01)},
            ConditionError, "no other|takes no thickener",
        ),
        ({"room": ROOM + 40.0}, MouldError, "The room is"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_one_sentence(change, error, said):
    with pytest.raises(error, match=said):
        batch(**change)


@pytest.mark.parametrize("change", [{"thinner": 0.5}, {"thickener": -0.1}])
def test_a_dose_out_of_range_is_refused(change):
    with pytest.raises(ConditionError, match=next(iter(change))):
        replace(RubberDose(0.1), **change)
