"""Runs of casts, the charts and the life of a mould, pours beside each other, the album."""

import io
from datetime import timedelta

import pytest
from PIL import Image

from api.conftest import API, START, WISH, assert_problem
from api.test_readings import cast, read


@pytest.fixture
def mould(client, piece, resin):
    body = {
        "name": "Dome glove",
        "piece_id": piece["id"],
        "rubber_id": resin("rubber-addition-firm")["id"],
        "shell_id": resin("shell-bandage")["id"],
        "rubber_wall_m": 0.009,
        "life_casts": 40,
    }
    return client.post(f"{API}/moulds", json=body).json


def begin(client, sheet, moulds, wanted=12, days=20, **more):
    body = {
        "name": "Twelve of these",
        "sheet_id": sheet["id"],
        "mould_ids": [one["id"] for one in moulds],
        "wanted": wanted,
        "due_on": f"{START.date() + timedelta(days=days)}",
        **more,
    }
    return client.post(f"{API}/runs", json=body)


def test_a_run_counts_its_casts_and_says_what_they_still_take(client, clock, sheet, mould):
    cast(client, clock, sheet)
    run = begin(client, sheet, [mould]).json["run"]
    assert (run["state"]["done"], run["state"]["left"]) == (0, 12)
    assert run["state"]["days_left"] == 21
    # What was cast before it began is none of it.
    for _ in range(4):
        cast(client, clock, sheet)
    told = client.get(f"{API}/runs/{run['id']}").json
    state = told["run"]["state"]
    assert (state["done"], state["left"]) == (4, 8)
    assert state["per_day"] == pytest.approx(8 / state["days_left"])
    total_kg = sheet["plan"]["total_charge_kg"]
    assert state["resin_kg"] == pytest.approx(8 * total_kg, rel=0.1)
    assert [one["to_make"] for one in state["moulds"]] == [8]
    assert state["moulds"][0]["casts"] == 5
    assert len(told["charts"]["casts"]) == 4
    assert told["charts"]["weight"]["middle"] > 0
    ended = client.put(f"{API}/runs/{run['id']}/ended", json={"ended": True}).json["run"]
    assert ended["ended_at"] is not None
    cast(client, clock, sheet)
    assert client.get(f"{API}/runs/{run['id']}").json["run"]["state"]["done"] == 4
    assert client.delete(f"{API}/runs/{run['id']}").status_code == 200
    assert client.get(f"{API}/runs").json["runs"] == []


def test_a_run_beyond_a_moulds_life_asks_for_another_one_in_time(client, sheet, mould):
    short = begin(client, sheet, [mould], wanted=10).json["run"]["state"]
    long = begin(client, sheet, [mould], wanted=60).json["run"]["state"]
    assert short["chance"] > 0.8 > long["chance"]
    assert short["next_mould_before"] is None
    assert 10 < long["next_mould_before"] <= 40
    assert f"{START.date()}" <= long["next_mould_from"] < f"{START.date() + timedelta(days=20)}"
    other = {**mould, "name": "A second one"}
    names = ("name", "piece_id", "rubber_id", "shell_id", "rubber_wall_m", "life_casts")
    second = client.post(f"{API}/moulds", json={name: other[name] for name in names}).json
    both = begin(client, sheet, [mould, second], wanted=60).json["run"]["state"]
    assert sorted(one["to_make"] for one in both["moulds"]) == [30, 30]
    assert both["chance"] > long["chance"]


def test_what_a_run_needs_is_not_deleted_under_it(client, sheet, mould):
    run = begin(client, sheet, [mould]).json["run"]
    for address in (f"{API}/moulds/{mould['id']}", f"{API}/sheets/{sheet['id']}"):
        assert_problem(client.delete(address), 409, "delete the run first")
    assert len(client.get(f"{API}/runs").json["runs"]) == 1
    client.delete(f"{API}/runs/{run['id']}")
    assert client.delete(f"{API}/moulds/{mould['id']}").status_code == 200


@pytest.mark.parametrize(
    ("wrong", "said", "field"),
    [
        ({"wanted": 0}, "1 to 10,000", "wanted"),
        ({"due_on": "2020-01-01"}, "is past", "due_on"),
        ({"mould_ids": []}, "1 to 20 moulds", "mould_ids"),
    ],
)
def test_a_run_that_cannot_be_is_refused(client, sheet, mould, wrong, said, field):
    assert_problem(begin(client, sheet, [mould], **wrong), 422, said, field)
    assert client.get(f"{API}/runs").json["runs"] == []


def test_a_run_whose_sheet_no_longer_flows_is_shown_with_the_reason(
    client, sheet, mould, resin, piece
):
    """Filler that packs: by volume it is more of a heavier resin of the same weight."""
    filled = client.post(
        f"{API}/sheets",
        json={
            "name": "Filled",
            "piece_id": piece["id"],
            "material_id": resin("pu-fast-rigid")["id"],
            "wish": {**WISH, "filler": 0.9, "filler_density_kg_m3": 1100.0},
        },
    ).json
    begin(client, sheet, [mould])
    begin(client, filled, [mould])
    material = resin("pu-fast-rigid")
    values = {key: one for key, one in material["sheet"].items() if key != "origin"}
    for key in ("density_a_kg_m3", "density_b_kg_m3", "density_cured_kg_m3"):
        values[key] = 2.4 * values[key]
    body = {"name": material["name"], "version": material["version"], "sheet": values}
    assert client.put(f"{API}/materials/{material['id']}", json=body).status_code == 200
    listed = client.get(f"{API}/runs").json["runs"]
    states = {one["sheet_name"]: one["state"] for one in listed}
    assert states[sheet["name"]]["resin_kg"] > 0.0
    assert states["Filled"]["resin_kg"] is None
    assert "it would not flow" in states["Filled"]["unplanned"]


def test_a_drift_of_weight_is_told_and_a_mould_that_tore_shortens_lives(
    client, clock, sheet, mould
):
    for at in range(9):
        cast(client, clock, sheet, lost=0.07 - 0.0014 * at)
    charts = client.get(f"{API}/moulds/{mould['id']}/casts").json["charts"]
    assert len(charts["casts"]) == 9
    assert charts["weight"]["drift"]["share"] == pytest.approx(8 * 0.0014 / 0.9344, rel=0.01)
    assert (charts["wall"], charts["places"]) == (None, [])
    for at, one in enumerate(charts["casts"]):
        read(
            client, {"id": one["pour_id"]}, by="hole", wall_m=0.0025 + 1e-4 * (at % 2), place="brow"
        )
    read(client, {"id": charts["casts"][0]["pour_id"]}, by="hole", wall_m=0.003, place="chin")
    (brow,) = client.get(f"{API}/moulds/{mould['id']}/casts").json["charts"]["places"]
    assert (brow["place"], len(brow["pours"])) == ("brow", 9)
    # Two in turn differ by 0.1 mm: the handbook's limits, 6.3.2.2.
    assert brow["chart"]["high"] - brow["chart"]["middle"] == pytest.approx(3 * 1e-4 / 1.128)
    address = f"{API}/moulds/{mould['id']}/life"
    before = client.get(address).json
    assert (before["casts"], before["expected"], before["ended"]) == (9, 40, 0)
    told = {"begins_at": f"{START.isoformat()}"}
    stretch = client.post(f"{API}/moulds/{mould['id']}/plan", json=told).json["stretch"]
    assert before["stretch_used"] == pytest.approx(stretch["needed"] / stretch["allowed"])
    assert before["surely"] < before["likely"]
    assert before["mean_life"]["low"] < before["mean_life"]["middle"]
    for kind in ("haze", "tear"):
        happened = client.post(f"{API}/moulds/{mould['id']}/events", json={"kind": kind})
        assert happened.status_code == 201
    client.put(f"{API}/moulds/{mould['id']}/retired", json={"retired": True})
    after = client.get(address).json
    assert (after["ended"], after["tears"], after["hazes"]) == (1, 1, 1)
    # Fewer casts are left to bear it.
    assert float(after["cost_per_cast"]) > float(before["cost_per_cast"]) > 0.0
    assert after["mean_life"]["middle"] < before["mean_life"]["middle"]


def test_pours_beside_each_other_tell_what_was_unusual_first(client, clock, sheet, mould):
    pours = [cast(client, clock, sheet, slow=1.0) for _ in range(6)]
    odd = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    for coat in odd["plan"]["coats"]:
        for step, after_s in (("weigh", 60), ("mix", 5), ("pour", 200), ("gel", 200)):
            clock.pass_seconds(after_s)
            done = {"coat": coat["number"], "step": step}
            if step == "weigh":
                done["parts"] = {"a": coat["parts_kg"]["A"], "b": 1.06 * coat["parts_kg"]["B"]}
            assert client.post(f"{API}/pours/{odd['id']}/steps", json=done).status_code == 200
    clock.pass_seconds(7200)
    client.post(f"{API}/pours/{odd['id']}/close", json={"status": "cast", "cast_kg": 0.2})
    read(client, odd, by="hole", wall_m=0.002, place="brow")
    asked = {"pours": [pours[-1]["id"], odd["id"]]}
    told = client.get(f"{API}/pours/beside", query_string=asked).json
    assert [one["id"] for one in told["pours"]] == asked["pours"]
    first = told["differences"][0]
    assert first["input"]["key"] in ("ratio", "to_pour")
    keys = {one["input"]["key"]: one for one in told["differences"]}
    assert keys["ratio"]["values"][1] == pytest.approx(1.06, abs=0.001)
    assert abs(keys["ratio"]["unusual"][0]) < 1.0 < abs(keys["ratio"]["unusual"][1])
    assert "coats" not in keys
    assert told["mean_walls_m"] == [None, 0.002]
    alone = client.get(f"{API}/pours/beside", query_string={"pours": [odd["id"]]})
    assert_problem(alone, 422, "two to 4 pours", "pours")


def test_the_album_of_a_mould_is_a_pdf_with_its_pictures(client, clock, sheet, mould):
    address = f"{API}/moulds/{mould['id']}/album.pdf"
    empty = client.get(address).data
    assert empty.startswith(b"%PDF")
    pour = cast(client, clock, sheet)
    written = io.BytesIO()
    Image.new("RGB", (900, 600), "teal").save(written, "JPEG")
    data = {"file": (io.BytesIO(written.getvalue()), "a.jpg"), "caption": "from the left"}
    sent = client.post(
        f"{API}/pours/{pour['id']}/pictures", data=data, content_type="multipart/form-data"
    )
    assert sent.status_code == 201
    assert len(client.get(address).data) > len(empty) + 2000
