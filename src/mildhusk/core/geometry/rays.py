"""Rays against a mesh, by the fast ray library; single precision, which every use allows for."""

from collections.abc import Iterator

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh
from numpy.typing import NDArray

from mildhusk.core.geometry.mesh import Flags, Floats, Integers, Mesh

Singles = NDArray[np.float32]

# Rays at once: keeps memory low.
_BATCH = 500_000


class Caster:
    """A mesh made ready for rays.

    Parameters
    ----------
    mesh : Mesh
        Scaled inside to about one, so that single precision suffices.
    """

    def __init__(self, mesh: Mesh) -> None:
        low, _ = mesh.bounds
        self._origin = low
        self._scale = 1.0 / float(mesh.extents.max())
        triangles = (mesh.vertices - low)[mesh.faces] * self._scale
        self._scene = rtcore_scene.EmbreeScene()
        # The scene does not keep what it was built from; this does.
        self._kept = TriangleMesh(self._scene, triangles.astype(np.float32))

    def blocked(self, starts: Floats, directions: Floats) -> Flags:
        """Whether a ray hits anything: (n,) bool."""
        made = [
            self._scene.run(origin, towards, query="OCCLUDED") >= 0
            for origin, towards in self._batches(starts, directions)
        ]
        return np.concatenate(made)

    def hits(self, starts: Floats, directions: Floats) -> tuple[Integers, Floats]:
        """Return the first face each ray hits, -1 for none, and how far it is. (n,), (n,) [m]"""
        faces, far = [], []
        for origin, towards in self._batches(starts, directions):
            found = self._scene.run(origin, towards, query="INTERSECT", output=True)
            faces.append(found["primID"].astype(np.int64))
            far.append(found["tfar"].astype(np.float64) / self._scale)
        return np.concatenate(faces), np.concatenate(far)

    def _batches(self, starts: Floats, directions: Floats) -> Iterator[tuple[Singles, Singles]]:
        for at in range(0, max(1, len(starts)), _BATCH):
            part = slice(at, at + _BATCH)
            origin = (starts[part] - self._origin) * self._scale
            yield origin.astype(np.float32), directions[part].astype(np.float32)
