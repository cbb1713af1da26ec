"""Meshes as files: binary glTF for the 3D view, packed arrays for the store."""

import io
from dataclasses import dataclass

import numpy as np
import trimesh

from mildhusk.core.geometry.mesh import Flags, Floats, Mesh

CASTING_FACE, CUT_AWAY, NARROW, LEFT_OUT = "casting face", "cut away", "narrow", "left out"
IN_QUESTION = "in question"


@dataclass(frozen=True, slots=True, eq=False)
class PieceModel:
    """What is drawn of a piece.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    cut_away, narrow, doubtful : (m,) bool
        Which of its faces become waste, which stand at a narrow place, and which an answer that
        nobody has given yet would leave out.
    left_out : Mesh or None
        Faces of the file that are no casting face. [m]
    """

    face: Mesh
    cut_away: Flags
    narrow: Flags
    doubtful: Flags
    left_out: Mesh | None


def model_to_glb(model: PieceModel) -> bytes:
    """Return the parts of a piece, each under its name, as one binary glTF in metres."""
    plain = ~model.cut_away & ~model.narrow & ~model.doubtful
    parts = {
        CASTING_FACE: some_faces(model.face, plain),
        CUT_AWAY: some_faces(model.face, model.cut_away),
        IN_QUESTION: some_faces(model.face, model.doubtful & ~model.cut_away),
        NARROW: some_faces(model.face, model.narrow & ~model.cut_away & ~model.doubtful),
        LEFT_OUT: model.left_out,
    }
    return parts_to_glb({name: mesh for name, mesh in parts.items() if mesh is not None})


def mesh_to_glb(mesh: Mesh) -> bytes:
    """Return one casting face as binary glTF in metres."""
    return parts_to_glb({CASTING_FACE: mesh})


def parts_to_glb(parts: dict[str, Mesh]) -> bytes:
    """Return meshes, each under its name, as one binary glTF in metres."""
    scene = trimesh.Scene()
    for name, mesh in parts.items():
        model = trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False)
        scene.add_geometry(model, geom_name=name, node_name=name)
    content: bytes = scene.export(file_type="glb")
    return content


def some_faces(mesh: Mesh, faces: Flags) -> Mesh | None:
    """Return some faces of a mesh with their corners; None of none."""
    if not faces.any():
        return None
    used, corner = np.unique(mesh.faces[faces], return_inverse=True)
    return Mesh(mesh.vertices[used], corner.reshape(-1, 3))


def pack_model(model: PieceModel) -> bytes:
    """Return a piece as packed arrays, in single precision."""
    packed = io.BytesIO()
    left = model.face if model.left_out is None else model.left_out
    some = 0 if model.left_out is None else None
    np.savez_compressed(
        packed,
        vertices=model.face.vertices.astype(np.float32),
        faces=model.face.faces.astype(np.int32),
        cut_away=model.cut_away,
        narrow=model.narrow,
        doubtful=model.doubtful,
        left_vertices=left.vertices[:some].astype(np.float32),
        left_faces=left.faces[:some].astype(np.int32),
    )
    return packed.getvalue()


def unpack_model(content: bytes) -> PieceModel:
    """Undo `pack_model`."""
    with np.load(io.BytesIO(content), allow_pickle=False) as arrays:
        face = Mesh(arrays["vertices"].astype(np.float64), arrays["faces"].astype(np.int64))
        # Pieces of an earlier version carry neither.
        none = np.zeros(len(face.faces), dtype=bool)
        cut_away, narrow, doubtful = (
            arrays.get(name, none) for name in ("cut_away", "narrow", "doubtful")
        )
        left: tuple[Floats, ...] = (arrays["left_vertices"], arrays["left_faces"])
    left_out = None
    if len(left[1]):
        left_out = Mesh(left[0].astype(np.float64), left[1].astype(np.int64))
    return PieceModel(face, cut_away, narrow, doubtful, left_out)
