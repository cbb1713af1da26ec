"""Words about a shape file, and surveying it."""

import argparse
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from mildhusk.core.constants import LARGEST_PIECE_M, MAX_MESH_FILE_BYTES, SMALLEST_PIECE_M
from mildhusk.core.errors import InputError, MeshFileError, MeshTooLargeError
from mildhusk.core.geometry.length_units import LengthUnit, guess_unit
from mildhusk.core.geometry.questions import (
    LARGEST_OF_A_PERSON_M,
    Question,
    answered,
    unit_question,
)
from mildhusk.core.geometry.survey_options import SkinChoice, SurveyWish
from mildhusk.quantities import read_quantity

if TYPE_CHECKING:
    from mildhusk.core.geometry.mesh import Mesh
    from mildhusk.core.geometry.survey import Survey


def add_shape_words(command: argparse.ArgumentParser, *, optional: bool = False) -> None:
    """Add the file and the options of its survey."""
    command.add_argument("file", metavar="FILE", type=Path, nargs="?" if optional else None)
    command.add_argument(
        "--units",
        choices=[str(u) for u in LengthUnit],
        help="of the file; else what it says, or mm where that makes sense",
    )
    command.add_argument(
        "--skin",
        choices=[str(choice) for choice in SkinChoice if choice is not SkinChoice.UNASKED],
        help="it is a hollow print: count the outer skin; or a solid piece: count all faces",
    )
    command.add_argument(
        "--answer",
        action="append",
        default=[],
        metavar="ID=CHOICE",
        help="answer a question about the file, as hollow=outer, parts=leave-out or unit=cm",
    )
    command.add_argument("--rim", metavar="z=30mm", help="cut off what is below this height")
    command.add_argument("--skirt", metavar="50mm", help="draw the rim out by this length")
    command.add_argument("--ledge", metavar="20mm", help="draw the rim inwards by this length")
    command.add_argument(
        "--close-holes", action="store_true", help="count all openings but the longest closed"
    )
    command.add_argument(
        "--close-under", metavar="20mm", help="count openings narrower than this as closed"
    )


@dataclass(frozen=True, slots=True, eq=False)
class SurveyedFile:
    """A surveyed file, what it leaves open, and hints about its unit."""

    survey: "Survey"
    asks: tuple[Question, ...]
    hints: list[str]


def survey_of(given: argparse.Namespace, *, planning: bool = True) -> SurveyedFile:
    """Return the surveyed piece, its open questions, and hints about its unit.

    Nothing is planned in another unit than was said: that is asked first.
    """
    wish = _survey_wish(given)
    # Distances and rays are slow to load, and only a survey needs them.
    from mildhusk.core.geometry.survey import survey

    file = read_mesh(given)
    if planning and not file.as_said:
        raise MeshFileError(f"{_with_answers(file.asks[0])}.", "units")
    found = survey(file.mesh.scaled(file.unit.metres), wish)
    asks = (*file.asks, *found.casting.asks)
    return SurveyedFile(found, asks, [*file.hints, *map(_asked, found.casting.asks)])


@dataclass(frozen=True, slots=True, eq=False)
class MeasuredFile:
    """A file's faces as read, the unit they are taken in, what that leaves open, and hints.

    `as_said` is whether that unit is the one that was said or that goes without saying.
    """

    mesh: "Mesh"
    unit: LengthUnit
    asks: tuple[Question, ...]
    hints: list[str]
    as_said: bool = True


def read_mesh(given: argparse.Namespace) -> MeasuredFile:
    """Return the faces as read and the unit they are taken in.

    The unit is the one that was answered; else the one that was given, or that the file says, or
    millimetres, where a person's piece has that size; else the likelier one, and it is asked.
    """
    from mildhusk.core.geometry.reading import read_shape
    from mildhusk.core.geometry.welding import size_of

    read = read_shape(_read_bytes(given.file), given.file.name)
    mesh = read.mesh
    confirmed = dict(_answers(given)).get("unit")
    if confirmed is not None:
        if confirmed not in list(LengthUnit):
            known = ", ".join(LengthUnit)
            raise InputError(f"'{confirmed}' is no unit; give one of {known}.", "answer")
        return MeasuredFile(mesh, LengthUnit(confirmed), (), [])
    said = LengthUnit(given.units) if given.units else read.unit or LengthUnit.MILLIMETRE
    guess, sure = guess_unit(mesh)
    largest = size_of(mesh)
    question = unit_question(largest, said)
    if question is None:
        hints = [f"note: the size looks like {guess}, not {said}"] if sure and guess != said else []
        return MeasuredFile(mesh, said, (), hints)
    # What nobody casts is taken in the likelier unit; a small piece is taken at its word.
    size_m = largest * said.metres
    likely = SMALLEST_PIECE_M <= size_m <= LARGEST_OF_A_PERSON_M
    impossible = not SMALLEST_PIECE_M <= size_m <= LARGEST_PIECE_M
    # Who says an impossible unit is told so; any other is asked.
    stays = likely or (impossible and given.units) or unit_question(largest, guess) is not None
    taken = said if stays else guess
    asked = replace(question, likelier=str(taken))
    hints = [_asked(asked)]
    if sure and guess != said:
        hints.insert(0, f"note: the size looks like {guess}, not {said}")
    return MeasuredFile(mesh, taken, (asked,), hints, taken == said)


def _asked(question: Question) -> str:
    return f"question: {_with_answers(question)}; {question.likelier} is taken for now."


def _with_answers(question: Question) -> str:
    answers = ", ".join(f"--answer {question.id}={one.id}" for one in question.choices)
    return f"{question.title} {question.text} Say {answers}"


def _answers(given: argparse.Namespace) -> list[tuple[str, str]]:
    answers = []
    for one in given.answer:
        question, equals, choice = one.partition("=")
        if not equals:
            raise InputError(
                f"'{one}' is no answer; write QUESTION=CHOICE, for instance hollow=outer.", "answer"
            )
        answers.append((question.strip(), choice.strip()))
    return answers


def _survey_wish(given: argparse.Namespace) -> SurveyWish:
    wish = SurveyWish(
        SkinChoice(given.skin) if given.skin else SkinChoice.UNASKED, close_holes=given.close_holes
    )
    for question, choice in _answers(given):
        if question != "unit":
            wish = answered(wish, question, choice)
    if given.close_under is not None:
        under = read_quantity(
            given.close_under, "m", "mm", name="The width of openings", field="close-under"
        )
        wish = replace(wish, close_under_m=under)
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
