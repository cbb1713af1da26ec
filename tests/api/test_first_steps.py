"""A workshop without a piece is given an example to look at, and can be rid of it."""

from api.conftest import API, assert_problem


def test_an_example_is_a_sheet_that_can_be_planned_and_deleted(client):
    made = client.post(f"{API}/workshop/example")
    assert made.status_code == 201, made.text
    sheet = client.get(f"{API}/sheets/{made.json['sheet_id']}").json
    assert sheet["plan"]["fits"] is True
    assert sheet["plan"]["total_charge_kg"] > 0.2
    assert sheet["wish"]["motion"] is not None
    # Nothing else was touched: no lot, no mould, no pour, and the workshop keeps its name.
    assert client.get(f"{API}/lots").json["lots"] == []
    assert client.get(f"{API}/moulds").json["total"] == 0
    assert client.get(f"{API}/pours").json["total"] == 0
    assert client.get(f"{API}/workshop").json["name"] != "The Salt Lantern"
    assert client.delete(f"{API}/sheets/{sheet['id']}").status_code == 200
    assert client.delete(f"{API}/pieces/{sheet['piece_id']}").status_code == 200
    assert client.post(f"{API}/workshop/example").status_code == 201


def test_a_workshop_with_a_piece_needs_none(client, piece):
    assert_problem(client.post(f"{API}/workshop/example"), 409, "a piece already")
    assert client.get(f"{API}/pieces").json["total"] == 1
