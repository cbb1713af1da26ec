"""Devices through the API, and a pour weighed over the wire while things fail."""

import time
from datetime import datetime
from uuid import UUID, uuid4

import numpy as np
import pytest

from api.conftest import API, START, assert_problem
from browser.lookup import fetch, fetch_bytes, post, start_pour
from mildhusk.core.coating.motion import MachineRates, machine_rates, read_motion
from mildhusk.services.room import keep_room
from mildhusk.services.transaction import Transaction
from served import fresh_database, processes_below, served

SCALE = {"name": "Scale by the window", "kind": "scale", "address": "/dev/ttyUSB0"}


@pytest.fixture
def scale(client):
    return client.post(f"{API}/devices", json=SCALE).json


@pytest.fixture
def pour(client, sheet):
    return client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json


# --- devices are kept ---


def test_a_device_is_added_named_anew_and_removed(client, scale):
    assert client.get(f"{API}/devices").json["devices"] == [{**scale, "is_standin": False}]
    address = f"{API}/devices/{scale['id']}"
    changed = client.put(address, json={"name": "Old scale", "address": "socket://10.0.0.7:4001"})
    assert (changed.json["name"], changed.json["address"]) == (
        "Old scale",
        "socket://10.0.0.7:4001",
    )
    assert client.delete(address).status_code == 200
    assert client.get(f"{API}/devices").json["devices"] == []
    assert_problem(client.delete(address), 404, "no such device")


@pytest.mark.parametrize(
    ("change", "said", "field"),
    [
        ({"address": "/etc/passwd"}, "give a serial port such as", "address"),
        ({"address": "http://10.0.0.7"}, "give a serial port such as", "address"),
        ({"kind": "kettle"}, "kettle", "kind"),
        ({"name": " "}, "name", "name"),
    ],
)
def test_what_is_no_device_is_told_at_its_field(client, change, said, field):
    assert_problem(client.post(f"{API}/devices", json={**SCALE, **change}), 422, said, field)
    assert client.get(f"{API}/devices").json["devices"] == []


def test_a_real_device_takes_no_order_to_fail_and_a_scale_does_not_turn(client, scale):
    address = f"{API}/devices/{scale['id']}"
    assert_problem(client.post(f"{address}/fault", json={"reboot": True}), 409, "a real device")
    rates = {"over_rpm": 8, "round_rpm": 3}
    assert_problem(client.post(f"{address}/start", json=rates), 409, "is no machine")
    assert_problem(client.post(f"{address}/stop"), 409, "is no machine")


@pytest.mark.parametrize(
    ("rates", "said"),
    [
        ({"over_rpm": 61, "round_rpm": 3}, "up to 60 turns a minute"),
        ({"over_rpm": 0, "round_rpm": 0}, "about at least one axis"),
        ({"over_rpm": 8, "round_rpm": 3, "reverse_s": 0.2}, "after 1 s to 1 h"),
    ],
)
def test_a_machine_is_not_told_what_none_does(client, rates, said):
    machine = client.post(f"{API}/devices", json={**SCALE, "kind": "machine"}).json
    assert_problem(client.post(f"{API}/devices/{machine['id']}/start", json=rates), 422, said)


def test_a_pour_is_weighed_on_a_scale_only_when_there_is_something_to_weigh(client, pour, scale):
    address = f"{API}/pours/{pour['id']}"
    assert pour["scale_id"] is None
    assert_problem(client.post(f"{address}/scale/press", json={"press": "accept"}), 409, "no scale")
    begun = client.put(f"{address}/scale", json={"device_id": scale["id"]})
    assert begun.status_code == 202
    assert client.get(address).json["scale_id"] == scale["id"]
    assert client.post(f"{address}/scale/press", json={"press": "accept"}).status_code == 202
    client.delete(f"{address}/scale")
    assert client.get(address).json["scale_id"] is None
    step = {"coat": 1, "step": "weigh", "parts": {"a": 0.05, "b": 0.045}}
    client.post(f"{address}/steps", json=step)
    late = client.put(f"{address}/scale", json={"device_id": scale["id"]})
    assert_problem(late, 409, "Nothing is to be weighed")
    probe = client.post(f"{API}/devices", json={**SCALE, "kind": "room"}).json
    assert_problem(
        client.put(f"{address}/scale", json={"device_id": probe["id"]}), 409, "is no scale"
    )
    gone = client.put(f"{address}/scale", json={"device_id": str(uuid4())})
    assert_problem(gone, 404, "no such device")


def test_a_machine_turns_only_what_is_in_it_and_planned_for_it(client, pour):
    machine = client.post(f"{API}/devices", json={**SCALE, "kind": "machine"}).json
    turn = {"device_id": machine["id"]}
    address = f"{API}/pours/{pour['id']}"
    assert_problem(client.put(f"{address}/machine", json=turn), 409, "pour first")
    for step in ("weigh", "mix", "pour"):
        parts = {"parts": {"a": 0.05, "b": 0.045}} if step == "weigh" else {}
        client.post(f"{address}/steps", json={"coat": 1, "step": step, **parts})
    assert_problem(client.put(f"{address}/machine", json=turn), 409, "planned by hand")


def test_the_rates_of_a_machine_are_those_of_its_name():
    assert machine_rates("machine:8,-3.1,20") == MachineRates(8.0, -3.1, 20.0)
    assert machine_rates("machine:8,3.1") == MachineRates(8.0, 3.1, None)
    assert machine_rates("cradle") is None
    assert machine_rates("") is None


# --- over the wire ---


def _until(look, what, within_s=60.0):
    end = time.monotonic() + within_s
    while True:
        found = look()
        if found:
            return found
        assert time.monotonic() < end, f"never {what}"
        time.sleep(0.1)


def _put(address, path, body):
    return post(address, path, body, method="PUT")


def test_a_pour_is_weighed_and_logged_while_scale_and_what_tends_it_are_killed(cluster):
    """From the cup to the log with no hand at the screen; the clock starts where B met A."""
    with fresh_database(cluster) as url, served(url, "--demo") as server:
        at = server.address
        devices = _until(lambda: fetch(at, "/devices")["devices"], "devices")
        scale = next(one for one in devices if one["kind"] == "scale")
        pour = start_pour(at, "stage break")
        _put(at, f"/pours/{pour['id']}/scale", {"device_id": scale["id"]})
        time.sleep(6.0)
        (tending,) = processes_below(server.process.pid, "husk-devices")
        server.kill(tending)
        time.sleep(3.0)
        post(at, f"/devices/{scale['id']}/fault", {"reboot": True})

        def mixed():
            coat = fetch(at, f"/pours/{pour['id']}")["coats"][0]
            return coat if coat["mixed_at"] else None

        coat = _until(mixed, "weighed and mixed", 120.0)
        wanted = pour["plan"]["coats"][0]["parts_kg"]
        # Told nothing for a second, a hand pours on a little: A is over, and B has followed it.
        assert 0.99 * wanted["A"] <= coat["a_kg"] <= 1.5 * wanted["A"]
        # What is lost while B runs makes B too much, and nothing takes it out; too little is none.
        ratio = coat["b_kg"] / coat["a_kg"] / (wanted["B"] / wanted["A"])
        assert 0.98 <= ratio <= 1.5
        assert coat["weighed_at"] == coat["mixed_at"]
        assert fetch(at, f"/pours/{pour['id']}")["next_step"] == {"coat": 1, "step": "pour"}
        _assert_recorded(at, pour["id"])


def _assert_recorded(address, pour):
    """How the mould is turned from the pour to the gel is kept, and read as a motion file."""
    post(address, f"/pours/{pour}/steps", {"coat": 1, "step": "pour"})
    time.sleep(7.0)
    post(address, f"/pours/{pour}/steps", {"coat": 1, "step": "gel"})

    def kept():
        # It is kept every five seconds, and to its end when the coat has set.
        recorded_s = fetch(address, f"/pours/{pour}")["coats"][0]["recorded_s"] or 0.0
        if recorded_s < 6.0:
            return None
        turned = fetch_bytes(address, f"/pours/{pour}/coats/1/turning.json").decode()
        again_s = fetch(address, f"/pours/{pour}")["coats"][0]["recorded_s"]
        return (recorded_s, read_motion(turned, "turned")) if again_s == recorded_s else None

    recorded_s, motion = _until(kept, "recorded", 10.0)
    assert recorded_s < 9.0
    assert motion.period_s == pytest.approx(recorded_s, abs=0.3)
    # The stand-in's mould goes through a pattern of 42 s whose steps are seconds long.
    ups = motion.ups(np.array([0.0, 0.0, 1.0]), np.linspace(0.0, motion.period_s, 50))
    assert np.ptp(ups, axis=0).max() > 0.3


def test_a_coat_that_was_not_recorded_says_so(client, pour):
    assert pour["coats"][0]["recorded_s"] is None
    asked = client.get(f"{API}/pours/{pour['id']}/coats/1/turning.json")
    assert_problem(asked, 404, "was not recorded")


# --- the room ---


@pytest.fixture
def probe(client):
    return client.post(f"{API}/devices", json={**SCALE, "name": "Probe", "kind": "room"}).json


@pytest.fixture
def told(probe, engine, client, clock):
    """The probe tells how warm it is; through the service that hears it."""
    at = client.application.extensions["mildhusk"]

    def tell(celsius):
        with at.sessions.begin() as session:
            keep_room(Transaction(session, at.workshop_id, clock.now), UUID(probe["id"]), celsius)

    return tell


def _mixed(client, pour):
    address = f"{API}/pours/{pour['id']}/steps"
    parts = {"a": 0.05, "b": 0.045}
    client.post(address, json={"coat": 1, "step": "weigh", "parts": parts})
    return client.post(address, json={"coat": 1, "step": "mix"}).json


def test_a_warmer_room_moves_the_clocks_and_says_where_they_stood(client, sheet, told, clock):
    """The sheet was planned for 23 degrees."""
    told(29.0)
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    waiting = pour["coats"][0]["in_room"]
    assert waiting["now"]["pour_by_s"] < 0.95 * waiting["planned"]["pour_by_s"]
    coat = _mixed(client, pour)["coats"][0]
    planned = pour["plan"]["coats"][0]
    gels = datetime.fromisoformat(coat["times"]["roll_until"]) - clock.now
    assert gels.total_seconds() == pytest.approx(coat["in_room"]["now"]["roll_until_s"])
    assert coat["in_room"]["planned"]["roll_until_s"] == pytest.approx(planned["roll_until_s"])
    # It cools down while the coat is liquid, and the clock follows.
    told(17.0)
    cold = client.get(f"{API}/pours/{pour['id']}").json["coats"][0]
    assert cold["times"]["roll_until"] > coat["times"]["roll_until"]


def test_what_a_set_coat_was_told_stays(client, sheet, told, clock):
    told(27.0)
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    _mixed(client, pour)
    for step in ("pour", "gel"):
        client.post(f"{API}/pours/{pour['id']}/steps", json={"coat": 1, "step": step})
    before = client.get(f"{API}/pours/{pour['id']}").json["coats"][0]["times"]
    told(15.0)
    assert client.get(f"{API}/pours/{pour['id']}").json["coats"][0]["times"] == before


@pytest.mark.parametrize("celsius", [23.3, 400.0])
def test_a_room_as_planned_or_no_room_at_all_moves_nothing(client, sheet, told, celsius):
    told(celsius)
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    coat = _mixed(client, pour)["coats"][0]
    assert coat["in_room"] is None
    planned = pour["plan"]["coats"][0]["roll_until_s"]
    gels = datetime.fromisoformat(coat["times"]["roll_until"]) - START
    assert gels.total_seconds() == pytest.approx(planned)


def test_a_probe_that_is_silent_for_long_says_nothing_of_the_room(client, sheet, told, clock):
    told(29.0)
    clock.pass_seconds(600.0)
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    assert pour["coats"][0]["in_room"] is None
