"""The log: searched by what a maker remembers, and taken out whole."""

import csv
import io
import json

import pytest

from api.conftest import API


@pytest.fixture
def pours(client, clock, sheet):
    """Three: one cast with a fault, one spoilt with a note, one still open."""
    made = []
    for ending in (
        {"status": "cast", "cast_kg": 0.0812},
        {"status": "spoilt", "note": "=cmd"},
        None,
    ):
        clock.pass_seconds(60)
        pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
        made.append(pour["id"])
        if ending is None:
            break
        for step in ("weigh", "mix", "pour", "gel"):
            clock.pass_seconds(30)
            done = {"coat": 1, "step": step}
            if step == "weigh":
                done["parts"] = {"a": 0.0503, "b": 0.0452}
            client.post(f"{API}/pours/{pour['id']}/steps", json=done)
        closed = client.post(f"{API}/pours/{pour['id']}/close", json=ending)
        assert closed.status_code == 200, closed.text
    fault = {"kind": "tacky", "place": "inside the nose"}
    client.post(f"{API}/pours/{made[0]}/faults", json=fault)
    clock.pass_seconds(1)
    client.post(f"{API}/pours/{made[0]}/faults", json={"kind": "crack"})
    return made


@pytest.mark.parametrize(
    ("words", "found"),
    [("", 3), ("DOME", 3), ("rigid", 3), ("nose", 1), ("stays tacky", 1), ("cmd", 1), ("100%", 0)],
)
def test_a_pour_is_found_by_what_a_maker_remembers(client, pours, words, found):
    listed = client.get(f"{API}/pours", query_string={"search": words}).json
    assert (len(listed["pours"]), listed["total"]) == (found, found)


def test_a_list_tells_the_faults_in_the_order_they_were_found(client, pours):
    listed = {one["id"]: one for one in client.get(f"{API}/pours").json["pours"]}
    assert listed[pours[0]]["faults"] == ["Stays tacky", "Crack"]
    assert listed[pours[1]]["faults"] == []


def test_the_log_goes_out_as_csv_and_json_and_both_say_the_same(client, pours):
    table = client.get(f"{API}/log.csv")
    assert table.content_type.startswith("text/csv")
    rows = list(csv.DictReader(io.StringIO(table.data.decode("utf-8-sig"))))
    log = json.loads(client.get(f"{API}/log.json").data)
    assert [row["status"] for row in rows] == ["open", "spoilt", "cast"]
    assert [one["status"] for one in log] == ["open", "spoilt", "cast"]
    cast = log[2]
    assert cast["cast_g"] == pytest.approx(81.2)
    assert cast["poured_g"] == pytest.approx(95.5)
    assert cast["coats"][0]["a_g"] == pytest.approx(50.3)
    assert cast["faults"] == ["Stays tacky", "Crack"]
    assert rows[2]["cast_g"] == "81.20"
    assert rows[2]["faults"] == "Stays tacky; Crack"
    assert rows[2]["coats"] == str(len(cast["coats"]))
    # No spreadsheet runs what somebody wrote as a note.
    assert rows[1]["note"] == "'=cmd"
