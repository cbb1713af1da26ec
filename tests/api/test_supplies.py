"""Own materials of every kind through their forms, kits on offer, lots as files."""

import csv
import io
import json

import pytest

from api.conftest import API, assert_problem
from mildhusk.core.materials.catalogue import KINDS

OTHER_KINDS = [kind for kind in KINDS if kind != "casting-resin"]


@pytest.fixture
def first_of(client):
    def find(kind):
        return client.get(f"{API}/supplies?kind={kind}").json["supplies"][0]

    return find


@pytest.mark.parametrize("kind", OTHER_KINDS)
def test_what_a_form_asks_makes_a_material_of_its_kind(client, first_of, kind):
    form = client.get(f"{API}/forms/{kind}").json["fields"]
    known = first_of(kind)
    assert {field["name"] for field in form} == set(known["sheet"])
    body = {"kind": kind, "name": f"Own {kind}", "sheet": known["sheet"]}
    made = client.post(f"{API}/supplies", json=body)
    assert made.status_code == 201, made.text
    assert made.json["origin"] == "own-sheet"
    assert made.json["facts"] == known["facts"]
    assert client.get(f"{API}/supplies/{made.json['id']}").json == made.json


@pytest.mark.parametrize("kind", KINDS)
def test_every_field_of_a_form_can_be_asked_for(client, kind):
    for field in client.get(f"{API}/forms/{kind}").json["fields"]:
        assert field["label"]
        assert ("-of" in field["kind"]) == bool(field["options"])


def test_an_edited_material_becomes_the_workshops_own(client, first_of):
    rubber = first_of("rubber")
    sheet = {**rubber["sheet"], "life_casts": 12}
    body = {"version": rubber["version"], "name": rubber["name"], "sheet": sheet}
    edited = client.put(f"{API}/supplies/{rubber['id']}", json=body).json
    assert (edited["origin"], edited["sheet"]["life_casts"]) == ("own-sheet", 12)
    assert edited["key"] == rubber["key"]
    assert_problem(client.put(f"{API}/supplies/{rubber['id']}", json=body), 409, "changed")


@pytest.mark.parametrize(
    ("change", "said", "field"),
    [
        ({"density_kg_m3": 0}, "The density is 0 kg/m³; give 800", "density_kg_m3"),
        ({"parts_b": 0}, "The part B of the ratio is 0 parts", "parts_b"),
        ({"cure": "magic"}, "The cure is 'magic'; that is not known", "cure"),
        ({"life_casts": "many"}, "The life casts is 'many'; give a number", "life_casts"),
        ({"colour": 3}, "'colour' is not known for the data sheet of a rubber", "colour"),
        ({"traits": ["plaid"]}, "'plaid'; that is not known", "traits"),
    ],
)
def test_a_bad_value_is_told_at_its_field(client, first_of, change, said, field):
    sheet = {**first_of("rubber")["sheet"], **change}
    body = {"kind": "rubber", "name": "Odd", "sheet": sheet}
    assert_problem(client.post(f"{API}/supplies", json=body), 422, said, field)


def test_an_unknown_kind_has_no_form(client):
    assert_problem(client.get(f"{API}/forms/pudding"), 422, "There is no kind 'pudding'", "kind")


def test_kits_on_offer_are_replaced_as_a_whole(client, resin):
    address = f"{API}/materials/{resin('polyester')['id']}/kits"
    assert len(client.get(address).json["kits"]) == 3
    kit = {"name": "drum", "mass_kg": 25.0, "price": "150.00", "shelf_life_days": 180}
    assert client.put(address, json={"kits": [kit]}).json == {"kits": [kit]}
    assert client.get(address).json == {"kits": [kit]}


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"price": "0"}, "has no price"),
        ({"mass_kg": 0}, "cannot be bought"),
        ({"shelf_life_days": 0}, "keeps no day"),
    ],
)
def test_a_bad_kit_leaves_the_old_ones(client, resin, change, said):
    address = f"{API}/materials/{resin('polyester')['id']}/kits"
    before = client.get(address).json
    kit = {"name": "drum", "mass_kg": 25.0, "price": "150.00", "shelf_life_days": 180}
    assert_problem(client.put(address, json={"kits": [{**kit, **change}]}), 422, said)
    assert client.get(address).json == before


LOTS = (
    "material,label,bought_kg,left_kg,opened_on,expires_on,price\n"
    "pu-fast-rigid,Blue tin,1.9,0.75,2026-05-01,2027-05-01,41.50\n"
    "rubber-addition-firm,'=SUM(A1),5,,,2027-01-31,\n"
)


@pytest.fixture
def take_over(client):
    def send(content, name="lots.csv"):
        file = (io.BytesIO(content.encode()), name)
        return client.post(f"{API}/lots/file", data={"file": file})

    return send


def test_lots_come_in_as_csv_and_go_out_the_same(client, take_over):
    assert take_over(LOTS).json == {"taken": 2}
    sent = client.get(f"{API}/lots.csv").data.decode("utf-8-sig")
    rows = {row["label"]: row for row in csv.DictReader(io.StringIO(sent))}
    tin = rows["Blue tin"]
    assert (float(tin["bought_kg"]), float(tin["left_kg"]), tin["price"]) == (1.9, 0.75, "41.50")
    assert (tin["opened_on"], tin["expires_on"]) == ("2026-05-01", "2027-05-01")
    # A cell that a spreadsheet would run goes out behind a quote mark, and came in without it.
    assert "'=SUM(A1)" in rows
    labels = {one["label"] for one in client.get(f"{API}/lots").json["lots"]}
    assert labels == {"Blue tin", "=SUM(A1)"}


def test_lots_go_out_as_json_and_come_back(client, take_over):
    take_over(LOTS)
    sent = client.get(f"{API}/lots.json").text
    for lot in client.get(f"{API}/lots").json["lots"]:
        client.delete(f"{API}/lots/{lot['id']}")
    assert take_over(sent, "lots.json").json == {"taken": 2}
    assert json.loads(client.get(f"{API}/lots.json").text) == json.loads(sent)


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ("pu-none,x,1,,,2027-01-01,", "Row 3: There is no material 'pu-none'"),
        ("polyester,x,much,,,2027-01-01,", "Row 3: The bought_kg is 'much'"),
        ("polyester,x,1,2,,2027-01-01,", "Row 3: 2 kg cannot be left of 1 kg"),
        ("polyester,x,1,,2027-02-01,2027-01-01,", "before it was opened"),
        ("polyester,x,1,,,soon,", "Row 3: The expires_on is 'soon'; write the day as"),
        ("polyester,x,1,,,2027-01-01,-4", "Row 3: A lot costs 0 to 1,000,000"),
        ("polyester,,1,,,2027-01-01,", "Row 3: The label has to be text"),
        ("polyester,x,1,,,2027-01-01,,,,9", "Row 3: It has more cells"),
        ("pu-fast-rigid,Blue tin,1,,,2027-01-01,", "Row 3: A lot 'Blue tin'"),
    ],
)
def test_one_bad_row_is_told_and_no_lot_is_taken_over(client, take_over, row, said):
    good = "\n".join(LOTS.splitlines()[:2])
    refused = take_over(f"{good}\n{row}\n")
    assert refused.status_code == 422
    assert said in refused.text
    assert client.get(f"{API}/lots").json["lots"] == []


def test_wrong_columns_are_told(take_over):
    refused = take_over("resin,amount\npolyester,3\n")
    assert_problem(refused, 422, "must be among them", "file")
