"""Meshes as files: binary glTF for the 3D view, packed arrays for the store."""

import io
from dataclasses import dataclass

import numpy as np
import trimesh

from mildhusk.core.geometry.face_kinds import FaceKind, Kinds, is_waste
from mildhusk.core.geometry.mesh import Flags, Floats, Mesh

CASTING_FACE, NARROW, LEFT_OUT = "casting face", "narrow", "left out"
FILE = "as it came"
_KINDS = {
    FaceKind.CUT_AWAY: "cut away",
    FaceKind.IN_QUESTION: "in question",
    FaceKind.CLOSED: "closed",
    FaceKind.REPAIRED: "repaired",
}


@dataclass(frozen=True, slots=True, eq=False)
class PieceModel:
    """What is drawn of a piece.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    kinds : (m,) uint8
        What each of its faces is, by `FaceKind`.
    narrow : (m,) bool
        Which of them stand at a narrow place.
    left_out : Mesh or None
        Faces of the file that are no casting face. [m]
    """

    face: Mesh
    kinds: Kinds
    narrow: Flags
    left_out: Mesh | None

    @property
    def cut_away(self) -> Flags:
        """Which of its faces become waste."""
        return is_waste(self.kinds)


def model_to_glb(model: PieceModel) -> bytes:
    """Return the parts of a piece, each under its name, as one binary glTF in metres."""
    casting = model.kinds == FaceKind.CASTING
    parts = {
        CASTING_FACE: some_faces(model.face, casting & ~model.narrow),
        NARROW: some_faces(model.face, casting & model.narrow),
        **{name: some_faces(model.face, model.kinds == kind) for kind, name in _KINDS.items()},
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
        kinds=model.kinds,
        narrow=model.narrow,
        left_vertices=left.vertices[:some].astype(np.float32),
        left_faces=left.faces[:some].astype(np.int32),
    )
    return packed.getvalue()


def unpack_model(content: bytes) -> PieceModel:
    """Undo `pack_model`."""
    with np.load(io.BytesIO(content), allow_pickle=False) as arrays:
        face = Mesh(arrays["vertices"].astype(np.float64), arrays["faces"].astype(np.int64))
        none = np.zeros(len(face.faces), dtype=bool)
        narrow = arrays.get("narrow", none)
        # An earlier version kept nothing else, or what is cut away alone.
        kinds = arrays.get("kinds", arrays.get("cut_away", none).astype(np.uint8))
        left: tuple[Floats, ...] = (arrays["left_vertices"], arrays["left_faces"])
    left_out = None
    if len(left[1]):
        left_out = Mesh(left[0].astype(np.float64), left[1].astype(np.int64))
    return PieceModel(face, kinds, narrow, left_out)
