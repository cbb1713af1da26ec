"""The plan of coats: limits, schools, the nearest change that mends a plan, melted clay."""

import math
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.plans import BY_VOLUME, FACE, RESIN, planned
from core.shapes import half_sphere, sphere
from mildhusk.core.casting.coats import CoatKind, coat_count
from mildhusk.core.casting.findings import Known, sheet_findings
from mildhusk.core.casting.limits import LOWER, Limit
from mildhusk.core.casting.paste import PastePlace
from mildhusk.core.casting.plan import plan_cast
from mildhusk.core.casting.remedies import nearest_mend
from mildhusk.core.casting.wish import CoatSchool
from mildhusk.core.cure.clock import coat_clock
from mildhusk.core.cure.cooling import cooling_s
from mildhusk.core.cure.data_sheet import largest_cup, retimed, working_times
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import ConditionError
from mildhusk.core.findings import Severity
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.materials.catalogue import shipped_materials
from mildhusk.core.materials.kinds import MeltedClay
from mildhusk.core.mixing.cup import Cup

SLOW = replace(RESIN, key="slow", name="Slow one", working_time_s=900.0, gel_s=1200.0,
               tack_from_s=1500.0, tack_until_s=4000.0, demould_s=7200.0)  # fmt: skip


def ids(sheet):
    return {finding.id for finding in sheet_findings(sheet)}


def test_practice_check_of_a_full_cowl_by_the_plan():
    """About 0.23 m2 and 4 mm take four coats of about 240 g (common practice, no source)."""
    radius = math.sqrt(0.23 / (4.0 * math.pi))
    face = measure_face(sphere(radius, 60))
    resin = replace(RESIN, density_cured_kg_m3=1050.0, coat_wall_m=0.001)
    sheet = planned(resin, face, wall_m=0.0039, loss=0.05)
    assert len(sheet.coats) == 4
    assert sheet.coats[0].recipe.total_kg == pytest.approx(0.240, rel=0.06)


@settings(max_examples=30, deadline=None)
@given(
    school=st.sampled_from([one for one in CoatSchool if one is not CoatSchool.CLAY]),
    wall=st.floats(0.001, 0.008),
    hands=st.integers(1, 2),
    by_volume=st.booleans(),
)
def test_every_school_mixes_at_least_what_the_wall_takes(school, wall, hands, by_volume):
    resin = BY_VOLUME if by_volume else RESIN
    sheet = planned(resin, wall_m=wall, school=school, hands=hands)
    rolled = [one for one in sheet.coats if one.kind is not CoatKind.PASTE]
    mixed = math.fsum(one.recipe.total_kg for one in rolled)
    needed = sheet.shell_volume_m3 * resin.density_cured_kg_m3 / 0.95
    assert mixed >= needed * (1.0 - 1e-6)
    steps = 0.003 * len(rolled)
    assert mixed <= needed + steps + (0.25 if school is CoatSchool.FIXED else 0.0)
    starts = [one.starts_s for one in sheet.coats]
    assert starts == sorted(starts)
    assert all(one.binding_limit in Limit for one in sheet.coats)


def test_each_school_divides_as_it_says():
    equal = planned()
    assert len({one.recipe.total_kg for one in equal.coats}) == 1
    fixed = planned(BY_VOLUME, school=CoatSchool.FIXED, fixed_m3=60e-6)
    assert all(one.recipe.neat.total_m3 == pytest.approx(60e-6, abs=2e-6) for one in fixed.coats)
    detail = planned(school=CoatSchool.DETAIL)
    assert detail.coats[0].wall_m == pytest.approx(0.0005)
    assert detail.coats[0].recipe.total_kg < detail.coats[1].recipe.total_kg
    machine = planned(school=CoatSchool.MACHINE)
    assert len(machine.coats) < len(equal.coats)
    assert len(planned(school=CoatSchool.LONG).coats) == 1
    powder = planned(school=CoatSchool.POWDER)
    assert [one.kind for one in powder.coats][:2] == [CoatKind.POWDER, CoatKind.ROLLED]
    assert powder.coats[0].added_kg.powder == pytest.approx(0.06 * FACE.area_m2)
    assert "powder" in ids(powder)


def test_a_paste_saves_against_a_thicker_wall_all_over():
    even = planned(allowance=0.15)
    paste = planned(allowance=0.15, school=CoatSchool.PASTE)
    assert paste.total_charge_kg < even.total_charge_kg
    assert paste.coats[-1].kind is CoatKind.PASTE
    assert paste.coats[-1].recipe.thickener_kg > 0.0
    assert "paste" in ids(paste)
    assert "uneven-wall" not in ids(planned(school=CoatSchool.PASTE))


def test_a_paste_goes_to_its_named_places_by_their_area():
    places = (PastePlace("brow", 80e-4), PastePlace("chin", 40e-4), PastePlace("rim", 30e-4))
    sheet = planned(school=CoatSchool.PASTE, scale_step_kg=1e-5, paste_places=places)
    paste = sheet.coats[-1]
    assert [(one.name, one.area_m2) for one in paste.places] == [
        (one.name, one.area_m2) for one in places
    ]
    # What is shown adds up to the cup, and each is what its area asks for, to a step of the scale.
    shown = [round(one.mixed_kg, 5) for one in paste.places]
    assert sum(shown) == pytest.approx(round(paste.recipe.total_kg, 5), abs=1e-9)
    for one in paste.places:
        share = one.area_m2 / 150e-4
        assert one.mixed_kg == pytest.approx(share * paste.recipe.total_kg, abs=2e-5)
    twice = tuple(replace(one, area_m2=2.0 * one.area_m2) for one in places)
    more = planned(school=CoatSchool.PASTE, scale_step_kg=1e-5, paste_places=twice).coats[-1]
    assert more.recipe.neat.total_kg == pytest.approx(2.0 * paste.recipe.neat.total_kg, abs=4e-5)
    assert planned(paste_places=places).coats[-1].places == ()
    # What is too little to be weighed out is mixed larger.
    coarse = planned(school=CoatSchool.PASTE, paste_places=places[:1])
    assert coarse.coats[-1].recipe.total_kg >= coarse.limits.scale_kg


@pytest.mark.parametrize(
    ("places", "said"),
    [
        ((("brow", 5.0),), "the whole face has"),
        ((("brow", -1.0),), "brow"),
        (((" ", 1e-3),), "is empty"),
        (tuple((f"spot {n}", 1e-3) for n in range(21)), "at most 20"),
    ],
)
def test_places_for_a_paste_that_cannot_be(places, said):
    with pytest.raises(ConditionError, match=said) as caught:
        planned(
            school=CoatSchool.PASTE,
            paste_places=tuple(PastePlace(name, area) for name, area in places),
        )
    assert caught.value.field == "paste_places"


def test_foam_fills_the_hollow_behind_the_skin():
    """Exact: hollow = inside of the piece less the skin; its foam at its density."""
    sheet = planned(wall_m=0.002, school=CoatSchool.FOAM)
    assert sheet.foam is not None
    assert sheet.foam.hollow_m3 == pytest.approx(FACE.volume_m3 - sheet.shell_volume_m3)
    assert sheet.foam.kg == pytest.approx(1.1 * 120.0 * sheet.foam.hollow_m3)
    assert sheet.cast_kg == pytest.approx(
        sheet.shell_volume_m3 * RESIN.density_cured_kg_m3 + sheet.foam.kg
    )
    assert "foam" in ids(sheet)


CLAY = next(one for one in shipped_materials() if isinstance(one, MeltedClay))


def melted(**wish):
    return planned(CLAY, wall_m=0.006, school=CoatSchool.CLAY, **wish)


def test_melted_clay_is_one_part_that_is_paid_for_and_cools():
    sheet = melted()
    assert len(sheet.coats) == coat_count(0.006, CLAY.coat_wall_m)
    coat = sheet.coats[0]
    assert (coat.parts_kg.B, coat.recipe.b_kg) == (0.0, 0.0)
    assert sheet.measured_parts == ("clay",)
    assert sheet.resin_kg == pytest.approx(sheet.total_charge_kg)
    assert float(sheet.cost) == pytest.approx(38.0 / 5.0 * sheet.total_charge_kg, abs=0.005)
    assert sheet.cast_kg == pytest.approx(CLAY.density_kg_m3 * sheet.shell_volume_m3)
    assert coat.clock.pour_by_s < coat.clock.roll_until_s < coat.clock.next_from_s
    assert "hot-clay" in ids(sheet)
    with pytest.raises(ConditionError, match="never cools to"):
        melted(mould_temperature_k=317.0)


def test_melted_clay_is_told_of_its_heat_and_of_nothing_it_does_not_hold():
    sheet = melted()
    told = " ".join([*sheet.cautions, *(s for o in sheet.operations for s in o.sentences)])
    assert "burns" in told
    for wrong in ("socyanate", "tyrene", "olvent", "resin"):
        assert wrong not in told


@pytest.mark.parametrize("field", ["tint", "filler", "thickener", "thinner"])
def test_nothing_is_mixed_into_melted_clay(field):
    with pytest.raises(ConditionError, match="poured as it is") as caught:
        melted(**{field: 0.05})
    assert caught.value.field == field


def test_a_school_pours_what_it_is_made_for_and_names_the_others():
    with pytest.raises(ConditionError, match="choose one of: 'melted clay'") as caught:
        planned(CLAY, wall_m=0.006)
    assert caught.value.field == "school"
    with pytest.raises(ConditionError, match="'equal charges'"):
        planned(school=CoatSchool.CLAY)


def test_clay_cools_by_newtons_law():
    """Closed form: halving the distance to the room takes ln 2 / rate."""
    assert cooling_s(340.0, 320.0, 300.0, 0.01) == pytest.approx(math.log(2.0) / 0.01)


# --- limits ---


def test_limits_follow_from_what_they_are_about():
    sheet = planned()
    limits = sheet.limits
    per_m = FACE.area_m2 * RESIN.density_cured_kg_m3 / 0.95
    assert limits.carry_kg == pytest.approx(0.001 * per_m)
    assert limits.reach_kg == pytest.approx(0.0003 * per_m)
    assert limits.scale_kg == pytest.approx(0.015)
    cup = Equipment().cup.capacity_m3
    liquid = 1.0 / (2 / 3 / 1000.0 + 1 / 3 / 1250.0)
    assert limits.cup_kg == pytest.approx(0.85 * cup * liquid)
    assert planned(hands=2).limits.cup_kg == pytest.approx(2.0 * limits.cup_kg)
    assert planned(hands=2).limits.time_kg > limits.time_kg
    assert sheet.coats[0].binding_limit is Limit.CARRY


@settings(max_examples=25, deadline=None)
@given(st.floats(0.02, 3.0), st.floats(285.0, 310.0))
def test_the_largest_cup_in_time_is_worked_just_as_long_as_is_needed(mass, kelvin):
    """Inverse: the working time of the largest cup is the time that was asked for."""
    times = working_times(RESIN, kelvin, kelvin)
    seconds = [time for _, time in times]
    assert seconds == sorted(seconds, reverse=True)
    needed = float(seconds[0] + (seconds[-1] - seconds[0]) * min(mass / 3.0, 0.999))
    largest = largest_cup(times, needed)
    clock = planned(room_temperature_k=kelvin).conditions
    found = coat_clock(RESIN, clock, largest, 0.001).working_time_s
    assert found == pytest.approx(needed, rel=0.02)
    assert largest_cup(times, seconds[0] + 1.0) == 0.0


@pytest.mark.parametrize(
    ("equipment", "wish", "limit"),
    [
        (Equipment(cup=Cup(0.04, 0.05, 0.05)), {}, Limit.CUP),
        (Equipment(cover_m2_s=0.02 / 60.0), {}, Limit.TIME),
    ],
)
def test_a_limit_makes_more_coats_and_is_named(equipment, wish, limit):
    resin = replace(RESIN, coat_wall_m=0.003, working_time_s=248.0)
    sheet = plan_cast(FACE, resin, replace(planned(resin).wish, **wish), equipment)
    assert len(sheet.coats) > len(planned(resin).coats)
    assert sheet.fits
    assert sheet.coats[0].binding_limit is limit
    assert "more-coats" in ids(sheet)


def test_an_open_mould_holds_three_tenths_of_its_hollow_and_a_closed_one_all_of_it():
    """Exact: what may be in it when it is tipped all round (assumed share)."""
    for mesh, share in ((half_sphere(0.08), 0.3), (sphere(0.08), 1.0)):
        face = measure_face(mesh)
        sheet = planned(RESIN, face)
        liquid = sheet.pourable.liquid_kg_m3
        assert sheet.limits.rim_kg == pytest.approx(share * face.volume_m3 * liquid)
    assert sheet.limits.most_kg <= sheet.limits.rim_kg


def test_a_deep_small_piece_is_bound_by_its_rim():
    small = measure_face(sphere(0.01, 24))
    sheet = planned(replace(RESIN, coat_wall_m=0.004), small, wall_m=0.006)
    assert sheet.limits.rim_kg < sheet.limits.carry_kg


@pytest.mark.parametrize(
    ("resin", "wish", "id", "severity"),
    [
        (RESIN, {"wall_m": 0.0002}, "does-not-reach", Severity.STOP),
        (RESIN, {"school": CoatSchool.LONG, "wall_m": 0.004}, "too-much-at-once",
         Severity.WARNING),
        (RESIN, {"scale_step_kg": 5e-3}, "coarse-scale", Severity.WARNING),
        (replace(RESIN, coat_wall_m=0.02),
         {"school": CoatSchool.FIXED, "fixed_m3": 900e-6, "wall_m": 0.014}, "cup-too-small",
         Severity.WARNING),
    ],
)  # fmt: skip
def test_a_plan_that_breaks_a_limit_says_which_and_by_how_much(resin, wish, id, severity):
    sheet = planned(resin, **wish)
    assert not sheet.fits
    finding = next(one for one in sheet_findings(sheet) if one.id == id)
    assert finding.severity is severity
    assert "Coat 1" in str(finding.sentence)


def test_the_nearest_change_is_tried_and_it_mends():
    hot = replace(RESIN, working_time_s=110.0, gel_s=150.0, tack_from_s=200.0, tack_until_s=500.0)
    sheet = planned(hot, room_temperature_k=308.15, wall_m=0.003)
    assert "short-working-time" in ids(sheet)
    action = nearest_mend(sheet, (SLOW,))
    assert action is not None
    if action.field == "material_key":
        assert plan_cast(FACE, SLOW, sheet.wish).fits
    else:
        assert plan_cast(FACE, hot, replace(sheet.wish, **{action.field: action.value})).fits
    long = planned(school=CoatSchool.LONG, wall_m=0.004)
    back = nearest_mend(long)
    assert back is not None
    assert (back.field, back.value) == ("school", "equal")


def test_where_only_a_slower_resin_helps_it_is_named():
    hopeless = planned(replace(RESIN, working_time_s=20.0), wall_m=0.002)
    finding = next(one for one in sheet_findings(hopeless) if one.id == "short-working-time")
    assert finding.action is None
    assert "slower resin" in str(finding.sentence)
    action = next(
        one.action for one in sheet_findings(hopeless, Known(lambda: (SLOW,))) if one.action
    )
    assert (action.field, action.value) == ("material_key", "slow")


def test_a_window_missed_while_weighing_is_told_and_a_second_pair_of_hands_mends_it():
    short = replace(RESIN, tack_from_s=401.0, tack_until_s=480.0)
    sheet = planned(short)
    finding = next(one for one in sheet_findings(sheet) if one.id == "tack-missed")
    assert finding.action is not None
    assert (finding.action.field, finding.action.value) == ("hands", 2.0)
    assert "tack-missed" not in ids(planned(short, hands=2))


def test_lower_limits_bind_from_below():
    limits = planned().limits
    assert limits.binding(0.5 * limits.least_kg) in LOWER
    assert limits.binding(2.0 * limits.most_kg) not in LOWER


# --- temperatures, doses, what was learned ---


def test_cold_parts_are_worked_longer_and_a_cold_mould_gels_later():
    even = planned()
    parts = planned(parts_temperature_k=288.15)
    mould = planned(mould_temperature_k=288.15)
    assert parts.heaviest.clock.working_time_s > 1.2 * even.heaviest.clock.working_time_s
    assert mould.heaviest.clock.working_time_s == even.heaviest.clock.working_time_s
    assert mould.heaviest.clock.roll_until_s > 1.2 * even.heaviest.clock.roll_until_s


@pytest.mark.parametrize("field", ["room", "mould", "parts"])
def test_temperatures_out_of_range_name_their_field(field):
    for celsius in (-5.0, 60.0):
        with pytest.raises(ConditionError, match="give 5 °C to 45 °C") as caught:
            planned(**{f"{field}_temperature_k": celsius + 273.15})
        assert caught.value.field == f"{field}_temperature_k"


def test_learned_times_stretch_the_whole_clock():
    """Law: all times of a sheet in proportion; the cup's heat hardly changes that."""
    late = planned(time_factor=1.2)
    assert late.heaviest.clock.roll_until_s == pytest.approx(
        1.2 * planned().heaviest.clock.roll_until_s, rel=0.04
    )
    assert retimed(RESIN, 1.0) is RESIN
    with pytest.raises(ConditionError, match="factor on the resin's times"):
        planned(time_factor=9.0)


def test_a_filler_is_told_with_what_it_does_to_the_mix():
    thin, thick = planned(filler=0.2), planned(filler=3.9)
    assert next(o for o in sheet_findings(thin) if o.id == "filled").severity is Severity.NOTE
    assert thin.heaviest.recipe.b_kg > thin.heaviest.recipe.neat.b_kg
    assert "filled" in ids(thick)
    assert thin.cast_kg > planned().cast_kg


def test_bands_follow_their_inputs():
    """Law: a sheet of one's own is surer than a class's typical one; each band holds its figure."""

    def band(sheet, key="roll_until"):
        figure = sheet.figure(key)
        assert figure.low < figure.value < figure.high
        return (figure.high - figure.low) / figure.value

    typical = planned(replace(RESIN, origin=type(RESIN.origin).TYPICAL))
    assert band(typical) > 1.5 * band(planned())
    # Far from the sheet's temperature the class's activation energy counts.
    assert band(planned(room_temperature_k=283.15)) > band(planned())
    assert band(planned(time_factor=1.2)) <= band(typical)
    terms = {term.name: term for term in planned().figure("demould").terms}
    assert (terms["room"].high - terms["room"].low) / 2 == pytest.approx(1.0)
    sheet_time = terms["data sheet's time"]
    assert sheet_time.high - sheet_time.value == pytest.approx(0.05 * RESIN.demould_s)
