"""The shelf through the API: read, added to, edited, and refused field by field."""

import pytest

from api.conftest import API, assert_problem


def own(resin, **change):
    sheet = dict(resin("pu-fast-rigid")["sheet"])
    del sheet["origin"]
    return {**sheet, **change}


def test_the_shelf_starts_with_the_shipped_classes(client):
    shelf = client.get(f"{API}/materials").json["materials"]
    assert len(shelf) >= 8
    assert {one["sheet"]["origin"] for one in shelf} == {"typical"}


def test_an_own_resin_is_kept_and_called_so(client, resin):
    made = client.post(f"{API}/materials", json={"name": "Tin 7, left", "sheet": own(resin)})
    assert made.status_code == 201
    assert made.json["key"] == "tin-7-left"
    assert made.json["sheet"]["origin"] == "own-sheet"
    assert client.get(f"{API}/materials/{made.json['id']}").json == made.json


def test_two_of_one_name_are_refused(client, resin):
    body = {"name": "Fast tin", "sheet": own(resin)}
    assert client.post(f"{API}/materials", json=body).status_code == 201
    assert_problem(client.post(f"{API}/materials", json=body), 409, "another name")


def test_an_edited_typical_sheet_becomes_the_workshops_own(client, resin):
    known = resin("polyester")
    sheet = {**own(lambda _: known), "gel_s": 1000.0}
    body = {"name": known["name"], "sheet": sheet, "version": known["version"]}
    edited = client.put(f"{API}/materials/{known['id']}", json=body)
    assert edited.json["sheet"]["origin"] == "own-sheet"
    assert edited.json["key"] == "polyester"
    again = client.put(f"{API}/materials/{known['id']}", json=body)
    assert_problem(again, 409, "changed in another window")


def test_a_new_sheet_value_changes_the_plan(client, resin, sheet):
    known = resin("pu-fast-rigid")
    body = {
        "name": known["name"],
        "sheet": own(resin, coat_wall_m=0.0005),
        "version": known["version"],
    }
    client.put(f"{API}/materials/{known['id']}", json=body)
    now = client.get(f"{API}/sheets/{sheet['id']}").json
    assert len(now["plan"]["coats"]) == 2 * len(sheet["plan"]["coats"])


def test_a_resin_in_use_stays_and_one_that_is_not_goes(client, resin, sheet):
    used, free = resin("pu-fast-rigid"), resin("polyester")
    assert_problem(client.delete(f"{API}/materials/{used['id']}"), 409, sheet["name"])
    assert client.delete(f"{API}/materials/{free['id']}").json["deleted"] is True


@pytest.mark.parametrize(
    ("change", "field", "said"),
    [
        ({"density_a_kg_m3": 0}, "density_a_kg_m3", "density of part A is 0 kg/m³; give 200"),
        ({"density_b_kg_m3": None}, "sheet.density_b_kg_m3", "not a number"),
        ({"parts_b": -1}, "parts_b", "part B of the ratio"),
        ({"gel_s": 20}, "gel_s", "cannot be before the working time"),
        ({"gel_s": "soon"}, "sheet.gel_s", "'soon', which is not a number"),
        ({"kit_price": "free"}, "sheet.kit_price", "not a number"),
        ({"kit_price": "-3"}, "kit_price", "above 0"),
        ({"ratio_basis": "handfuls"}, "sheet.ratio_basis", "'weight' or 'volume'"),
        ({"taste": "bitter"}, "sheet.taste", "not known here"),
    ],
)
def test_a_bad_data_sheet_names_the_field_and_is_not_kept(client, resin, change, field, said):
    before = client.get(f"{API}/materials").json
    body = {"name": "Doubtful", "sheet": own(resin, **change)}
    assert_problem(client.post(f"{API}/materials", json=body), 422, said, field)
    assert client.get(f"{API}/materials").json == before


def test_a_resin_without_density_is_refused(client, resin):
    sheet = own(resin)
    del sheet["density_cured_kg_m3"]
    refused = client.post(f"{API}/materials", json={"name": "Weightless", "sheet": sheet})
    assert_problem(refused, 422, "density of the cured resin is missing")


def test_a_resin_with_lots_on_the_shelf_stays(client, resin):
    free = resin("polyester")
    lot = {"material_id": free["id"], "label": "Tin", "bought_kg": 1, "expires_on": "2027-01-01"}
    assert client.post(f"{API}/lots", json=lot).status_code == 201
    assert_problem(client.delete(f"{API}/materials/{free['id']}"), 409, "take them off first")


def test_the_shelf_is_searched_and_says_how_many_there_are(client):
    found = client.get(f"{API}/materials?search=RIGID&limit=2").json
    assert len(found["materials"]) == 2
    assert found["total"] == 3  # fast, medium and semi-rigid
    assert client.get(f"{API}/materials?search=100%25").json["total"] == 0
    rubbers = client.get(f"{API}/supplies?kind=rubber&search=soft").json
    assert {one["kind"] for one in rubbers["supplies"]} == {"rubber"}
    assert rubbers["total"] == 2


@pytest.mark.parametrize("limit", ["0", "501", "many"])
def test_a_page_of_no_or_too_many_is_refused(client, limit):
    assert_problem(client.get(f"{API}/materials?limit={limit}"), 422, "limit")
