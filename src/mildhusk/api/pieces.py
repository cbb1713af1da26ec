"""Pieces: upload, ask the unit, measure, show."""

from dataclasses import asdict
from datetime import datetime
from math import isfinite
from typing import Annotated, Any
from uuid import UUID

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    FindingShape,
    IdPath,
    Name,
    Number,
    UploadForm,
    desk,
    download,
    read_upload,
)
from mildhusk.api.jobs import JobShape, job_shape
from mildhusk.core.geometry.asked import MOST_MARKS, FaceRole, Mark, SkinChoice, SurveyWish
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.repair import RepairKind
from mildhusk.core.geometry.skin import SkinMethod
from mildhusk.core.geometry.wearing import HEADS, HEADS_SOURCE, Head
from mildhusk.core.planning.document import face_document
from mildhusk.documents.girth_files import girths_csv
from mildhusk.documents.model import model_to_glb
from mildhusk.services import pieces, surveying
from mildhusk.store.tables import MeshFile, Piece, PieceSource

blueprint = APIBlueprint("pieces", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pieces")])


class UnitChoice(BaseModel):
    """What a unit would mean for the file."""

    units: LengthUnit
    extents_m: list[float]


class UploadedFile(BaseModel):
    """A file taken in, not yet a piece: choose its unit."""

    sha256: str
    file_name: str
    faces: int
    guessed_unit: LengthUnit
    guess_is_sure: bool
    choices: list[UnitChoice]


class OpeningShape(BaseModel):
    """A hole in the face."""

    perimeter_m: float
    area_m2: float
    centre_m: list[float]


class MeasuresShape(BaseModel):
    """What a piece measures."""

    area_m2: float
    volume_m3: float
    faces: int
    watertight: bool
    bounds_m: list[list[float]]
    openings: list[OpeningShape]
    mean_curvature_m: float
    total_curvature: float
    bodies: int
    findings: list[FindingShape]


class SkinShape(BaseModel):
    """Which faces of the file are casting face, and how that was found."""

    kept_faces: int
    dropped_faces: int
    method: SkinMethod
    wall_m: float | None
    said: str


class RepairShape(BaseModel):
    """A repair, and how often it was made."""

    kind: RepairKind
    count: int
    said: str


class NarrowShape(BaseModel):
    """A place narrower than twice the usual wall: it fills solid."""

    at_m: list[float]
    width_m: float
    volume_m3: float


class GirthShape(BaseModel):
    """A tape round the piece at a height from its far end."""

    height_m: float
    girth_m: float


class SurveyShape(BaseModel):
    """What the survey found beside the measures."""

    skin: SkinShape
    repairs: list[RepairShape]
    waste_area_m2: float
    centre_of_mass_m: Annotated[dict[str, list[float]], Field(default_factory=dict)]
    shell_volume_m3: dict[str, float]
    shell_volume_rel_error: float
    narrow: list[NarrowShape]
    girths: list[GirthShape]
    opening_girth_m: float
    widest_girth_m: float


class PieceShape(BaseModel):
    """A piece; `survey` is empty for one that an earlier version measured."""

    id: UUID
    version: int
    name: str
    source: PieceSource
    units: LengthUnit
    asked: dict[str, Any]
    extents_m: list[float]
    measures: MeasuresShape
    survey: SurveyShape | None
    created_at: datetime


class PieceList(BaseModel):
    """All pieces."""

    pieces: list[PieceShape]


class NewPiece(Body):
    """An uploaded file, its unit and a name."""

    name: Name
    mesh_sha256: str
    units: LengthUnit


class MarkShape(Body):
    """A round place on the face, and what it is."""

    at_m: Annotated[list[Number], Field(min_length=3, max_length=3)]
    radius_m: Number
    role: FaceRole

    def to_core(self) -> Mark:
        """Return it as the core's checked value."""
        x, y, z = self.at_m
        return Mark((x, y, z), self.radius_m, self.role)


class SurveyAsked(Body):
    """Which skin counts, a rim plane, skirt and ledge, closed holes, marks."""

    version: int
    skin: SkinChoice
    rim_z_m: Number | None = None
    skirt_m: Number = 0.0
    ledge_m: Number = 0.0
    close_holes: bool = False
    marks: Annotated[list[MarkShape], Field(max_length=MOST_MARKS, default_factory=list)]

    def to_core(self) -> SurveyWish:
        """Return it as the core's checked value."""
        return SurveyWish(
            self.skin,
            self.rim_z_m,
            self.skirt_m,
            self.ledge_m,
            self.close_holes,
            tuple(mark.to_core() for mark in self.marks),
        )


class RimAsked(Body):
    """How much liquid, how far tilted, which way, with which skirt. Angles in radians."""

    volume_m3: Number
    tilt: Number
    heading: Number = 0.0
    skirt_m: Number = 0.0


class RimShape(BaseModel):
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
    up: list[float]
    level_along_m: float
    section: list[list[list[float]]]
    levels: list[list[float]]
    surface: list[list[list[float]]]


class HeadShape(Body):
    """A head."""

    name: str
    girth_m: Number
    breadth_m: Number
    length_m: Number


class HeadList(BaseModel):
    """Published head sizes."""

    heads: list[HeadShape]
    source: str


class FitAsked(Body):
    """A head, and the wall of the husk it shall go into."""

    head: HeadShape
    wall_m: Number


class FitShape(BaseModel):
    """How a husk of the piece fits a head."""

    clearance_m: float
    passes_opening: bool
    opening_spare_m: float


class AxisQuery(BaseModel):
    """Which way the heights run; all nought is the way out of the largest opening."""

    x: Number = 0.0
    y: Number = 0.0
    z: Number = 0.0

    def axis(self) -> tuple[float, float, float] | None:
        """Return it as three numbers, None for the way out."""
        return (self.x, self.y, self.z) if self.x or self.y or self.z else None


class GirthList(BaseModel):
    """Girths by height from the far end."""

    girths: list[GirthShape]


class CompareQuery(BaseModel):
    """The other measure of the same thing."""

    other: UUID


class BetterShape(BaseModel):
    """Which of two measures is better, and why."""

    piece_id: UUID
    name: str
    reason: str


class RenamedPiece(Body):
    """Another name for a piece."""

    name: Name
    version: int


def _uploaded(file: MeshFile) -> UploadedFile:
    return UploadedFile(
        sha256=file.sha256,
        file_name=file.file_name,
        faces=file.faces,
        guessed_unit=LengthUnit(file.guessed_unit),
        guess_is_sure=file.guess_is_sure,
        choices=[
            UnitChoice(units=unit, extents_m=[extent * unit.metres for extent in file.extents])
            for unit in LengthUnit
        ],
    )


def piece_shape(piece: Piece) -> PieceShape:
    """Return a piece as the API shows it."""
    face = pieces.face_of(piece)
    return PieceShape(
        id=piece.id,
        version=piece.version,
        name=piece.name,
        source=PieceSource(piece.source),
        units=LengthUnit(piece.units),
        asked=piece.asked,
        extents_m=list(face.extents_m),
        measures=MeasuresShape.model_validate(face_document(face)),
        survey=SurveyShape.model_validate(piece.survey) if piece.survey else None,
        created_at=piece.created_at,
    )


@blueprint.post("/mesh-files", responses={201: UploadedFile}, summary="Upload a shape")
def upload(form: UploadForm) -> tuple[dict[str, object], int]:  # noqa: D103
    name = "".join(letter for letter in form.file.filename or "" if letter.isprintable())
    content = read_upload(form.file)
    with desk() as at:
        taken = _uploaded(pieces.take_in_file(at, name or "upload.stl", content))
    return taken.model_dump(mode="json"), 201


@blueprint.get("/pieces", responses={200: PieceList}, summary="All pieces")
def index() -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = PieceList(pieces=[piece_shape(piece) for piece in pieces.list_pieces(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/pieces", responses={202: JobShape}, summary="Ask for a piece of a file")
def create(body: NewPiece) -> tuple[dict[str, object], int]:  # noqa: D103
    wish = SurveyWish()
    with desk() as at:
        asked = surveying.ask_piece(at, body.name, body.mesh_sha256, body.units, wish)
        shown = job_shape(asked)
    return shown.model_dump(mode="json"), 202


@blueprint.get("/pieces/<uuid:id>", responses={200: PieceShape}, summary="One piece")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = piece_shape(pieces.find_piece(at, path.id))
    return shown.model_dump(mode="json")


@blueprint.patch("/pieces/<uuid:id>", responses={200: PieceShape}, summary="Rename a piece")
def rename(path: IdPath, body: RenamedPiece) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = piece_shape(pieces.rename_piece(at, path.id, body.version, body.name))
    return shown.model_dump(mode="json")


@blueprint.delete("/pieces/<uuid:id>", responses={200: Deleted}, summary="Delete a piece")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        pieces.delete_piece(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.get("/pieces/<uuid:id>/model.glb", summary="The piece as GLB, in metres")
def model(path: IdPath) -> Response:  # noqa: D103
    with desk() as at:
        piece = pieces.find_piece(at, path.id)
        response = Response(mimetype="model/gltf-binary")
        response.set_etag(f"{piece.id}-{piece.version}")
        response.cache_control.no_cache = True
        if not request.if_none_match.contains(response.get_etag()[0] or ""):
            response.set_data(model_to_glb(pieces.model_of_piece(at, path.id)))
    response.make_conditional(request)
    return response


@blueprint.put("/pieces/<uuid:id>/survey", responses={202: JobShape}, summary="Survey again")
def survey_again(path: IdPath, body: SurveyAsked) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        shown = job_shape(surveying.ask_again(at, path.id, body.version, body.to_core()))
    return shown.model_dump(mode="json"), 202


@blueprint.post("/pieces/<uuid:id>/rim", responses={200: RimShape}, summary="Does it spill?")
def rim(path: IdPath, body: RimAsked) -> dict[str, object]:  # noqa: D103
    asked = pieces.RimQuestion(body.volume_m3, body.tilt, body.heading, body.skirt_m)
    with desk() as at:
        answer = pieces.try_rim(at, path.id, asked)
    tested = answer.tested
    shown = asdict(tested) | {
        "skirt_m": tested.skirt_m if isfinite(tested.skirt_m) else None,
        "ledge_m": tested.ledge_m if isfinite(tested.ledge_m) else None,
        "section": answer.section.round(5).tolist(),
        "levels": answer.levels.round(9).tolist(),
        "surface": answer.surface.round(5).tolist(),
    }
    return RimShape.model_validate(shown).model_dump(mode="json")


@blueprint.get("/heads", responses={200: HeadList}, summary="Published head sizes")
def heads() -> dict[str, object]:  # noqa: D103
    shown = [HeadShape.model_validate(asdict(head)) for head in HEADS]
    return HeadList(heads=shown, source=HEADS_SOURCE).model_dump(mode="json")


@blueprint.post("/pieces/<uuid:id>/fit", responses={200: FitShape}, summary="Does a head go in?")
def fit(path: IdPath, body: FitAsked) -> dict[str, object]:  # noqa: D103
    asked = body.head
    head = Head(asked.name, asked.girth_m, asked.breadth_m, asked.length_m)
    with desk() as at:
        found = pieces.fit_head(at, path.id, head, body.wall_m)
    return FitShape.model_validate(asdict(found)).model_dump(mode="json")


@blueprint.get("/pieces/<uuid:id>/better", responses={200: BetterShape}, summary="Which is surer")
def better(path: IdPath, query: CompareQuery) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        best, reason = pieces.compare_pieces(at, path.id, query.other)
        shown = BetterShape(piece_id=best.id, name=best.name, reason=reason)
    return shown.model_dump(mode="json")


@blueprint.get("/pieces/<uuid:id>/girths", responses={200: GirthList}, summary="Tape it")
def girths(path: IdPath, query: AxisQuery) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        taped = pieces.girths_along(at, path.id, query.axis())
    shown = GirthList(girths=[GirthShape.model_validate(asdict(one)) for one in taped])
    return shown.model_dump(mode="json")


@blueprint.get("/pieces/<uuid:id>/girths.csv", summary="Girths by height as CSV")
def girths_file(path: IdPath, query: AxisQuery) -> Response:  # noqa: D103
    with desk() as at:
        name = pieces.find_piece(at, path.id).name
        rows = [asdict(one) for one in pieces.girths_along(at, path.id, query.axis())]
    return download(girths_csv(rows), "text/csv; charset=utf-8", f"{name} girths.csv")
