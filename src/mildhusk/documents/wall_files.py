"""The wall of a cast as files: packed arrays, binary glTF, PLY, CSV."""

import csv
import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import trimesh

from mildhusk.core.geometry.mesh import Floats, Mesh, face_frames

if TYPE_CHECKING:  # the flow is slow to load, and files need nothing of it
    from mildhusk.core.coating.coats import Coated, Moment

SCALE_ENDS = 1.5
"""What is so many times the target is drawn as the thickest."""
_SCALE = np.array(
    [(20, 30, 80), (60, 78, 120), (110, 118, 125), (165, 158, 118), (220, 205, 95), (252, 232, 80)],
    dtype=np.float64,
)
"""Dark blue to yellow, even in lightness: it reads in grey and to the colour-blind."""


@dataclass(frozen=True, slots=True, eq=False)
class WallModel:
    """A casting face with its coats, without lids.

    Parameters
    ----------
    mesh : Mesh
        [m]
    coats_m : (k, m) float
        What each coat added on each face, along its normal. [m]
    """

    mesh: Mesh
    coats_m: Floats

    @property
    def wall_m(self) -> Floats:
        """All coats together on each face. [m]"""
        return np.asarray(self.coats_m.sum(axis=0))


def wall_model(mould: "Coated") -> WallModel:
    """Return what is kept of a cast: what each coat added along the normals."""
    from mildhusk.core.coating.answer import walls_after_coats

    on_face = ~mould.grid.lid
    mesh = Mesh(mould.grid.mesh.vertices, np.asarray(mould.grid.mesh.faces[on_face]))
    return WallModel(mesh, np.diff(walls_after_coats(mould), axis=0)[:, on_face])


def pack_wall(model: WallModel) -> bytes:
    """Return it as packed arrays, in single precision."""
    packed = io.BytesIO()
    np.savez_compressed(
        packed,
        vertices=model.mesh.vertices.astype(np.float32),
        faces=model.mesh.faces.astype(np.int32),
        coats=model.coats_m.astype(np.float32),
    )
    return packed.getvalue()


def unpack_wall(content: bytes) -> WallModel:
    """Undo `pack_wall`."""
    with np.load(io.BytesIO(content), allow_pickle=False) as arrays:
        mesh = Mesh(arrays["vertices"].astype(np.float64), arrays["faces"].astype(np.int64))
        return WallModel(mesh, arrays["coats"].astype(np.float64))


def pack_films(mould: "Coated", played: Sequence[Sequence["Moment"]]) -> bytes:
    """Return what each coat looked like on its way as packed arrays; see `film_file`.

    The liquid on a corner is kept as a byte: the root of its share of the thickest, so that thin
    films are told apart best.
    """
    on_face = ~mould.grid.lid
    mesh = Mesh(mould.grid.mesh.vertices, np.asarray(mould.grid.mesh.faces[on_face]))
    kept = {}
    for number, moments in enumerate(played, start=1):
        if not moments:
            continue
        liquid = np.stack([corner_walls(mesh, one.liquid_m[on_face]) for one in moments])
        most = max(float(np.quantile(liquid, 0.999)), 1e-9)
        kept[f"liquid_{number}"] = np.rint(255 * np.sqrt(np.clip(liquid / most, 0, 1))).astype(
            np.uint8
        )
        kept[f"most_{number}"] = np.array([most])
        kept[f"t_{number}"] = np.array([one.t_s for one in moments])
        kept[f"up_{number}"] = np.stack([one.up for one in moments])
    packed = io.BytesIO()
    np.savez_compressed(packed, **kept)
    return packed.getvalue()


def film_file(content: bytes, coat: int) -> bytes | None:
    """Return one coat of packed films as a file to play, or None where it was not simulated.

    The file is a line of JSON (moments, where up is seen from the piece, the thickest film in
    metres, how many corners) and then, moment after moment, a byte for every corner of the wall's
    model: 255 times the root of the film over the thickest.
    """
    with np.load(io.BytesIO(content), allow_pickle=False) as arrays:
        if f"liquid_{coat}" not in arrays:
            return None
        liquid = arrays[f"liquid_{coat}"]
        head = {
            "t_s": arrays[f"t_{coat}"].round(2).tolist(),
            "up": arrays[f"up_{coat}"].round(5).tolist(),
            "most_m": float(arrays[f"most_{coat}"][0]),
            "corners": liquid.shape[1],
        }
    return json.dumps(head).encode() + b"\n" + np.ascontiguousarray(liquid).tobytes()


def frame_file(head: Mapping[str, object], mesh: Mesh, wall_m: Floats, most_m: float) -> bytes:
    """Return one moment of a coat as a file: a line of JSON, then a byte for every corner.

    Parameters
    ----------
    head : mapping
        What the line tells beside `most_m` and `corners`.
    mesh : Mesh
    wall_m : (m,) float
        What lies on each face. [m]
    most_m : float
        What is as thick or thicker has 255; the byte is 255 times the root of the share. [m]
    """
    share = np.clip(corner_walls(mesh, wall_m) / most_m, 0.0, 1.0)
    told = {**head, "most_m": most_m, "corners": len(mesh.vertices)}
    return json.dumps(told).encode() + b"\n" + bytes(np.rint(255 * np.sqrt(share)).astype(np.uint8))


def corner_walls(mesh: Mesh, wall_m: Floats) -> Floats:
    """Return the wall at each corner, the mean of its faces' by area, (n,). [m]"""
    corners = mesh.faces.reshape(-1)
    area = np.repeat(face_frames(mesh)[2], 3)
    whole = np.bincount(corners, area, minlength=len(mesh.vertices))
    summed = np.bincount(corners, np.repeat(wall_m, 3) * area, minlength=len(mesh.vertices))
    return np.asarray(summed / np.maximum(whole, 1e-300))


def colours_of(wall_m: Floats, target_m: float) -> Floats:
    """Return the colour of each wall, (n, 3), 0 to 255."""
    share = np.clip(wall_m / max(target_m, 1e-9) / SCALE_ENDS, 0.0, 1.0) * (len(_SCALE) - 1)
    at = np.arange(len(_SCALE))
    return np.stack([np.interp(share, at, _SCALE[:, k]) for k in range(3)], axis=1)


def _coloured(model: WallModel, target_m: float, scale: float) -> trimesh.Trimesh:
    colours = colours_of(corner_walls(model.mesh, model.wall_m), target_m)
    return trimesh.Trimesh(
        model.mesh.vertices * scale,
        np.asarray(model.mesh.faces),
        vertex_colors=np.rint(colours).astype(np.uint8),
        process=False,
    )


def wall_ply(model: WallModel, target_m: float) -> bytes:
    """Return the casting face in millimetres with `wall_mm` and a colour on every corner."""
    mesh = _coloured(model, target_m, 1e3)
    mesh.vertex_attributes["wall_mm"] = (corner_walls(model.mesh, model.wall_m) * 1e3).astype(
        np.float32
    )
    content = mesh.export(file_type="ply")
    assert isinstance(content, bytes)
    return content


def wall_glb(model: WallModel, target_m: float) -> bytes:
    """Return the casting face in metres, coloured, with the wall and each coat on every corner."""
    mesh = _coloured(model, target_m, 1.0)
    mesh.vertex_attributes["_WALL"] = corner_walls(model.mesh, model.wall_m).astype(np.float32)
    for number, coat in enumerate(model.coats_m, start=1):
        mesh.vertex_attributes[f"_COAT_{number}"] = corner_walls(model.mesh, coat).astype(
            np.float32
        )
    return _glb(mesh)


def read_wall_glb(model: WallModel, target_m: float, ratio: Floats | None) -> bytes:
    """Return the casting face in metres with the wall as simulated, and as it was read.

    Parameters
    ----------
    model : WallModel
    target_m : float
        [m]
    ratio : (n,) float or None
        Read over simulated wall at every corner; None where nothing was read. [1]
    """
    simulated = corner_walls(model.mesh, model.wall_m)
    mesh = _coloured(model, target_m, 1.0)
    mesh.vertex_attributes["_SIMULATED"] = simulated.astype(np.float32)
    if ratio is not None:
        mesh.vertex_attributes["_READ"] = (simulated * ratio).astype(np.float32)
        mesh.vertex_attributes["_DIFFERENCE"] = (simulated * (ratio - 1.0)).astype(np.float32)
    return _glb(mesh)


def _glb(mesh: trimesh.Trimesh) -> bytes:
    scene = trimesh.Scene()
    scene.add_geometry(mesh, geom_name="wall", node_name="wall")
    content: bytes = scene.export(file_type="glb")
    return content


def wall_csv(model: WallModel) -> bytes:
    """Return a row a face: its middle, area, wall and each coat."""
    centre, _, area = face_frames(model.mesh)
    text = io.StringIO()
    rows = csv.writer(text)
    coats = [f"coat_{number}_mm" for number in range(1, len(model.coats_m) + 1)]
    rows.writerow(["face", "x_mm", "y_mm", "z_mm", "area_mm2", "wall_mm", *coats])
    values = np.column_stack([centre * 1e3, area * 1e6, model.wall_m * 1e3, *(model.coats_m * 1e3)])
    rows.writerows([face, *(f"{one:.4f}" for one in row)] for face, row in enumerate(values))
    # The mark lets spreadsheets see that it is UTF-8.
    return text.getvalue().encode("utf-8-sig")
