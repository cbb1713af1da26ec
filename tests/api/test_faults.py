"""Faults of a pour: their causes from what it tells, the verdict counted, the sheet mended."""

import pytest

from api.conftest import API, assert_problem


@pytest.fixture
def pour(client, clock, sheet):
    """Poured on time, the second coat half an hour after its window, then weighed."""
    made = client.post(f"{API}/pours", json={"sheet_id": sheet["id"]}).json
    for coat in made["plan"]["coats"]:
        late_s = coat["next_until_s"] + 1800 if coat["number"] == 2 else 0
        clock.pass_seconds(coat["next_from_s"] - coat["roll_until_s"] + late_s)
        for step, after_s in (("weigh", 5), ("mix", 5), ("pour", 45), ("gel", 320)):
            clock.pass_seconds(after_s)
            done = {"coat": coat["number"], "step": step}
            if step == "weigh":
                done["parts"] = {"a": coat["parts_kg"]["A"], "b": coat["parts_kg"]["B"]}
            ticked = client.post(f"{API}/pours/{made['id']}/steps", json=done)
            assert ticked.status_code == 200, ticked.text
    return made


@pytest.fixture
def closed(client, clock, pour):
    clock.pass_seconds(7200)
    body = {"status": "cast", "cast_kg": 0.2}
    assert client.post(f"{API}/pours/{pour['id']}/close", json=body).status_code == 200
    return pour


def _add(client, pour, kind, **more):
    made = client.post(f"{API}/pours/{pour['id']}/faults", json={"kind": kind, **more})
    assert made.status_code == 201, made.text
    return made.json["faults"][-1]


def test_a_crack_after_a_late_coat_is_put_down_to_the_bond(client, closed):
    fault = _add(client, closed, "crack", place="left cheek")
    first = fault["causes"][0]
    assert first["id"] == "between-coats"
    assert first["evidence"] == ["a coat went on after its window had closed"]
    assert first["mend"] == "two pairs of hands"
    assert sum(one["share"] for one in fault["causes"]) == pytest.approx(1.0)
    assert fault["place"] == "left cheek"


def test_what_only_the_maker_knows_moves_the_causes(client, closed):
    fault = _add(client, closed, "crack")
    told = {"place": "", "told": {"dropped": True}, "verdict": ""}
    changed = client.put(f"{API}/faults/{fault['id']}", json=told).json["faults"][0]
    before, after = (
        next(one["share"] for one in each["causes"] if one["id"] == "handled")
        for each in (fault, changed)
    )
    assert after > 2.0 * before


def test_verdicts_are_counted_but_not_for_their_own_fault(client, clock, closed):
    first = _add(client, closed, "crack")
    clock.pass_seconds(1)
    second = _add(client, closed, "crack")
    body = {"verdict": "handled"}
    both = client.put(f"{API}/faults/{first['id']}", json=body).json["faults"]
    own, other = (
        next(one["share"] for one in each["causes"] if one["id"] == "handled") for each in both
    )
    was = next(one["share"] for one in second["causes"] if one["id"] == "handled")
    assert own == pytest.approx(was)
    assert other > was
    assert both[0]["verdict"] == "handled"


def test_one_press_changes_the_sheet_as_the_cause_asks(client, closed, sheet):
    fault = _add(client, closed, "thin")
    cause = next(one for one in fault["causes"] if one["id"] == "plan-too-thin")
    coats = len(sheet["plan"]["coats"])
    assert cause["mend"] == f"{coats + 1} coats"
    mended = client.post(f"{API}/faults/{fault['id']}/mend", json={"cause": cause["id"]})
    assert mended.status_code == 200, mended.text
    assert mended.json["wish"]["coats"] == coats + 1
    assert len(mended.json["plan"]["coats"]) == coats + 1
    assert mended.json["version"] == sheet["version"] + 1
    # The pour keeps the plan it followed.
    assert len(client.get(f"{API}/pours/{closed['id']}").json["plan"]["coats"]) == coats
    air = client.post(f"{API}/faults/{fault['id']}/mend", json={"cause": "air-trapped"})
    assert_problem(air, 409, "Nothing of the sheet mends that")


def test_what_cannot_be_is_refused(client, pour, closed):
    address = f"{API}/pours/{pour['id']}/faults"
    assert_problem(client.post(address, json={"kind": "ghost"}), 422, "no fault 'ghost'", "kind")
    told = {"kind": "thin", "told": {"late-coat": True}}
    assert_problem(client.post(address, json=told), 422, "to tell of", "told")
    fault = _add(client, closed, "pool")
    wrong = client.put(f"{API}/faults/{fault['id']}", json={"verdict": "damp"})
    assert_problem(wrong, 422, "is no cause of that fault", "verdict")
    assert client.delete(f"{API}/faults/{fault['id']}").status_code == 200
    assert client.get(address).json["faults"] == []
    for _ in range(40):
        _add(client, closed, "pool")
    assert_problem(client.post(address, json={"kind": "pool"}), 409, "noted of this pour already")


def test_an_open_pour_has_no_faults_yet(client, pour):
    refused = client.post(f"{API}/pours/{pour['id']}/faults", json={"kind": "thin"})
    assert_problem(refused, 409, "not closed yet")


def test_only_what_matters_for_a_fault_is_asked(client):
    kinds = {one["id"]: one for one in client.get(f"{API}/fault-kinds").json["kinds"]}
    assert len(kinds) == 10
    asked = {one["id"] for one in kinds["paint-lifts"]["asks"]}
    assert asked == {"release-left", "not-keyed", "painted-soon"}
