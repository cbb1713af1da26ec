"""The command `husk pattern`."""

import argparse
from collections.abc import Callable
from math import radians
from pathlib import Path
from typing import TYPE_CHECKING, Any

from mildhusk.cli.shape import add_shape_words, survey_of
from mildhusk.core.errors import InputError
from mildhusk.core.materials.catalogue import shipped_material
from mildhusk.core.materials.kinds import Rubber, ShellMaterial
from mildhusk.core.wording import Quantity, in_metric
from mildhusk.quantities import read_quantity

if TYPE_CHECKING:
    from mildhusk.core.geometry.mesh import Floats, Mesh
    from mildhusk.core.geometry.survey import Survey
    from mildhusk.core.mould.locks import Split
    from mildhusk.core.patterns.answer import CutPattern
    from mildhusk.core.patterns.flat import Pattern

Draw = Callable[["Survey"], "Pattern"]
_PAPERS = ("a4", "a3", "letter")
_LENGTHS = {
    "clearance": "between the rubber and the wall",
    "flange": "of the part-line wall",
    "bolt-pitch": "from bolt to bolt",
    "foot": "the wall stands wider by this",
    "aside": "moves the plane of a shell in two",
    "height": "of the skirt",
    "thickness": "of the skirt's or visor's material",
    "margin": "of rubber in the box",
    "chunks-off": "old rubber keeps off the piece by this",
    "overlap": "of the visor on the husk, or of flashing on itself",
    "width": "of a strip or stencil",
    "length": "of a strip",
    "seam-step": "by which the folded strip of a seam ends before itself",
}


def add_words(pattern: argparse.ArgumentParser) -> None:
    """Add the options of the command."""
    add_shape_words(pattern)
    pattern.add_argument("--kind", required=True, choices=tuple(_KINDS))
    pattern.add_argument("--out", type=Path, metavar="NAME.pdf|svg|dxf")
    pattern.add_argument("--paper", choices=_PAPERS, default="a4", help="of a PDF")
    pattern.add_argument("--sheet", metavar="1000x700mm", help="that the parts are cut from")
    pattern.add_argument("--wall", default="10mm", metavar="10mm", help="of the rubber")
    pattern.add_argument("--rubber", metavar="KEY", help="for its stretch and its weight")
    pattern.add_argument("--shell", metavar="KEY", help="that strips are for")
    pattern.add_argument("--parts", type=int, metavar="2", help="of the shell")
    pattern.add_argument("--turn", metavar="15deg", help="turns the split")
    pattern.add_argument("--flare", metavar="20deg", help="of the skirt, outwards")
    pattern.add_argument(
        "--handles", type=int, default=0, metavar="2", help="hand holes in the wall"
    )
    pattern.add_argument(
        "--following", action="store_true", help="a part line that leaves its plane"
    )
    pattern.add_argument("--straight", action="store_true", help="a straight box")
    pattern.add_argument("--edge", metavar="NAME", help="of the husk, as visor or left eye")
    pattern.add_argument("--material", metavar="KEY", help="sheet of the visor")
    pattern.add_argument("--plies", type=int, metavar="3", help="of one strip")
    pattern.add_argument("--passes", type=int, metavar="1", help="of strips over the shell")
    pattern.add_argument("--strip-overlap", metavar="50%%", help="of strips on each other")
    for name, says in _LENGTHS.items():
        pattern.add_argument(f"--{name}", metavar="10mm", help=says)


def run(given: argparse.Namespace) -> "tuple[CutPattern, list[str]]":
    """Draw a pattern of a shape file."""
    if given.out is not None and given.out.suffix.lower() not in (".pdf", ".svg", ".dxf"):
        raise InputError(f"'{given.out}' is no PDF, SVG or DXF; name it NAME.pdf.", "out")
    # What is wished for is read first: a survey takes seconds.
    draw = _KINDS[given.kind](given, _lengths(given))
    from mildhusk.core.patterns.answer import CutPattern
    from mildhusk.core.patterns.sheets import SheetSize

    size = SheetSize(*_sheet(given)) if given.sheet else SheetSize()
    file = survey_of(given)
    told = CutPattern.of(draw(file.survey), size)
    if given.out is not None:
        _write(given, told)
    return told, [*_lines(told), *file.hints]


def _lengths(given: argparse.Namespace) -> dict[str, float]:
    """Return the lengths that were given, by the names of the wishes. [m]"""
    made = {}
    for name in _LENGTHS:
        word = name.replace("-", "_")
        if (text := getattr(given, word)) is not None:
            value = read_quantity(text, "m", "mm", name=f"The {name}", field=name)
            made[f"{word}_m"] = value
    return made


def _takes(lengths: dict[str, float], *names: str) -> dict[str, Any]:
    return {f"{one}_m": lengths[f"{one}_m"] for one in names if f"{one}_m" in lengths}


def _part_line(given: argparse.Namespace, lengths: dict[str, float]) -> Draw:
    from mildhusk.core.patterns.part_line import PartLineWish, part_line

    own = _takes(lengths, "clearance", "flange", "bolt_pitch", "foot", "aside")
    turned = _angle(given.turn, "turn")
    wish = PartLineWish(
        _parts(given), **own, turned=turned, handles=given.handles, following=given.following
    )
    wall = _wall(given)

    def draw(found: "Survey") -> "Pattern":
        outside, up, split = _rubber_split(found, wall, wish.parts)
        return part_line(outside, up, split.angle, wish)

    return draw


def _skirt(given: argparse.Namespace, lengths: dict[str, float]) -> Draw:
    from mildhusk.core.patterns.skirt import SkirtWish, skirt

    own = _takes(lengths, "height", "thickness")
    wish = SkirtWish(**own, flare=_angle(given.flare, "flare"))
    return lambda found: skirt(found.face, wish)


def _box(given: argparse.Namespace, lengths: dict[str, float]) -> Draw:
    from mildhusk.core.mould.outside import standing
    from mildhusk.core.patterns.box import BoxWish, box

    own = _takes(lengths, "margin", "overlap", "chunks_off")
    if given.rubber:
        own["density_kg_m3"] = _rubber(given.rubber).density_kg_m3
    wish = BoxWish(**own, following=not given.straight)
    return lambda found: box(standing(found.face), wish)


def _visor(given: argparse.Namespace, lengths: dict[str, float]) -> Draw:
    from mildhusk.core.patterns.visor import VisorWish, visor

    own = _takes(lengths, "overlap", "thickness")
    if given.material:
        own["material"] = given.material
    wish = VisorWish(given.edge, **own)
    return lambda found: visor(found.face, found.cut_away, wish)


def _strips(given: argparse.Namespace, lengths: dict[str, float]) -> Draw:
    from mildhusk.core.patterns.strips import StripsWish, strips

    own = _takes(lengths, "length", "width", "seam_step")
    own |= {
        name: value
        for name, value in (("strip_plies", given.plies), ("passes", given.passes))
        if value is not None
    }
    if given.strip_overlap:
        own["overlap"] = read_quantity(
            given.strip_overlap, "dimensionless", "%", name="The overlap", field="strip-overlap"
        )
    wish, material, wall = StripsWish(**own), _shell(given.shell), _wall(given)

    def draw(found: "Survey") -> "Pattern":
        outside, up, split = _rubber_split(found, wall, _parts(given))
        return strips(outside, up, split, material, wish)

    return draw


def _trim(given: argparse.Namespace, lengths: dict[str, float]) -> Draw:
    from mildhusk.core.patterns.trim import TrimWish, trim

    wish = TrimWish(**_takes(lengths, "width"))
    return lambda found: trim(found.face, found.cut_away, wish)


_KINDS: dict[str, Callable[[argparse.Namespace, dict[str, float]], Draw]] = {
    "part-line": _part_line,
    "skirt": _skirt,
    "box": _box,
    "visor": _visor,
    "strips": _strips,
    "trim": _trim,
}


def _parts(given: argparse.Namespace) -> int:
    return 2 if given.parts is None else int(given.parts)


def _wall(given: argparse.Namespace) -> float:
    from mildhusk.core.mould.estimate import require_wall

    wall = read_quantity(given.wall, "m", "mm", name="The wall", field="wall")
    require_wall(wall)
    return wall


def _rubber_split(found: "Survey", wall_m: float, parts: int) -> "tuple[Mesh, Floats, Split]":
    from mildhusk.core.mould.locks import best_split
    from mildhusk.core.mould.outside import rubber_surface, standing

    piece = standing(found.face)
    outside = rubber_surface(piece, wall_m)
    return outside, piece.up, best_split(outside, piece.up, parts)


def _rubber(key: str) -> Rubber:
    material = shipped_material(key)
    if not isinstance(material, Rubber):
        raise InputError(f"'{key}' is no mould rubber; see husk materials.", "rubber")
    return material


def _shell(key: str | None) -> ShellMaterial:
    material = shipped_material(key or "shell-bandage")
    if not isinstance(material, ShellMaterial):
        raise InputError(f"'{key}' is no shell material; see husk materials.", "shell")
    return material


def _angle(given: str | None, field: str) -> float:
    if given is None:
        return 0.0
    number = given.removesuffix("deg").removesuffix("°").strip()
    try:
        return radians(float(number))
    except ValueError:
        raise InputError(f"'{given}' is no angle; write for instance 20deg.", field) from None


def _sheet(given: argparse.Namespace) -> tuple[float, float]:
    sides = given.sheet.split("x")
    if len(sides) != 2:
        raise InputError(
            f"The sheet '{given.sheet}' is not WIDTHxHEIGHT; write for instance 1000x700mm.",
            "sheet",
        )
    # The unit stands once, behind the last side.
    unit = sides[1].lstrip("0123456789.")
    wide, high = (
        read_quantity(
            one if one.endswith(unit) else one + unit, "m", "mm", name="The sheet", field="sheet"
        )
        for one in sides
    )
    return wide, high


def _write(given: argparse.Namespace, told: "CutPattern") -> None:
    from mildhusk.documents.pattern_files import Paper, pattern_dxf, pattern_pdf, pattern_svg

    match given.out.suffix.lower():
        case ".pdf":
            content = pattern_pdf(told, Paper(given.paper), given.file.stem)
        case ".svg":
            content = pattern_svg(told)
        case _:
            content = pattern_dxf(told)
    try:
        given.out.write_bytes(content)
    except OSError as error:
        raise InputError(f"{given.out} cannot be written: {error.strerror}.", "out") from error


def _lines(told: "CutPattern") -> list[str]:
    lines = [
        f"{one.name}: {in_metric(Quantity(one.value, one.unit))}"
        + (f" ({one.words})" if one.words else "")
        for one in told.figures
    ]
    lines += [
        f"cut {one.count} x {one.name}, {one.width_m * 1e3:.0f} by {one.height_m * 1e3:.0f} mm"
        for one in told.parts
    ]
    lines += [
        f"cut {one.count} x {one.what} for {one.part}, {one.length_m * 1e3:.0f} by "
        f"{one.width_m * 1e3:.0f} mm"
        for one in told.rows
    ]
    lines += [
        f"mix {one.batches} x {one.amount:.2f} {one.unit} of {one.what} for {one.part}"
        for one in told.mixes
    ]
    lines += [f"clay under {one.mark}: {one.height_m * 1e3:.0f} mm" for one in told.heights]
    if told.sheets:
        lines.append(
            f"sheets: {len(told.sheets)} of {told.sheet_width_m * 1e3:.0f} by "
            f"{told.sheet_height_m * 1e3:.0f} mm, {told.waste * 100:.0f} % waste"
        )
    return [*lines, *(f"{one.severity}: {one.text}" for one in told.findings), *told.cautions]
