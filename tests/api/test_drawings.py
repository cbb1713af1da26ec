"""Lists show pictures of what they list: made by a worker, kept by their content."""

import io

import numpy as np
import pytest
from PIL import Image

from api.conftest import API, WISH, assert_problem
from core.shapes import half_sphere, stl_bytes
from mildhusk.core.errors import InputError


def first(client, what):
    return client.get(f"{API}/{what}").json


def picture(client, key):
    answer = client.get(f"{API}/drawings/{key}")
    assert answer.status_code == 200, answer.text
    assert answer.headers["Cache-Control"] == "private, max-age=31536000, immutable"
    return np.asarray(Image.open(io.BytesIO(answer.data)).convert("RGBA")).astype(float)


def drawn(client, what):
    """The key of the first drawing of a list, once it is made."""
    # Figures of a sheet that was settled are made anew first, and then it is drawn.
    asked = [first(client, what)["drawing"] for _ in range(3)]
    told = first(client, what)
    assert told["drawing"] is False, asked
    return told[what][0]["picture"]


def test_a_list_asks_for_what_is_not_drawn_yet(client, piece):
    told = first(client, "pieces")
    assert told["drawing"] is True
    told = first(client, "pieces")
    assert told["drawing"] is False
    shown = picture(client, told["pieces"][0]["picture"])
    assert shown.shape == (240, 320, 4)
    # A dome: a third of the picture at least, in the colour of a casting face.
    covered = shown[..., 3] > 200
    assert 0.3 < covered.mean() < 0.8
    red, green, blue = shown[covered][:, :3].mean(axis=0)
    assert red > green > blue
    # Whoever only looks again asks for nothing.
    assert client.get(f"{API}/jobs?kind=draw").json["jobs"] == []


def test_a_drawing_that_was_refused_is_not_asked_for_again(client, upload, piece, monkeypatch):
    tried = []

    def refuse(*told):
        tried.append(told)
        raise InputError("It cannot be drawn.")

    monkeypatch.setattr("mildhusk.services.drawings.shaded", refuse)
    # Whoever looks at the list asks once, and the list stands all the same.
    answers = [first(client, "pieces") for _ in range(4)]
    assert [told["drawing"] for told in answers] == [True, False, False, False]
    assert len(tried) == 1
    assert [one["name"] for one in answers[-1]["pieces"]] == [piece["name"]]
    # Something else to be drawn is something else to ask for.
    read = upload(stl_bytes(half_sphere(0.05, 12).scaled(1e3)), "small.stl")
    body = {"name": "Small dome", "mesh_sha256": read.json["sha256"], "units": "mm"}
    assert client.post(f"{API}/pieces", json=body).status_code == 202
    assert first(client, "pieces")["drawing"] is True
    assert len(tried) == 2


def test_a_piece_that_is_marked_is_drawn_anew(client, piece):
    before = drawn(client, "pieces")
    mark = {"role": "cut-away", "at_m": [0.0, 0.0, 0.1], "radius_m": 0.04}
    wish = {**client.get(f"{API}/pieces/{piece['id']}").json["wish"], "marks": [mark]}
    asked = client.put(
        f"{API}/pieces/{piece['id']}/survey", json={"version": piece["version"], "wish": wish}
    )
    assert asked.status_code == 202, asked.text
    after = drawn(client, "pieces")
    assert after != before
    # What nothing shows any more is thrown away.
    assert_problem(client.get(f"{API}/drawings/{before}"), 404, "no such drawing")
    # What is cut away is greener than what is cast.
    shown = picture(client, after)
    top = shown[40:70, 140:180, :3].reshape(-1, 3).mean(axis=0)
    assert top[1] > top[0]


def test_a_sheet_shows_its_piece_until_its_wall_is_settled(client, sheet, piece, resin):
    assert drawn(client, "sheets") == drawn(client, "pieces")
    body = {
        "piece_id": piece["id"],
        "material_id": resin("pu-fast-rigid")["id"],
        "wish": {**WISH, "wall_m": 0.001, "motion": "machine", "lid": True},
    }
    made = client.post(f"{API}/sheets", json={**body, "name": "On a machine"})
    assert made.status_code == 201, made.text
    assert client.post(f"{API}/sheets/settle", json=body).status_code in (200, 202)
    drawn(client, "sheets")
    shown = {one["name"]: one["picture"] for one in first(client, "sheets")["sheets"]}
    assert shown["On a machine"] != shown[sheet["name"]]
    # A wall is drawn from dark blue to yellow, not in the colour of a piece.
    wall = picture(client, shown["On a machine"])
    covered = wall[wall[..., 3] > 200][:, :3]
    assert np.ptp(covered[:, 2] - covered[:, 0]) > 60.0


def test_a_mould_shows_its_rubber(client, mould):
    assert drawn(client, "moulds") != drawn(client, "pieces")


def test_a_drawing_that_is_not_there_is_told(client):
    assert_problem(client.get(f"{API}/drawings/{'0' * 64}"), 404, "no such drawing")
    assert client.get(f"{API}/drawings/passwd").status_code == 422


@pytest.mark.parametrize(
    ("query", "names"),
    [
        ("", ["Zebra", "apple", "Dome in fast rigid"]),
        ("?order=name", ["apple", "Dome in fast rigid", "Zebra"]),
        ("?search=fast rigid ureth", ["Zebra", "apple", "Dome in fast rigid"]),
        ("?search=zeb", ["Zebra"]),
        ("?search=dome&order=name&limit=1&offset=1", ["Dome in fast rigid"]),
    ],
)
def test_sheets_are_found_by_what_stands_on_them_and_ordered(client, clock, sheet, query, names):
    for name in ("apple", "Zebra"):
        clock.pass_seconds(60)
        copied = {key: sheet[key] for key in ("piece_id", "material_id", "wish")}
        client.post(f"{API}/sheets", json={**copied, "name": name})
    assert [one["name"] for one in client.get(f"{API}/sheets{query}").json["sheets"]] == names


def test_an_order_that_is_none_is_refused(client):
    assert client.get(f"{API}/pieces?order=size").status_code == 422
