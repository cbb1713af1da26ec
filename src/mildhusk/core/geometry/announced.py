"""What a shape file announces: its vertices and faces, counted before anything is built of it."""

import io
import json
import re
import struct
import zipfile
from collections import Counter
from dataclasses import dataclass, field
from functools import cache
from xml.etree import ElementTree

from mildhusk.core.errors import MeshFileError

LARGEST_UNPACKED_BYTES = 600_000_000
"""Of an archive; more than any shape of `MOST_FACES` faces takes."""
_GLB_HEADER, _GLB_CHUNK = 12, 8
_DEEPEST_COMPONENTS = 50
_STRETCH_BYTES = 1_000_000


@dataclass(frozen=True, slots=True)
class Announced:
    """How many vertices and faces a file says it has, every copy of a part counted.

    `unit` is the word a 3MF gives its lengths in; empty where nothing is said.
    """

    vertices: int
    faces: int
    unit: str = ""


def announced(content: bytes, ending: str) -> Announced:
    """Count what a file announces, without building any of it.

    Parameters
    ----------
    content : bytes
        The whole file.
    ending : str
        Of its name: one of `OTHER_FORMATS`.

    Returns
    -------
    Announced

    Raises
    ------
    MeshFileError
        An archive that unpacks to more than any shape needs.
    ValueError
        A file that is not of its kind.
    """
    if ending == "3mf":
        return _three_mf(content)
    return Announced(*{"obj": _obj, "ply": _ply, "off": _off, "glb": _glb}[ending](content))


def _obj(content: bytes) -> tuple[int, int]:
    lines = b"\n" + content
    return lines.count(b"\nv "), lines.count(b"\nf ")


def _ply(content: bytes) -> tuple[int, int]:
    head = content.partition(b"end_header")[0][:100_000]
    elements = dict(re.findall(rb"element\s+(\w+)\s+(\d+)", head))
    return int(elements.get(b"vertex", 0)), int(elements.get(b"face", 0))


def _off(content: bytes) -> tuple[int, int]:
    words = re.sub(rb"#[^\n]*", b"", content[:10_000]).partition(b"OFF")[2].split()
    return int(words[0]), int(words[1])


def _glb(content: bytes) -> tuple[int, int]:
    (length,) = struct.unpack_from("<I", content, _GLB_HEADER)
    begin = _GLB_HEADER + _GLB_CHUNK
    scene = json.loads(content[begin : begin + length])
    accessors = [int(one["count"]) for one in scene.get("accessors", [])]
    meshes = [
        [
            (
                accessors[part["attributes"]["POSITION"]],
                accessors[part.get("indices", part["attributes"]["POSITION"])] // 3,
            )
            for part in mesh["primitives"]
        ]
        for mesh in scene.get("meshes", [])
    ]
    # A mesh stands once for every node that shows it.
    shown = Counter(one["mesh"] for one in scene.get("nodes", []) if "mesh" in one)
    parts = [
        (vertices * max(shown[at], 1), faces * max(shown[at], 1))
        for at, mesh in enumerate(meshes)
        for vertices, faces in mesh
    ]
    return sum(one for one, _ in parts), sum(one for _, one in parts)


@dataclass(slots=True)
class _Part:
    vertices: int = 0
    faces: int = 0
    of: list[str] = field(default_factory=list)


class _Counter:
    """Counts what an XML parser tells; no tree is made of it."""

    def __init__(self) -> None:
        self.parts: dict[str, _Part] = {}
        self.built: list[str] = []
        self.unit = ""
        self._part = _Part()

    def start(self, tag: str, attributes: dict[str, str]) -> None:
        """Take in the beginning of an element."""
        match tag.rpartition("}")[2]:
            case "model":
                self.unit = self.unit or attributes.get("unit", "").strip().lower()
            case "vertex":
                self._part.vertices += 1
            case "triangle":
                self._part.faces += 1
            case "object":
                self._part = self.parts.setdefault(attributes.get("id", ""), _Part())
            case "component":
                self._part.of.append(attributes.get("objectid", ""))
            case "item":
                self.built.append(attributes.get("objectid", ""))

    def close(self) -> None:
        """Take in the end."""


def _three_mf(content: bytes) -> Announced:
    counter = _Counter()
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        unpacked = sum(one.file_size for one in archive.infolist())
        if unpacked > LARGEST_UNPACKED_BYTES:
            raise MeshFileError(
                f"The file unpacks to {unpacked / 1e6:,.0f} MB; up to "
                f"{LARGEST_UNPACKED_BYTES / 1e6:.0f} MB are read. Reduce the number of faces and "
                "export it again."
            )
        for name in archive.namelist():
            if name.endswith(".model"):
                parser = ElementTree.XMLParser(target=counter)
                with archive.open(name) as model:
                    while stretch := model.read(_STRETCH_BYTES):
                        parser.feed(stretch)
                parser.close()
    vertices, faces = _built_of(counter.parts, counter.built or list(counter.parts))
    return Announced(vertices, faces, counter.unit)


def _built_of(parts: dict[str, _Part], built: list[str]) -> tuple[int, int]:
    """Count every copy: parts are made of parts, and a few lines can say a million of them."""

    @cache
    def whole(key: str, depth: int) -> tuple[int, int]:
        if depth > _DEEPEST_COMPONENTS:
            raise ValueError("parts are made of themselves")
        part = parts.get(key, _Part())
        inner = [whole(one, depth + 1) for one in part.of]
        return (
            part.vertices + sum(one for one, _ in inner),
            part.faces + sum(one for _, one in inner),
        )

    counted = [whole(key, 0) for key in built]
    return sum(one for one, _ in counted), sum(one for _, one in counted)
