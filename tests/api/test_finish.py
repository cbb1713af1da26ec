"""The finish of a cast: steps with their clocks, what paint waits for, weight and room inside."""

from datetime import datetime, timedelta
from math import pi

import pytest

from api.conftest import API, assert_problem
from mildhusk.core.materials.catalogue import shipped_resin

PAINTED = {"paint": "solvent-based", "cut_outs": 2, "worn": True}
RELEASE = "release-paintable-spray"


def at(text):
    return datetime.fromisoformat(text)


@pytest.fixture
def cast(client, clock, sheet):
    """A cast whose last coat was mixed an hour ago."""
    pour = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    for coat in range(1, len(pour["coats"]) + 1):
        for name in ("weigh", "mix", "pour", "gel"):
            clock.pass_seconds(60)
            parts = {"parts": {"a": 0.05, "b": 0.045}} if name == "weigh" else {}
            body = {"coat": coat, "step": name, **parts}
            assert client.post(f"{API}/pours/{pour['id']}/steps", json=body).status_code == 200
    clock.pass_seconds(3600 - 120)
    planned = pour["plan"]["cast_kg"]
    body = {"status": "cast", "cast_kg": planned}
    return client.post(f"{API}/pours/{pour['id']}/close", json=body).json


@pytest.fixture
def finish(client, cast):
    def ask(**told):
        body = {"finish": PAINTED, "release": RELEASE, "zone": "UTC", **told}
        made = client.put(f"{API}/pours/{cast['id']}/finish", json=body)
        assert made.status_code == 200, made.text
        return made.json

    return ask


def steps(told):
    return {one["step"]["id"]: one for one in told["steps"]}


def done(client, clock, told, *names):
    """Tick steps off, each when it may be done."""
    for name in names:
        state = steps(told)[name]
        task = state["task"]
        clock.now = max(clock.now, at(state["ends"]))
        body = {"task": task, "what": "done", "zone": "UTC"}
        answer = client.post(f"{API}/days/ticks", json=body)
        assert answer.status_code == 200, answer.text
        told = client.get(f"{API}/pours/{told['pour_id']}/finish").json
    return told


def test_no_finish_is_asked_for_at_first_and_none_of_what_is_still_poured(client, cast, sheet):
    answer = client.get(f"{API}/pours/{cast['id']}/finish")
    told = answer.json
    assert (told["job_id"], told["steps"], told["wish"], told["blocks"]) == (None, [], None, [])
    open_one = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    assert_problem(client.get(f"{API}/pours/{open_one['id']}/finish"), 409, "No cast came")


def test_its_steps_are_in_the_days_and_paint_waits_for_the_cure(client, clock, cast, finish):
    """A solvent primer waits for the full cure of the data sheet (common practice, no source)."""
    told = finish()
    # No browser reads an infinite number: what has no window says so.
    assert "Infinity" not in client.get(f"{API}/pours/{cast['id']}/finish").text
    found = steps(told)
    assert (found["wash"]["step"]["until_s"], found["wash"]["closes"]) == (None, None)
    assert [key for key in found if key in ("wash", "cut-outs", "sand", "primer", "try-on")] == [
        "wash", "cut-outs", "sand", "primer", "try-on"
    ]  # fmt: skip
    cured, mixed = at(told["cured_at"]), at(cast["coats"][-1]["mixed_at"])
    # The data sheet's day is of its own room; ours is a little colder.
    by_the_sheet = timedelta(seconds=shipped_resin("pu-fast-rigid").full_cure_s)
    assert by_the_sheet <= cured - mixed <= 1.2 * by_the_sheet
    assert at(found["primer"]["starts"]) >= cured
    kinds = {one["id"]: one for one in told["blocks"]}
    assert set(kinds) == {"not-washed", "no-tooth", "not-cured"}
    left = (cured - clock.now).total_seconds()
    assert kinds["not-cured"]["wait_s"] == pytest.approx(left)
    assert "solvent-based primer" in kinds["not-cured"]["text"]
    assert found["wash"]["may_begin"]
    assert not found["primer"]["may_begin"]
    assert any("respirator" in one for one in found["paint"]["step"]["cautions"])
    (job,) = client.get(f"{API}/days").json["jobs"]
    assert job["title"] == "Dome: finish"


def test_each_step_that_is_done_opens_the_next_and_takes_its_block_away(client, clock, finish):
    told = done(client, clock, finish(), "wash")
    found = steps(told)
    assert found["wash"]["done"]
    assert {one["id"] for one in told["blocks"]} >= {"no-tooth"}
    assert "not-washed" not in {one["id"] for one in told["blocks"]}
    # The release was washed off with water: an hour until it is dry.
    assert not found["cut-outs"]["may_begin"]
    clock.now = at(found["cut-outs"]["starts"])
    told = client.get(f"{API}/pours/{told['pour_id']}/finish").json
    assert steps(told)["cut-outs"]["may_begin"]
    told = done(client, clock, told, "cut-outs", "edges", "sand", "dust", "primer")
    assert told["blocks"] == []
    assert [key for key, one in steps(told).items() if one["done"]][-1] == "primer"


def test_the_second_coat_has_a_window(client, clock, finish):
    told = finish()
    first, second = steps(told)["paint"], steps(told)["paint-2"]
    assert at(second["closes"]) - at(first["ends"]) == timedelta(hours=1)


def test_steps_are_left_out_and_added_and_the_days_follow(client, clock, finish):
    own = {"title": "Line the inside with felt", "hands_s": 1800, "after": "edges", "wait_s": 600}
    wish = {**PAINTED, "dropped": ["fill", "sand-fill"], "own": [own]}
    told = finish(finish=wish)
    found = steps(told)
    assert "fill" not in found
    order = list(found)
    assert order[order.index("edges") + 1] == "own-1"
    assert found["own-1"]["step"]["hands_s"] == 1800
    # Less is wanted: what is left of it is what the days have.
    told = finish(finish={"paint": "none"})
    assert list(steps(told)) == ["wash", "edges"]
    titles = [one["title"] for one in client.get(f"{API}/days/board").json["tasks"]]
    assert len(titles) == 2
    wrong = {"finish": {**PAINTED, "own": [{**own, "after": "nothing"}]}, "zone": "UTC"}
    bad = client.put(f"{API}/pours/{told['pour_id']}/finish", json=wrong)
    assert_problem(bad, 422, "no step of this finish")
    assert list(steps(client.get(f"{API}/pours/{told['pour_id']}/finish").json)) == [
        "wash", "edges"
    ]  # fmt: skip


def test_a_finish_that_is_done_stays_to_be_read(client, clock, finish):
    told = finish(finish={"paint": "none"})
    told = done(client, clock, told, "wash", "edges")
    assert client.get(f"{API}/days").json["jobs"] == []
    assert all(one["done"] for one in told["steps"])


def test_a_release_that_is_on_no_shelf_is_refused(client, cast):
    body = {"finish": PAINTED, "release": "moon-dust", "zone": "UTC"}
    bad = client.put(f"{API}/pours/{cast['id']}/finish", json=body)
    assert_problem(bad, 422, "no release 'moon-dust'")


def test_room_for_a_head_is_told_by_the_weight_and_by_the_plan(client, cast, finish):
    """A wall t thicker takes t of the room all round; the weight says how thick (Steiner)."""
    told = finish()
    planned = told["planned_wall_m"]
    # It weighs what was planned, so the wall is the planned one.
    assert told["wall_m"] == pytest.approx(planned, rel=1e-3)
    room = told["rooms"][0]
    assert room["weighed"]["clearance_m"] == pytest.approx(
        room["planned"]["clearance_m"], abs=planned * 1e-3
    )
    body = {"offcuts_kg": told["cast_kg"] / 2}
    client.put(f"{API}/pours/{cast['id']}/offcuts", json=body)
    heavier = client.get(f"{API}/pours/{cast['id']}/finish").json
    assert heavier["wall_m"] == pytest.approx(1.5 * planned, rel=1e-3)
    lost = room["planned"]["clearance_m"] - heavier["rooms"][0]["weighed"]["clearance_m"]
    assert lost == pytest.approx(0.5 * planned, rel=2e-3)
    girth = room["planned"]["opening_spare_m"] - heavier["rooms"][0]["weighed"]["opening_spare_m"]
    assert girth == pytest.approx(2.0 * pi * 0.5 * planned, rel=2e-3)


def test_the_weight_after_trimming_is_kept_and_is_no_more_than_before(client, cast, finish):
    finish()
    whole = cast["comparison"]["cast_kg"]
    address = f"{API}/pours/{cast['id']}/trimmed"
    kept = client.put(address, json={"trimmed_kg": round(whole * 0.9, 4)}).json
    assert kept["trimmed_kg"] == pytest.approx(whole * 0.9, abs=1e-4)
    assert_problem(client.put(address, json={"trimmed_kg": whole * 1.1}), 422, "no more than that")
    assert client.put(address, json={"trimmed_kg": None}).json["trimmed_kg"] is None
