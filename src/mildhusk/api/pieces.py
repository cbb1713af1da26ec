"""Pieces: upload, ask the unit, measure, show."""

from datetime import datetime
from http import HTTPStatus
from math import isfinite
from typing import Annotated
from uuid import UUID

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, StringConstraints

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    Deleted,
    IdPath,
    Name,
    NamedListQuery,
    Number,
    Shape,
    UploadForm,
    Whole,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.api.jobs import JobShape, job_answer, job_shape
from mildhusk.core.geometry.answer import Measured, Surveyed
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.sections import Girth
from mildhusk.core.geometry.survey_options import SurveyWish
from mildhusk.core.geometry.wearing import HEADS, HEADS_SOURCE, Fit, Head
from mildhusk.documents.girth_files import girths_csv
from mildhusk.documents.model import FILE, model_to_glb, parts_to_glb
from mildhusk.services import files, pieces, surveying
from mildhusk.services.drawings import draw_soon
from mildhusk.services.pieces import PieceSummary
from mildhusk.store.tables import Piece, PieceSource

Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]

blueprint = APIBlueprint("pieces", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pieces")])


class UnitChoice(Shape):
    """What a unit would mean for the file."""

    units: LengthUnit
    extents_m: tuple[float, float, float]


class UploadedFile(Shape):
    """A file that was read, not yet a piece: choose its unit."""

    sha256: str
    file_name: str
    faces: int
    guessed_unit: LengthUnit
    guess_is_sure: bool
    choices: list[UnitChoice]


class UploadShape(Shape):
    """An upload, and the job that reads it; None where the same was read before."""

    sha256: str
    job: JobShape | None


class PieceShape(Shape):
    """A piece; `survey` is empty for one that an earlier version measured.

    `wish` is what the survey of its file was asked; None where it has no file.
    """

    id: UUID
    version: int
    name: str
    source: PieceSource
    units: LengthUnit
    wish: SurveyWish | None
    extents_m: tuple[float, float, float]
    measures: Measured
    survey: Surveyed | None
    created_at: datetime


class PieceList(Shape):
    """A page of the pieces, the newest first, and how many there are in all.

    `drawing`: a worker is at drawings that are missing or old.
    """

    pieces: tuple[PieceSummary, ...]
    total: int
    drawing: bool


class NewPiece(Body):
    """An uploaded file, its unit and a name."""

    name: Name
    mesh_sha256: Sha256
    units: LengthUnit


class SurveyRequest(Body):
    """Which skin counts, a rim plane, skirt and ledge, closed holes, marks; of which version."""

    version: Whole
    wish: SurveyWish


class RimRequest(Body):
    """How much liquid, how far tilted, which way, with which skirt. Angles in radians."""

    volume_m3: Number
    tilt: Number
    heading: Number = 0.0
    skirt_m: Number = 0.0


Points = list[list[list[float]]]


class RimShape(Shape):
    """Whether it stays in; `skirt_m` and `ledge_m` are None when none would hold it.

    `section` holds straight pieces as (across, up), up from the lowest place; `levels` how much it
    holds up to a height; `surface` the flat top of the liquid, in the frame of the piece. [m], [m3]
    """

    level_m: float
    rim_m: float
    holds_m3: float
    spills: bool
    largest_tilt: float
    skirt_m: float | None
    ledge_m: float | None
    up: tuple[float, float, float]
    level_along_m: float
    section: Points
    levels: list[list[float]]
    surface: Points


class HeadList(Shape):
    """Published head sizes."""

    heads: tuple[Head, ...]
    source: str


class FitRequest(Body):
    """A head, and the wall of the husk it shall go into."""

    head: Head
    wall_m: Number


class FitAnswer(Answer[Fit]):
    """How a husk of the piece fits a head."""


class AxisQuery(BaseModel):
    """Which way the heights run; all nought is the way out of the largest opening."""

    x: Number = 0.0
    y: Number = 0.0
    z: Number = 0.0

    def axis(self) -> tuple[float, float, float] | None:
        """Return it as three numbers, None for the way out."""
        return (self.x, self.y, self.z) if self.x or self.y or self.z else None


class GirthList(Shape):
    """Girths by height from the far end."""

    girths: tuple[Girth, ...]


class CompareQuery(BaseModel):
    """The other measure of the same thing."""

    other: UUID


class BetterShape(Shape):
    """Which of two measures is better, and why."""

    piece_id: UUID
    name: str
    reason: str


class RenamedPiece(Body):
    """Another name for a piece."""

    name: Name
    version: int


class HashPath(BaseModel):
    """The hash of an uploaded file, in the address."""

    sha256: Sha256


def piece_shape(piece: Piece) -> dict[str, object]:
    """Return a piece as the API shows it."""
    face, facts = pieces.face_of(piece), pieces.surveyed_of(piece)
    return PieceShape(
        id=piece.id,
        version=piece.version,
        name=piece.name,
        source=PieceSource(piece.source),
        units=LengthUnit(piece.units),
        wish=pieces.survey_wish_of(piece),
        extents_m=face.extents_m,
        measures=Measured.of(face),
        survey=None if facts is None else Surveyed.of(facts),
        created_at=piece.created_at,
    ).model_dump(mode="json")


@blueprint.post(
    "/mesh-files",
    responses={200: UploadShape, 202: UploadShape},
    summary="Upload a shape; a worker reads it",
)
def upload(form: UploadForm) -> tuple[dict[str, object], int]:  # noqa: D103
    name = "".join(letter for letter in form.file.filename or "" if letter.isprintable())
    try:
        with transaction() as at:
            taken = files.take_in_file(at, name or "upload.stl", form.file.stream)
            job = None if taken.job is None else job_shape(taken.job)
    finally:
        form.file.close()
    status = HTTPStatus.OK if job is None else HTTPStatus.ACCEPTED
    return UploadShape(sha256=taken.sha256, job=job).model_dump(mode="json"), status


@blueprint.get(
    "/mesh-files/<string:sha256>", responses={200: UploadedFile}, summary="What was read of a file"
)
def uploaded(path: HashPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        file = files.find_file(at, path.sha256)
        facts = files.facts_of(file)
    x, y, z = facts.extents
    return UploadedFile(
        sha256=file.sha256,
        file_name=file.file_name,
        faces=facts.faces,
        guessed_unit=facts.guessed_unit,
        guess_is_sure=facts.guess_is_sure,
        choices=[
            UnitChoice(units=u, extents_m=(x * u.metres, y * u.metres, z * u.metres))
            for u in LengthUnit
        ],
    ).model_dump(mode="json")


@blueprint.get("/pieces", responses={200: PieceList}, summary="A page of the pieces")
def index(query: NamedListQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = pieces.list_pieces(at, query.page())
        drawing = draw_soon(at, "pieces", found.undrawn)
    return PieceList(pieces=found.rows, total=found.total, drawing=drawing).model_dump(mode="json")


@blueprint.post("/pieces", responses={202: JobShape}, summary="Ask for a piece of a file")
def create(body: NewPiece) -> tuple[dict[str, object], int]:  # noqa: D103
    wish = SurveyWish()
    with transaction() as at:
        asked = surveying.ask_piece(at, body.name, body.mesh_sha256, body.units, wish)
        return job_answer(asked), 202


@blueprint.get("/pieces/<uuid:id>", responses={200: PieceShape}, summary="One piece")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return piece_shape(pieces.find_piece(at, path.id))


@blueprint.patch("/pieces/<uuid:id>", responses={200: PieceShape}, summary="Rename a piece")
def rename(path: IdPath, body: RenamedPiece) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return piece_shape(pieces.rename_piece(at, path.id, body.version, body.name))


@blueprint.delete("/pieces/<uuid:id>", responses={200: Deleted}, summary="Delete a piece")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        undo = pieces.delete_piece(at, path.id)
    return Deleted(undo=undo).model_dump(mode="json")


@blueprint.get(
    "/pieces/<uuid:id>/model.glb",
    responses=file_of("model/gltf-binary"),
    summary="The piece as GLB, in metres",
)
@calmly
def model(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        piece = pieces.find_piece(at, path.id)
        response = Response(mimetype="model/gltf-binary")
        response.set_etag(f"{piece.id}-{piece.version}")
        if not request.if_none_match.contains(response.get_etag()[0] or ""):
            response.set_data(model_to_glb(pieces.model_of_piece(at, path.id)))
    response.make_conditional(request)
    return response


@blueprint.get(
    "/pieces/<uuid:id>/file.glb",
    responses=file_of("model/gltf-binary"),
    summary="The faces of its file as they came, as GLB, in metres",
)
@calmly
def file_model(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        mesh = pieces.file_of_piece(at, path.id)
    response = Response(parts_to_glb({FILE: mesh}), mimetype="model/gltf-binary")
    response.cache_control.private = True
    response.cache_control.max_age = 3600
    return response


@blueprint.put("/pieces/<uuid:id>/survey", responses={202: JobShape}, summary="Survey again")
def survey_again(path: IdPath, body: SurveyRequest) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return job_answer(surveying.ask_again(at, path.id, body.version, body.wish)), 202


@blueprint.post("/pieces/<uuid:id>/rim", responses={200: RimShape}, summary="Does it spill?")
@calmly
def rim(path: IdPath, body: RimRequest) -> dict[str, object]:  # noqa: D103
    asked = pieces.RimQuestion(body.volume_m3, body.tilt, body.heading, body.skirt_m)
    with transaction() as at:
        answer = pieces.try_rim(at, path.id, asked)
    tested = answer.tested
    return RimShape(
        level_m=tested.level_m,
        rim_m=tested.rim_m,
        holds_m3=tested.holds_m3,
        spills=tested.spills,
        largest_tilt=tested.largest_tilt,
        skirt_m=tested.skirt_m if isfinite(tested.skirt_m) else None,
        ledge_m=tested.ledge_m if isfinite(tested.ledge_m) else None,
        up=tested.up,
        level_along_m=tested.level_along_m,
        section=answer.section.round(5).tolist(),
        levels=answer.levels.round(9).tolist(),
        surface=answer.surface.round(5).tolist(),
    ).model_dump(mode="json")


@blueprint.get("/heads", responses={200: HeadList}, summary="Published head sizes")
def heads() -> dict[str, object]:  # noqa: D103
    return HeadList(heads=HEADS, source=HEADS_SOURCE).model_dump(mode="json")


@blueprint.post("/pieces/<uuid:id>/fit", responses={200: FitAnswer}, summary="Does a head go in?")
@calmly
def fit(path: IdPath, body: FitRequest) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = pieces.fit_head(at, path.id, body.head, body.wall_m)
    return FitAnswer(found).told()


@blueprint.get("/pieces/<uuid:id>/better", responses={200: BetterShape}, summary="Which is surer")
def better(path: IdPath, query: CompareQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        best, reason = pieces.compare_pieces(at, path.id, query.other)
        shown = BetterShape(piece_id=best.id, name=best.name, reason=reason)
    return shown.model_dump(mode="json")


@blueprint.get("/pieces/<uuid:id>/girths", responses={200: GirthList}, summary="Tape it")
@calmly
def girths(path: IdPath, query: AxisQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        taped = pieces.girths_along(at, path.id, query.axis())
    return GirthList(girths=tuple(taped)).model_dump(mode="json")


@blueprint.get(
    "/pieces/<uuid:id>/girths.csv", responses=file_of("text/csv"), summary="Girths by height as CSV"
)
@calmly
def girths_file(path: IdPath, query: AxisQuery) -> Response:  # noqa: D103
    with transaction() as at:
        name = pieces.find_piece(at, path.id).name
        taped = pieces.girths_along(at, path.id, query.axis())
    return download(girths_csv(taped), "text/csv; charset=utf-8", f"{name} girths.csv")
