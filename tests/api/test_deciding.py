"""Deciding backwards through the API, on the workshop's own shelf."""

import pytest

from api.conftest import API, assert_problem

ASKED = {
    "purpose": "worn",
    "opening_girth_m": 0.33,
    "widest_girth_m": 0.56,
    "painted": True,
    "spun": True,
}


def ask(client, **change):
    return client.post(f"{API}/chain", json={**ASKED, **change})


def test_the_rest_of_the_shelf_is_read_with_its_values(client):
    supplies = client.get(f"{API}/supplies").json["supplies"]
    kinds = {one["kind"] for one in supplies}
    assert {"rubber", "shell", "release", "sealer", "clay", "additive", "consumable"} <= kinds
    firm = next(one for one in supplies if one["key"] == "rubber-addition-firm")
    facts = {fact["label"]: fact for fact in firm["facts"]}
    assert facts["elongation at break"]["quantity"] == {"value": 4.5, "unit": "share"}
    assert facts["takes thickener"]["words"] == "yes"


def test_the_chain_is_that_of_the_command_line(client):
    links = ask(client).json["links"]
    hard = next(one for one in links["rubber"] if one["key"] == "rubber-block-hard")
    assert hard["verdict"] == "excluded"
    assert links["rubber"][0]["key"] == "rubber-addition-firm"


def test_another_link_taken_rejudges_the_rest(client):
    taken = ask(client, taken={"casting": "gypsum-acrylic"}, painted=False).json["links"]
    assert (
        next(one for one in taken["casting"] if one["verdict"] == "take")["key"] == "gypsum-acrylic"
    )


def test_an_own_resin_takes_part(client, resin):
    sheet = {**resin("pu-medium-rigid")["sheet"], "kit_price": "1.00"}
    del sheet["origin"]
    client.post(f"{API}/materials", json={"name": "Cheap tin", "sheet": sheet})
    assert ask(client).json["links"]["casting"][0]["key"] == "cheap-tin"


def test_the_area_of_a_piece_is_used(client, piece):
    """A dome of 628 cm2, a shell a third larger, 6 mm of 1,100 kg/m3: 0.5 kg (closed form)."""
    shells = ask(client, piece_id=piece["id"]).json["links"]["shell"]
    paste = next(one for one in shells if one["key"] == "shell-urethane-paste")
    assert paste["reasons"][0].startswith("About 0.5 kg")


@pytest.mark.parametrize(
    ("change", "status", "said"),
    [
        ({"purpose": "eaten"}, 422, "purpose"),
        ({"opening_girth_m": 0}, 422, "opening girth is 0 mm"),
        ({"widest_girth_m": "wide"}, 422, "not a number"),
        ({"master_key": "honey"}, 422, "no material 'honey'"),
        ({"taken": {"shell": "honey"}}, 422, "is no shell"),
        ({"piece_id": "0" * 8 + "-0000-4000-8000-" + "0" * 12}, 404, "no such piece"),
    ],
)
def test_bad_questions_are_told(client, change, status, said):
    assert_problem(ask(client, **change), status, said)


def test_what_no_rule_covers_is_unknown(client):
    body = {"keys": ["clay-sulphur", "rubber-addition-firm", "consumable-brush"]}
    pairs = client.post(f"{API}/compatibility", json=body).json["pairs"]
    assert [one["verdict"] for one in pairs] == ["stops-the-cure", "unknown", "unknown"]
    assert pairs[0]["rules"][0]["id"] == "sulphur-addition"
