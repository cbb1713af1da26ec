"""The wall of a pour as it was really turned, beside that of its plan."""

from datetime import datetime, timedelta

import numpy as np
import pytest

from api.conftest import API, WISH, assert_problem, surveyed
from core.shapes import half_sphere, stl_bytes
from mildhusk.api.common import backstage
from mildhusk.core.coating.motion import motion_named
from mildhusk.services.transaction import Transaction
from mildhusk.services.turning import keep_readings

OUT = np.array([0.0, 0.0, 1.0])
WALLS = ("planned", "poured")


@pytest.fixture
def pour(client, piece, resin):
    body = {
        "name": "Turned by a machine",
        "piece_id": piece["id"],
        "material_id": resin("pu-fast-rigid")["id"],
        "wish": {**WISH, "wall_m": 0.001, "motion": "machine", "lid": True},
    }
    sheet = client.post(f"{API}/sheets", json=body).json
    return client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json


def _poured(client, clock, pour, more=1.0):
    """Every coat as it was planned, but for its grams."""
    for coat in pour["plan"]["coats"]:
        parts = {"a": more * coat["parts_kg"]["A"], "b": more * coat["parts_kg"]["B"]}
        for step, after_s in (("weigh", 60), ("mix", 5), ("pour", 45), ("gel", 300)):
            clock.pass_seconds(after_s)
            done = {"coat": coat["number"], "step": step}
            if step == "weigh":
                done["parts"] = parts
            assert client.post(f"{API}/pours/{pour['id']}/steps", json=done).status_code == 200


def _recorded(client, pour, motions):
    """A sensor on the mould, while it was turned so, from the pour until it gelled."""
    at_s = np.arange(0.0, 300.0, 0.05)
    with client.application.app_context():
        home = backstage()
    with home.sessions.begin() as session:
        at = Transaction(session, home.workshop_id, home.clock(), home.queue)
        for coat, motion in motions.items():
            ups = motion.ups(OUT, at_s)
            keep_readings(at, pour["id"], coat, np.column_stack([at_s, ups]))


def _walls(client, pour):
    asked = client.post(f"{API}/pours/{pour['id']}/wall", json={})
    assert asked.status_code == 200, asked.text
    if asked.json["poured"] is None:
        job = client.get(f"{API}/jobs/{asked.json['job']['id']}").json
        assert (job["status"], job["kind"]) == ("done", "poured"), job["said"]
        asked = client.post(f"{API}/pours/{pour['id']}/wall", json={})
    return asked.json


def _each(pour, name=None):
    return {coat["number"]: motion_named(name or coat["motion"]) for coat in pour["plan"]["coats"]}


def test_what_was_turned_as_planned_has_the_planned_wall(client, clock, pour):
    _poured(client, clock, pour)
    _recorded(client, pour, _each(pour))
    found = _walls(client, pour)
    assert found["recorded"] == [coat["number"] for coat in pour["plan"]["coats"]]
    # A fifth coat on a machine turns as the first did, which stands for it in a plan.
    for one, other in list(zip(*(found[w]["wall"]["coats"] for w in WALLS), strict=True))[:4]:
        assert other["charge_kg"] == pytest.approx(one["charge_kg"], rel=1e-9)
        assert other["mean_m"] == pytest.approx(one["mean_m"], rel=0.02)
        assert other["p05_m"] == pytest.approx(one["p05_m"], rel=0.02)
    assert found["poured"]["motion_words"] == "as it was recorded"
    page = client.get(f"{API}/walls/{found['poured']['id']}/wall.pdf")
    assert page.data.startswith(b"%PDF")


def test_what_lay_still_is_thin_above_and_what_was_poured_more_is_thicker(client, clock, pour):
    _poured(client, clock, pour, more=1.2)
    _recorded(client, pour, {1: motion_named("still")})
    found = _walls(client, pour)
    assert found["recorded"] == [1]
    # Common practice, no source: what is not turned lies at the bottom.
    turned, still = (found[which]["wall"]["coats"] for which in WALLS)
    assert still[0]["p05_m"] < 0.2 * turned[0]["p05_m"]
    for one, other in zip(turned, still, strict=True):
        assert other["charge_kg"] == pytest.approx(1.2 * one["charge_kg"], rel=0.001)
    assert still[1]["mean_m"] > 1.1 * turned[1]["mean_m"]


def test_what_was_not_recorded_says_so(client, clock, pour):
    _poured(client, clock, pour)
    asked = client.post(f"{API}/pours/{pour['id']}/wall", json={})
    assert (asked.status_code, asked.json["job"], asked.json["poured"]) == (200, None, None)
    assert "was not recorded" in asked.json["why"]


def test_a_pour_whose_plan_says_no_turning_is_told_from_what_was_recorded(client, clock, sheet):
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    _poured(client, clock, pour)
    _recorded(client, pour, _each(pour, "machine"))
    asked = client.post(f"{API}/pours/{pour['id']}/wall", json={})
    assert (asked.status_code, asked.json["job"], asked.json["poured"]) == (200, None, None)
    assert "does not say how the mould is turned for coat 1" in asked.json["why"]


def test_the_piece_of_a_pour_stays(client, pour, piece, upload):
    """Also when its sheet has become another piece's."""
    read = upload(stl_bytes(half_sphere(0.08, 20).scaled(1e3)))
    body = {"name": "Smaller", "mesh_sha256": read.json["sha256"], "units": "mm"}
    other = surveyed(client, client.post(f"{API}/pieces", json=body))
    sheet = client.get(f"{API}/sheets/{pour['sheet_id']}").json
    names = ("name", "material_id", "wish", "version")
    changed = {**{name: sheet[name] for name in names}, "piece_id": other["id"]}
    assert client.put(f"{API}/sheets/{sheet['id']}", json=changed).status_code == 200
    assert_problem(client.delete(f"{API}/pieces/{piece['id']}"), 409, "is in the log; it stays")


def _told(clock, pour, client, orientations):
    """A tablet sends how it was held, every tenth of a second from the pour on."""
    poured = client.get(f"{API}/pours/{pour['id']}").json["coats"][0]["poured_at"]
    begun = datetime.fromisoformat(poured)
    readings = [
        {"at": (begun + timedelta(seconds=0.1 * n + 0.1)).isoformat(), "beta": b, "gamma": g}
        for n, (b, g) in enumerate(orientations)
    ]
    return client.post(f"{API}/pours/{pour['id']}/coats/1/turning", json={"readings": readings})


def _in_the_mould(client, clock, pour):
    coat = pour["plan"]["coats"][0]["parts_kg"]
    for step in ("weigh", "mix", "pour"):
        clock.pass_seconds(20)
        done = {
            "coat": 1,
            "step": step,
            **({"parts": {"a": coat["A"], "b": coat["B"]}} if step == "weigh" else {}),
        }
        assert client.post(f"{API}/pours/{pour['id']}/steps", json=done).status_code == 200


def test_a_tablet_strapped_to_the_mould_records_how_it_is_turned(client, clock, pour):
    _in_the_mould(client, clock, pour)
    clock.pass_seconds(30)
    # Tipped away from upright about its axis to the right, as far as on its side.
    tipped = [(min(0.9 * n, 90.0), 0.0) for n in range(120)]
    sent = _told(clock, pour, client, tipped)
    assert sent.json == {"recorded_s": pytest.approx(12.0)}
    # Sent again after an answer was lost, it counts once; a sensor that is only there is left out.
    assert _told(clock, pour, client, tipped).json == sent.json
    _recorded(client, pour, {1: motion_named("still")})
    turned = client.get(f"{API}/pours/{pour['id']}/coats/1/turning.json").json
    assert turned[-1]["t_s"] == pytest.approx(12.0, abs=0.15)
    assert abs(turned[len(turned) // 2]["tilt_deg"]) == pytest.approx(54.0, abs=2.0)
    assert abs(turned[-1]["tilt_deg"]) == pytest.approx(90.0, abs=0.5)


def test_a_tablet_is_told_when_there_is_nothing_to_record(client, clock, pour):
    body = {"readings": [{"at": clock.now.isoformat(), "beta": 0, "gamma": 0}]}
    address = f"{API}/pours/{pour['id']}/coats/1/turning"
    assert_problem(client.post(address, json=body), 409, "not in the mould")
    _in_the_mould(client, clock, pour)
    ahead = (clock.now + timedelta(hours=1)).isoformat()
    body = {"readings": [{"at": ahead, "beta": 0, "gamma": 0}]}
    assert_problem(client.post(address, json=body), 422, "in the future")
    body = {"readings": [{"at": clock.now.isoformat(), "beta": 0, "gamma": 91}]}
    assert client.post(address, json=body).status_code == 422
