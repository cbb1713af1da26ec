"""PLY files, text or binary, whose faces may have any number of corners.

The general mesh library refuses binary ones that mix triangles with other polygons, and divides
polygons into fans; so they are read here.
"""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from mildhusk.core.errors import MeshFileError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.geometry.polygons import triangulated

# What the numbers of PLY are called, by either of their names, and how `struct` calls them.
_NUMBERS = {
    "char": "b", "uchar": "B", "short": "h", "ushort": "H", "int": "i", "uint": "I",
    "float": "f", "double": "d",
    "int8": "b", "uint8": "B", "int16": "h", "uint16": "H", "int32": "i", "uint32": "I",
    "float32": "f", "float64": "d",
}  # fmt: skip
_ENDS = {"binary_little_endian": "<", "binary_big_endian": ">"}
_CORNER_LISTS = ("vertex_indices", "vertex_index")


@dataclass(frozen=True, slots=True)
class _Property:
    """One number of a row, or a list of them behind its length."""

    name: str
    number: str
    length: str = ""


@dataclass(frozen=True, slots=True)
class _Element:
    """A table of the file."""

    name: str
    rows: int
    properties: tuple[_Property, ...]

    def column(self, name: str) -> int:
        """Return which property has a name."""
        return next(at for at, one in enumerate(self.properties) if one.name == name)


def ply_triangles(content: bytes) -> Floats:
    """Return the triangles of a PLY file, (m, 3, 3), in its unit.

    Raises
    ------
    MeshFileError
        Cut short, or with a face that names a corner that is not there.
    ValueError, StopIteration, LookupError
        What is no PLY.
    """
    head, mark, body = content.partition(b"end_header")
    if not mark:
        raise ValueError("no end of the header")
    kind, elements = _header(head.decode("ascii", errors="replace"))
    if kind == "ascii":
        reader = _text_rows(body.decode("utf-8", errors="replace").split(), elements)
    else:
        begins = body.index(b"\n") + 1
        reader = _binary_rows(body[begins:], elements, _ENDS[kind])
    points = np.zeros((0, 3))
    rings: Any = None
    try:
        for element, table in reader:
            if element.name == "vertex":
                columns = [element.column(axis) for axis in "xyz"]
                points = np.stack([np.asarray(table[at], dtype=np.float64) for at in columns], 1)
            elif element.name == "face":
                names = {one.name for one in element.properties}
                rings = table[element.column(next(one for one in _CORNER_LISTS if one in names))]
    except (struct.error, IndexError) as error:
        raise MeshFileError(
            "The file was cut short: it holds fewer rows than it announces. Copy or export it "
            "again."
        ) from error
    if rings is None:
        return np.zeros((0, 3, 3))
    return np.asarray(points[triangulated(points, rings)])


def _header(text: str) -> tuple[str, list[_Element]]:
    kind, elements = "", []
    for line in text.splitlines():
        match line.split():
            case ["format", said, *_]:
                kind = said
            case ["element", name, rows]:
                elements.append(_Element(name, int(rows), ()))
            case ["property", "list", length, number, name]:
                one = _Property(name, _NUMBERS[number], _NUMBERS[length])
                elements[-1] = _with(elements[-1], one)
            case ["property", number, name]:
                elements[-1] = _with(elements[-1], _Property(name, _NUMBERS[number]))
    return kind, elements


def _with(element: _Element, one: _Property) -> _Element:
    return _Element(element.name, element.rows, (*element.properties, one))


# For each property its values: an array, or for lists one list a row.
Table = list[Any]


def _text_rows(words: list[str], elements: list[_Element]) -> Iterator[tuple[_Element, Table]]:
    at = 0
    for element in elements:
        wide = len(element.properties)
        if not any(one.length for one in element.properties):
            end = at + wide * element.rows
            if end > len(words):
                raise IndexError("too few numbers")
            yield element, [list(map(float, words[at + k : end : wide])) for k in range(wide)]
            at = end
            continue
        columns: list[list[Any]] = [[] for _ in range(wide)]
        for _ in range(element.rows):
            for column, one in zip(columns, element.properties, strict=True):
                if one.length:
                    end = at + 1 + int(words[at])
                    if end > len(words):
                        raise IndexError("too few numbers")
                    column.append(list(map(int, words[at + 1 : end])))
                    at = end
                else:
                    column.append(float(words[at]))
                    at += 1
        yield element, list(columns)


def _binary_rows(
    body: bytes, elements: list[_Element], end: str
) -> Iterator[tuple[_Element, Table]]:
    at = 0
    for element in elements:
        lengths = _first_lengths(body, at, element, end)
        dtype = np.dtype(
            [
                (str(k), [("many", end + one.length), ("of", end + one.number, (lengths[k],))])
                if one.length
                else (str(k), end + one.number)
                for k, one in enumerate(element.properties)
            ]
        )
        whole = at + dtype.itemsize * element.rows
        if whole <= len(body):
            rows = np.frombuffer(body, dtype, element.rows, at)
            if all((rows[str(k)]["many"] == many).all() for k, many in lengths.items()):
                yield (
                    element,
                    [
                        rows[str(k)]["of"] if one.length else rows[str(k)]
                        for k, one in enumerate(element.properties)
                    ],
                )
                at = whole
                continue
        if not lengths:
            raise IndexError("too few bytes")
        table, at = _uneven_rows(body, at, element, end)
        yield element, table


def _first_lengths(body: bytes, at: int, element: _Element, end: str) -> dict[int, int]:
    """Return how long the lists of the first row are, by their column."""
    lengths: dict[int, int] = {}
    for k, one in enumerate(element.properties if element.rows else ()):
        many = 1
        if one.length:
            (many,) = struct.unpack_from(end + one.length, body, at)
            lengths[k] = many
            at += struct.calcsize(one.length)
        at += many * struct.calcsize(one.number)
    return lengths


def _uneven_rows(body: bytes, at: int, element: _Element, end: str) -> tuple[Table, int]:
    columns: list[list[Any]] = [[] for _ in element.properties]
    for _ in range(element.rows):
        for column, one in zip(columns, element.properties, strict=True):
            many = 1
            if one.length:
                (many,) = struct.unpack_from(end + one.length, body, at)
                at += struct.calcsize(one.length)
            values = struct.unpack_from(f"{end}{many}{one.number}", body, at)
            at += many * struct.calcsize(one.number)
            column.append(list(values) if one.length else values[0])
    return list(columns), at
