"""A mesh as GLB, for the 3D view."""

import numpy as np
import trimesh

from mildhusk.core.geometry.mesh import Mesh


def mesh_to_glb(mesh: Mesh) -> bytes:
    """Return a mesh as binary glTF, in metres, single precision."""
    model = trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False)
    content: bytes = trimesh.Scene(model).export(file_type="glb")
    return content
