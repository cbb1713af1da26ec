"""A plan settled by a worker: asked once, kept by content, used by screen, card, cost and pour."""

import csv
import io

import pytest
from pypdf import PdfReader

from api.conftest import API, WISH, assert_problem, surveyed
from core.shapes import half_sphere, stl_bytes
from mildhusk.services.errors import ConflictError
from mildhusk.services.settling import SettleTask

TURNED = {**WISH, "motion": "machine", "lid": True, "wall_m": 0.001}


@pytest.fixture
def cup(client, upload):
    """Half a ball of 36 mm: large enough to cast, small enough to simulate at once."""
    read = upload(stl_bytes(half_sphere(0.036, 24).scaled(1e3)))
    body = {"name": "Cup", "mesh_sha256": read.json["sha256"], "units": "mm"}
    return surveyed(client, client.post(f"{API}/pieces", json=body))


@pytest.fixture
def question(cup, resin):
    return {"piece_id": cup["id"], "material_id": resin("pu-fast-rigid")["id"], "wish": TURNED}


def settle(client, question):
    return client.post(f"{API}/sheets/settle", json=question)


def test_a_plan_is_settled_once_and_everything_reads_it(client, question):
    sheet = client.post(f"{API}/sheets", json={**question, "name": "A cup"}).json
    assert sheet["plan"]["stands_on"] == "estimate"
    listed = client.get(f"{API}/sheets").json["sheets"][0]
    assert listed["total_charge_kg"] == sheet["plan"]["total_charge_kg"]
    asked = settle(client, question).json
    assert (asked["run"], asked["plan"]["stands_on"]) == (None, "estimate")
    job = client.get(f"{API}/jobs/{asked['job']['id']}").json
    assert (job["status"], job["kind"]) == ("done", "settle"), job["said"]
    found = settle(client, question).json
    plan = found["plan"]
    assert (found["job"], plan["stands_on"]) == (None, "settled")
    assert plan["wall"]["share_under"] <= 0.05
    assert plan["estimate"]["total_charge_kg"] == sheet["plan"]["total_charge_kg"]
    assert found["run"]["wall"]["p05_m"] == plan["wall"]["p05_m"]
    # Sheet, preview, list, card, cost and pour stand on it.
    total = plan["total_charge_kg"]
    assert total != sheet["plan"]["total_charge_kg"]
    kept = client.get(f"{API}/sheets/{sheet['id']}").json["plan"]
    shown = client.post(f"{API}/sheets/preview", json=question).json
    assert kept["total_charge_kg"] == shown["total_charge_kg"] == total
    assert client.get(f"{API}/sheets").json["sheets"][0]["total_charge_kg"] == total
    card = client.get(f"{API}/sheets/{sheet['id']}/bench-card.pdf")
    text = PdfReader(io.BytesIO(card.data)).pages[0].extract_text()
    assert f"{plan['coats'][0]['parts_kg']['A'] * 1e3:.1f}" in text
    assert "Turned: machine, with a lid" in text
    assert "The grams follow from a simulation of these coats" in text
    table = client.get(f"{API}/sheets/{sheet['id']}/sheet.csv").data.decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(table)))
    assert {row["stands_on"] for row in rows} == {"settled"}
    assert rows[0]["turned"] == "machine:8,3.1"
    ways = client.post(f"{API}/sheets/schools", json=question).json["schools"]
    assert next(one for one in ways if one["key"] == "equal")["total_charge_kg"] == total
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    assert pour["plan"]["total_charge_kg"] == total
    # The same asked in other words is the same plan.
    usual = {**question, "wish": {**TURNED, "motion": "machine:8,3.1"}}
    assert client.post(f"{API}/sheets/preview", json=usual).json["stands_on"] == "estimate"


def test_a_workshop_without_a_machine_turns_by_hand_as_usual(client, question):
    usual = {**question, "wish": {**TURNED, "motion": "usual", "lid": False}}
    shallow = client.post(f"{API}/sheets/preview", json=usual).json
    assert (shallow["motion"], shallow["lid"], shallow["pour"]) == ("by-eye", False, "rim")
    deep = {**usual, "wish": {**usual["wish"], "pour": "low-place"}, "name": "By hand"}
    kept = client.post(f"{API}/sheets", json=deep).json
    card = client.get(f"{API}/sheets/{kept['id']}/bench-card.pdf")
    text = PdfReader(io.BytesIO(card.data)).pages[0].extract_text()
    assert "poured into the deepest place" in " ".join(text.split())
    workshop = client.get(f"{API}/workshop").json["equipment"]
    assert workshop["has_machine"] is True
    kept = client.put(f"{API}/workshop/equipment", json={**workshop, "has_machine": False})
    assert kept.status_code == 200, kept.text
    assert client.get(f"{API}/workshop").json["equipment"]["has_machine"] is False


def test_another_wish_is_another_plan(client, question):
    first = settle(client, question).json["job"]["id"]
    other = {**question, "wish": {**TURNED, "wall_m": 0.0012}}
    second = settle(client, other).json
    assert second["job"]["id"] != first
    assert second["plan"]["stands_on"] == "estimate"
    assert settle(client, other).json["plan"]["stands_on"] == "settled"


@pytest.mark.parametrize(
    ("change", "status", "said", "field"),
    [
        ({"motion": None}, 409, "say how the mould is turned", None),
        ({"lid": False}, 422, "put a lid on, or turn it by hand", "lid"),
        ({"motion": "shaken"}, 422, "There is no motion 'shaken'", None),
        ({"coats": 0}, 422, "The number of coats is 0; give 1 to 60", None),
        ({"least": "half"}, 422, "", None),
    ],
)
def test_what_cannot_be_settled_is_refused(client, question, change, status, said, field):
    refused = settle(client, {**question, "wish": {**TURNED, **change}})
    assert_problem(refused, status, said, field)


def test_a_piece_of_which_only_the_size_is_known_is_estimated(client, resin):
    filled = {"name": "Filled", "volume_m3": 1e-3, "height_m": 0.1, "opening_m": 0.4}
    made = client.post(f"{API}/pieces/filled", json={**filled, "outline": "round"})
    assert made.status_code == 201, made.text
    question = {
        "piece_id": made.json["id"],
        "material_id": resin("pu-fast-rigid")["id"],
        "wish": TURNED,
    }
    assert client.post(f"{API}/sheets/preview", json=question).json["stands_on"] == "estimate"
    assert_problem(settle(client, question), 409, "a piece from a file or a tape")


def test_more_and_fewer_coats_are_compared_settled_and_stopped(client, question):
    fine_scale = {**TURNED, "wall_m": 0.0012, "scale_step_kg": 5e-5}
    asked = {**question, "wish": fine_scale}

    def choices(**what):
        return client.post(f"{API}/sheets/choices", json={**asked, **what}).json

    before = choices()
    counts = [one["choice"]["coats"] for one in before["choices"]]
    assert counts == sorted(set(counts))
    assert 2 <= len(counts) <= 6
    chosen = next(one for one in before["choices"] if one["is_chosen"])
    plan = client.post(f"{API}/sheets/preview", json=asked).json
    assert chosen["wish_coats"] is None
    assert chosen["choice"]["total_charge_kg"] == plan["total_charge_kg"]
    assert {one["choice"]["stands_on"] for one in before["choices"]} == {"estimate"}
    # Settled, the plan itself may come to another number of coats: then that is asked for too.
    assert choices(settle=True)["open"] == 0
    after = choices(settle=True)
    assert after["open"] == 0
    settled = {one["choice"]["coats"]: one for one in after["choices"]}
    assert {one["choice"]["stands_on"] for one in settled.values()} == {"settled"}
    assert all(0.3 < one["choice"]["evenness"] < 1.0 for one in settled.values())
    assert any(one["choice"]["on_frontier"] for one in settled.values())
    # What is taken is the plan that was compared.
    other = next(one for one in settled.values() if not one["is_chosen"])
    taken = {**asked, "wish": {**asked["wish"], "coats": other["wish_coats"]}}
    plan = client.post(f"{API}/sheets/preview", json=taken).json
    assert plan["stands_on"] == "settled"
    assert plan["total_charge_kg"] == other["choice"]["total_charge_kg"]
    assert plan["hands_on_s"] == other["choice"]["hands_on_s"]


def test_where_there_are_no_coats_to_choose_it_is_said(client, question):
    for change in ({"motion": None}, {"school": "long"}):
        asked = {**question, "wish": {**TURNED, **change}}
        refused = client.post(f"{API}/sheets/choices", json=asked)
        assert_problem(refused, 409, "There are no coats to choose")


def test_what_a_first_look_came_to_is_shown_until_it_is_settled(client, question, monkeypatch):
    def refuse(*_words):
        raise ConflictError("The power went.")

    kept = client.post(f"{API}/sheets", json={**question, "name": "A cup"}).json

    def listed():
        (one,) = client.get(f"{API}/sheets").json["sheets"]
        return one["version"], one["total_charge_kg"]

    assert listed() == (kept["version"], kept["plan"]["total_charge_kg"])
    with monkeypatch.context() as power:
        power.setattr(SettleTask, "write", refuse)
        assert settle(client, question).json["run"] is None
    seen = client.post(f"{API}/sheets/preview", json=question).json
    assert (seen["stands_on"], seen["wall"]) == ("first-look", None)
    # The list tells the same, and the sheet itself was not changed.
    assert listed() == (kept["version"], seen["total_charge_kg"])
    again = settle(client, question).json
    assert again["plan"]["stands_on"] == "first-look"
    assert again["run"]["wall"]["p05_m"] > 0.0
    shape = client.get(f"{API}/walls/{again['run']['id']}/wall.glb")
    assert shape.status_code == 200
    # The job that was asked for meanwhile has settled it.
    found = settle(client, question).json
    assert (found["job"], found["plan"]["stands_on"]) == (None, "settled")
    assert found["run"]["id"] != again["run"]["id"]
    assert listed() == (kept["version"], found["plan"]["total_charge_kg"])
