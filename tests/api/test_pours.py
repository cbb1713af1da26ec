"""Pours through the API: ticked off in order, closed once, read in the log."""

from datetime import datetime, timedelta
from uuid import uuid4

import pytest
from sqlalchemy.orm import Session

from api.conftest import API, START, assert_problem
from mildhusk.core.pouring.steps import PourStep


@pytest.fixture
def pour(client, sheet):
    return client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json


@pytest.fixture
def tick(client, pour, clock):
    def send(coat, step, **more):
        clock.pass_seconds(10)
        parts = {"parts": {"a": 0.05, "b": 0.045}} if step == "weigh" else {}
        body = {"coat": coat, "step": step, **parts, **more}
        return client.post(f"{API}/pours/{pour['id']}/steps", json=body)

    return send


@pytest.fixture
def poured(pour, tick):
    for coat in pour["coats"]:
        for step in PourStep:
            assert tick(coat["number"], step).status_code == 200
    return pour


def test_a_pour_starts_with_the_plan_of_its_sheet_and_its_first_step(pour, sheet):
    assert pour["plan"]["coats"] == sheet["plan"]["coats"]
    assert pour["plan"]["total_charge_kg"] == sheet["plan"]["total_charge_kg"]
    assert pour["next_step"] == {"coat": 1, "step": "weigh"}
    assert pour["status"] == "open"
    assert pour["last_step"] is None


def test_what_was_really_weighed_and_when_is_kept(tick):
    done = tick(1, "weigh", parts={"a": 0.0512, "b": 0.0461}).json
    assert (done["coats"][0]["a_kg"], done["coats"][0]["b_kg"]) == (0.0512, 0.0461)
    assert done["coats"][0]["weighed_at"] == "2026-06-01T12:00:10Z"
    assert done["next_step"] == {"coat": 1, "step": "mix"}


def test_clocks_run_from_the_mixing(tick, pour):
    tick(1, "weigh")
    coat = tick(1, "mix").json["coats"][0]
    expected = START + timedelta(seconds=20 + pour["plan"]["coats"][0]["roll_until_s"])
    assert coat["times"]["roll_until"].startswith(expected.strftime("%Y-%m-%dT%H:%M:%S"))


def test_a_time_can_be_typed_in_but_not_out_of_order(tick, clock):
    tick(1, "weigh")
    clock.pass_seconds(300)
    earlier = (START + timedelta(seconds=60)).isoformat()
    assert tick(1, "mix", at=earlier).json["coats"][0]["mixed_at"] == "2026-06-01T12:01:00Z"
    assert_problem(tick(1, "pour", at=START.isoformat()), 422, "before the step before it", "at")
    ahead = (clock.now + timedelta(hours=1)).isoformat()
    assert_problem(tick(1, "pour", at=ahead), 422, "in the future", "at")


def test_a_pour_goes_on_where_the_clock_of_the_machine_was_put_back(tick, clock):
    tick(1, "weigh")
    clock.pass_seconds(-3 * 3600)
    coat = tick(1, "mix").json["coats"][0]
    assert coat["mixed_at"] == coat["weighed_at"]
    poured = tick(1, "pour", at=clock.now.isoformat()).json["coats"][0]
    assert poured["poured_at"] == coat["mixed_at"]
    clock.pass_seconds(3 * 3600 + 600)
    gelled = tick(1, "gel").json["coats"][0]["gelled_at"]
    assert gelled > poured["poured_at"]


def test_a_step_out_of_turn_or_ticked_twice_is_refused(tick):
    assert_problem(tick(1, "mix"), 409, "do the step before first")
    tick(1, "weigh")
    assert_problem(tick(1, "weigh"), 409, "weighed at 12:00:20 UTC already")
    assert_problem(tick(9, "weigh"), 422, "coats 1 to 3, not 9", "coat")


@pytest.mark.parametrize(
    ("parts", "said"),
    [
        (None, "Type in what was weighed"),
        ({"a": 0, "b": 0.04}, "Part A is 0.00 g"),
        ({"a": 0.05, "b": -1}, "Part B"),
        ({"a": 1e9, "b": 0.04}, "below 100 kg"),
        ({"a": "some", "b": 0.04}, "'some', which is not a number"),
    ],
)
def test_weights_that_cannot_be_are_refused(tick, parts, said):
    assert_problem(tick(1, "weigh", parts=parts), 422, said)


def test_volumes_become_grams_by_the_densities_of_the_parts(client, sheet, resin):
    known = resin("pu-medium-rigid")
    body = {key: sheet[key] for key in ("name", "piece_id", "version", "wish")}
    client.put(f"{API}/sheets/{sheet['id']}", json={**body, "material_id": known["id"]})
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    step = {"coat": 1, "step": "weigh", "parts": {"a": 50e-6, "b": 50e-6}}
    coat = client.post(f"{API}/pours/{pour['id']}/steps", json=step).json["coats"][0]
    assert coat["a_kg"] == pytest.approx(50e-6 * known["sheet"]["density_a_kg_m3"])
    assert coat["b_kg"] == pytest.approx(50e-6 * known["sheet"]["density_b_kg_m3"])


def test_the_last_tick_can_be_taken_back_one_by_one(client, pour, tick):
    address = f"{API}/pours/{pour['id']}/steps/last"
    tick(1, "weigh")
    tick(1, "mix")
    assert client.delete(address).json["next_step"] == {"coat": 1, "step": "mix"}
    cleared = client.delete(address).json
    assert cleared["next_step"] == {"coat": 1, "step": "weigh"}
    assert cleared["coats"][0]["a_kg"] is None
    assert_problem(client.delete(address), 409, "Nothing has been ticked off")


def test_a_closed_pour_stands_in_the_log_next_to_its_plan(client, poured, sheet):
    body = {"status": "cast", "cast_kg": 0.27, "note": "Thin at the top."}
    closed = client.post(f"{API}/pours/{poured['id']}/close", json=body).json
    assert closed["status"] == "cast"
    assert closed["comparison"]["poured_kg"] == pytest.approx(3 * 0.095)
    assert closed["comparison"]["stayed_share"] == pytest.approx(0.27 / 0.285)
    assert closed["comparison"]["planned_kg"] == sheet["plan"]["total_charge_kg"]
    logged = client.get(f"{API}/pours").json["pours"]
    assert [one["id"] for one in logged] == [poured["id"]]
    assert logged[0]["poured_kg"] == pytest.approx(closed["comparison"]["poured_kg"])
    assert logged[0]["planned_kg"] == closed["comparison"]["planned_kg"]
    assert client.get(f"{API}/pours/{poured['id']}").json["note"] == "Thin at the top."


def test_a_pour_closed_twice_tells_the_second_window(client, poured):
    address = f"{API}/pours/{poured['id']}/close"
    client.post(address, json={"status": "cast", "cast_kg": 0.27})
    second = client.post(address, json={"status": "cast", "cast_kg": 0.3})
    assert_problem(second, 409, "closed at 12:02:00 UTC already")
    assert client.get(f"{API}/pours/{poured['id']}").json["comparison"]["cast_kg"] == 0.27
    assert_problem(client.delete(f"{API}/pours/{poured['id']}/steps/last"), 409, "closed at")


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"status": "cast"}, "Weigh the cast"),
        ({"status": "cast", "cast_kg": 0}, "Weigh the cast"),
        ({"status": "cast", "cast_kg": 1e5}, "Weigh the cast"),
        ({"status": "cast", "cast_kg": "heavy"}, "cast weight is 'heavy'"),
        ({"status": "open"}, "'cast' or 'spoilt'"),
        ({"status": "spoilt", "note": "x" * 4001}, "longer than 4000"),
    ],
)
def test_a_pour_is_not_closed_by_nonsense(client, poured, body, said):
    refused = client.post(f"{API}/pours/{poured['id']}/close", json=body)
    assert_problem(refused, 422, said)
    assert client.get(f"{API}/pours/{poured['id']}").json["status"] == "open"


def test_an_unfinished_pour_can_only_be_closed_as_spoilt(client, pour):
    address = f"{API}/pours/{pour['id']}/close"
    assert_problem(client.post(address, json={"status": "cast", "cast_kg": 0.2}), 409, "spoilt")
    spoilt = client.post(address, json={"status": "spoilt", "note": "Dropped."}).json
    assert (spoilt["status"], spoilt["comparison"]["cast_kg"]) == ("spoilt", None)


def test_a_pour_keeps_its_plan_when_the_sheet_changes(client, pour, sheet):
    body = {key: sheet[key] for key in ("name", "piece_id", "material_id", "version")}
    changed = {**body, "wish": {**sheet["wish"], "wall_m": 0.006}}
    client.put(f"{API}/sheets/{sheet['id']}", json=changed)
    assert client.get(f"{API}/pours/{pour['id']}").json["plan"] == pour["plan"]


def test_a_poured_sheet_is_part_of_the_log_and_stays(client, pour, sheet):
    assert_problem(client.delete(f"{API}/sheets/{sheet['id']}"), 409, "part of the log")


def test_a_note_can_be_written_later(client, pour):
    body = {"note": "The brow was thin.\nNext time slower."}
    edited = client.put(f"{API}/pours/{pour['id']}/note", json=body)
    assert edited.json["note"] == body["note"]


def test_a_step_that_fails_half_way_leaves_nothing(client, pour, monkeypatch):
    """All writes of one action are one transaction: the commit fails, so nothing was ticked."""

    def broken(self, *_, **__):
        raise RuntimeError("the plug was pulled")

    with monkeypatch.context() as broken_store:
        broken_store.setattr(Session, "commit", broken)
        broken_store.setattr(Session, "flush", broken)
        step = {"coat": 1, "step": "weigh", "parts": {"a": 0.05, "b": 0.04}}
        failed = client.post(f"{API}/pours/{pour['id']}/steps", json=step)
    assert_problem(failed, 500, "nothing was saved")
    now = client.get(f"{API}/pours/{pour['id']}").json
    assert now["next_step"] == {"coat": 1, "step": "weigh"}


def test_a_press_sent_twice_counts_once_and_later_ones_do_not_undo_it(client, pour, tick):
    """Its answer was lost on the way, so the browser sends it again; the second changes nothing."""
    key, other = str(uuid4()), str(uuid4())
    first = tick(1, "weigh", press=key, parts={"a": 0.0512, "b": 0.0461})
    tick(1, "mix", press=other)
    again = tick(1, "weigh", press=key, parts={"a": 0.9, "b": 0.9})
    assert again.status_code == 200
    coat = again.json["coats"][0]
    assert (coat["a_kg"], coat["weighed_at"]) == (0.0512, first.json["coats"][0]["weighed_at"])
    assert again.json["next_step"] == {"coat": 1, "step": "pour"}
    address = f"{API}/pours/{pour['id']}/steps/last"
    back = {"press": str(uuid4()), "coat": 1, "step": "mix"}
    for _ in range(2):
        assert client.delete(address, query_string=back).json["next_step"]["step"] == "mix"
    # A new press of a step that is done is no repetition.
    assert_problem(tick(1, "weigh", press=str(uuid4())), 409, "already")


def test_a_tick_is_taken_back_only_while_it_is_the_last(client, pour, tick):
    tick(1, "weigh")
    tick(1, "mix")
    address = f"{API}/pours/{pour['id']}/steps/last"
    stale = client.delete(address, query_string={"coat": 1, "step": "weigh"})
    assert_problem(stale, 409, "coat 1 was mixed since")


def test_a_pour_is_closed_when_it_was_pressed_and_once(client, poured, clock):
    clock.pass_seconds(100)
    pressed = (clock.now - timedelta(seconds=40)).isoformat()
    body = {"status": "cast", "cast_kg": 0.27, "press": str(uuid4()), "at": pressed}
    address = f"{API}/pours/{poured['id']}/close"
    closed = client.post(address, json=body).json
    assert closed["closed_at"].startswith("2026-06-01T12:03:00")
    assert client.post(address, json=body).json["closed_at"] == closed["closed_at"]
    assert_problem(client.post(address, json={**body, "press": str(uuid4())}), 409, "closed at")


def test_the_key_of_another_pours_press_is_refused(client, tick, sheet):
    key = str(uuid4())
    tick(1, "weigh", press=key)
    other = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    step = {"coat": 1, "step": "weigh", "press": key, "parts": {"a": 0.05, "b": 0.045}}
    refused = client.post(f"{API}/pours/{other['id']}/steps", json=step)
    assert_problem(refused, 422, "another pour's", "press")


def test_a_missed_window_is_said_with_the_wall_there_is_and_one_may_stop(client, pour, tick, clock):
    for step in PourStep:
        tick(1, step)
    address = f"{API}/pours/{pour['id']}"
    assert client.get(address).json["missed"] is None
    first, *_ = coats = pour["plan"]["coats"]
    mixed = datetime.fromisoformat(client.get(address).json["coats"][0]["mixed_at"])
    clock.now = mixed + timedelta(seconds=first["next_until_s"] + 240.0)
    missed = client.get(address).json["missed"]
    assert (missed["coat"], missed["is_hard"]) == (2, pour["plan"]["demould_s"] < 240.0)
    assert missed["late_s"] == pytest.approx(240.0)
    assert missed["wall_m"] == first["wall_m"]
    assert missed["wanted_m"] == pytest.approx(sum(one["wall_m"] for one in coats))
    clock.now = mixed + timedelta(seconds=pour["plan"]["demould_s"] + first["next_until_s"])
    assert client.get(address).json["missed"]["is_hard"]
    # Somebody weighs and mixes all the same: then nothing is left to decide.
    tick(2, "weigh")
    begun = client.post(f"{address}/close", json={"status": "cast", "cast_kg": 0.09})
    assert_problem(begun, 409, "A coat is not ticked off yet")
    client.delete(f"{address}/steps/last")
    closed = client.post(f"{address}/close", json={"status": "cast", "cast_kg": 0.09}).json
    assert (closed["status"], closed["missed"]) == ("cast", None)
    assert closed["comparison"]["poured_kg"] == pytest.approx(0.095)
