"""The study of a mould as it is kept: a plain document and packed arrays; and as binary glTF."""

import io
from dataclasses import asdict
from typing import Any

import numpy as np

from mildhusk.core.geometry.curve import VolumeCurve
from mildhusk.core.geometry.mesh import Floats, Mesh
from mildhusk.core.geometry.narrow import NarrowPlace
from mildhusk.core.mould.letting_go import Peel, PeelStation
from mildhusk.core.mould.locks import Split
from mildhusk.core.mould.patches import PatchSize
from mildhusk.core.mould.poured import Block
from mildhusk.core.mould.study import MouldStudy, Place
from mildhusk.documents.model import parts_to_glb, some_faces

FREE, LOCKED = "rubber", "locked"
_DIGITS = 5


def pack_study(study: MouldStudy) -> tuple[dict[str, Any], bytes]:
    """Return a study as a document and packed arrays."""
    peel = study.peel
    document = {
        "wall_m": study.wall_m,
        "curve": asdict(study.curve),
        "brushed_m2": study.brushed_m2,
        "outside_m2": study.outside_m2,
        "slope": study.slope,
        "filled": [asdict(one) for one in study.filled],
        "peel": {
            "stations": [asdict(one) for one in peel.stations],
            "needed": peel.needed,
            "allowed": peel.allowed,
            "cut_m": peel.cut_m,
            "cut_line": _rounded(peel.cut_line),
            "teeth": _rounded(peel.teeth),
        },
        "splits": [
            {
                "parts": one.parts,
                "angle": one.angle,
                "locked_m2": one.locked_m2,
                "filler_m3": one.filler_m3,
                "pulls": _rounded(one.pulls),
                "lines": _rounded(one.lines),
            }
            for one in study.splits
        ],
        "block": asdict(study.block),
        "rubber_centre": list(study.rubber_centre),
        "shell_centre": list(study.shell_centre),
        "up": list(study.up),
        "width_m": study.width_m,
        "face_section": _rounded(study.face_section),
        "rubber_section": _rounded(study.rubber_section),
        "patches": [asdict(one) for one in study.patches],
    }
    packed = io.BytesIO()
    np.savez_compressed(
        packed,
        vertices=study.rubber.vertices.astype(np.float32),
        faces=study.rubber.faces.astype(np.int32),
        locked=np.stack([one.locked for one in study.splits]),
    )
    return document, packed.getvalue()


def stretch_used(document: dict[str, Any]) -> float:
    """Return what letting go takes of the stretch that the rubber bears. [1]"""
    peel = document["peel"]
    return float(peel["needed"] / peel["allowed"]) if peel["allowed"] > 0.0 else 0.0


def unpack_study(document: dict[str, Any], packed: bytes) -> MouldStudy:
    """Undo `pack_study`."""
    with np.load(io.BytesIO(packed), allow_pickle=False) as arrays:
        rubber = Mesh(arrays["vertices"].astype(np.float64), arrays["faces"].astype(np.int64))
        locked = arrays["locked"]
    curve, peel = document["curve"], document["peel"]
    return MouldStudy(
        wall_m=document["wall_m"],
        curve=VolumeCurve(
            tuple(curve["walls_m"]),
            tuple(curve["volumes_m3"]),
            curve["relative_error"],
            curve["point_m"],
            tuple(_place(one) for one in curve["centres_m"]),
        ),
        brushed_m2=document["brushed_m2"],
        outside_m2=document["outside_m2"],
        slope=document["slope"],
        filled=tuple(
            NarrowPlace(_place(one["at_m"]), one["width_m"], one["volume_m3"])
            for one in document["filled"]
        ),
        peel=Peel(
            tuple(PeelStation(**one) for one in peel["stations"]),
            peel["needed"],
            peel["allowed"],
            peel["cut_m"],
            _points(peel["cut_line"], 3),
            _points(peel["teeth"], 3),
        ),
        splits=tuple(
            Split(
                one["parts"],
                one["angle"],
                locked[at],
                one["locked_m2"],
                one["filler_m3"],
                _points(one["pulls"], 3),
                _points(one["lines"], 2, 3),
            )
            for at, one in enumerate(document["splits"])
        ),
        rubber=rubber,
        block=Block(**document["block"]),
        rubber_centre=_place(document["rubber_centre"]),
        shell_centre=_place(document["shell_centre"]),
        up=_place(document["up"]),
        width_m=document["width_m"],
        face_section=_points(document["face_section"], 2, 2),
        rubber_section=_points(document["rubber_section"], 2, 2),
        patches=tuple(PatchSize(**one) for one in document.get("patches", [])),
    )


def split_to_glb(study: MouldStudy, split: Split) -> bytes:
    """Return the outside of the rubber as binary glTF: what lets a shell go and what locks it."""
    parts = {FREE: some_faces(study.rubber, ~split.locked)}
    parts[LOCKED] = some_faces(study.rubber, split.locked)
    return parts_to_glb({name: mesh for name, mesh in parts.items() if mesh is not None})


def _rounded(values: Floats) -> list[Any]:
    rounded: list[Any] = np.round(values, _DIGITS).tolist()
    return rounded


def _points(values: list[Any], *shape: int) -> Floats:
    return np.array(values, dtype=np.float64).reshape(-1, *shape)


def _place(values: list[float]) -> Place:
    x, y, z = values
    return (x, y, z)
