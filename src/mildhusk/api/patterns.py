"""Patterns to cut: of a piece, of a mould; as JSON, PDF, SVG and DXF."""

from collections.abc import Iterable
from enum import StrEnum
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    IdPath,
    Number,
    Shape,
    Whole,
    Word,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.core.patterns.answer import CutPattern
from mildhusk.core.patterns.flat import PatternKind
from mildhusk.core.patterns.request import PatternRequest
from mildhusk.core.patterns.sheets import SheetSize
from mildhusk.documents.pattern_files import Paper, pattern_dxf, pattern_pdf, pattern_svg
from mildhusk.services.patterns import (
    NamedPattern,
    keep_of_mould,
    keep_of_piece,
    kept_of_mould,
    kept_of_piece,
    pattern_of_mould,
    pattern_of_piece,
)

blueprint = APIBlueprint("patterns", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Patterns")])

_NO_WISH = {"kind", "paper", "sheet_width_m", "sheet_height_m"}


class PatternQuery(BaseModel):
    """Which pattern, what is wanted of it, and the sheets it is cut from. [m], [rad], [s]"""

    kind: PatternKind
    sheet_width_m: Number = 1.0
    sheet_height_m: Number = 0.7
    parts: Whole | None = None
    clearance_m: Number | None = None
    flange_m: Number | None = None
    bolt_pitch_m: Number | None = None
    foot_m: Number | None = None
    turned: Number | None = None
    aside_m: Number | None = None
    height_m: Number | None = None
    thickness_m: Number | None = None
    flare: Number | None = None
    allowance_m: Number | None = None
    margin_m: Number | None = None
    following: bool | None = None
    overlap_m: Number | None = None
    chunks_off_m: Number | None = None
    edge: Word | None = None
    material: Word | None = None
    length_m: Number | None = None
    width_m: Number | None = None
    strip_plies: Whole | None = None
    overlap: Number | None = None
    passes: Whole | None = None
    working_s: Number | None = None
    seam_step_m: Number | None = None

    def asked(self) -> PatternRequest:
        """Return it as the services take it."""
        given = self.model_dump(exclude_none=True, exclude=_NO_WISH)
        size = SheetSize(self.sheet_width_m, self.sheet_height_m)
        return PatternRequest(self.kind, given, size)


class PaperQuery(PatternQuery):
    """And the paper it is printed on."""

    paper: Paper = Paper.A4


class PatternBody(PatternQuery, Body):
    """The sizes of a pattern to save."""


class KeptPatterns(Shape):
    """The saved sizes of patterns of a piece or a mould, at most one of each kind."""

    patterns: list[PatternQuery]


class PatternAnswer(Answer[CutPattern]):
    """A pattern on its sheets."""


class PatternFile(StrEnum):
    """What a pattern is downloaded as."""

    PDF = "pdf"
    SVG = "svg"
    DXF = "dxf"


class OfPath(BaseModel):
    """A piece or a mould, and which file of its pattern."""

    id: UUID
    ending: PatternFile


_FILES = file_of("application/pdf", "image/svg+xml", "image/vnd.dxf")


def _file(found: NamedPattern, ending: PatternFile, paper: Paper) -> Response:
    name = f"{found.name} {found.cut.kind}.{ending}"
    match ending:
        case PatternFile.PDF:
            content = pattern_pdf(found.cut, paper, found.name)
            return download(content, "application/pdf", name, shown_at_once=True)
        case PatternFile.SVG:
            return download(pattern_svg(found.cut), "image/svg+xml", name)
        case PatternFile.DXF:
            return download(pattern_dxf(found.cut), "image/vnd.dxf", name)


@blueprint.get(
    "/pieces/<uuid:id>/pattern", responses={200: PatternAnswer}, summary="A pattern of a piece"
)
@calmly
def of_piece(path: IdPath, query: PatternQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return PatternAnswer(pattern_of_piece(at, path.id, query.asked()).cut).told()


@blueprint.get(
    "/pieces/<uuid:id>/pattern/<string:ending>", responses=_FILES, summary="Its pattern as a file"
)
@calmly
def file_of_piece(path: OfPath, query: PaperQuery) -> Response:  # noqa: D103
    with transaction() as at:
        found = pattern_of_piece(at, path.id, query.asked())
    return _file(found, path.ending, query.paper)


@blueprint.get(
    "/moulds/<uuid:id>/pattern", responses={200: PatternAnswer}, summary="A pattern of a mould"
)
@calmly
def of_mould(path: IdPath, query: PatternQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return PatternAnswer(pattern_of_mould(at, path.id, query.asked()).cut).told()


@blueprint.get(
    "/moulds/<uuid:id>/pattern/<string:ending>", responses=_FILES, summary="Its pattern as a file"
)
@calmly
def file_of_mould(path: OfPath, query: PaperQuery) -> Response:  # noqa: D103
    with transaction() as at:
        found = pattern_of_mould(at, path.id, query.asked())
    return _file(found, path.ending, query.paper)


def _told(kept: Iterable[PatternRequest]) -> dict[str, object]:
    patterns = [
        PatternQuery(
            kind=one.kind,
            sheet_width_m=one.size.width_m,
            sheet_height_m=one.size.height_m,
            **one.given,
        )
        for one in kept
    ]
    return KeptPatterns(patterns=patterns).model_dump(mode="json")


@blueprint.get(
    "/pieces/<uuid:id>/patterns",
    responses={200: KeptPatterns},
    summary="The saved sizes of patterns of a piece",
)
def kept_with_piece(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _told(kept_of_piece(at, path.id))


@blueprint.put(
    "/pieces/<uuid:id>/patterns",
    responses={200: KeptPatterns},
    summary="Save the sizes of a pattern with its piece",
)
def keep_with_piece(path: IdPath, body: PatternBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        keep_of_piece(at, path.id, body.asked())
        return _told(kept_of_piece(at, path.id))


@blueprint.get(
    "/moulds/<uuid:id>/patterns",
    responses={200: KeptPatterns},
    summary="The saved sizes of patterns of a mould",
)
def kept_with_mould(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _told(kept_of_mould(at, path.id))


@blueprint.put(
    "/moulds/<uuid:id>/patterns",
    responses={200: KeptPatterns},
    summary="Save the sizes of a pattern with its mould",
)
def keep_with_mould(path: IdPath, body: PatternBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        keep_of_mould(at, path.id, body.asked())
        return _told(kept_of_mould(at, path.id))
