"""Meshes with known measures, in metres, made by a general mesh library or by hand."""

import numpy as np
import trimesh

from mildhusk.core.geometry.mesh import Mesh, join_corners
from mildhusk.core.geometry.reading import read_stl


def joined(model: trimesh.Trimesh) -> Mesh:
    """A library mesh as ours, corners joined."""
    return join_corners(np.asarray(model.triangles))


def sphere(radius: float, count: int = 200) -> Mesh:
    return joined(trimesh.creation.uv_sphere(radius=radius, count=[count, count]))


def cylinder(radius: float, height: float) -> Mesh:
    return joined(trimesh.creation.cylinder(radius, height, sections=720))


def cone(radius: float, height: float) -> Mesh:
    return joined(trimesh.creation.cone(radius, height, sections=720))


def torus(major: float, minor: float) -> Mesh:
    return joined(trimesh.creation.torus(major, minor, major_sections=360, minor_sections=180))


def box(*sides: float) -> Mesh:
    return joined(trimesh.creation.box(sides))


def tube(radius: float, height: float) -> Mesh:
    """A cylinder without ends: open above and below."""
    return turned([(radius, 0.0), (radius, height)])


def half_sphere(radius: float, rings: int = 120) -> Mesh:
    """The upper half of a sphere, open below."""
    angle = np.linspace(0.0, np.pi / 2.0, rings)[:-1]
    return turned(
        [*zip(radius * np.cos(angle), radius * np.sin(angle), strict=True), (0.0, radius)],
        3 * rings,
    )


def turned(profile: list[tuple[float, float]], sections: int = 600) -> Mesh:
    """A profile of (radius, height), from below, turned about the axis; open at its ends."""
    angle = np.linspace(0.0, 2.0 * np.pi, sections, endpoint=False)
    circle = np.c_[np.cos(angle), np.sin(angle)]
    rings = [np.c_[r * circle, np.full(sections, z)] for r, z in profile]
    k = np.arange(sections)
    after = (k + 1) % sections
    faces = []
    for ring in range(len(profile) - 1):
        low, high = ring * sections, (ring + 1) * sections
        faces += [
            np.c_[low + k, low + after, high + k],
            np.c_[low + after, high + after, high + k],
        ]
    mesh = Mesh(np.concatenate(rings), np.concatenate(faces))
    return join_corners(mesh.vertices[mesh.faces])


def stl_bytes(mesh: Mesh, *, ascii_text: bool = False) -> bytes:
    """A mesh as an STL file, written by the library."""
    model = trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False)
    content = model.export(file_type="stl_ascii" if ascii_text else "stl")
    return content.encode() if isinstance(content, str) else content


def reread(mesh: Mesh) -> Mesh:
    return read_stl(stl_bytes(mesh))
