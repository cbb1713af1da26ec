"""Pieces over the API: surveyed files, measures by hand, rims, heads, which measure to trust."""

import csv
import io
import math

import pytest
import trimesh

from api.conftest import API, assert_problem, surveyed
from core.corpus import dish
from core.shapes import stl_bytes
from core.test_survey import print_of_a_ball

R = 0.1


@pytest.fixture(scope="module")
def hollow_print():
    """A print of a ball, 4 mm thick, 200 mm across, open by 60 degrees below, in millimetres."""
    return stl_bytes(print_of_a_ball(math.radians(30.0), 40).scaled(1e3))


@pytest.fixture
def hollow(client, upload, hollow_print):
    sha = upload(hollow_print, "hollow.stl").json["sha256"]
    body = {"name": "Hollow", "mesh_sha256": sha, "units": "mm"}
    return surveyed(client, client.post(f"{API}/pieces", json=body))


def test_of_a_print_the_outer_skin_is_counted_until_one_asks_for_all(client, hollow):
    exact = 2.0 * math.pi * R * R * (1.0 + math.cos(math.radians(30.0)))
    assert hollow["survey"]["skin"]["method"] == "outer"
    # Forty flat strips round a ball miss 0.4 % of it.
    assert hollow["measures"]["area_m2"] == pytest.approx(exact, rel=8e-3)
    asked = {"version": hollow["version"], "wish": {"skin": "all"}}
    again = surveyed(client, client.put(f"{API}/pieces/{hollow['id']}/survey", json=asked))
    assert again["measures"]["area_m2"] > 1.8 * exact
    assert again["version"] > hollow["version"]
    stale = {"version": hollow["version"], "wish": {"skin": "outer"}}
    assert_problem(client.put(f"{API}/pieces/{hollow['id']}/survey", json=stale), 409, "changed")


def test_what_was_left_out_stands_in_the_model_by_name(client, hollow):
    sent = client.get(f"{API}/pieces/{hollow['id']}/model.glb")
    scene = trimesh.load_scene(io.BytesIO(sent.data), file_type="glb")
    assert set(scene.geometry) == {"casting face", "left out"}
    faces = {name: len(mesh.faces) for name, mesh in scene.geometry.items()}
    skin = hollow["survey"]["skin"]
    assert faces == {"casting face": skin["kept_faces"], "left out": skin["dropped_faces"]}


def test_a_skirt_adds_charge_and_waste_and_leaves_the_finished_weight(client, piece, sheet):
    """Law: the skirt is cast and cut away, so the trimmed cast weighs what it did without it."""
    before = sheet["plan"]
    asked = {"version": piece["version"], "wish": {"skin": "outer", "skirt_m": 0.05}}
    surveyed(client, client.put(f"{API}/pieces/{piece['id']}/survey", json=asked))
    after = client.get(f"{API}/sheets/{sheet['id']}").json["plan"]
    assert after["total_charge_kg"] > 1.3 * before["total_charge_kg"]
    assert after["trimmed_kg"] == pytest.approx(before["trimmed_kg"], rel=0.03)
    assert after["trimmed_kg"] < 0.75 * after["cast_kg"]


def test_a_cut_out_a_ledge_and_a_closed_hole_are_waste(client, piece):
    """Exact: a flat ring pi (R^2 - (R - w)^2) and a cap pi c^2, cast and cut away."""
    top = max(piece["measures"]["bounds_m"], key=lambda corner: abs(corner[2]))[2]
    eye = {"at_m": [0.0, 0.0, top], "radius_m": 0.03, "role": "cut-away"}
    asked = {
        "version": piece["version"],
        "wish": {"skin": "outer", "ledge_m": 0.02, "marks": [eye]},
    }
    after = surveyed(client, client.put(f"{API}/pieces/{piece['id']}/survey", json=asked))
    ring = math.pi * (R**2 - (R - 0.02) ** 2)
    waste = ring + math.pi * 0.03**2
    assert after["survey"]["waste_area_m2"] == pytest.approx(waste, rel=2e-2)
    assert after["wish"]["marks"] == [eye]
    sent = client.get(f"{API}/pieces/{piece['id']}/model.glb").data
    scene = trimesh.load_scene(io.BytesIO(sent), file_type="glb")
    assert scene.geometry["cut away"].area == pytest.approx(waste, rel=2e-2)
    bad = {"version": after["version"], "wish": {"marks": [{**eye, "radius_m": 0.0}]}}
    refused = client.put(f"{API}/pieces/{piece['id']}/survey", json=bad)
    assert_problem(refused, 422, "The radius of a mark is 0 mm", "marks")


def test_a_piece_is_taped_along_any_axis(client, piece):
    """Exact: across, half a ball is a half disc; its tape spans the flat side, R (pi + 2) x sin."""
    address = f"{API}/pieces/{piece['id']}/girths"
    upright = client.get(address).json["girths"]
    assert max(one["girth_m"] for one in upright) == pytest.approx(2 * math.pi * R, rel=0.02)
    across = client.get(f"{address}?x=1").json["girths"]
    middle = across[len(across) // 2]["girth_m"]
    assert middle == pytest.approx(R * (math.pi + 2.0), rel=0.01)
    assert client.get(f"{address}.csv?x=2").data == client.get(f"{address}.csv?x=1").data


def test_the_husk_of_a_piece_has_a_centre_of_mass(client, piece):
    """Exact: half a thin ball balances in the middle of its radius."""
    x, y, z = piece["survey"]["centre_of_mass_m"]["0.002"]
    assert abs(z) == pytest.approx(0.049, abs=2e-3)
    assert (x, y) == pytest.approx((0.0, 0.0), abs=1e-3)


def test_a_bowl_holds_and_spills_over_the_api(client, piece):
    """Exact: half a ball of radius R holds 2/3 pi R^3 upright and spills at once when tilted."""
    address = f"{API}/pieces/{piece['id']}/rim"
    whole = 2.0 / 3.0 * math.pi * R**3
    upright = client.post(address, json={"volume_m3": 0.9 * whole, "tilt": 0.0}).json
    assert not upright["spills"]
    assert upright["holds_m3"] == pytest.approx(whole, rel=1e-2)
    assert len(upright["section"]) > 20
    levels, volumes = zip(*upright["levels"], strict=True)
    assert volumes[-1] == pytest.approx(whole, rel=1e-2)
    assert levels[-1] == pytest.approx(upright["rim_m"])
    assert len(upright["surface"]) > 10
    tilted = client.post(address, json={"volume_m3": 0.9 * whole, "tilt": 0.6}).json
    assert tilted["spills"]
    assert tilted["skirt_m"] > 0.0
    assert tilted["ledge_m"] is None or 0.0 < tilted["ledge_m"] < R
    held = {"volume_m3": 0.9 * whole, "tilt": 0.6, "skirt_m": tilted["skirt_m"] + 1e-4}
    assert not client.post(address, json=held).json["spills"]
    bad = client.post(address, json={"volume_m3": 0.0, "tilt": 0.6})
    assert_problem(bad, 422, "The charge must be more than 0 ml", "charge")
    for skirt_m in (-0.01, 0.501, 1.1e305):
        long = client.post(address, json={**held, "skirt_m": skirt_m})
        assert_problem(long, 422, "give 0 mm to 500 mm", "skirt")


def test_heads_come_with_their_source_and_fit_or_do_not(client, piece):
    told = client.get(f"{API}/heads").json
    assert "Survey" in told["source"]
    address = f"{API}/pieces/{piece['id']}/fit"
    small = client.post(address, json={"head": told["heads"][0], "wall_m": 0.003}).json
    assert small["passes_opening"]
    # Exact: 2 pi (R - t) less the girth of the head.
    spare = 2 * math.pi * (R - 0.003) - told["heads"][0]["girth_m"]
    assert small["opening_spare_m"] == pytest.approx(spare, abs=2e-3)


TAPING = {
    "stations": [
        {"height_m": R * z, "girth_m": 2 * math.pi * R * math.sqrt(1 - z * z)}
        for z in (0.0, 0.25, 0.5, 0.7, 0.85, 0.95)
    ],
    "top_m": R,
}


def test_a_taped_piece_is_seen_kept_planned_and_compared(client, piece, resin):
    seen = client.post(f"{API}/taping/preview", json=TAPING).json
    assert seen["area_m2"] == pytest.approx(2 * math.pi * R * R, rel=0.02)
    assert max(seen["half_widths_m"]) == pytest.approx(R, rel=1e-3)
    taped = client.post(f"{API}/pieces/taped", json={"name": "Taped", "taping": TAPING}).json
    assert (taped["source"], taped["survey"]["skin"]["method"]) == ("tape", "all")
    assert taped["survey"]["shell_volume_rel_error"] >= 0.03
    wish = {
        "wall_m": 0.003,
        "room_temperature_k": 296.15,
        "allowance": 0.0,
        "loss": 0.05,
        "worn": False,
        "scale_step_kg": 0.0001,
        "volume_step_m3": 1e-6,
    }
    ask = {"material_id": resin("pu-fast-rigid")["id"], "wish": wish}
    by_tape, by_file = (
        client.post(f"{API}/sheets/preview", json={**ask, "piece_id": one["id"]}).json
        for one in (taped, piece)
    )
    assert by_tape["total_charge_kg"] == pytest.approx(by_file["total_charge_kg"], rel=0.03)
    bands = [(p["total_charge_band_kg"][1] / p["total_charge_kg"]) for p in (by_tape, by_file)]
    assert bands[0] > bands[1]
    better = client.get(f"{API}/pieces/{taped['id']}/better?other={piece['id']}").json
    assert better["name"] == piece["name"]
    assert "they agree" in better["reason"]
    again = client.put(
        f"{API}/pieces/{taped['id']}/survey",
        json={"version": taped["version"], "wish": {"skin": "all"}},
    )
    assert_problem(again, 409, "has no file")


def test_girths_go_out_and_come_in_as_csv(client, piece):
    sent = client.get(f"{API}/pieces/{piece['id']}/girths.csv").data
    rows = list(csv.DictReader(io.StringIO(sent.decode("utf-8-sig"))))
    assert len(rows) == 24
    data = {"file": (io.BytesIO(sent), "girths.csv")}
    read = client.post(f"{API}/taping/file", data=data).json["stations"]
    assert read[3]["girth_m"] == pytest.approx(float(rows[3]["girth_mm"]) / 1e3)


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"a,b\n1,2\n", "height_mm and girth_mm must be among"),
        (b"height_mm,girth_mm\n0,400\n50,wide\n", "Row 3 has a cell"),
        (b"\xff\xfe\x00", "not in UTF-8"),
    ],
)
def test_a_bad_csv_of_girths_is_told(client, content, said):
    data = {"file": (io.BytesIO(content), "girths.csv")}
    assert_problem(client.post(f"{API}/taping/file", data=data), 422, said, "file")


def test_filling_clay_and_cast_give_pieces_of_the_same_kind(client, resin):
    filled = client.post(
        f"{API}/pieces/filled",
        json={
            "name": "Filled",
            "volume_m3": 2 / 3 * math.pi * R**3,
            "height_m": R,
            "opening_m": 2 * math.pi * R,
            "outline": "round",
        },
    ).json
    assert filled["measures"]["area_m2"] == pytest.approx(2 * math.pi * R * R, rel=0.02)
    clay = client.post(
        f"{API}/pieces/clay", json={"name": "Clay", "volume_m3": 0.00133, "thickness_m": 0.01}
    ).json
    assert clay["measures"]["area_m2"] == pytest.approx(0.12, rel=0.1)
    weighed = client.post(
        f"{API}/pieces/weighed",
        json={
            "name": "Weighed",
            "cast_kg": 0.4,
            "material_id": resin("pu-fast-rigid")["id"],
            "walls_m": [0.003, 0.0031, 0.0029, 0.003],
        },
    ).json
    assert weighed["survey"]["shell_volume_rel_error"] >= 0.01
    sources = {one["source"] for one in client.get(f"{API}/pieces").json["pieces"]}
    assert sources == {"filling", "clay", "cast"}


@pytest.mark.parametrize(
    ("path", "body", "said"),
    [
        ("taped", {"taping": {"stations": [], "top_m": 0.1}}, "at least two girths"),
        ("filled", {"volume_m3": 1e-5, "height_m": 0.3, "opening_m": 0.5}, "do not go with"),
        ("clay", {"volume_m3": 0.001, "thickness_m": 0.0}, "thickness of the clay is 0 mm"),
    ],
)
def test_measures_that_do_not_go_together_keep_nothing(client, path, body, said):
    refused = client.post(f"{API}/pieces/{path}", json={"name": "Odd", **body})
    assert_problem(refused, 422, said)
    assert client.get(f"{API}/pieces").json["pieces"] == []


@pytest.mark.parametrize("ending", ["obj", "ply", "glb", "3mf", "off"])
def test_other_formats_are_read_as_the_stl_is(client, upload, piece, ending):
    """Written by the mesh library, read by us: the same faces give the same area."""
    sent = client.get(f"{API}/pieces/{piece['id']}/model.glb").data
    model = trimesh.load_mesh(io.BytesIO(sent), file_type="glb")
    content = model.export(file_type=ending)
    taken = upload(content.encode() if isinstance(content, str) else content, f"dome.{ending}")
    assert taken.status_code == 200, taken.text
    body = {"name": ending, "mesh_sha256": taken.json["sha256"], "units": "m"}
    made = surveyed(client, client.post(f"{API}/pieces", json=body))
    assert made["measures"]["area_m2"] == pytest.approx(piece["measures"]["area_m2"], rel=1e-4)


@pytest.mark.parametrize("ending", ["obj", "ply", "glb", "3mf", "off"])
@pytest.mark.parametrize("content", [b"", b"nonsense", b"PK\x03\x04broken", b"OFF\n1 1 1\n"])
def test_what_is_no_shape_is_refused_in_one_sentence(upload, ending, content):
    assert_problem(upload(content, f"odd.{ending}"), 422, "", "file")


def test_a_file_that_leaves_a_question_open_asks_it_until_it_is_answered(client, upload):
    """A thick dish may be the print of a bowl: nothing is left out before somebody says so."""
    sha = upload(stl_bytes(dish(28).scaled(1e3)), "dish.stl").json["sha256"]
    body = {"name": "Dish", "mesh_sha256": sha, "units": "mm"}
    asked = surveyed(client, client.post(f"{API}/pieces", json=body))
    (question,) = asked["survey"]["asks"]
    areas = {one["id"]: one["area_m2"] for one in question["choices"]}
    assert asked["survey"]["hollow"]["verdict"] == "asks"
    assert asked["measures"]["area_m2"] == pytest.approx(areas["all"])
    # The band holds the other answer.
    gap = 1.0 - areas["outer"] / areas["all"]
    assert asked["survey"]["bands"]["area"] >= gap
    sent = client.get(f"{API}/pieces/{asked['id']}/model.glb").data
    assert "in question" in trimesh.load_scene(io.BytesIO(sent), file_type="glb").geometry
    outer = next(one for one in question["choices"] if one["id"] == "outer")
    wish = {**asked["wish"], outer["field"]: outer["value"]}
    change = {"version": asked["version"], "wish": wish}
    said = surveyed(client, client.put(f"{API}/pieces/{asked['id']}/survey", json=change))
    assert (said["survey"]["asks"], said["wish"]["skin"]) == ([], "outer")
    assert said["measures"]["area_m2"] == pytest.approx(areas["outer"], rel=1e-2)
    # As it came, it has all its faces.
    file = client.get(f"{API}/pieces/{asked['id']}/file.glb").data
    scene = trimesh.load_scene(io.BytesIO(file), file_type="glb")
    assert scene.geometry["as it came"].area == pytest.approx(areas["all"], rel=1e-3)
