"""Moulds over the API, what they make one buy, and what a cast out of one costs."""

import csv
import io
from decimal import Decimal

import pytest

from api.conftest import API, assert_problem, surveyed


@pytest.fixture
def supply(client):
    def find(key):
        listed = client.get(f"{API}/supplies?limit=500").json["supplies"]
        return next(one for one in listed if one["key"] == key)

    return find


@pytest.fixture
def body(piece, supply):
    return {
        "name": "Dome glove",
        "piece_id": piece["id"],
        "rubber_id": supply("rubber-addition-firm")["id"],
        "shell_id": supply("shell-urethane-paste")["id"],
        "rubber_wall_m": 0.01,
        "life_casts": 40,
    }


@pytest.fixture
def mould(client, body):
    return client.post(f"{API}/moulds", json=body).json


def test_a_mould_is_kept_with_what_it_takes_and_its_cautions(client, body, mould):
    assert mould["studied"]
    # Estimated from area and curvature, planned from distances: near each other, not the same.
    estimated = client.post(f"{API}/moulds/preview", json=body).json
    assert mould["takes"]["rubber_kg"] == pytest.approx(estimated["rubber_kg"], rel=0.12)
    assert mould["takes"]["weight_kg"] > 0.5
    assert {one["operation"] for one in mould["operations"]} == {"rubber", "shell"}
    assert [one["name"] for one in client.get(f"{API}/moulds").json["moulds"]] == ["Dome glove"]


def test_a_mould_is_edited_by_one_and_refused_to_the_second(client, body, mould):
    change = {**body, "rubber_wall_m": 0.013, "version": mould["version"]}
    edited = client.put(f"{API}/moulds/{mould['id']}", json=change)
    assert edited.json["takes"]["rubber_coats"] == 5
    again = client.put(f"{API}/moulds/{mould['id']}", json=change)
    assert_problem(again, 409, "changed")


@pytest.mark.parametrize(
    ("change", "said", "field"),
    [
        ({"rubber_wall_m": 0.5}, "The wall of rubber is 500 mm", "rubber_wall_m"),
        ({"life_casts": 0}, "The expected life is 0 casts", "life_casts"),
        ({"name": " "}, "", "name"),
    ],
)
def test_a_bad_mould_is_told_at_its_field(client, body, change, said, field):
    assert_problem(client.post(f"{API}/moulds", json={**body, **change}), 422, said, field)
    assert client.get(f"{API}/moulds").json["moulds"] == []


def test_a_shell_is_no_rubber(client, body):
    swapped = {**body, "rubber_id": body["shell_id"]}
    assert_problem(client.post(f"{API}/moulds", json=swapped), 422, "no mould rubber", "rubber_id")


def test_what_a_mould_is_built_of_stays_on_the_shelf(client, body, mould):
    for address in (f"materials/{body['rubber_id']}", f"pieces/{body['piece_id']}"):
        assert_problem(client.delete(f"{API}/{address}"), 409, "delete the mould first")
    assert client.delete(f"{API}/moulds/{mould['id']}").json["deleted"] is True
    assert client.delete(f"{API}/pieces/{body['piece_id']}").status_code == 200


def test_rubber_and_shell_are_bought_with_the_resin(client, sheet, mould):
    asked = {
        "casts": [{"sheet_id": sheet["id"], "casts": 2}],
        "moulds": [{"mould_id": mould["id"], "count": 2}],
    }
    told = client.post(f"{API}/buying", json=asked).json
    # What a shell is made of is in what is bought of it: told, and not to be bought twice.
    name_of = {one["key"]: one["name"] for one in told["purchases"]}
    parts = {one["part_of"] for one in told["besides"]}
    assert parts == {"", name_of["shell-urethane-paste"]}
    needs = {one["key"]: one["purchase"]["need_kg"] for one in told["purchases"]}
    assert needs == {
        "pu-fast-rigid": pytest.approx(2 * sheet["plan"]["total_charge_kg"]),
        "rubber-addition-firm": pytest.approx(2 * mould["takes"]["rubber_kg"]),
        "shell-urethane-paste": pytest.approx(2 * mould["takes"]["shell_kg"]),
    }
    assert Decimal(told["cost"]) == sum(
        Decimal(one["purchase"]["cost"]) for one in told["purchases"]
    )


def test_a_cast_costs_the_sum_of_its_lines_and_so_does_the_csv(client, sheet, mould):
    address = f"{API}/sheets/{sheet['id']}/cost"
    query = f"?casts=12&mould_id={mould['id']}"
    cost = client.get(f"{address}{query}").json
    assert (cost["casts"], cost["moulds"]) == (12, 1)
    for column in ("each", "run"):
        assert Decimal(cost[column]) == sum(Decimal(line[column]) for line in cost["lines"])
    rubber = next(line for line in cost["lines"] if line["id"] == "rubber")
    assert (rubber["shared_by"], rubber["rate"]["source"]) == (40, "kit on offer")
    sent = client.get(f"{address}.csv{query}").data.decode("utf-8-sig")
    *lines, total = csv.DictReader(io.StringIO(sent))
    assert len(lines) == len(cost["lines"])
    assert Decimal(total["one_cast"]) == sum(Decimal(line["one_cast"]) for line in lines)
    assert Decimal(total["run_of_12"]) == Decimal(cost["run"])


def priced(line):
    return f"{Decimal(line['rate']['amount']):.2f}", line["rate"]["source"]


def test_the_price_of_a_lot_stands_before_that_of_the_sheet(client, sheet):
    address = f"{API}/sheets/{sheet['id']}/cost"

    def resin():
        return next(one for one in client.get(address).json["lines"] if one["id"] == "resin-cast")

    assert priced(resin()) == ("22.11", "typical for the class")
    lot = {
        "material_id": sheet["material_id"],
        "label": "Dear tin",
        "bought_kg": 2.0,
        "expires_on": "2027-06-01",
        "price": "61.00",
    }
    assert client.post(f"{API}/lots", json=lot).json["price"] == "61.00"
    assert priced(resin()) == ("30.50", "what your lots cost")


def test_the_hour_is_assumed_until_the_workshop_says_its_own(client, sheet):
    address = f"{API}/sheets/{sheet['id']}/cost"

    def rolling():
        lines = client.get(address).json["lines"]
        return next(one for one in lines if one["id"] == "hours-rolling")

    assert priced(rolling()) == ("20.00", "assumed")
    set_rate = client.put(f"{API}/workshop/hour-rate", json={"hour_rate": "31.50"})
    assert (set_rate.json["hour_rate"], set_rate.json["hour_rate_is_own"]) == ("31.50", True)
    assert priced(rolling()) == ("31.50", "your workshop's rate")
    refused = client.put(f"{API}/workshop/hour-rate", json={"hour_rate": "-1"})
    assert_problem(refused, 422, "An hour of work costs 0 to 1,000", "hour_rate")


def test_a_mould_of_another_piece_is_refused(client, sheet, body, upload):
    from core.shapes import box, stl_bytes

    sent = upload(stl_bytes(box(80.0, 60.0, 50.0)))
    other = {"name": "Box", "mesh_sha256": sent.json["sha256"], "units": "mm"}
    piece_id = surveyed(client, client.post(f"{API}/pieces", json=other))["id"]
    made = client.post(f"{API}/moulds", json={**body, "piece_id": piece_id}).json
    refused = client.get(f"{API}/sheets/{sheet['id']}/cost?mould_id={made['id']}")
    assert_problem(refused, 422, "is of another piece", "mould_id")


def test_a_rubber_without_a_price_says_so(client, sheet, mould):
    client.put(f"{API}/materials/{mould['rubber_id']}/kits", json={"kits": []})
    refused = client.get(f"{API}/sheets/{sheet['id']}/cost?mould_id={mould['id']}")
    assert_problem(refused, 422, "Nobody knows what 'Firm addition-cure rubber' costs", "kits")
