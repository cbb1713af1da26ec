"""The wall of a sheet's cast: asked of a worker, kept by content, given out as files."""

import csv
import dataclasses
import io
import json
import re
import zlib
from typing import ClassVar

import numpy as np
import pytest
import trimesh

from api.conftest import API, WISH, assert_problem
from mildhusk.api.common import Backstage, set_backstage
from mildhusk.store.tables import JobStatus

ASKED = {"motion": "machine", "capped": True, "edge_m": 0.009}


@pytest.fixture
def sheet(client, piece, resin):
    body = {
        "name": "Seen through",
        "piece_id": piece["id"],
        "material_id": resin("pu-fast-rigid")["id"],
        "wish": WISH,
    }
    return client.post(f"{API}/sheets", json=body).json


def wall(client, sheet, **change):
    return client.post(f"{API}/sheets/{sheet['id']}/wall", json={**ASKED, **change})


@pytest.fixture
def run(client, sheet):
    asked = wall(client, sheet).json
    assert asked["run"] is None
    job = client.get(f"{API}/jobs/{asked['job']['id']}").json
    assert (job["status"], job["kind"]) == ("done", "coat"), job["said"]
    return wall(client, sheet).json["run"]


def test_a_wall_is_computed_once_and_adds_up(client, sheet, run):
    assert run["wall"]["estimate"]
    assert run["wall"]["mass_error"] < 1e-9
    poured = sum(one["charge_kg"] for one in run["wall"]["coats"])
    assert run["wall"]["cast_kg"] + run["wall"]["lid_kg"] + run["wall"][
        "spilt_kg"
    ] == pytest.approx(poured, rel=1e-6)
    plan = client.get(f"{API}/sheets/{sheet['id']}").json["plan"]
    assert len(run["wall"]["coats"]) == len(plan["coats"])
    assert poured == pytest.approx(0.95 * plan["total_charge_kg"], rel=1e-9)
    again = wall(client, sheet).json
    assert (again["run"]["id"], again["job"]) == (run["id"], None)
    # Another sheet with the same in it has the same wall.
    copy = {name: sheet[name] for name in ("name", "piece_id", "material_id", "wish")}
    other = client.post(f"{API}/sheets", json={**copy, "name": "The same"}).json
    assert wall(client, other).json["run"]["id"] == run["id"]
    assert wall(client, sheet, motion="still").json["run"] is None


def test_the_files_say_the_same(client, run):
    glb, ply, table = (
        client.get(f"{API}/walls/{run['id']}/wall.{kind}") for kind in ("glb", "ply", "csv")
    )
    scene = trimesh.load(io.BytesIO(glb.data), file_type="glb")
    (shown,) = scene.geometry.values()
    assert 0 < len(shown.faces) <= run["wall"]["faces"]
    length = int.from_bytes(glb.data[12:16], "little")
    primitive = json.loads(glb.data[20 : 20 + length])["meshes"][0]["primitives"][0]
    assert {"_WALL", "_COAT_1"} <= primitive["attributes"].keys()
    cast = trimesh.load(io.BytesIO(ply.data), file_type="ply", process=False)
    assert cast.extents == pytest.approx(1e3 * shown.extents, rel=1e-5)
    rows = list(csv.DictReader(io.StringIO(table.data.decode("utf-8-sig"))))
    assert len(rows) == len(shown.faces)
    area, whole = (np.array([float(row[name]) for row in rows]) for name in ("area_mm2", "wall_mm"))
    assert (area @ whole) / area.sum() == pytest.approx(1e3 * run["wall"]["mean_m"], rel=1e-3)
    first = [float(row["coat_1_mm"]) for row in rows]
    assert np.average(first, weights=area) == pytest.approx(
        1e3 * run["wall"]["coats"][0]["mean_m"], rel=1e-3
    )


def test_the_wall_goes_on_one_page(client, run):
    content = client.get(f"{API}/walls/{run['id']}/wall.pdf").data
    assert content.startswith(b"%PDF")
    # The tree of pages lies in a packed stream.
    streams = re.findall(rb"stream\r?\n(.*?)endstream", content, re.DOTALL)
    unpacked = b"".join(_unpacked(one) for one in streams)
    assert len(re.findall(rb"/Type\s*/Page\b(?!s)", unpacked)) == 1


def _unpacked(stream):
    try:
        return zlib.decompress(stream)
    except zlib.error:
        return b""


def test_trying_is_stopped_and_what_was_stopped_is_only_tried_again_when_asked(client, sheet):
    class Nobody:
        """A queue without a worker."""

        waiting: ClassVar[dict[int, JobStatus]] = {}

        def put(self, session, job_id, lock, kind):
            self.waiting[len(self.waiting) + 1] = JobStatus.WAITING
            return len(self.waiting)

        def states(self, session, numbers):
            return {number: self.waiting[number] for number in numbers if number in self.waiting}

        def cancel(self, session, number):
            self.waiting[number] = JobStatus.CANCELLED

    (before,) = (one for one in client.application.extensions.values() if type(one) is Backstage)
    set_backstage(client.application, dataclasses.replace(before, queue=Nobody()))

    def ask(**change):
        body = {"motion": "machine", "capped": True, **change}
        found = client.post(f"{API}/sheets/{sheet['id']}/charges", json=body).json
        return found["open"], {one["status"] for one in found["ways"]}

    several, status = ask()
    assert several > 4
    assert status == {"waiting"}
    assert ask(stop=True) == (0, {"cancelled"})
    assert ask() == (0, {"cancelled"})
    assert ask(again=True) == (several, {"waiting"})


def test_a_coat_is_played_back_from_the_pour_until_it_has_set(client, run):
    answer = client.get(f"{API}/walls/{run['id']}/coats/1/film")
    head, _, liquid = answer.data.partition(b"\n")
    told = json.loads(head)
    assert len(told["t_s"]) == len(told["up"]) > 20
    assert len(liquid) == len(told["t_s"]) * told["corners"]
    assert told["t_s"] == sorted(told["t_s"])
    assert np.linalg.norm(told["up"], axis=1) == pytest.approx(1.0, abs=1e-4)
    assert_problem(client.get(f"{API}/walls/{run['id']}/coats/9/film"), 404, "Coat 9 of this wall")


def test_motions_are_tried_and_the_gain_is_told_honestly(client, sheet):
    def ask(**change):
        body = {"by_hand": False, "capped": True, **change}
        return client.post(f"{API}/sheets/{sheet['id']}/motions", json=body).json

    # Here a job is done while it is asked for; the next asking finds its wall.
    ask()
    ask()
    found = ask()
    assert found["open"] == 0
    coats = {one["coats"] for one in found["ways"]}
    assert len(coats) >= 2, "the best is tried with a coat less and more"
    # And with a first coat that is heavier or lighter, of the same resin in all.
    usual = client.get(f"{API}/sheets/{sheet['id']}").json["plan"]
    split = {one["lead"]: one for one in found["ways"] if one["lead"] != 1.0}
    assert sorted(split) == pytest.approx([2.0 / 3.0, 1.5])
    heavy = split[1.5]
    each = 0.95 * usual["total_charge_kg"] / (heavy["coats"] + 0.5)
    assert heavy["charge_kg"] == pytest.approx(1.5 * each, rel=1e-9)
    assert "the first 1.5 × the others" in heavy["split"]
    thin = [one["p05_m"] for one in found["ways"]]
    assert thin == sorted(thin, reverse=True)
    assert "with the same resin 95 %" in found["said"] or "none is better" in found["said"]
    assert ask(stop=True) == found


def test_charges_are_tried_until_they_reach_everywhere_and_until_they_puddle(client, sheet):
    body = {"motion": "machine", "capped": True}
    client.post(f"{API}/sheets/{sheet['id']}/charges", json=body)
    found = client.post(f"{API}/sheets/{sheet['id']}/charges", json=body).json
    assert found["open"] == 0
    charges = [one["charge_kg"] for one in found["ways"]]
    assert charges == sorted(charges)
    reached = [one["reached"] for one in found["ways"]]
    assert found["smallest_kg"] is not None
    assert all(
        share >= 0.999
        for kg, share in zip(charges, reached, strict=True)
        if kg == found["smallest_kg"]
    )
    assert found["largest_kg"] is None or found["largest_kg"] in charges


def test_what_is_poured_out_is_told_when_and_how_much(client, sheet):
    job = wall(client, sheet, capped=False).json["job"]
    told = client.get(f"{API}/jobs/{job['id']}").json
    assert told["status"] == "refused"
    assert "run out over the rim within" in told["said"]
    assert told["field"] == "motion"


def test_a_wall_that_cannot_be_is_refused(client, sheet, piece):
    assert_problem(wall(client, sheet, motion="shake"), 422, "There is no motion 'shake'")
    assert_problem(wall(client, sheet, lead=9.0), 422, "first coat", "lead")
    assert_problem(wall(client, sheet, edge_m=0.0001), 422, "0.1 mm", "edge_m")
    assert_problem(wall(client, sheet, coats=0), 422, "coats", "coats")
    assert_problem(wall(client, sheet, coats=10_000), 422, "coats", "coats")
    assert_problem(wall(client, sheet, share=-1.0), 422, "share", "share")


def test_the_motions_are_listed_with_what_they_are_for(client):
    found = client.get(f"{API}/motions").json["motions"]
    assert len(found) >= 5
    assert {"machine", "rim-first-roll"} <= {one["name"] for one in found}
    assert all(one["says"].endswith(".") for one in found)
    assert {one["name"] for one in found if one["needs_lid"]} == {"slow-tumble", "machine"}
