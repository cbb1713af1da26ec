"""Pieces: upload, ask the unit, measure, show."""

from datetime import datetime
from uuid import UUID

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    FindingShape,
    IdPath,
    Name,
    UploadForm,
    desk,
    read_upload,
)
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.planning.document import face_document
from mildhusk.documents.model import mesh_to_glb
from mildhusk.services import pieces
from mildhusk.store.tables import MeshFile, Piece

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


class PieceShape(BaseModel):
    """A piece."""

    id: UUID
    version: int
    name: str
    units: LengthUnit
    extents_m: list[float]
    measures: MeasuresShape
    created_at: datetime


class PieceList(BaseModel):
    """All pieces."""

    pieces: list[PieceShape]


class NewPiece(Body):
    """An uploaded file, its unit and a name."""

    name: Name
    mesh_sha256: str
    units: LengthUnit


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
        units=LengthUnit(piece.units),
        extents_m=list(face.extents_m),
        measures=MeasuresShape.model_validate(face_document(face)),
        created_at=piece.created_at,
    )


@blueprint.post("/mesh-files", responses={201: UploadedFile}, summary="Upload an STL")
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


@blueprint.post("/pieces", responses={201: PieceShape}, summary="Make a piece of a file")
def create(body: NewPiece) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        shown = piece_shape(pieces.add_piece(at, body.name, body.mesh_sha256, body.units))
    return shown.model_dump(mode="json"), 201


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
        response.set_etag(f"{piece.mesh_sha256}-{piece.units}")
        response.cache_control.no_cache = True
        if not request.if_none_match.contains(response.get_etag()[0] or ""):
            response.set_data(mesh_to_glb(pieces.mesh_of_piece(at, path.id)))
    response.make_conditional(request)
    return response
