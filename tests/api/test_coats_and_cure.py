"""Coats by school, cure, calendar, learned times and followed overshoots through the API."""

from datetime import UTC, datetime, timedelta
from uuid import UUID

import pytest
from icalendar import Calendar
from sqlalchemy import update

from api.conftest import API, WISH, assert_problem
from mildhusk.core.pouring.steps import PourStep
from mildhusk.store.tables import Pour


@pytest.fixture
def question(piece, resin):
    def made(key="pu-fast-rigid", **wish):
        return {
            "piece_id": piece["id"],
            "material_id": resin(key)["id"],
            "wish": {**WISH, **wish},
        }

    return made


def test_every_school_stands_beside_the_others(client, question):
    found = client.post(f"{API}/sheets/schools", json=question()).json["schools"]
    assert [one["key"] for one in found][:2] == ["equal", "fixed"]
    assert len(found) == 8
    assert "clay" not in {one["key"] for one in found}, "resin is not melted"
    equal = found[0]
    plan = client.post(f"{API}/sheets/preview", json=question()).json
    assert (equal["coats"], equal["total_charge_kg"]) == (
        len(plan["coats"]),
        plan["total_charge_kg"],
    )
    assert all(one["when"].endswith(".") for one in found)
    long = next(one for one in found if one["key"] == "long")
    assert (long["coats"], long["fits"], long["binding_limit"]) == (1, False, "carry")


def test_a_school_that_cannot_be_says_why_and_the_others_stand(client, question):
    hot = question("clay-melted", mould_temperature_k=317.0)
    (clay,) = client.post(f"{API}/sheets/schools", json=hot).json["schools"]
    assert "never cools" in clay["said"]
    assert not clay["fits"]


def test_a_wish_keeps_what_it_says_and_what_is_usual(client, question):
    body = {
        "name": "Tinted",
        **question(tint=0.02, hands=2, school="detail", parts_temperature_k=288.15),
    }
    kept = client.post(f"{API}/sheets", json=body).json
    assert (kept["wish"]["tint"], kept["wish"]["hands"], kept["wish"]["school"]) == (
        0.02,
        2,
        "detail",
    )
    assert kept["wish"]["mould_temperature_k"] is None
    plan = kept["plan"]
    assert plan["premix"]["tint_kg"] > 0.0
    taken = sum(coat["parts_kg"]["B"] for coat in plan["coats"])
    assert taken == pytest.approx(
        sum(plan["premix"][one] for one in ("b_kg", "tint_kg", "filler_kg")), abs=1e-9
    )
    again = client.get(f"{API}/sheets/{kept['id']}").json
    assert again["plan"] == plan


@pytest.mark.parametrize(
    ("wish", "field", "said"),
    [
        ({"hands": 3}, "hands", "give 1 to 2"),
        ({"tint": 0.5}, "tint", "The tint is 50 %"),
        ({"filler": 4.0, "filler_density_kg_m3": 500.0}, "filler", "it would not flow"),
        ({"catalyst": 0.02}, "catalyst", "takes no catalyst"),
        ({"parts_temperature_k": 268.15}, "parts_temperature_k", "-5 °C; give 5 °C to 45 °C"),
        ({"room_temperature_k": 333.15}, "room_temperature_k", "60 °C; give 5 °C to 45 °C"),
        ({"time_factor": 20.0}, "time_factor", "factor on the resin's times"),
        ({"school": "guess"}, "school", "school"),
    ],
)
def test_coats_that_cannot_be_wished_are_told(client, question, wish, field, said):
    refused = client.post(f"{API}/sheets/preview", json=question(**wish))
    assert_problem(refused, 422, said, field)


def test_a_peroxide_of_twelve_percent_is_refused_with_its_range(client, question):
    refused = client.post(f"{API}/sheets/preview", json=question("polyester", catalyst=0.12))
    assert_problem(refused, 422, "The catalyst is 12 %; give 1 % to 3 %", "catalyst")
    plan = client.post(f"{API}/sheets/preview", json=question("polyester", catalyst=0.02)).json
    coat = plan["coats"][0]["parts_kg"]
    assert coat["B"] / coat["A"] == pytest.approx(0.02, rel=0.03)


def test_the_workshops_cup_and_pace_bound_the_coats(client, question):
    before = client.post(f"{API}/sheets/preview", json=question()).json
    equipment = client.get(f"{API}/workshop").json["equipment"]
    cup = {"bottom_diameter_m": 0.03, "top_diameter_m": 0.04, "height_m": 0.04}
    client.put(f"{API}/workshop/equipment", json={**equipment, "cup": cup, "hands": 2})
    after = client.post(f"{API}/sheets/preview", json=question()).json
    assert after["limits"]["cup_kg"] < before["limits"]["cup_kg"]
    assert len(after["coats"]) > len(before["coats"])
    assert {one["binding_limit"] for one in after["coats"]} == {"cup"}
    assert client.get(f"{API}/workshop").json["first_wish"]["hands"] == 2


def terms(figure):
    """The terms of a figure, and theirs."""
    for one in figure["terms"]:
        yield one
        yield from terms(one)


# --- cure ---


@pytest.fixture
def mix(resin):
    def made(key="pu-fast-rigid", **more):
        return {
            "material_id": resin(key)["id"],
            "mass_kg": 0.1,
            "room_temperature_k": 296.15,
            "film_m": 0.001,
            **more,
        }

    return made


def test_a_cure_has_times_curves_and_what_a_little_changes(client, mix):
    found = client.post(f"{API}/cure", json=mix()).json
    assert found["working_time_s"] == pytest.approx(150.0, rel=5e-3)
    curve = found["curve"]
    assert len({len(values) for values in curve.values()}) == 1
    assert curve["t_s"] == sorted(curve["t_s"])
    assert max(curve["temperature_k"]) == pytest.approx(found["peak_cup_k"], abs=1.0)
    shift = found["sensitivity"]
    assert shift["warmer"]["working_time_s"] < 0.0 < shift["cooler"]["working_time_s"]
    assert shift["more"]["working_time_s"] < 0.0 < shift["less"]["working_time_s"]
    assert shift["more"]["gel_film_s"] == 0.0
    assert found["peak_film_k"] < found["peak_puddle_k"]
    deep = client.post(f"{API}/cure", json=mix(puddle_m=0.03)).json
    assert deep["peak_puddle_k"] > found["peak_puddle_k"]


def test_a_warm_post_cure_is_shorter_by_the_rate(client, mix):
    """Law: Arrhenius; at the sheet's temperature it is the sheet's own interval."""
    at_sheet = client.post(f"{API}/cure", json=mix(post_cure_k=296.15)).json["post_cure_s"]
    assert at_sheet == pytest.approx(86_400 - 900)
    warm = client.post(f"{API}/cure", json=mix(post_cure_k=306.15)).json["post_cure_s"]
    assert 1.7 < at_sheet / warm < 2.4


@pytest.mark.parametrize(
    ("more", "field", "said"),
    [
        ({"mass_kg": 50.0}, "grams", "The mass in the cup is 50,000 g"),
        ({"film_m": 0.0}, "film", "The film is 0 mm"),
        ({"room_temperature_k": 268.15}, "room_temperature_k", "-5 °C; give 5 °C to 45 °C"),
        ({"post_cure_k": 500.0}, "post_cure_k", "post-cure is 226.85 °C"),
        ({"catalyst": 0.02}, "catalyst", "takes no catalyst"),
    ],
)
def test_mixes_that_have_no_cure_are_told(client, mix, more, field, said):
    assert_problem(client.post(f"{API}/cure", json=mix(**more)), 422, said, field)


# --- calendar ---


def test_the_clock_goes_into_a_calendar(client, sheet):
    """The calendar is read by the library that others read it with (RFC 5545)."""
    begins = "2026-06-02T09:00:00+02:00"
    address = f"{API}/sheets/{sheet['id']}/clock.ics"
    answer = client.get(address, query_string={"begins_at": begins})
    assert answer.mimetype == "text/calendar"
    calendar = Calendar.from_ical(answer.data)
    events = calendar.walk("VEVENT")
    ribbon = sheet["plan"]["ribbon"]
    assert len(events) == len(ribbon) + 1
    start = datetime(2026, 6, 2, 7, 0, tzinfo=UTC)
    for event, stretch in zip(events, ribbon, strict=False):
        off = event.decoded("dtstart") - (start + timedelta(seconds=stretch["from_s"]))
        assert abs(off.total_seconds()) <= 0.5
        busy = "OPAQUE" if stretch["hands_busy"] else "TRANSPARENT"
        assert str(event["transp"]) == busy
    out = events[-1]
    assert "take it out" in str(out["summary"])
    away = out.decoded("dtstart") - start
    assert away.total_seconds() == pytest.approx(sheet["plan"]["out_after_s"], abs=0.5)
    assert len({str(event["uid"]) for event in events}) == len(events)


def test_a_calendar_wants_a_start_with_its_time_zone(client, sheet):
    address = f"{API}/sheets/{sheet['id']}/clock.ics"
    for begins in ({}, {"begins_at": "soon"}, {"begins_at": "2026-06-02T09:00:00"}):
        assert client.get(address, query_string=begins).status_code == 422


# --- overshoot, and what was learned ---


def test_an_overshoot_is_followed_and_nothing_is_taken_out(client):
    body = {"wanted": [0.330, 0.033], "poured": [0.340, 0.0]}
    assert client.post(f"{API}/mix/follow", json=body).json["add"] == pytest.approx([0.0, 0.034])
    wrong = {"wanted": [0.330, 0.033], "poured": [0.340, -1.0]}
    assert_problem(client.post(f"{API}/mix/follow", json=wrong), 422, "below 0", "poured")


def poured_once(client, clock, sheet, late):
    """Pour a sheet whose coats gel so much later than planned."""
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    for coat in pour["plan"]["coats"]:
        for step in PourStep:
            wait = coat["roll_until_s"] * late - 20.0 if step == "gel" else 10.0
            clock.pass_seconds(wait)
            parts = {"parts": {"a": 0.02, "b": 0.018}} if step == "weigh" else {}
            body = {"coat": coat["number"], "step": step, **parts}
            done = client.post(f"{API}/pours/{pour['id']}/steps", json=body)
            assert done.status_code == 200
    return pour


def test_gel_times_that_were_measured_recalibrate_the_lot(client, clock, sheet):
    poured_once(client, clock, sheet, 1.25)
    poured_once(client, clock, sheet, 1.25)
    plan = client.get(f"{API}/sheets/{sheet['id']}").json["plan"]
    finding = next(one for one in plan["findings"] if one["id"] == "learned-times")
    factor = finding["action"]["value"]
    # Ticked ten seconds after mixing and pouring: late by the wait, to a few per cent.
    assert factor == pytest.approx(1.25, abs=0.06)
    wish = {**WISH, "time_factor": factor}
    body = {key: sheet[key] for key in ("piece_id", "material_id")}
    learned = client.post(f"{API}/sheets/preview", json={**body, "wish": wish}).json
    assert learned["coats"][0]["roll_until_s"] == pytest.approx(
        factor * plan["coats"][0]["roll_until_s"], rel=0.05
    )
    assert "learned-times" not in {one["id"] for one in learned["findings"]}
    sources = {one["source"] for figure in learned["figures"] for one in terms(figure)}
    assert "learned from your pours" in sources


def test_a_pour_of_an_earlier_version_still_reads(client, sheet):
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    new = ("kind", "added_kg", "binding_limit", "fits")
    coats = [
        {name: value for name, value in coat.items() if name not in new}
        for coat in pour["plan"]["coats"]
    ]
    kept = {
        name: pour["plan"][name]
        for name in ("total_charge_kg", "cast_kg", "demould_s", "ratio_basis", "densities_kg_m3")
    }
    old = {**kept, "coats": coats}
    backstage = next(iter(client.application.extensions.values()))
    with backstage.sessions.begin() as session:
        session.execute(update(Pour).where(Pour.id == UUID(pour["id"])).values(plan=old))
    again = client.get(f"{API}/pours/{pour['id']}").json
    assert [one["kind"] for one in again["plan"]["coats"]] == ["rolled"] * len(coats)


def test_melted_clay_is_weighed_as_one_part(client, question):
    body = {"name": "Study copy", **question("clay-melted", school="clay", wall_m=0.006)}
    sheet = client.post(f"{API}/sheets", json=body).json
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    done = client.post(
        f"{API}/pours/{pour['id']}/steps",
        json={"coat": 1, "step": "weigh", "parts": {"a": 0.4, "b": 0.0}},
    )
    assert done.json["coats"][0]["b_kg"] == 0.0


def test_a_paste_keeps_its_places_and_says_what_each_takes(client, question):
    places = [{"name": "brow {ridge}", "area_m2": 0.0005}, {"name": "chin", "area_m2": 0.00025}]
    body = {"name": "Pasted", **question(school="paste", paste_places=places)}
    kept = client.post(f"{API}/sheets", json=body).json
    assert kept["wish"]["paste_places"] == places
    paste = client.get(f"{API}/sheets/{kept['id']}").json["plan"]["coats"][-1]
    assert [one["name"] for one in paste["places"]] == ["brow {ridge}", "chin"]
    assert sum(one["mixed_kg"] for one in paste["places"]) == pytest.approx(paste["charge_kg"])
    changed = client.post(f"{API}/sheets/preview", json=question(school="equal")).json
    assert all(coat["places"] == [] for coat in changed["coats"])


def test_a_sheets_peak_is_kept_and_one_that_no_cure_fits_is_refused(client, resin, question):
    own = resin("pu-fast-rigid")
    sheet = {name: value for name, value in own["sheet"].items() if name != "origin"}
    told = {"name": "With a peak", "sheet": {**sheet, "peak_exotherm_k": 350.0}}
    made = client.post(f"{API}/materials", json=told)
    assert made.json["sheet"]["peak_exotherm_k"] == 350.0
    asked = {**question(), "material_id": made.json["id"]}
    figures = client.post(f"{API}/sheets/preview", json=asked).json["figures"]
    names = {one["name"] for figure in figures for one in terms(figure)}
    assert "data sheet's peak exotherm" in names
    hot = {**told, "name": "Too hot", "sheet": {**sheet, "peak_exotherm_k": 560.0}}
    assert_problem(client.post(f"{API}/materials", json=hot), 422, "peak exotherm")
