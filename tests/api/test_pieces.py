"""Pieces through the API: taken in, asked, measured, shown, and refused."""

import struct

import numpy as np
import pytest
import trimesh
from sqlalchemy import func, select

from api.conftest import API, assert_problem
from core.shapes import box, half_sphere, sphere, stl_bytes
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.geometry.mesh import join_corners
from mildhusk.store.tables import MeshFile, Piece

DOME = stl_bytes(half_sphere(0.1, 20).scaled(1e3))


def test_an_upload_says_what_each_unit_would_mean(upload):
    told = upload(DOME, "a dome.stl").json
    assert told["file_name"] == "a dome.stl"
    assert (told["guessed_unit"], told["guess_is_sure"]) == ("mm", True)
    sizes = {choice["units"]: choice["extents_m"][0] for choice in told["choices"]}
    assert sizes == pytest.approx({"mm": 0.2, "cm": 2.0, "m": 200.0, "in": 5.08}, rel=1e-3)


def test_a_piece_is_measured_in_the_unit_that_was_chosen(piece):
    assert piece["measures"]["area_m2"] == pytest.approx(0.0628, rel=0.01)
    assert len(piece["measures"]["openings"]) == 1
    assert piece["extents_m"] == pytest.approx([0.2, 0.2, 0.1], rel=0.01)


def test_the_same_file_is_kept_once(upload, client):
    first, second = upload(DOME).json, upload(DOME, "again.stl").json
    assert first["sha256"] == second["sha256"]


def test_pieces_are_listed_renamed_and_deleted(client, piece):
    address = f"{API}/pieces/{piece['id']}"
    renamed = client.patch(address, json={"name": " Cupola ", "version": piece["version"]})
    assert renamed.json["name"] == "Cupola"
    assert [one["name"] for one in client.get(f"{API}/pieces").json["pieces"]] == ["Cupola"]
    assert client.delete(address).json["deleted"] is True
    assert_problem(client.get(address), 404, "no such piece")


def test_the_second_of_two_editors_is_told_and_nothing_is_overwritten(client, piece):
    address = f"{API}/pieces/{piece['id']}"
    client.patch(address, json={"name": "First", "version": piece["version"]})
    late = client.patch(address, json={"name": "Second", "version": piece["version"]})
    assert_problem(late, 409, "changed in another window")
    assert client.get(address).json["name"] == "First"


def test_a_piece_in_use_is_not_deleted(client, piece, sheet):
    assert_problem(client.delete(f"{API}/pieces/{piece['id']}"), 409, sheet["name"])


def test_the_model_is_the_mesh_in_metres_and_asked_for_once(client, piece):
    address = f"{API}/pieces/{piece['id']}/model.glb"
    sent = client.get(address)
    model = trimesh.load(trimesh.util.wrap_as_stream(sent.data), file_type="glb").to_geometry()
    assert model.area == pytest.approx(piece["measures"]["area_m2"], rel=1e-5)
    assert client.get(address, headers={"If-None-Match": sent.headers["ETag"]}).status_code == 304


def _with_nan() -> bytes:
    content = bytearray(stl_bytes(box(100, 100, 100)))
    content[96:100] = struct.pack("<f", float("nan"))
    return bytes(content)


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "empty"),
        (b"no mesh at all, whatever its name", "not an STL"),
        (DOME[:-7], "cut short"),
        (_with_nan(), "not numbers"),
        (b"\0" * 80 + struct.pack("<I", 1) + bytes(50), "no faces"),
    ],
    ids=["empty", "not a mesh", "truncated", "NaN", "one point"],
)
def test_bad_files_are_refused_and_leave_nothing(upload, client, content, said):
    assert_problem(upload(content), 422, said, "file")
    assert client.get(f"{API}/pieces").json["pieces"] == []


def test_a_shape_without_area_is_refused_when_it_is_measured(upload, client):
    on_a_line = np.array([[[0.0, 0, 0], [100, 0, 0], [250, 0, 0]]])
    sent = upload(stl_bytes(join_corners(on_a_line)))
    body = {"name": "Line", "mesh_sha256": sent.json["sha256"], "units": "mm"}
    job = client.post(f"{API}/pieces", json=body).json
    assert (job["status"], job["field"], job["piece_id"]) == ("refused", "file", None)
    assert "no area" in job["said"]
    assert client.get(f"{API}/pieces").json["pieces"] == []


def test_300_mb_are_refused_by_the_limit(client):
    too_much = client.post(
        f"{API}/mesh-files",
        data=b"",
        content_type="multipart/form-data; boundary=x",
        environ_overrides={"CONTENT_LENGTH": "300000000"},
    )
    assert_problem(too_much, 413, f"{MAX_MESH_FILE_BYTES / 1e6:.0f} MB")


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"units": "m"}, "Check the unit"),
        ({"units": "furlong"}, "must be 'mm', 'cm', 'm' or 'in'"),
        ({"name": "   "}, "name is empty"),
        ({"name": "x" * 121}, "longer than 120"),
        ({"name": "bell\u0007"}, "cannot be printed"),
        ({"name": "nul\u0000"}, "characters that are none"),
        ({"mesh_sha256": "0" * 64}, "upload it again"),
        ({"colour": "red"}, "not known here"),
    ],
)
def test_bad_answers_to_the_unit_question_are_told(upload, client, body, said):
    good = {"name": "Dome", "mesh_sha256": upload(DOME).json["sha256"], "units": "mm"}
    refused = client.post(f"{API}/pieces", json={**good, **body})
    assert said in refused.json["detail"]
    assert refused.status_code in (404, 422)
    assert client.get(f"{API}/pieces").json["pieces"] == []


def test_files_nobody_made_a_piece_of_are_forgotten_after_a_day(upload, client, clock, piece):
    upload(stl_bytes(sphere(100, 10)))
    clock.pass_seconds(2 * 86_400)
    upload(stl_bytes(box(100, 100, 100)))
    with client.application.extensions["mildhusk"].sessions.begin() as session:
        assert session.scalar(select(func.count()).select_from(MeshFile)) == 2
        assert session.scalar(select(Piece.mesh_sha256)) is not None
