"""From the bytes of a shape file to a mesh, refusing what is not one."""

import io
import struct
from dataclasses import dataclass

import numpy as np
import trimesh
from numpy.typing import NDArray
from trimesh.exchange.stl import load_stl

from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.errors import MeshFileError, MeshTooLargeError
from mildhusk.core.geometry.announced import announced
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.mesh import Mesh, join_corners
from mildhusk.core.geometry.ply_file import ply_triangles
from mildhusk.core.geometry.polygon_files import (
    as_text,
    obj_triangles,
    off_triangles,
    without_mark,
)

_HEADER_BYTES = 80
_COUNT_BYTES = 4
_FACE_BYTES = 50


MOST_FACES = 2_000_000
"""More than any master needs; far below what stalls a worker."""

MOST_VERTICES = 3 * MOST_FACES
"""As many as faces that share no corner have."""
OTHER_FORMATS = ("obj", "ply", "glb", "3mf", "off")
"""File endings read beside STL."""


@dataclass(frozen=True, slots=True, eq=False)
class ReadShape:
    """What was read of a file.

    Parameters
    ----------
    mesh : Mesh
        In `unit`, or in an unknown one.
    unit : LengthUnit or None
        What the file says or its format lays down; None where neither does.
    """

    mesh: Mesh
    unit: LengthUnit | None


# Of 3MF: core specification 1.3, table of ST_Unit (from memory); what is no unit of ours is told
# in the one beside it.
_UNITS_OF_3MF = {
    "micron": (LengthUnit.MILLIMETRE, 1e-3),
    "millimeter": (LengthUnit.MILLIMETRE, 1.0),
    "centimeter": (LengthUnit.CENTIMETRE, 1.0),
    "inch": (LengthUnit.INCH, 1.0),
    "foot": (LengthUnit.INCH, 12.0),
    "meter": (LengthUnit.METRE, 1.0),
}


def read_shape(content: bytes, file_name: str) -> ReadShape:
    """Read a shape file of any known kind, told by its name's ending.

    Parameters
    ----------
    content : bytes
        The whole file.
    file_name : str

    Returns
    -------
    ReadShape

    Raises
    ------
    MeshTooLargeError
        Above the size limit, or with too many faces.
    MeshFileError
        An unknown kind, or a file that cannot be read as its kind.

    Notes
    -----
    A 3MF says its unit and is in millimetres where it does not; a GLB is in metres (glTF 2.0,
    section 3.4, from memory).
    """
    ending = file_name.rpartition(".")[2].lower()
    read = (
        _read_other(content, ending)
        if ending in OTHER_FORMATS
        else ReadShape(read_stl(content), None)
    )
    # A polygon of many corners is many faces.
    _refuse_too_many(0, len(read.mesh.faces))
    return read


def _refuse_too_many(vertices: int, faces: int) -> None:
    if vertices > MOST_VERTICES:
        raise MeshTooLargeError(
            f"The file has {vertices:,} vertices; up to {MOST_VERTICES:,} are read. Reduce the "
            "number of faces and export it again."
        )
    if faces > MOST_FACES:
        raise MeshTooLargeError(
            f"The file has {faces:,} faces; up to {MOST_FACES:,} are read. Reduce them and export "
            "it again."
        )


_POLYGON_FILES = {"obj": obj_triangles, "off": off_triangles, "ply": ply_triangles}


def _read_other(content: bytes, ending: str) -> ReadShape:
    if len(content) > MAX_MESH_FILE_BYTES:
        raise MeshTooLargeError(too_large_sentence(len(content)))
    if not content.strip(b"\0 \t\r\n"):
        raise MeshFileError("The file is empty; export the shape again.")
    unreadable = f"The file cannot be read as {ending.upper()}; export the shape again, or as STL."
    try:
        if ending in _POLYGON_FILES:
            content = _plain_text(content)
        told = announced(content, ending)
        _refuse_too_many(told.vertices, told.faces)
        if ending in _POLYGON_FILES:
            triangles = _POLYGON_FILES[ending](content)
        else:
            # No resolver: what a file names beside itself is never looked for.
            read = trimesh.load_mesh(io.BytesIO(content), file_type=ending, process=False)
            triangles = np.asarray(read.triangles)
    except (MeshFileError, MeshTooLargeError):
        raise
    except Exception as error:  # the readers raise whatever their parsing meets
        raise MeshFileError(unreadable) from error
    if triangles.ndim != 3 or len(triangles) == 0:
        raise MeshFileError("The file holds no faces; export the shape again as a mesh.")
    _refuse_non_numbers(triangles)
    if ending == "3mf":
        unit, factor = _UNITS_OF_3MF.get(told.unit, _UNITS_OF_3MF["millimeter"])
        return ReadShape(join_corners(triangles * factor), unit)
    return ReadShape(join_corners(triangles), LengthUnit.METRE if ending == "glb" else None)


def read_stl(content: bytes) -> Mesh:
    """Read a binary or ASCII STL.

    Parameters
    ----------
    content : bytes
        The whole file.

    Returns
    -------
    Mesh
        In the unit of the file, which an STL does not name.

    Raises
    ------
    MeshTooLargeError
        The file is above the size limit.
    MeshFileError
        Empty, cut short, not an STL, or holding coordinates that are not numbers.

    Notes
    -----
    The parsing is trimesh's; it returns nothing at all for most broken files, so what a maker can
    be told about them is found out here, before.
    """
    if len(content) > MAX_MESH_FILE_BYTES:
        raise MeshTooLargeError(too_large_sentence(len(content)))
    if not content.strip(b"\0 \t\r\n"):
        raise MeshFileError("The file is empty; export the shape again as an STL.")
    if not _is_binary(content):
        content = _plain_text(content)
    triangles = _ascii_triangles(content) if _is_ascii(content) else _binary_triangles(content)
    _refuse_non_numbers(triangles)
    return join_corners(triangles)


def _refuse_non_numbers(triangles: NDArray[np.floating]) -> None:
    bad = ~np.isfinite(triangles).all(axis=(1, 2))
    if bad.any():
        raise MeshFileError(
            f"{int(bad.sum())} of {len(triangles)} faces have coordinates that are not numbers "
            f"(the first is face {int(np.argmax(bad)) + 1}); repair the shape and export it again."
        )


def too_large_sentence(size: int) -> str:
    """Say that a file of `size` bytes is above the limit, and what to do."""
    return (
        f"The file has {size / 1e6:.0f} MB; up to {MAX_MESH_FILE_BYTES / 1e6:.0f} MB are read. "
        "Reduce the number of faces and export it again."
    )


def _is_binary(content: bytes) -> bool:
    """Tell a binary file by its exact length: it may begin with the word "solid" too."""
    return len(content) == _HEADER_BYTES + _COUNT_BYTES + _FACE_BYTES * _face_count(content)


def _plain_text(content: bytes) -> bytes:
    """Return a text file without its byte order mark, in UTF-8."""
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return as_text(content).encode()
    return without_mark(content)


def _is_ascii(content: bytes) -> bool:
    if _is_binary(content):
        return False
    return content.lstrip()[:5].lower() == b"solid" and b"\0" not in content[:1000]


def _face_count(content: bytes) -> int:
    if len(content) < _HEADER_BYTES + _COUNT_BYTES:
        return -1
    (count,) = struct.unpack_from("<I", content, _HEADER_BYTES)
    return int(count)


def _binary_triangles(content: bytes) -> NDArray[np.floating]:
    count = _face_count(content)
    body = len(content) - _HEADER_BYTES - _COUNT_BYTES
    if count < 0 or _FACE_BYTES * count > MAX_MESH_FILE_BYTES:
        raise MeshFileError("This is not an STL file; export the shape as STL and try again.")
    if count == 0:
        raise MeshFileError("The file holds no faces; export the shape again as a mesh.")
    _refuse_too_many(0, count)
    if body < _FACE_BYTES * count:
        raise MeshFileError(
            f"The file was cut short: it announces {count} faces and holds {body // _FACE_BYTES}. "
            "Copy or export it again."
        )
    if body > _FACE_BYTES * count:
        raise MeshFileError(
            f"The file is longer than the {count} faces it announces; it is damaged or not an "
            "STL. Export it again."
        )
    parsed = load_stl(io.BytesIO(content))
    return np.asarray(parsed["vertices"]).reshape(-1, 3, 3)


def _ascii_triangles(content: bytes) -> NDArray[np.floating]:
    lower = content.lower()
    stated = lower.count(b"facet normal")
    complete = lower.count(b"endfacet")
    if stated == 0:
        raise MeshFileError("The file holds no faces; export the shape again as a mesh.")
    _refuse_too_many(0, stated)
    if complete < stated or b"endsolid" not in lower[-1000:]:
        raise MeshFileError(
            f"The file was cut short after {complete} whole faces. Copy or export it again."
        )
    try:
        parsed = load_stl(io.BytesIO(content))
    except (ValueError, IndexError) as error:
        raise MeshFileError(
            "The file has a face that cannot be read as nine numbers; export the shape again."
        ) from error
    # Several solids in one file come back as a dictionary of them.
    solids = list(parsed["geometry"].values()) if "geometry" in parsed else [parsed]
    corners = [np.asarray(solid["vertices"])[np.asarray(solid["faces"])] for solid in solids]
    if sum(map(len, corners)) != stated:
        raise MeshFileError(
            f"Only {sum(map(len, corners))} of {stated} faces could be read; "
            "export the shape again, as binary STL if there is a choice."
        )
    return np.concatenate(corners)
