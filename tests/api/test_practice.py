"""The practice tray over the API: frames of a coat, and nothing of it in stock or log."""

import json
import math
from uuid import uuid4

import numpy as np
import pytest
from sqlalchemy import text

from api.conftest import API, assert_problem
from mildhusk.core.coating.motion import read_motion
from mildhusk.services import practice


@pytest.fixture
def tray(client, piece, resin):
    """A try with the dome, begun."""
    body = {"piece_id": piece["id"], "material_id": resin("pu-fast-rigid")["id"]}
    begun = client.post(f"{API}/practice", json=body)
    assert begun.status_code == 201, begun.text
    return begun.json


def roll(client, tray, **held):
    return client.post(f"{API}/practice/{tray['id']}/roll", json=held)


def frame_of(answer):
    assert answer.status_code == 200, answer.text
    head, _, film = answer.data.partition(b"\n")
    told = json.loads(head)
    share = np.frombuffer(film, np.uint8) / 255.0
    assert len(share) == told["corners"]
    return told, told["most_m"] * share**2


def over(t_s, tilt=1.3, side=0.4):
    return {"t_s": t_s, "tilt": tilt, "side": side}


def test_a_try_is_rolled_frame_by_frame_and_judged(client, tray):
    told, film_m = frame_of(roll(client, tray, tilted=[over(0.1, 0.1), over(0.2, 0.2)]))
    assert told["t_s"] == pytest.approx(0.2)
    assert film_m.max() > 0.0005
    wet = [told["wet"]]
    for at in np.arange(0.5, 30.0, 0.5):
        told, film_m = frame_of(roll(client, tray, tilted=[over(float(at), 1.25, 0.8 * float(at))]))
        wet.append(told["wet"])
    assert wet == sorted(wet)
    assert wet[-1] > 0.9
    assert told["pa_s"] > 0.0
    assert told["gels_at_s"] == pytest.approx(tray["gels_at_s"])
    found = client.get(f"{API}/practice/{tray['id']}/practised").json
    assert found["wall"]["faces"] == tray["faces"]
    # Mean film over the corners is about what stayed of the charge.
    stayed = 1.0 - found["wall"]["spilt_kg"] / tray["charge_kg"]
    assert found["wall"]["cast_kg"] == pytest.approx(stayed * tray["charge_kg"], rel=1e-3)
    assert [one["said"] for one in found["judged"]]


def test_any_process_goes_on_with_a_try(client, tray):
    """What a process keeps of a try is only there to be quick."""
    frames = []
    for forgets in (False, True):
        begun = {"id": tray["id"]} if not forgets else again(client, tray)
        for at in (0.1, 0.2, 0.3):
            if forgets:
                practice._setups.cache_clear()
            told, film_m = frame_of(roll(client, begun, tilted=[over(at)]))
        frames.append((told, film_m))
    assert frames[0][0] == frames[1][0]
    assert np.array_equal(frames[0][1], frames[1][1])


def again(client, tray):
    """The same try from its beginning."""
    scratch = client.application.extensions["mildhusk"].scratch
    setup = practice.find_try(scratch, tray["id"]).setup
    key = uuid4()
    scratch.write(key, "setup", practice._packed(setup))
    return {"id": str(key)}


def test_a_tray_is_held_by_a_sensor_and_by_a_tablet_alike(client, tray):
    """A quarter over to its own aside: told as a tilt, by a sensor's z out, and as gamma."""
    quarter = math.pi / 2.0
    ways = (
        {"tilted": [over(0.2, quarter, 0.0)]},
        {"sensed": [{"t_s": 0.2, "x": -1.0, "y": 0.0, "z": 0.0}]},
        # W3C Device Orientation: 90 degrees about its long axis, the right edge down.
        {"oriented": [{"t_s": 0.2, "beta": 0.0, "gamma": 90.0}]},
    )
    ups = [frame_of(roll(client, again(client, tray), **held))[0]["up"] for held in ways]
    assert ups[0] == pytest.approx([-one for one in tray["aside"]], abs=1e-9)
    assert ups[1] == pytest.approx(ups[0], abs=1e-9)
    assert ups[2] == pytest.approx(ups[0], abs=1e-9)


def test_how_it_was_held_is_a_motion_that_reads_back(client, tray):
    for at in np.arange(0.2, 6.0, 0.2):
        roll(client, tray, tilted=[over(float(at), 0.2 * float(at), 0.5)])
    file = client.get(f"{API}/practice/{tray['id']}/motion.json")
    motion = read_motion(file.text, "practice")
    assert motion.period_s == pytest.approx(5.8, abs=0.2)
    # Over one way to one side is over the other way to the other.
    assert abs(motion.tilts[-1].tilt) == pytest.approx(0.2 * 5.8, abs=0.08)


def test_practice_touches_neither_stock_nor_log(client, engine, tray):
    tables = ("pour", "poured_coat", "lot", "lot_draw", "job", "coat_run", "cast_sheet", "piece")

    def rows():
        with client.application.extensions["mildhusk"].sessions.begin() as session:
            counted = {
                one: session.execute(
                    text(f"SELECT count(*), sum(hashtext({one}::text)) FROM {one}")
                )
                for one in tables
            }
            return {one: tuple(found.one()) for one, found in counted.items()}

    before = rows()
    roll(client, tray, tilted=[over(0.1)])
    client.get(f"{API}/practice/{tray['id']}/practised")
    client.get(f"{API}/practice/{tray['id']}/patterns")
    assert rows() == before


def test_the_patterns_stand_beside(client, tray):
    found = client.get(f"{API}/practice/{tray['id']}/patterns").json["patterns"]
    assert [one["name"] for one in found] == ["rim first roll", "eight corners", "cradle"]
    assert all(one["practised"] or one["said"] for one in found)


def test_what_cannot_be_practised_is_refused(client, piece, resin, tray):
    material = resin("pu-fast-rigid")["id"]
    body = {"piece_id": piece["id"], "material_id": material}
    clay = {**body, "material_id": resin("rubber-addition-soft")["id"]}
    assert client.post(f"{API}/practice", json=clay).status_code == 422
    assert_problem(
        client.post(f"{API}/practice", json={**body, "exercise": "juggling"}),
        422,
        "juggling",
        "exercise",
    )
    assert (
        client.post(f"{API}/practice", json={**body, "piece_id": str(uuid4())}).status_code == 404
    )
    assert client.get(f"{API}/practice/{uuid4()}/practised").status_code == 404
    assert_problem(roll(client, tray), 422, "in one way")
    sensed = [{"t_s": 0.1, "x": 0.0, "y": 0.0, "z": 1.0}]
    assert_problem(roll(client, tray, tilted=[over(0.1)], sensed=sensed), 422, "in one way")
    assert_problem(roll(client, tray, tilted=[over(900.0)]), 422, "60 s at once", "samples")
    assert_problem(roll(client, tray, tilted=[over(0.2), over(0.1)]), 422, "do not rise", "samples")
    assert roll(client, tray, tilted=[over(0.001 * n) for n in range(1, 700)]).status_code == 422
    # A try that was refused goes on as if nothing had been asked.
    assert frame_of(roll(client, tray, tilted=[over(0.1)]))[0]["t_s"] == pytest.approx(0.1)
