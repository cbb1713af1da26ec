"""Meshes as files: binary glTF for the 3D view, packed arrays for the store."""

import io

import numpy as np
import trimesh

from mildhusk.core.geometry.mesh import Mesh

CASTING_FACE, LEFT_OUT = "casting face", "left out"


def meshes_to_glb(face: Mesh, left_out: Mesh | None) -> bytes:
    """Return casting face and what was left out, named, as one binary glTF in metres."""
    scene = trimesh.Scene()
    scene.add_geometry(_model(face), geom_name=CASTING_FACE, node_name=CASTING_FACE)
    if left_out is not None:
        scene.add_geometry(_model(left_out), geom_name=LEFT_OUT, node_name=LEFT_OUT)
    content: bytes = scene.export(file_type="glb")
    return content


def _model(mesh: Mesh) -> trimesh.Trimesh:
    return trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False)


def pack_meshes(face: Mesh, left_out: Mesh | None) -> bytes:
    """Return a casting face and what was left out as packed arrays, in single precision."""
    packed = io.BytesIO()
    left = face if left_out is None else left_out
    some = 0 if left_out is None else None
    np.savez_compressed(
        packed,
        vertices=face.vertices.astype(np.float32),
        faces=face.faces.astype(np.int32),
        left_vertices=left.vertices[:some].astype(np.float32),
        left_faces=left.faces[:some].astype(np.int32),
    )
    return packed.getvalue()


def unpack_meshes(content: bytes) -> tuple[Mesh, Mesh | None]:
    """Undo `pack_meshes`."""
    with np.load(io.BytesIO(content), allow_pickle=False) as arrays:
        face = Mesh(arrays["vertices"].astype(np.float64), arrays["faces"].astype(np.int64))
        if len(arrays["left_faces"]) == 0:
            return face, None
        left = arrays["left_vertices"].astype(np.float64), arrays["left_faces"].astype(np.int64)
    return face, Mesh(*left)
