"""Materials in and out: what goes out comes back, all rows or none."""

import csv
import io
import json

import pytest

from api.conftest import API, assert_problem, form_with
from mildhusk.core.materials.catalogue import KINDS


@pytest.fixture
def take_over(client):
    def send(content, name="shelf.csv"):
        content = content if isinstance(content, bytes) else content.encode()
        return client.post(f"{API}/shelf", **form_with(content, name))

    return send


def shelf(client):
    return json.loads(client.get(f"{API}/shelf.json").data)["materials"]


def without_origin(materials):
    return [{**one, "sheet": {**one["sheet"], "origin": None}} for one in materials]


def table(client, kind="rubber"):
    text = client.get(f"{API}/shelf.csv?kind={kind}").data.decode("utf-8-sig")
    return list(csv.DictReader(io.StringIO(text)))


def as_csv(rows):
    text = io.StringIO()
    writer = csv.DictWriter(text, list(rows[0]))
    writer.writeheader()
    writer.writerows(rows)
    return text.getvalue()


def test_the_whole_shelf_goes_out_as_json_and_comes_back(client, take_over):
    before = client.get(f"{API}/shelf.json").data
    taken = take_over(before, "shelf.json")
    assert taken.json["taken"] == len(json.loads(before)["materials"])
    assert without_origin(shelf(client)) == without_origin(json.loads(before)["materials"])
    assert {one["sheet"]["origin"] for one in shelf(client)} == {"own-sheet"}


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_goes_out_as_csv_and_comes_back(client, take_over, kind):
    before = shelf(client)
    content = client.get(f"{API}/shelf.csv?kind={kind}").data
    assert take_over(content).json["taken"] == len(table(client, kind)) > 0
    assert without_origin(shelf(client)) == without_origin(before)


def test_an_own_rubber_is_added_and_takes_part_in_the_chain(client, take_over):
    row = {**table(client)[0], "key": "own-stretchy", "name": "Own stretchy", "elongation": "12.5"}
    assert take_over(as_csv([row])).json == {"taken": 1}
    supplies = client.get(f"{API}/supplies").json["supplies"]
    own = next(one for one in supplies if one["key"] == "own-stretchy")
    assert own["origin"] == "own-sheet"
    body = {"purpose": "worn", "opening_girth_m": 0.1, "widest_girth_m": 0.5,
            "painted": False, "spun": False}  # fmt: skip
    rubbers = client.post(f"{API}/chain", json=body).json["links"]["rubber"]
    assert rubbers[0]["key"] == "own-stretchy"


@pytest.mark.parametrize(
    ("change", "line"),
    [
        ({"density_kg_m3": "0"}, "Row 3: The density is 0 kg/m³; give 800"),
        ({"elongation": "a lot"}, "Row 3: The elongation is 'a lot', which is not a number."),
        ({"cure": "magic"}, "Row 3: The cure is 'magic'; that is not known."),
        ({"takes_thickener": "maybe"}, "Row 3: The takes thickener is 'maybe'; write yes or no."),
        ({"parts_a": "0", "parts_b": "1"}, "Row 3: The part A of the ratio is 0 parts"),
        ({"kind": "sauce"}, "Row 3: There is no kind 'sauce'"),
        ({"life_casts": "2.5"}, "Row 3: The life casts is '2.5', which is not a number."),
        ({"traits": "bouncy"}, "Row 3: The traits is 'bouncy'; that is not known."),
        ({"name": "x" * 200}, "Row 3: Key and name"),
    ],
)
def test_one_bad_row_is_told_by_its_number_and_none_is_taken_over(client, take_over, change, line):
    before = shelf(client)
    good = {**table(client)[0], "key": "own-good"}
    refused = take_over(as_csv([good, {**good, "key": "own-bad", **change}]))
    assert_problem(refused, 422, "Nothing was imported: 1 of 2 rows")
    assert refused.json["errors"][0]["message"].startswith(line)
    assert shelf(client) == before


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "empty"),
        ("Härte;Dichte\n1;2\n".encode("latin-1"), "not in UTF-8"),
        ("kind,key\n".encode("utf-16"), "not in UTF-8"),
        (b"hardness,density\n10,1000\n", "must be among them"),
        (b"{not json", "cannot be read"),
        (b'{"materials": 3}', "cannot be read"),
        (b'{"materials": [3]}', "1 of 1 rows"),
        (b'{"materials": [{"kind": "rubber"}]}', "1 of 1 rows"),
        (b"kind,key\n" + b"rubber,x\n" * 100_000, "100,000 rows; up to 20,000"),
        (b"kind,key\x00\nrubber,x\n", "no text"),
        (b"kind,key,name\nrubber,x\n", "1 of 1 rows"),
    ],
)
def test_files_that_are_no_shelf_are_refused(client, take_over, content, said):
    before = shelf(client)
    refused = take_over(content)
    assert refused.status_code == 422
    assert said in refused.json["detail"]
    assert shelf(client) == before


@pytest.mark.parametrize("bad", ["\u0000", "\ud800"])
def test_characters_that_are_no_text_are_refused(client, take_over, bad):
    first = shelf(client)[0]
    content = json.dumps({"materials": [{**first, "key": "own-odd", "name": f"odd {bad}"}]})
    refused = take_over(content, "shelf.json")
    assert "Row 1: It has characters that are no text." in refused.json["errors"][0]["message"]


def test_a_key_twice_or_of_another_kind_is_refused(client, take_over):
    row = {**table(client)[0], "key": "own-twice"}
    refused = take_over(as_csv([row, row]))
    assert "stands there twice" in refused.json["errors"][0]["message"]
    assert_problem(take_over(as_csv([{**row, "key": "polyester"}])), 422, "give it another key")


def test_a_name_that_looks_like_a_formula_goes_out_harmless_and_comes_back(client, take_over):
    row = {**table(client)[0], "key": "own-formula", "name": "=cmd()"}
    take_over(as_csv([row]))
    out = next(one for one in table(client) if one["key"] == "own-formula")
    assert out["name"] == "'=cmd()"
    take_over(as_csv([out]))
    assert next(one for one in shelf(client) if one["key"] == "own-formula")["name"] == "=cmd()"
