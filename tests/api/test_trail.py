"""The trail: every change is told, by whom, and what it was before; what only looks is not."""

import io
from typing import Any

import pytest

from api.conftest import API, assert_problem, form_with, surveyed
from api.test_access import MAKERS, OWNERS, accept, browser, invited
from core.shapes import half_sphere, stl_bytes


def trail(client: Any, search: str = "") -> list[dict[str, Any]]:
    answer = client.get(f"{API}/trail?search={search}")
    assert answer.status_code == 200, answer.text
    return list(answer.json["entries"])


def told(entry: dict[str, Any]) -> tuple[str, str, str]:
    return entry["action"], entry["what"], entry["name"]


def changes(entry: dict[str, Any]) -> dict[str, tuple[Any, Any]]:
    return {one["field"]: (one["before"], one["after"]) for one in entry["changes"]}


def test_a_wish_that_is_edited_tells_what_it_was(client, sheet, resin):
    slow = resin("pu-medium-rigid")
    wish = {**sheet["wish"], "wall_m": 0.0042}
    body = {"name": "Thicker", "piece_id": sheet["piece_id"], "material_id": slow["id"],
            "wish": wish, "version": sheet["version"]}  # fmt: skip
    edited = client.put(f"{API}/sheets/{sheet['id']}", json=body)
    assert edited.status_code == 200, edited.text
    newest = trail(client)[0]
    assert told(newest) == ("changed", "cast_sheet", "Thicker")
    assert newest["thing_id"] == sheet["id"]
    before = client.get(f"{API}/materials/{sheet['material_id']}").json
    assert changes(newest) == {
        "name": (sheet["name"], "Thicker"),
        "material_id": (before["name"], slow["name"]),
        "wish.wall_m": (sheet["wish"]["wall_m"], 0.0042),
    }


def test_the_same_again_is_no_change(client, sheet):
    body = {key: sheet[key] for key in ("name", "piece_id", "material_id", "wish", "version")}
    count = len(trail(client))
    assert client.put(f"{API}/sheets/{sheet['id']}", json=body).status_code == 200
    assert len(trail(client)) == count


def test_what_a_worker_makes_is_told_of_whoever_asked(client, resin):
    owner = browser(client)
    owner.post(f"{API}/accounts/first", json={"name": "Ilse", "password": OWNERS})
    dome = stl_bytes(half_sphere(0.1, 12).scaled(1e3))
    sent = owner.post(f"{API}/mesh-files", data={"file": (io.BytesIO(dome), "dome.stl")})
    asked = {"name": "Dome", "mesh_sha256": sent.json["sha256"], "units": "mm"}
    surveyed(owner, owner.post(f"{API}/pieces", json=asked))
    newest = trail(owner)[0]
    assert told(newest) == ("added", "piece", "Dome")
    assert newest["by"] == "Ilse"
    assert newest["changes"] == []


def test_each_is_told_under_their_own_name(client, sheet):
    owner = browser(client)
    owner.post(f"{API}/accounts/first", json={"name": "Ilse", "password": OWNERS})
    piet = accept(client, invited(owner, role="apprentice"), name="Piet", password=MAKERS)
    pour = piet.post(f"{API}/pours", json={"sheet_id": sheet["id"]})
    assert pour.status_code == 201, pour.text
    pour = pour.json
    step = {"coat": 1, "step": "weigh", "parts": {"a": 0.05, "b": 0.045}}
    assert piet.post(f"{API}/pours/{pour['id']}/steps", json=step).status_code == 200
    owner.put(f"{API}/pours/{pour['id']}/note", json={"note": "Too cold for it"})
    newest, coat, begun, *_ = trail(owner)
    assert (newest["by"], told(newest)) == ("Ilse", ("changed", "pour", sheet["name"]))
    assert changes(newest) == {"note": ("", "Too cold for it")}
    assert (coat["by"], coat["what"]) == ("Piet", "poured_coat")
    assert coat["name"] == f"{sheet['name']}, coat 1"
    assert set(changes(coat)) >= {"weighed_at"}
    assert changes(coat)["weighed_at"][0] is None
    assert changes(coat)["a_g"] == (None, 50.0)
    assert (begun["by"], begun["action"], begun["thing_id"]) == ("Piet", "added", pour["id"])
    assert {one["by"] for one in trail(owner, "Piet")} == {"Piet"}
    assert_problem(piet.get(f"{API}/trail"), 403, "may pour")


def test_a_deletion_and_its_undoing_are_told_once_each(client, sheet):
    gone = client.delete(f"{API}/sheets/{sheet['id']}").json
    first, *rest = trail(client)
    assert told(first) == ("deleted", "cast_sheet", sheet["name"])
    assert ("deleted", "cast_sheet", sheet["name"]) not in map(told, rest)
    assert client.post(f"{API}/deleted/{gone['undo']}/restore", json={}).status_code == 200
    assert told(trail(client)[0]) == ("restored", "cast_sheet", sheet["name"])


def test_a_price_tells_both(client):
    client.put(f"{API}/workshop/hour-rate", json={"hour_rate": "28.00"})
    client.put(f"{API}/workshop/hour-rate", json={"hour_rate": "31.50"})
    assert changes(trail(client)[0]) == {"hour_rate": (28.0, 31.5)}


def test_an_archive_that_is_imported_is_told(client, sheet):
    content = client.get(f"{API}/archive.zip").data
    client.delete(f"{API}/sheets/{sheet['id']}")
    assert client.post(f"{API}/archive", **form_with(content, "shop.zip")).status_code == 200
    assert told(trail(client)[0])[:2] == ("imported", "archive")


def test_nothing_secret_and_nothing_that_was_refused_is_told(client):
    owner = browser(client)
    owner.post(f"{API}/accounts/first", json={"name": "Ilse", "password": OWNERS})
    secret = invited(owner, role="maker", name="Piet")
    count = len(trail(owner))
    assert owner.put(f"{API}/workshop/hour-rate", json={"hour_rate": "-1"}).status_code == 422
    owner.post(f"{API}/quantities", json={})
    owner.put(f"{API}/access/password", json={"old": OWNERS, "password": MAKERS})
    kept = owner.get(f"{API}/trail?limit=500")
    assert kept.json["total"] == count
    for one in (secret, OWNERS, "argon2"):
        assert one not in kept.text


@pytest.mark.parametrize("query", ["limit=1&offset=1", "limit=2"])
def test_it_is_turned_by_pages_the_newest_first(client, clock, query):
    for rate in ("20.00", "21.00", "22.00"):
        clock.pass_seconds(60)
        client.put(f"{API}/workshop/hour-rate", json={"hour_rate": rate})
    page = client.get(f"{API}/trail?{query}").json
    after = [changes(one)["hour_rate"][1] for one in page["entries"]]
    assert after == {"limit=1&offset=1": [21.0], "limit=2": [22.0, 21.0]}[query]
    assert page["total"] == 3


def test_kits_that_are_replaced_tell_what_they_cost(client, resin):
    fast = resin("pu-fast-rigid")
    kits = client.get(f"{API}/materials/{fast['id']}/kits").json["kits"]
    dearer = {**kits[0], "price": "99.00"}
    body = {"kits": [dearer, *kits[1:]]}
    assert client.put(f"{API}/materials/{fast['id']}/kits", json=body).status_code == 200
    (entry,) = trail(client)
    assert told(entry) == ("changed", "kit_offer", f"{fast['name']}, {dearer['name']}")
    assert changes(entry) == {"price": (float(kits[0]["price"]), 99.0)}


def test_who_joins_is_told(client):
    owner = browser(client)
    owner.post(f"{API}/accounts/first", json={"name": "Ilse", "password": OWNERS})
    accept(client, invited(owner, role="maker", name="Piet"), name="Piet", password=MAKERS)
    joined = [one for one in trail(owner) if one["by"] == "Piet"]
    assert ("added", "account", "Piet") in map(told, joined)
