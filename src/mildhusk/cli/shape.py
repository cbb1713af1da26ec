"""Words about a shape file, and surveying it."""

import argparse
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.errors import InputError, MeshFileError, MeshTooLargeError
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.survey_options import SkinChoice, SurveyWish
from mildhusk.quantities import read_quantity

if TYPE_CHECKING:
    from mildhusk.core.geometry.mesh import Mesh
    from mildhusk.core.geometry.survey import Survey


def add_shape_words(command: argparse.ArgumentParser, *, optional: bool = False) -> None:
    """Add the file and the options of its survey."""
    command.add_argument("file", metavar="FILE", type=Path, nargs="?" if optional else None)
    command.add_argument("--units", choices=[str(u) for u in LengthUnit], default="mm")
    command.add_argument(
        "--skin",
        choices=[str(choice) for choice in SkinChoice],
        default="outer",
        help="of a hollow print count the outer skin, or all faces",
    )
    command.add_argument("--rim", metavar="z=30mm", help="cut off what is below this height")
    command.add_argument("--skirt", metavar="50mm", help="draw the rim out by this length")
    command.add_argument("--ledge", metavar="20mm", help="draw the rim inwards by this length")
    command.add_argument(
        "--close-holes", action="store_true", help="count all openings but the longest closed"
    )


def survey_of(given: argparse.Namespace) -> "tuple[Survey, list[str]]":
    """Return the surveyed piece, and hints about its unit."""
    wish = _survey_wish(given)
    # Distances and rays are slow to load, and only a survey needs them.
    from mildhusk.core.geometry.survey import survey

    mesh, unit, hints = read_mesh(given)
    return survey(mesh.scaled(unit.metres), wish), hints


def read_mesh(given: argparse.Namespace) -> "tuple[Mesh, LengthUnit, list[str]]":
    """Return the faces as read, the unit that was said, and hints about it."""
    from mildhusk.core.geometry.reading import read_shape

    mesh = read_shape(_read_bytes(given.file), given.file.name)
    unit = LengthUnit(given.units)
    guess, sure = guess_unit(mesh)
    hints = [f"note: the size looks like {guess}, not {unit}"] if sure and guess != unit else []
    return mesh, unit, hints


def _survey_wish(given: argparse.Namespace) -> SurveyWish:
    wish = SurveyWish(SkinChoice(given.skin), close_holes=given.close_holes)
    if given.rim is not None:
        axis, _, height = given.rim.partition("=")
        if axis != "z" or not height:
            raise InputError(f"The rim '{given.rim}' is not z=HEIGHT; write for instance z=30mm.")
        rim = read_quantity(height, "m", "mm", name="The rim", field="rim")
        wish = replace(wish, rim_z_m=rim)
    if given.skirt is not None:
        skirt = read_quantity(given.skirt, "m", "mm", name="The skirt", field="skirt")
        wish = replace(wish, skirt_m=skirt)
    if given.ledge is not None:
        ledge = read_quantity(given.ledge, "m", "mm", name="The ledge", field="ledge")
        wish = replace(wish, ledge_m=ledge)
    return wish


def _read_bytes(path: Path) -> bytes:
    from mildhusk.core.geometry.reading import too_large_sentence

    try:
        size = path.stat().st_size
        if size > MAX_MESH_FILE_BYTES:
            raise MeshTooLargeError(too_large_sentence(size))
        return path.read_bytes()
    except OSError as error:
        raise MeshFileError(f"{path}: {error.strerror or error}.") from error
