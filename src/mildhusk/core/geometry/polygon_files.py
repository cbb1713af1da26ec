"""Text files of shapes whose faces may have many corners: OBJ and OFF."""

import numpy as np

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.geometry.polygons import triangulated

_OFF_HEADS = ("OFF", "COFF", "NOFF", "CNOFF", "STOFF", "STCOFF", "STNOFF", "STCNOFF")


def obj_triangles(content: bytes) -> Floats:
    """Return the triangles of an OBJ file, (m, 3, 3), in its unit.

    Raises
    ------
    MeshFileError
        A face that names a corner that is not there.
    ValueError
        A line that cannot be read.
    """
    places: list[float] = []
    faces: list[list[int]] = []
    for raw in as_text(content).replace("\\\n", " ").split("\n"):
        words = raw.split()
        if not words or words[0] not in ("v", "f"):
            continue
        if words[0] == "v":
            places += map(float, words[1:4])
            continue
        try:
            corners = [int(word) for word in words[1:]]
        except ValueError:  # beside a corner may stand its texture and its normal, or a remark
            said = " ".join(words[1:]).partition("#")[0].split()
            corners = [int(word.partition("/")[0]) for word in said]
        if 0 in corners:
            raise MeshFileError(f"Face {len(faces) + 1:,} names corner 0; OBJ counts from 1.")
        # From one; a negative number counts back from the last corner that stands above it.
        above = len(places) // 3
        faces.append([at - 1 if at > 0 else at + above for at in corners])
    points = np.array(places, dtype=np.float64).reshape(-1, 3)
    return np.asarray(points[triangulated(points, faces)])


def off_triangles(content: bytes) -> Floats:
    """Return the triangles of an OFF file, (m, 3, 3), in its unit.

    Raises
    ------
    MeshFileError
        A face that names a corner that is not there, or a file that is cut short.
    ValueError
        A line that cannot be read, or no OFF at all.
    """
    lines = (line.partition("#")[0].split() for line in as_text(content).split("\n"))
    rows = [words for words in lines if words]
    head = rows[0].pop(0)
    if head.upper() not in _OFF_HEADS:
        raise ValueError(f"begins with {head}, not with OFF")
    rows = rows if rows[0] else rows[1:]
    corners, faces = int(rows[0][0]), int(rows[0][1])
    body = rows[1 : 1 + corners + faces]
    if len(body) < corners + faces:
        raise MeshFileError(
            f"The file was cut short: it announces {corners:,} corners and {faces:,} faces and "
            f"holds {len(body):,} lines of them. Copy or export it again."
        )
    places = [float(word) for words in body[:corners] for word in words[:3]]
    points = np.array(places, dtype=np.float64).reshape(-1, 3)
    rings = [list(map(int, words[1 : 1 + int(words[0])])) for words in body[corners:]]
    return np.asarray(points[triangulated(points, rings)])


def as_text(content: bytes) -> str:
    """Return a text file as text, whatever its byte order mark and its ends of lines."""
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        text = content.decode("utf-16", errors="replace")
    else:
        text = without_mark(content).decode("utf-8", errors="replace")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def without_mark(content: bytes) -> bytes:
    """Return a file without the byte order mark of UTF-8."""
    return content.removeprefix(b"\xef\xbb\xbf")
