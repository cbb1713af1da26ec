"""Readings of the wall of a cast, pictures of it, and what a workshop's pours teach."""

import io
from uuid import UUID

import pytest
from PIL import Image
from sqlalchemy import select

from api.conftest import API, WISH, assert_problem, form_with
from mildhusk.store.tables import Pour
from mildhusk.store.values import LESSONS

AT = [0.0, 0.0, 0.1]
"""The crown of a dome of 100 mm. [m]"""


@pytest.fixture
def turned(client, piece, resin):
    body = {
        "name": "Turned by a machine",
        "piece_id": piece["id"],
        "material_id": resin("pu-fast-rigid")["id"],
        "wish": {**WISH, "wall_m": 0.001, "motion": "machine", "lid": True},
    }
    return client.post(f"{API}/sheets", json=body).json


def cast(client, clock, sheet, lost=0.07, slow=1.0):
    """A pour of all coats as planned, and its cast with what the cup kept missing."""
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    poured_kg = 0.0
    for coat in pour["plan"]["coats"]:
        parts = {"a": coat["parts_kg"]["A"], "b": coat["parts_kg"]["B"]}
        poured_kg += sum(parts.values())
        waits = (("weigh", 60), ("mix", 5), ("pour", 45), ("gel", slow * coat["roll_until_s"] - 45))
        for step, after_s in waits:
            clock.pass_seconds(after_s)
            done = {"coat": coat["number"], "step": step}
            if step == "weigh":
                done["parts"] = parts
            assert client.post(f"{API}/pours/{pour['id']}/steps", json=done).status_code == 200
    clock.pass_seconds(7200)
    ending = {"status": "cast", "cast_kg": poured_kg * (1.0 - lost)}
    closed = client.post(f"{API}/pours/{pour['id']}/close", json=ending)
    assert closed.status_code == 200, closed.text
    return closed.json


def read(client, pour, **reading):
    return client.post(f"{API}/pours/{pour['id']}/readings", json=reading)


def test_a_reading_is_put_on_the_piece_named_and_set_beside_the_simulation(client, clock, turned):
    pour = cast(client, clock, turned)
    first = read(client, pour, by="caliper", wall_m=0.0011, at_m=[0.001, 0.0, 0.1015])
    assert first.status_code == 201, first.text
    told = first.json["readings"][0]
    assert told["place"]
    # Put on the face itself: a dome of 100 mm.
    assert sum(one**2 for one in told["at_m"]) ** 0.5 == pytest.approx(0.1, abs=0.001)
    assert (told["simulated_m"], first.json["simulated"]) == (None, None)
    asked = client.post(f"{API}/pours/{pour['id']}/wall", json={})
    assert asked.json["can_be"] is True
    assert client.post(f"{API}/pours/{pour['id']}/wall", json={"again": True}).status_code == 200
    listed = client.get(f"{API}/pours/{pour['id']}/readings").json
    run = client.post(f"{API}/pours/{pour['id']}/wall", json={}).json["poured"]
    assert listed["simulated"] == run["id"]
    simulated_m = listed["readings"][0]["simulated_m"]
    assert run["wall"]["p01_m"] < simulated_m < run["wall"]["max_m"]
    # One that comes after is set beside it at once.
    second = read(client, pour, by="hole", wall_m=0.002, at_m=[0.1, 0.0, 0.0]).json
    assert second["readings"][1]["simulated_m"] is not None
    glb = client.get(f"{API}/pours/{pour['id']}/read-wall.glb")
    assert glb.data[:4] == b"glTF"
    assert b"_DIFFERENCE" in glb.data
    left = client.delete(f"{API}/readings/{told['id']}").json["readings"]
    assert [one["by"] for one in left] == ["hole"]


@pytest.mark.parametrize(
    ("reading", "said", "field"),
    [
        ({"by": "caliper", "wall_m": -0.001, "at_m": AT}, "-1 mm", "wall_m"),
        ({"by": "caliper", "wall_m": 0.4, "at_m": AT}, "400 mm", "wall_m"),
        ({"by": "caliper", "at_m": AT}, "Say the wall", "wall_m"),
        ({"by": "light", "at_m": AT}, "light comes through", "light"),
        ({"by": "hole", "wall_m": 0.003, "at_m": [0.0, 0.0, 0.3]}, "off the casting face", "at_m"),
        ({"by": "caliper", "wall_m": 0.003}, "Say where", "place"),
        ({"by": "guess", "wall_m": 0.003, "at_m": AT}, "caliper", "by"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_a_sentence_and_nothing_is_kept(
    client, clock, sheet, reading, said, field
):
    pour = cast(client, clock, sheet)
    assert_problem(read(client, pour, **reading), 422, said, field)
    assert client.get(f"{API}/pours/{pour['id']}/readings").json["readings"] == []


def test_a_pour_that_is_not_closed_is_not_read(client, sheet):
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    assert_problem(read(client, pour, by="caliper", wall_m=0.003, at_m=AT), 409, "close it")


def test_readings_go_out_and_come_in_as_csv_all_or_none(client, clock, sheet):
    pour = cast(client, clock, sheet)
    read(client, pour, by="caliper", wall_m=0.0025, at_m=AT)
    read(client, pour, by="light", light=True, place="under the chin")
    address = f"{API}/pours/{pour['id']}/readings.csv"
    written = client.get(address).data
    other = cast(client, clock, sheet)
    into = f"{API}/pours/{other['id']}/readings.csv"
    taken = client.post(into, **form_with(written, "r.csv"))
    assert (taken.status_code, taken.json) == (201, {"taken": 2})
    both = [
        [(one["by"], one["wall_m"], one["light"], one["place"]) for one in told["readings"]]
        for told in (client.get(f"{API}/pours/{p['id']}/readings").json for p in (pour, other))
    ]
    assert both[0] == both[1]
    wrong = written + b"caliper,thick,,,,,brow,\r\n"
    assert_problem(client.post(into, **form_with(wrong, "r.csv")), 422, "1 of 3")
    assert len(client.get(f"{API}/pours/{other['id']}/readings").json["readings"]) == 2


# --- pictures ---


def picture(kind="JPEG", size=(40, 30)):
    written = io.BytesIO()
    Image.new("RGB", size, "teal").save(written, kind)
    return written.getvalue()


def test_a_picture_of_a_fault_goes_with_it(client, clock, sheet):
    pour = cast(client, clock, sheet)
    made = client.post(f"{API}/pours/{pour['id']}/faults", json={"kind": "thin"}).json
    fault = made["faults"][0]["id"]
    address = f"{API}/pours/{pour['id']}/pictures"
    data = {"file": (io.BytesIO(picture("PNG")), "brow.png"), "caption": "brow", "fault_id": fault}
    sent = client.post(address, data=data, content_type="multipart/form-data")
    assert sent.status_code == 201, sent.text
    (told,) = sent.json["pictures"]
    assert (told["caption"], told["fault_id"], told["width"]) == ("brow", fault, 40)
    shown = client.get(f"{API}/pictures/{told['id']}")
    assert (shown.content_type, shown.data[:3]) == ("image/jpeg", b"\xff\xd8\xff")
    assert client.delete(f"{API}/faults/{fault}").status_code == 200
    assert client.get(f"{API}/pours/{pour['id']}/readings").json["pictures"] == []
    assert client.get(f"{API}/pictures/{told['id']}").status_code == 404


def test_what_is_no_picture_or_too_many_is_refused(client, clock, sheet):
    pour = cast(client, clock, sheet)
    address = f"{API}/pours/{pour['id']}/pictures"
    assert_problem(client.post(address, **form_with(b"GIF89a", "a.jpg")), 422, "no picture", "file")
    cut = picture()[:200]
    assert_problem(client.post(address, **form_with(cut, "a.jpg")), 422, "no picture", "file")
    large = client.post(address, **form_with(bytes(80_000_000), "a.jpg"))
    assert_problem(large, 413, "More than 20 MB")
    for _ in range(30):
        assert client.post(address, **form_with(picture(), "a.jpg")).status_code == 201
    assert_problem(client.post(address, **form_with(picture(), "a.jpg")), 409, "up to 30 pictures")


# --- what is learned ---


def findings(client, sheet):
    plan = client.get(f"{API}/sheets/{sheet['id']}").json["plan"]
    return {one["id"]: one for one in plan["findings"] if one["id"].startswith("learned")}


def learned(client, sheet):
    values = client.get(f"{API}/sheets/{sheet['id']}/learned").json["values"]
    return {one["key"]: one for one in values}


def test_a_plan_offers_what_casts_taught_and_its_band_is_theirs(client, clock, sheet):
    before = learned(client, sheet)["loss"]
    assert (before["pours"], before["since"]) == (0, None)
    for lost in (0.118, 0.124, 0.121, 0.119):
        cast(client, clock, sheet, lost)
    told = learned(client, sheet)["loss"]
    assert told["pours"] == 4
    assert told["low"] < 0.12 < told["high"]
    assert told["high"] - told["low"] < 0.5 * (before["high"] - before["low"])
    assert len(told["course"]) == 4
    offer = findings(client, sheet)["learned-loss"]
    assert "from 4 of your casts" in offer["text"]
    assert sheet["wish"]["loss"] == 0.05
    wish = {**WISH, offer["action"]["field"]: offer["action"]["value"]}
    names = ("name", "piece_id", "material_id", "version")
    body = {**{name: sheet[name] for name in names}, "wish": wish}
    taken = client.put(f"{API}/sheets/{sheet['id']}", json=body).json
    assert "learned-loss" not in findings(client, sheet)
    half = [
        0.5 * (b[1] - b[0]) for b in (one["plan"]["total_charge_band_kg"] for one in (sheet, taken))
    ]
    assert half[1] < half[0]


def test_a_worker_tells_what_a_pour_teaches_before_a_plan_asks(client, app, clock, sheet):
    pour = cast(client, clock, sheet, lost=0.1)
    at = next(iter(app.extensions.values()))

    def lost():
        with at.sessions() as session:
            kept = session.scalars(select(Pour.lesson).where(Pour.id == UUID(pour["id"]))).one()
        return LESSONS.read(kept).lesson.loss.value

    assert lost() == pytest.approx(0.1, abs=1e-3)
    cut = {"offcuts_kg": 0.02 * pour["comparison"]["poured_kg"]}
    client.put(f"{API}/pours/{pour['id']}/offcuts", json=cut)
    assert lost() == pytest.approx(0.08, abs=1e-3)


def test_offcuts_weigh_in_the_cast_and_a_spoilt_pour_has_none(client, clock, sheet):
    pour = cast(client, clock, sheet, lost=0.3)
    address = f"{API}/pours/{pour['id']}/offcuts"
    assert learned(client, sheet)["loss"]["value"] > 0.1
    cut = 0.25 * pour["comparison"]["poured_kg"]
    told = client.put(address, json={"offcuts_kg": cut}).json
    assert told["offcuts_kg"] == pytest.approx(cut, abs=1e-5)
    assert told["comparison"]["stayed_share"] == pytest.approx(0.95, abs=0.001)
    assert learned(client, sheet)["loss"]["value"] == pytest.approx(0.05, abs=0.01)
    assert_problem(client.put(address, json={"offcuts_kg": -1.0}), 422, "above 0", "offcuts_kg")


def test_other_lots_and_resins_teach_less_than_their_own(client, clock, sheet, resin, piece):
    cast(client, clock, sheet, slow=1.3)
    cast(client, clock, sheet, slow=1.3)
    body = {key: sheet[key] for key in ("piece_id", "wish")}
    other = client.post(
        f"{API}/sheets",
        json={**body, "name": "Other", "material_id": resin("pu-medium-rigid")["id"]},
    ).json
    own, else_ = (learned(client, one)["time_factor"]["value"] for one in (sheet, other))
    assert 1.0 < else_ < 1.15 < own


def test_a_viscosity_is_fitted_to_readings_by_a_worker(client, clock, turned):
    pour = cast(client, clock, turned)
    address = f"{API}/pours/{pour['id']}/viscosity"
    assert_problem(client.post(address), 409, "take 5 or more")
    places = [
        (0.0, 0.0, 0.1),
        (0.1, 0.0, 0.0),
        (-0.1, 0.0, 0.0),
        (0.0, 0.1, 0.0),
        (0.07, 0.0, 0.07),
    ]
    for at in places:
        read(client, pour, by="caliper", wall_m=0.003, at_m=list(at))
    job = client.post(address)
    assert (job.status_code, job.json["status"]) == (202, "done"), job.text
    told = client.get(f"{API}/pours/{pour['id']}/readings").json
    assert 0.3 < told["viscosity"] < 3.0
    assert learned(client, turned)["viscosity_factor"]["pours"] == 1
    # Nothing is offered from fewer than three casts.
    assert "learned-viscosity" not in findings(client, turned)
