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


# --- formats to the letter ---

TURN = trimesh.transformations.rotation_matrix(0.5, [1, 2, 3])


def _written(model: trimesh.Trimesh, ending: str) -> bytes:
    content = model.export(file_type=ending)
    return content.encode() if isinstance(content, str) else content


@pytest.mark.parametrize("ending", ["stl", "obj", "ply", "off", "glb", "3mf"])
def test_the_same_piece_in_every_format_is_the_same_mesh(ending):
    ball = trimesh.creation.icosphere(subdivisions=3, radius=90.0)
    one, other = (read_shape(_written(ball, kind), f"ball.{kind}").mesh for kind in (ending, "stl"))
    assert (len(one.vertices), len(one.faces)) == (len(other.vertices), len(other.faces))
    assert _area(one) == pytest.approx(_area(other), rel=1e-6)


def _area(mesh) -> float:
    corners = mesh.vertices[mesh.faces]
    sides = corners[:, 1:] - corners[:, :1]
    return float(np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1).sum() / 2.0)


@pytest.mark.parametrize(
    ("word", "unit", "factor"),
    [
        (' unit="inch"', LengthUnit.INCH, 1.0),
        (' unit="centimeter"', LengthUnit.CENTIMETRE, 1.0),
        (' unit="foot"', LengthUnit.INCH, 12.0),
        (' unit="micron"', LengthUnit.MILLIMETRE, 1e-3),
        ("", LengthUnit.MILLIMETRE, 1.0),
    ],
)
def test_a_3mf_is_in_the_unit_it_says_and_in_millimetres_where_it_says_none(word, unit, factor):
    """3MF core specification, units: millimetre is the default (from memory)."""
    made = io.BytesIO()
    build = '<build><item objectid="0" transform="1 0 0 0 1 0 0 0 1 5 0 0"/></build>'
    body = f"<resources>{_TRIANGLE}</resources>{build}"
    space = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
    with zipfile.ZipFile(made, "w") as archive:
        archive.writestr("3D/3dmodel.model", f'<model xmlns="{space}"{word}>{body}</model>')
    read = read_shape(made.getvalue(), "x.3mf")
    assert read.unit is unit
    # The item is moved by 5 of its units.
    assert read.mesh.bounds[0][0] == pytest.approx(5.0 * factor)
    assert _area(read.mesh) == pytest.approx(0.5 * factor**2)


def test_a_glb_is_in_metres_and_each_node_stands_where_it_says():
    """glTF 2.0, section 3.4: metres (from memory)."""
    scene = trimesh.Scene()
    cube = trimesh.creation.box((1.0, 2.0, 3.0))
    for at in (0.0, 10.0):
        move = TURN.copy()
        move[0, 3] = at
        scene.add_geometry(cube, node_name=f"at {at}", transform=move)
    read = read_shape(scene.export(file_type="glb"), "two.glb")
    assert read.unit is LengthUnit.METRE
    assert len(read.mesh.faces) == 24
    corners = trimesh.transform_points(cube.vertices, TURN)
    assert read.mesh.bounds[0] == pytest.approx(corners.min(axis=0), abs=1e-5)
    far = corners.max(axis=0)
    assert read.mesh.bounds[1] == pytest.approx([far[0] + 10.0, far[1], far[2]], abs=1e-5)


def test_numbers_that_count_back_name_the_corners_above_them():
    """Each face names the three corners above it by -3 to -1, as many exporters write."""
    ball = trimesh.creation.icosphere(subdivisions=2, radius=50.0)
    lines = []
    for triangle in ball.triangles:
        lines += [f"v {x} {y} {z}" for x, y, z in triangle] + ["f -3/1/1 -2//2 -1"]
    read = read_shape("\n".join(lines).encode(), "back.obj")
    assert _area(read.mesh) == pytest.approx(ball.area, rel=1e-6)
    with pytest.raises(MeshFileError, match="names corner"):
        read_shape(b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "off.obj")
    with pytest.raises(MeshFileError, match="counts from 1"):
        read_shape(b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n", "off.obj")


# A square with a notch down to its middle, and a comb that no corner sees all of.
NOTCHED = np.array([[0.0, 0], [20, 0], [20, 20], [10, 5], [0, 20]])
COMB = np.array(
    [[0.0, 0], [60, 0], [60, 30], [50, 30], [50, 10], [35, 10], [35, 30], [25, 30], [25, 10],
     [10, 10], [10, 30], [0, 30]]
)  # fmt: skip


def _polygon_file(outline, ending: str) -> bytes:
    rows = "\n".join(f"{x} {y} {0.3 * x}" for x, y in outline)
    ring = range(len(outline))
    match ending:
        case "obj":
            corners = "\n".join(f"v {row}" for row in rows.splitlines())
            return f"{corners}\nf {' '.join(str(at + 1) for at in ring)}\n".encode()
        case "off":
            face = f"{len(outline)} {' '.join(map(str, ring))} 200 10 10"
            return f"OFF # a remark\n{len(outline)} 1 0\n{rows}\n{face}\n".encode()
        case _:
            head = (
                f"ply\nformat ascii 1.0\nelement vertex {len(outline)}\nproperty float x\n"
                "property float y\nproperty float z\nelement face 1\n"
                "property list uchar int vertex_indices\nend_header\n"
            )
            face = f"{len(outline)} {' '.join(map(str, ring))}"
            return f"{head}{rows}\n{face}\n".encode()


@pytest.mark.parametrize("ending", ["obj", "off", "ply"])
@pytest.mark.parametrize("outline", [NOTCHED, COMB], ids=["notched", "comb"])
def test_a_polygon_has_its_own_area_at_whichever_corner_it_begins(outline, ending):
    """Exact: the shoelace formula, on a plane that rises by 0.3."""
    x, y = outline.T
    exact = 0.5 * abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)) * np.sqrt(1.0 + 0.3**2)
    for begin in range(len(outline)):
        content = _polygon_file(np.roll(outline, begin, axis=0), ending)
        assert _area(read_shape(content, f"x.{ending}").mesh) == pytest.approx(exact, rel=1e-6)


def _binary_ply(end: str, rows: bytes) -> bytes:
    kind = "binary_little_endian" if end == "<" else "binary_big_endian"
    head = (
        f"ply\nformat {kind} 1.0\ncomment made here\nelement vertex 5\nproperty float x\n"
        "property float y\nproperty double z\nproperty uchar red\nelement face 2\n"
        "property list uchar int vertex_indices\nproperty uchar red\nend_header\n"
    )
    corners = b"".join(struct.pack(f"{end}ffdB", x, y, 0.0, 7) for x, y in NOTCHED)
    return head.encode() + corners + rows


@pytest.mark.parametrize("end", ["<", ">"], ids=["little", "big"])
def test_a_binary_ply_may_mix_triangles_and_others_and_carry_colours(end):
    """Exact: a triangle of 200 and a quadrilateral of 150 by the shoelace formula."""
    rows = struct.pack(f"{end}B3iBB4iB", 3, 0, 1, 2, 9, 4, 0, 2, 3, 4, 9)
    assert _area(read_shape(_binary_ply(end, rows), "x.ply").mesh) == pytest.approx(350.0)
    with pytest.raises(MeshFileError, match="cut short"):
        read_shape(_binary_ply(end, rows[:-3]), "x.ply")


@pytest.mark.parametrize("ending", ["obj", "off", "stl", "ply"])
def test_a_byte_order_mark_changes_nothing(ending):
    text = stl_bytes(box(1, 1, 1), ascii_text=True) if ending == "stl" else None
    content = text or _polygon_file(NOTCHED, ending)
    plain, marked = (
        read_shape(one, f"x.{ending}").mesh for one in (content, b"\xef\xbb\xbf" + content)
    )
    assert _area(marked) == _area(plain)
    if ending in ("obj", "off"):
        wide = content.decode().encode("utf-16")
        assert _area(read_shape(wide, f"x.{ending}").mesh) == _area(plain)


def test_corners_that_differ_in_colour_alone_are_one_corner():
    """A square whose two triangles have corners of their own colour."""
    lines = [
        "v 0 0 0 1 0 0", "v 1 0 0 1 0 0", "v 1 1 0 1 0 0",
        "v 0 0 0 0 1 0", "v 1 1 0 0 1 0", "v 0 1 0 0 1 0", "f 1 2 3", "f 4 5 6",
    ]  # fmt: skip
    assert len(read_shape("\n".join(lines).encode(), "x.obj").mesh.vertices) == 4
