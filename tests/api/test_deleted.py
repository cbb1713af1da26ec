"""What is deleted comes back as it was, for thirty days."""

from uuid import uuid4

import pytest
from sqlalchemy import text

from api.conftest import API, assert_problem


def rows_of(client, table):
    """All rows of a table as the database writes them."""
    with client.application.extensions["mildhusk"].sessions.begin() as session:
        written = session.execute(text(f"SELECT to_jsonb(t) FROM {table} AS t ORDER BY id"))
        return written.scalars().all()


@pytest.fixture
def lot(client, resin):
    body = {
        "material_id": resin("pu-fast-rigid")["id"],
        "label": "Blue tin",
        "bought_kg": 1.2345,
        "opened_on": None,
        "expires_on": "2030-01-01",
        "price": "12.30",
    }
    return client.post(f"{API}/lots", json=body).json


@pytest.mark.parametrize(
    ("what", "path", "tables"),
    [
        ("sheet", "sheets", ["cast_sheet"]),
        ("mould", "moulds", ["mould", "mould_event", "mould_patch", "kept_pattern"]),
        ("piece", "pieces", ["piece", "kept_pattern"]),
        ("lot", "lots", ["lot"]),
    ],
)
def test_what_is_deleted_comes_back_to_the_last_bit(client, request, what, path, tables):
    thing = request.getfixturevalue(what)
    if what == "mould":
        event = {"kind": "tear", "note": "by the ear"}
        assert client.post(f"{API}/moulds/{thing['id']}/events", json=event).status_code == 201
    if "kept_pattern" in tables:
        kept = {"kind": "skirt", "height_m": 0.08}
        assert client.put(f"{API}/{path}/{thing['id']}/patterns", json=kept).status_code == 200
    before = {table: rows_of(client, table) for table in tables}
    assert all(before[table] for table in tables if table != "mould_patch")
    answer = client.delete(f"{API}/{path}/{thing['id']}").json
    assert answer["deleted"] is True
    gone = [one for one in rows_of(client, tables[0]) if one["id"] == thing["id"]]
    assert gone == []
    listed = client.get(f"{API}/deleted").json["deleted"]
    assert [one["id"] for one in listed] == [answer["undo"]]
    assert listed[0]["name"] in (thing.get("name"), thing.get("label"))
    back = client.post(f"{API}/deleted/{answer['undo']}/restore")
    assert back.status_code == 200, back.text
    assert {table: rows_of(client, table) for table in tables} == before
    # Once is enough.
    assert client.get(f"{API}/deleted").json["deleted"] == []
    again = client.post(f"{API}/deleted/{answer['undo']}/restore")
    assert_problem(again, 404, "no such deleted thing")


def test_what_comes_back_is_drawn_again(client, sheet):
    """Its drawing was thrown away meanwhile: no list shows one that is not there."""
    for _ in range(4):
        shown = client.get(f"{API}/sheets").json["sheets"][0]["picture"]
    assert shown
    undo = client.delete(f"{API}/sheets/{sheet['id']}").json["undo"]
    assert client.post(f"{API}/deleted/{undo}/restore").status_code == 200
    told = client.get(f"{API}/sheets").json
    assert told["sheets"][0]["picture"] in ("", shown)
    for _ in range(4):
        told = client.get(f"{API}/sheets").json
    key = told["sheets"][0]["picture"]
    assert client.get(f"{API}/drawings/{key}").status_code == 200


def test_a_resin_comes_back_with_its_kits_and_dabs(client, resin):
    own = {key: value for key, value in resin("pu-fast-rigid")["sheet"].items() if key != "origin"}
    made = client.post(f"{API}/materials", json={"name": "Own tin", "sheet": own}).json
    kits = [{"name": "small", "mass_kg": 1.0, "price": "20", "shelf_life_days": 180}]
    set_kits = client.put(f"{API}/materials/{made['id']}/kits", json={"kits": kits})
    assert set_kits.status_code == 200, set_kits.text
    dab = {"first_id": made["id"], "second_id": resin("rubber-addition-soft")["id"]}
    client.post(f"{API}/dabs", json=dab)
    tables = ("material", "kit_offer", "dab_test")
    before = [rows_of(client, table) for table in tables]
    undo = client.delete(f"{API}/materials/{made['id']}").json["undo"]
    assert [rows_of(client, table) for table in tables] != before
    assert client.post(f"{API}/deleted/{undo}/restore").status_code == 200
    assert [rows_of(client, table) for table in tables] == before


def test_what_stood_on_something_deleted_waits_for_it(client, mould, piece):
    first = client.delete(f"{API}/moulds/{mould['id']}").json["undo"]
    second = client.delete(f"{API}/pieces/{piece['id']}").json["undo"]
    refused = client.post(f"{API}/deleted/{first}/restore")
    assert_problem(refused, 409, "Bring that back first.")
    # Nothing of it was written, and it can still come back.
    assert client.get(f"{API}/moulds").json["total"] == 0
    assert client.post(f"{API}/deleted/{second}/restore").status_code == 200
    assert client.post(f"{API}/deleted/{first}/restore").status_code == 200
    assert client.get(f"{API}/moulds/{mould['id']}").json["name"] == mould["name"]


def test_after_thirty_days_it_is_gone(client, clock, sheet, lot):
    undo = client.delete(f"{API}/sheets/{sheet['id']}").json["undo"]
    clock.pass_seconds(29 * 86_400)
    assert [one["id"] for one in client.get(f"{API}/deleted").json["deleted"]] == [undo]
    clock.pass_seconds(2 * 86_400)
    assert client.get(f"{API}/deleted").json["deleted"] == []
    # The next deletion throws it away for good.
    client.delete(f"{API}/lots/{lot['id']}")
    assert_problem(client.post(f"{API}/deleted/{undo}/restore"), 404, "no such deleted thing")


def test_what_was_never_deleted_does_not_come_back(client):
    assert_problem(client.post(f"{API}/deleted/{uuid4()}/restore"), 404, "no such deleted thing")
