"""A pour belongs to a mould, and what comes out is numbered."""

from api.conftest import API, assert_problem, surveyed
from core.shapes import half_sphere, stl_bytes


def _start(client, sheet, **more):
    return client.post(f"{API}/pours", json={"sheet_id": sheet["id"], **more})


def _poured(client, clock, pour, status="cast"):
    """One coat and no more, then closed."""
    for step in ("weigh", "mix", "pour", "gel"):
        clock.pass_seconds(30)
        parts = {"parts": {"a": 0.05, "b": 0.045}} if step == "weigh" else {}
        done = {"coat": 1, "step": step, **parts}
        assert client.post(f"{API}/pours/{pour['id']}/steps", json=done).status_code == 200
    clock.pass_seconds(3600)
    ending = {"status": status, **({"cast_kg": 0.08} if status == "cast" else {})}
    closed = client.post(f"{API}/pours/{pour['id']}/close", json=ending)
    assert closed.status_code == 200, closed.text
    return closed.json


def test_casts_of_a_mould_are_numbered_as_they_come_out(client, clock, sheet, mould):
    """Also when they were begun the other way round; what was spoilt takes no number."""
    first, second, spoilt = (_start(client, sheet).json for _ in range(3))
    assert first["mould"] == {"id": mould["id"], "name": "Dome glove"}
    assert first["cast"] is None
    assert _poured(client, clock, second)["cast"]["number"] == 1
    assert _poured(client, clock, spoilt, "spoilt")["cast"] is None
    assert _poured(client, clock, first)["cast"]["number"] == 2
    stands = client.get(f"{API}/moulds/{mould['id']}").json
    assert stands["casts_so_far"] == 3
    assert [one["note"] for one in stands["events"] if "spoilt" in one["note"]] == [
        "Dome in fast rigid, spoilt"
    ]
    listed = client.get(f"{API}/moulds/{mould['id']}/casts").json
    assert listed["total"] == 2
    assert [(one["number"], one["pour_id"]) for one in listed["casts"]] == [
        (2, first["id"]),
        (1, second["id"]),
    ]
    assert listed["casts"][0]["cast_kg"] == 0.08


def test_a_cast_asks_for_the_checks_of_its_mould_anew(client, clock, sheet, mould):
    check = mould["checks"][0]["id"]
    client.put(f"{API}/moulds/{mould['id']}/checks", json={"check": check, "done": True})
    _poured(client, clock, _start(client, sheet).json)
    stands = client.get(f"{API}/moulds/{mould['id']}").json
    assert all(one["done_at"] is None for one in stands["checks"])


def test_what_became_of_a_cast_is_kept_and_found_again(client, clock, sheet, mould):
    pour = _start(client, sheet).json
    body = {"state": "given-away", "for_whom": "the lantern choir", "place": "shelf 3"}
    assert_problem(client.put(f"{API}/pours/{pour['id']}/cast", json=body), 409, "say which mould")
    _poured(client, clock, pour)
    kept = client.put(f"{API}/pours/{pour['id']}/cast", json=body).json["cast"]
    assert kept == {"number": 1, **body}
    for words, found in (("choir", 1), ("SHELF", 1), ("given", 1), ("nobody", 0)):
        page = client.get(f"{API}/moulds/{mould['id']}/casts?search={words}").json
        assert page["total"] == found, words
    assert client.put(f"{API}/pours/{pour['id']}/cast", json={"state": "eaten"}).status_code == 422


def test_an_earlier_pour_is_told_its_mould_afterwards(client, clock, sheet, mould):
    client.put(f"{API}/moulds/{mould['id']}/retired", json={"retired": True})
    pour = _poured(client, clock, _start(client, sheet).json)
    # No mould is in use, so none was meant.
    assert (pour["mould"], pour["cast"]) == (None, None)
    said = client.put(f"{API}/pours/{pour['id']}/mould", json={"mould_id": mould["id"]}).json
    assert said["cast"]["number"] == 1
    again = client.put(f"{API}/pours/{pour['id']}/mould", json={"mould_id": mould["id"]})
    assert_problem(again, 409, "is cast 1 of 'Dome glove' already")


def test_a_mould_of_another_piece_and_one_with_casts_are_refused(
    client, clock, sheet, mould, upload
):
    read = upload(stl_bytes(half_sphere(0.08, 20).scaled(1e3)))
    body = {"name": "Smaller", "mesh_sha256": read.json["sha256"], "units": "mm"}
    piece = surveyed(client, client.post(f"{API}/pieces", json=body))
    asked = {name: sheet[name] for name in ("material_id", "wish")}
    other = client.post(
        f"{API}/sheets", json={**asked, "name": "Smaller one", "piece_id": piece["id"]}
    ).json
    refused = _start(client, other, mould_id=mould["id"])
    assert_problem(refused, 422, "is of another piece", "mould_id")
    assert _start(client, other).json["mould"] is None
    _poured(client, clock, _start(client, sheet, mould_id=mould["id"]).json)
    assert_problem(client.delete(f"{API}/moulds/{mould['id']}"), 409, "retire it instead")
