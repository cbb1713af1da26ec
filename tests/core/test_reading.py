"""STL files as they come, and files that are none."""

import io
import json
import struct
import tracemalloc
import zipfile

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from core.shapes import box, half_sphere, sphere, stl_bytes
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.errors import MeshFileError, MeshTooLargeError
from mildhusk.core.geometry.announced import Announced, announced
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.reading import read_shape, read_stl


@pytest.mark.parametrize("ascii_text", [False, True], ids=["binary", "ascii"])
def test_a_written_mesh_is_read_back_with_its_corners_joined(ascii_text):
    mesh = half_sphere(0.1, 20)
    read = read_stl(stl_bytes(mesh, ascii_text=ascii_text))
    assert len(read.faces) == len(mesh.faces)
    assert len(read.vertices) == len(mesh.vertices)
    assert read.bounds == pytest.approx(mesh.bounds, abs=1e-6)


def test_corners_join_as_the_mesh_library_joins_them():
    content = stl_bytes(sphere(0.1, 50))
    ours = read_stl(content)
    theirs = trimesh.load_mesh(trimesh.util.wrap_as_stream(content), file_type="stl")
    assert (len(ours.vertices), len(ours.faces)) == (len(theirs.vertices), len(theirs.faces))


def test_several_solids_in_one_text_file_are_one_piece():
    one, two = (
        stl_bytes(box(0.1, 0.1, 0.1), ascii_text=True),
        stl_bytes(sphere(0.3, 8), ascii_text=True),
    )
    assert len(read_stl(one + b"\n" + two).faces) == 12 + len(sphere(0.3, 8).faces)


def test_a_binary_file_that_begins_with_the_word_solid_is_still_binary():
    content = stl_bytes(box(1, 1, 1))
    assert len(read_stl(b"solid " + content[6:]).faces) == 12


def test_faces_that_vanish_by_joining_are_dropped():
    content = bytearray(stl_bytes(box(1, 1, 1)))
    content[84 + 12 : 84 + 36] = content[84 + 12 : 84 + 24] * 2  # second corner onto the first
    assert len(read_stl(bytes(content)).faces) == 11


def _with_count(count: int) -> bytes:
    content = bytearray(stl_bytes(box(1, 1, 1)))
    content[80:84] = struct.pack("<I", count)
    return bytes(content)


def _with_coordinate(value: float) -> bytes:
    content = bytearray(stl_bytes(box(1, 1, 1)))
    content[84 + 12 : 84 + 16] = struct.pack("<f", value)
    return bytes(content)


TEXT = stl_bytes(box(1, 1, 1), ascii_text=True)


@pytest.mark.parametrize(
    ("content", "sentence"),
    [
        (b"", "empty"),
        (b"\n \0\0", "empty"),
        (b"a shopping list", "not an STL"),
        (b"a much longer shopping list, " * 40, "not an STL"),
        (b"\x89PNG\r\n\x1a\n" + bytes(range(1, 256)) * 3, "not an STL"),
        (stl_bytes(box(1, 1, 1))[:-30], "cut short: it announces 12 faces and holds 11"),
        (stl_bytes(box(1, 1, 1)) + b"junk", "longer than the 12 faces"),
        (_with_count(0), "no faces"),
        (_with_coordinate(float("nan")), "1 of 12 faces have coordinates that are not numbers"),
        (_with_coordinate(float("inf")), "the first is face 1"),
        (b"solid nothing\nendsolid nothing\n", "no faces"),
        (TEXT[: len(TEXT) // 2], "cut short"),
        (TEXT.replace(b"vertex", b"vertex x", 1), "cannot be read|could be read"),
        (TEXT.replace(b"endsolid", b"the end"), "cut short"),
    ],
)
def test_files_that_are_no_shape_are_refused_in_a_sentence(content, sentence):
    with pytest.raises(MeshFileError, match=sentence):
        read_stl(content)


def test_a_file_above_the_limit_is_refused_with_both_sizes():
    with pytest.raises(MeshTooLargeError, match="200 MB"):
        read_stl(bytes(MAX_MESH_FILE_BYTES + 1))


@settings(max_examples=200, deadline=None)
@given(st.binary(max_size=400), st.booleans())
def test_no_bytes_at_all_do_anything_but_read_or_be_refused(noise, as_text):
    """Fuzz: whatever is sent in, the answer is a mesh or a sentence."""
    content = b"solid " + noise if as_text else noise
    try:
        mesh = read_stl(content)
    except MeshFileError:
        return
    assert np.isfinite(mesh.vertices).all()


@pytest.mark.parametrize(
    ("largest", "unit", "sure"),
    [
        (250.0, LengthUnit.MILLIMETRE, True),
        (25.0, LengthUnit.INCH, False),  # 635 mm or 250 mm: both are possible, so it is asked
        (0.25, LengthUnit.METRE, True),
        (9.8, LengthUnit.INCH, False),
        (50_000.0, LengthUnit.MILLIMETRE, False),
    ],
)
def test_the_unit_is_guessed_from_the_size_of_masks_and_helmets(largest, unit, sure):
    """Sizes of masks, helmets and busts: common practice, no source."""
    assert guess_unit(box(largest, largest / 2, largest / 2)) == (unit, sure)


def test_units_are_those_of_sp_811():
    """NIST SP 811 (2008), appendix B.8: inch = 2.54 E-02 m, exactly."""
    assert LengthUnit.INCH.metres == 0.0254
    assert [unit.metres for unit in LengthUnit] == [1e-3, 1e-2, 1.0, 0.0254]


# --- what a file announces ---


def _model(body: str) -> bytes:
    made = io.BytesIO()
    # As quickly as it can be packed: one of them is a bomb.
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        space = "urn:shape"
        archive.writestr("3D/3dmodel.model", f'<model xmlns="{space}">{body}</model>')
    return made.getvalue()


_TRIANGLE = (
    '<object id="0"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/>'
    '<vertex x="0" y="1" z="0"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles>'
    "</mesh></object>"
)


def _parts_of_parts(levels: int) -> bytes:
    """Each part is the one before twice: levels lines say 2^levels triangles."""
    doubled = "".join(
        f'<object id="{n}"><components><component objectid="{n - 1}"/>'
        f'<component objectid="{n - 1}"/></components></object>'
        for n in range(1, levels + 1)
    )
    build = f'<build><item objectid="{levels}"/></build>'
    return _model(f"<resources>{_TRIANGLE}{doubled}</resources>{build}")


def _glb(count: int, nodes: int) -> bytes:
    scene = {
        "accessors": [{"count": count}, {"count": 3 * count}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
        "nodes": [{"mesh": 0}] * nodes,
    }
    text = json.dumps(scene).encode()
    return b"glTF" + struct.pack("<III", 2, 20 + len(text), len(text)) + b"JSON" + text


HEAD = b"ply\nformat ascii 1.0\nelement vertex %d\nelement face %d\nend_header\n"


@pytest.mark.parametrize(
    ("content", "name"),
    [
        (HEAD % (9, 2_000_001), "x.ply"),
        (HEAD % (6_000_001, 9), "x.ply"),
        (b"OFF\n9 2000001 0\n", "x.off"),
        (b"v 0 0 0\n" + b"f 1 1 1\n" * 2_000_001, "x.obj"),
        (_glb(2_000_001, 1), "x.glb"),
        (_glb(30_000, 100), "x.glb"),
        (_parts_of_parts(22), "x.3mf"),
        (b"\0" * 80 + struct.pack("<I", 2_000_001) + b"\0" * 50, "x.stl"),
    ],
)
def test_more_than_is_read_is_told_before_any_of_it_is_built(content, name):
    tracemalloc.start()
    try:
        with pytest.raises(MeshTooLargeError, match="are read"):
            read_shape(content, name)
        _, peak = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert peak < 4 * len(content) + 4_000_000


def test_an_archive_is_not_unpacked_beyond_reason_and_parts_of_themselves_are_refused():
    bomb = _model(" " * 700_000_000)
    assert len(bomb) < 5_000_000
    with pytest.raises(MeshFileError, match="unpacks to 700 MB"):
        read_shape(bomb, "bomb.3mf")
    ring = (
        '<resources><object id="1"><components><component objectid="2"/></components></object>'
        '<object id="2"><components><component objectid="1"/></components></object></resources>'
    )
    with pytest.raises(MeshFileError, match="cannot be read"):
        read_shape(_model(f'{ring}<build><item objectid="1"/></build>'), "ring.3mf")


@pytest.mark.parametrize("ending", ["obj", "ply", "off", "glb", "3mf"])
def test_what_is_announced_is_what_the_mesh_library_wrote(ending):
    ball = trimesh.creation.icosphere(subdivisions=3)
    content = ball.export(file_type=ending)
    content = content.encode() if isinstance(content, str) else content
    unit = "millimeter" if ending == "3mf" else ""
    assert announced(content, ending) == Announced(len(ball.vertices), len(ball.faces), unit)
    assert len(read_shape(content, f"ball.{ending}").mesh.faces) == len(ball.faces)
