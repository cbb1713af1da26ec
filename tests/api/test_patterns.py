"""Patterns over the API: of a piece, of a mould, as files; refusals in a sentence."""

import re
from pathlib import Path

import numpy as np
import pytest

from api.conftest import API, assert_problem
from mildhusk.core.patterns.flat import PatternKind
from mildhusk.core.patterns.request import WISHES
from mildhusk.core.patterns.sheet_goods import SHEET_GOODS

FIELDS = Path(__file__).parents[2] / "frontend/src/features/patterns/wishes.ts"


@pytest.fixture
def mould(client, piece):
    def key(kind, name):
        found = client.get(f"{API}/supplies?kind={kind}").json["supplies"]
        return next(one["id"] for one in found if one["key"] == name)

    body = {
        "name": "Dome glove",
        "piece_id": piece["id"],
        "rubber_id": key("rubber", "rubber-addition-firm"),
        "shell_id": key("shell", "shell-bandage"),
        "rubber_wall_m": 0.010,
        "life_casts": 40,
        "parts": 3,
    }
    made = client.post(f"{API}/moulds", json=body)
    assert made.status_code == 201, made.text
    return made.json["id"]


def figures(answer):
    return {one["key"]: one["value"] for one in answer["figures"]}


def test_the_walls_of_a_mould_are_as_many_as_its_parts(client, mould):
    asked = client.get(f"{API}/moulds/{mould}/pattern?kind=part-line&clearance_m=0.002")
    assert asked.status_code == 200, asked.text
    answer = asked.json
    assert [one["name"] for one in answer["parts"]] == ["wall 1", "wall 2", "wall 3", "bracket"]
    assert figures(answer)["clearance"] == 0.002
    assert len(answer["curves_m"]) == 3
    # What is drawn flat is found on the mould: marks as far apart on both.
    marks = [one for sheet in answer["sheets"] for one in sheet["marks"]]
    marks = [one for one in marks if one["name"].startswith("wall 1: mark")]
    assert len(marks) > 2
    flat = np.diff([one["at_m"] for one in marks], axis=0)
    solid = np.diff([one["place_m"] for one in marks], axis=0)
    assert np.linalg.norm(flat, axis=1) == pytest.approx(np.linalg.norm(solid, axis=1), abs=1e-5)


def test_other_parts_can_be_asked_for_and_not_one(client, mould):
    two = client.get(f"{API}/moulds/{mould}/pattern?kind=part-line&parts=2").json
    assert [one["name"] for one in two["parts"]] == ["wall", "bracket"]
    one = client.get(f"{API}/moulds/{mould}/pattern?kind=part-line&parts=1")
    assert_problem(one, 422, "no part line", "parts")


def test_strips_and_box_take_the_moulds_own_rubber_and_shell(client, mould):
    strips = client.get(f"{API}/moulds/{mould}/pattern?kind=strips").json
    assert {one["part"] for one in strips["rows"]} == {"part 1", "part 2", "part 3"}
    assert [one["name"] for one in strips["parts"]] == ["strip for the seam, unfolded"]
    box = figures(client.get(f"{API}/moulds/{mould}/pattern?kind=box").json)
    # The margin is the wall of rubber that is wanted.
    assert box["margin"] == 0.010
    assert box["rubber"] / box["volume"] == pytest.approx(1070.0, rel=0.1)


@pytest.mark.parametrize(
    ("ending", "begins", "kind"),
    [
        ("pdf", b"%PDF-", "application/pdf"),
        ("svg", b"<svg ", "image/svg+xml"),
        ("dxf", b"  0\nSECTION", "image/vnd.dxf"),
    ],
)
def test_a_pattern_comes_as_a_file_named_after_what_it_is_for(client, mould, ending, begins, kind):
    asked = client.get(f"{API}/moulds/{mould}/pattern/{ending}?kind=skirt&paper=letter")
    assert asked.status_code == 200, asked.text
    assert asked.data.startswith(begins)
    assert asked.content_type.startswith(kind)
    assert f"Dome-glove-skirt.{ending}" in asked.headers["Content-Disposition"]


def test_a_piece_without_a_mould_has_its_own_patterns(client, piece):
    address = f"{API}/pieces/{piece['id']}/pattern"
    skirt = client.get(f"{address}?kind=skirt&height_m=0.08")
    assert skirt.status_code == 200, skirt.text
    assert figures(skirt.json)["height"] == 0.08
    refused = client.get(f"{address}?kind=part-line")
    assert_problem(refused, 422, "open the mould of this piece", "kind")


@pytest.mark.parametrize(
    ("query", "field", "says"),
    [
        ("kind=skirt&height_m=3", "height_m", "height of the skirt is 3,000 mm"),
        ("kind=skirt&margin_m=0.1", "margin_m", "has no 'margin_m'"),
        ("kind=skirt&sheet_width_m=0.02", "sheet_width_m", "side of the sheet is 20 mm"),
        ("kind=visor", "edge", "no opening but its rim"),
        ("kind=visor&material=oak", "material", "is no sheet"),
        ("kind=part-line&turned=1e400", "turned", "finite"),
        ("kind=part-line&clearance_m=0.2", "clearance_m", "clearance is 200 mm"),
        ("kind=part-line&aside_m=1", "aside_m", "shell in two"),
        ("kind=part-line&aside_m=1&parts=2", "aside_m", "misses the mould"),
        ("kind=stairs", "kind", "part-line"),
    ],
)
def test_what_cannot_be_cut_is_refused_in_a_sentence(client, mould, query, field, says):
    refused = client.get(f"{API}/moulds/{mould}/pattern?{query}")
    assert_problem(refused, 422, says, field)


def test_what_is_kept_of_patterns_is_told_again_and_drawn_the_same(client, mould):
    address = f"{API}/moulds/{mould}/patterns"
    assert client.get(address).json == {"patterns": []}
    wall = {"kind": "part-line", "bolt_pitch_m": 0.08, "following": True, "sheet_width_m": 1.2}
    strips = {"kind": "strips", "passes": 2}
    for one in (strips, wall):
        kept = client.put(address, json=one)
        assert kept.status_code == 200, kept.text
    given = [
        {name: value for name, value in one.items() if value is not None}
        for one in client.get(address).json["patterns"]
    ]
    assert given == [
        {**wall, "sheet_height_m": 0.7},
        {**strips, "sheet_width_m": 1.0, "sheet_height_m": 0.7},
    ]
    # One of each kind: what is kept again takes its place.
    again = client.put(address, json={"kind": "strips", "passes": 3})
    assert [one["passes"] for one in again.json["patterns"]] == [None, 3]


def test_what_is_kept_of_a_piece_is_not_kept_of_its_mould(client, mould, piece):
    address = f"{API}/pieces/{piece['id']}/patterns"
    client.put(address, json={"kind": "skirt", "height_m": 0.08})
    assert [one["height_m"] for one in client.get(address).json["patterns"]] == [0.08]
    assert client.get(f"{API}/moulds/{mould}/patterns").json == {"patterns": []}


@pytest.mark.parametrize(
    ("body", "field", "says"),
    [
        ({"kind": "skirt", "height_m": 3}, "height_m", "height of the skirt is 3,000 mm"),
        ({"kind": "skirt", "margin_m": 0.1}, "margin_m", "has no 'margin_m'"),
        ({"kind": "skirt", "sheet_width_m": 0.02}, "sheet_width_m", "side of the sheet is 20 mm"),
        ({"kind": "part-line", "following": True, "aside_m": 0.01}, "aside_m", "its own way"),
        ({"kind": "stairs"}, "kind", "part-line"),
        ({"kind": "skirt", "colour": "red"}, "colour", ""),
    ],
)
def test_what_cannot_be_cut_is_not_kept(client, mould, body, field, says):
    address = f"{API}/moulds/{mould}/patterns"
    assert_problem(client.put(address, json=body), 422, says, field)
    assert client.get(address).json == {"patterns": []}


def test_a_line_that_follows_the_rubber_tells_the_clay_under_its_marks(client, mould):
    address = f"{API}/moulds/{mould}/pattern?kind=part-line&following=true&parts=2"
    answer = client.get(address).json
    marks = [one["name"] for sheet in answer["sheets"] for one in sheet["marks"]]
    assert {one["mark"] for one in answer["heights"]} == {one for one in marks if ": mark " in one}
    assert figures(answer)["clay"] == max(one["height_m"] for one in answer["heights"])


def test_the_fields_on_the_screen_begin_with_what_the_core_takes():
    # What stands in a field before anybody types has to be what the pattern is drawn with.
    text = FIELDS.read_text("utf-8")
    kind, seen = None, 0
    for line in text.split("export const MATERIALS")[0].splitlines():
        if begins := re.match(r'  "?([a-z-]+)"?: \[', line):
            kind = PatternKind(begins[1])
        found = re.search(r'name: "(\w+)", label: .*first: ([\d.]+)', line)
        if found and kind:
            seen += 1
            assert getattr(WISHES[kind](), found[1]) == float(found[2]), found[1]
    assert seen == 22
    goods = text.split("export const MATERIALS")[1].split("];")[0]
    assert re.findall(r'value: "([\w-]+)"', goods) == [one.key for one in SHEET_GOODS]
