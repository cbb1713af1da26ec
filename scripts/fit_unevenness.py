"""Fit the instant estimate of how uneven a cast comes out to a designed set of simulated casts.

Heads, half masks, vessels and eggs of ours, in three resins, on a machine with a lid: each cast is
planned, simulated and measured. The weights go to src/mildhusk/core/casting/unevenness.json; the
band is what nine of ten casts stay within whose shape the fit had not seen. Takes a quarter of an
hour on two cores.
"""

import io
import json
import math
import sys
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import trimesh

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from core.soft_shapes import bust_stl, half_mask_stl, helmet_stl  # noqa: E402
from mildhusk.core.casting.plan import plan_cast  # noqa: E402
from mildhusk.core.casting.planner import Piece, unevenness_of, wall_of  # noqa: E402
from mildhusk.core.casting.settling import bare_mould, coat_sheet  # noqa: E402
from mildhusk.core.casting.unevenness import (  # noqa: E402
    THINNEST_BY_HAND,
    THINNEST_SHARE,
    StandsOn,
    Unevenness,
    features_of,
)
from mildhusk.core.casting.wish import CastWish  # noqa: E402
from mildhusk.core.coating.motion import motion_named  # noqa: E402
from mildhusk.core.coating.turning import HowTurned, LeastWall  # noqa: E402
from mildhusk.core.geometry.mesh import Mesh  # noqa: E402
from mildhusk.core.geometry.survey import survey  # noqa: E402
from mildhusk.core.geometry.survey_options import SurveyWish  # noqa: E402
from mildhusk.core.materials.catalogue import shipped_resin  # noqa: E402
from mildhusk.demo.shapes import Field, Points, carve, ellipsoid, horn, join, meshed  # noqa: E402

DATA = ROOT / "src/mildhusk/core/casting/unevenness.json"
RESINS = ("pu-fast-rigid", "pu-semi-rigid", "pu-light-filled")
WISH = CastWish(wall_m=0.003, room_temperature_k=296.15, motion="machine", lid=True)
EDGE_M = 0.005
GUESS = Unevenness(0.65, 0.1, 0.0, 0.2, StandsOn.FIRST_LOOK)
RIDGE = 0.01


def head(seed: int) -> bytes:
    """A head or a helmet: with or without neck, shoulders, comb, ears, beak and eyes."""
    chance = np.random.default_rng(seed)
    wide, deep, tall = chance.uniform((70, 85, 90), (110, 125, 130))
    eyes, comb, neck, ears, beak = chance.uniform(size=5) < (0.7, 0.5, 0.5, 0.4, 0.4)

    def field(at: Points) -> Field:
        x, y, z = at
        both = (np.abs(x), y, z)
        below = (
            horn(at, (0, -8, -20), (0, -4, 130), wide * 0.75, wide * 0.65)
            if neck
            else ellipsoid(at, (0, -4, 50), (wide * 0.9, deep * 0.9, 100))
        )
        made = join(ellipsoid(at, (0, 0, 150), (wide, deep, tall)), below, 35)
        if neck and seed % 2:
            made = join(made, ellipsoid(at, (0, 0, -4), (wide * 1.3, deep * 0.9, 60)), 40)
        if comb:
            ends = ((0, deep * 0.6, 150 + tall * 0.8), (0, -deep * 0.7, 150 + tall * 0.75))
            made = join(made, horn(at, *ends, 14, 10), 15)
        if ears:
            ends = ((wide * 0.6, 0, 150 + tall * 0.75), (wide * 0.8, -6, 150 + tall * 1.2))
            made = join(made, horn(both, *ends, 17, 7), 14)
        if beak:
            made = join(made, horn(at, (0, deep * 0.9, 140), (0, deep * 1.3, 110), 22, 8), 12)
        if eyes:
            made = carve(made, ellipsoid(both, (34, deep * 0.95, 160), (25, 18, 13)), 8)
        return made

    return meshed(field, (-170, -170, 0), (170, 200, 330), 5.0)


def half_mask(seed: int) -> bytes:
    """A half mask that opens to the back, with a beak of any length."""
    chance = np.random.default_rng(seed)
    wide, deep, tall, beak = chance.uniform((70, 60, 85, 0), (100, 110, 125, 50))

    def field(at: Points) -> Field:
        x, y, z = at
        eyes = ellipsoid((np.abs(x), y, z), (32, deep * 0.9, 25), (22, 16, 13))
        made = carve(ellipsoid(at, (0, 0, 0), (wide, deep, tall)), eyes, 8)
        return join(made, horn(at, (0, deep * 0.9, -10), (0, deep + beak, -40), 16, 7), 9)

    return meshed(field, (-130, 0, -150), (130, 200, 150), 3.6)


def vessel(seed: int) -> bytes:
    """A bottle or a vase, open above."""
    chance = np.random.default_rng(seed)
    radius, height, narrow, long = chance.uniform((35, 100, 0.35, 0.15), (80, 260, 1.0, 0.4))
    half = height * long

    def field(at: Points) -> Field:
        x, y, z = at
        around = np.hypot(x, y)
        body = np.maximum(around - radius, np.abs(z - height / 2) - height / 2)
        shoulder = ellipsoid(at, (0, 0, height), (radius * 0.95, radius * 0.95, radius * 0.8))
        neck = np.maximum(around - radius * narrow, np.abs(z - height - half) - half)
        return join(join(body, shoulder, 12), neck, 10)

    side = radius + 15
    top = height + 2 * half - 6
    return meshed(field, (-side, -side, -8), (side, side, top), max(radius, height / 3) / 22)


def egg(seed: int) -> bytes:
    """An egg, closed or cut open."""
    radii = tuple(np.random.default_rng(seed).uniform(60, 120, 3))
    floor = -8 if seed % 2 else radii[2] * 0.4
    return meshed(
        lambda at: ellipsoid(at, (0, 0, radii[2]), radii),
        (-130, -130, floor), (130, 130, 2 * radii[2] + 10), 5.0,
    )  # fmt: skip


MAKERS: dict[str, Callable[[], bytes]] = {
    "helmet": helmet_stl,
    "mask": half_mask_stl,
    "bust": bust_stl,
    **{f"head {n}": lambda n=n: head(100 + n) for n in range(8)},
    **{f"half mask {n}": lambda n=n: half_mask(200 + n) for n in range(5)},
    **{f"vessel {n}": lambda n=n: vessel(300 + n) for n in range(5)},
    **{f"egg {n}": lambda n=n: egg(400 + n) for n in range(4)},
}


def main() -> None:
    """Simulate, fit, write, and print how far new shapes are off."""
    with ProcessPoolExecutor(2) as pool:
        rows = [row for several in pool.map(rows_of, MAKERS) for row in several]
    weights, band = {}, {}
    opened = np.array([row["lid"] > 0.0 for row in rows])
    shapes = np.array([row["shape"] for row in rows])
    inputs = np.array([row["features"] for row in rows])
    lid = np.array([row["lid"] for row in rows])
    lid_weights = _fit(inputs[opened], np.log(lid[opened]))
    for least in LeastWall:
        thin = np.log(np.clip([row["thin"][least] for row in rows], THINNEST_SHARE, 1.0))
        weights[str(least)] = _fit(inputs, thin)
        off = []
        for shape in MAKERS:
            seen, new = shapes != shape, shapes == shape
            told = inputs[new] @ _fit(inputs[seen], thin[seen])
            told = np.clip(told, math.log(THINNEST_SHARE), 0.0)
            on_lid = np.exp(inputs[new] @ _fit(inputs[seen & opened], np.log(lid[seen & opened])))
            need = -told - np.log1p(-np.where(opened[new], np.minimum(on_lid, 0.5), 0.0))
            off += list(need + thin[new] + np.log1p(-lid[new]))
        band[str(least)] = round(float(np.quantile(np.abs(off), 0.9)), 3)
        print(f"{least}: resin for new shapes within {band[str(least)]:.0%} for nine of ten")
    machine = {"thin": weights, "lid": lid_weights, "spilt": 0.0, "band": band}
    by_hand = _by_hand(len(inputs[0]))
    DATA.write_text(json.dumps({"machine": machine, "by-hand": by_hand}, indent=1) + "\n", "utf-8")


def rows_of(name: str) -> list[dict[str, Any]]:
    """Simulate a shape in every resin; what it came to and what the estimate goes by."""
    model = trimesh.load(io.BytesIO(MAKERS[name]()), file_type="stl")
    assert isinstance(model, trimesh.Trimesh)
    model.merge_vertices()
    mesh = Mesh(np.asarray(model.vertices) * 1e-3, np.asarray(model.faces, dtype=np.int64))
    found = survey(mesh, SurveyWish())
    piece = Piece(found.face, found.cut_away, found.measures)
    bare = bare_mould(piece.face, EDGE_M, capped=True)
    rows = []
    for key in RESINS:
        resin = shipped_resin(key)
        sheet = plan_cast(piece.measures, resin, WISH, None, GUESS)
        how = HowTurned(motion_named("machine"), True, EDGE_M)
        wall = wall_of(piece, sheet, coat_sheet(bare, sheet, how).mould)
        thin = {}
        for least in LeastWall:
            judged = replace(sheet, wish=replace(sheet.wish, least=least))
            thin[str(least)] = unevenness_of(judged, wall).thin_share
        lid = unevenness_of(sheet, wall).lid_share
        rows.append(
            {
                "shape": name,
                "features": features_of(piece.measures, resin),
                "thin": thin,
                "lid": lid,
            }
        )
        print(f"{name}, {key}: {thin}, {lid:.3f} on the lid", flush=True)
    return rows


def _fit(inputs: np.ndarray, wanted: np.ndarray) -> list[float]:
    """Return the weights of least squares, drawn a little towards nought but for the first."""
    spread = np.maximum(inputs.std(axis=0), 1e-9)
    pull = np.diag(np.sqrt(RIDGE * len(inputs)) * spread)[1:]
    rows, values = np.vstack([inputs, pull]), np.r_[wanted, np.zeros(len(pull))]
    return [round(float(one), 5) for one in np.linalg.lstsq(rows, values, rcond=None)[0]]


def _by_hand(features: int) -> dict[str, Any]:
    """By hand, open, the thin places are simulated thinner than is worth pouring for (assumed)."""
    flat = [0.0] * (features - 1)
    thinnest = [round(math.log(THINNEST_BY_HAND), 5), *flat]
    return {
        "thin": {"95%": thinnest, "99%": thinnest, "typical": [-0.1, *flat]},
        "lid": [-3.0, *flat],
        "spilt": 0.015,
        "band": {"95%": 0.2, "99%": 0.2, "typical": 0.25},
    }


if __name__ == "__main__":
    main()
