"""Pieces without a file: by tape, filling, clay or a weighed cast."""

from typing import Annotated
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    Name,
    Number,
    Shape,
    UploadForm,
    calmly,
    file_of,
    read_upload,
    transaction,
)
from mildhusk.api.pieces import PieceShape, piece_shape
from mildhusk.core.geometry.byhand import Outline, Silhouette, Station, Taping
from mildhusk.documents.girth_files import read_girths_csv
from mildhusk.documents.model import mesh_to_glb
from mildhusk.services import byhand

blueprint = APIBlueprint("byhand", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pieces")])


class NewTapedPiece(Body):
    """A taped piece to keep."""

    name: Name
    taping: Taping


class TapingBody(RootModel[Taping]):
    """A taped piece: stations from the rim upwards, and the closed top if there is one."""


class SilhouetteAnswer(Answer[Silhouette]):
    """How a taped piece looks: half widths and depths by height, its area, volume and band."""


class NewFilledPiece(Body):
    """A piece that was filled with water or grain."""

    name: Name
    volume_m3: Number
    height_m: Number
    opening_m: Number
    outline: Outline = Outline.ROUND


class NewClayPiece(Body):
    """A piece under a clay blanket: what the removed clay came to."""

    name: Name
    volume_m3: Number
    thickness_m: Number


class NewCastPiece(Body):
    """A piece by a weighed cast of it and readings of its wall."""

    name: Name
    cast_kg: Number
    material_id: UUID
    walls_m: Annotated[list[Number], Field(max_length=200)]


class StationList(Shape):
    """Stations read from a file."""

    stations: tuple[Station, ...]


@blueprint.post("/taping/preview", responses={200: SilhouetteAnswer}, summary="See a taped piece")
@calmly
def preview(body: TapingBody) -> dict[str, object]:  # noqa: D103
    return SilhouetteAnswer(byhand.silhouette(body.root)).told()


@blueprint.post(
    "/taping/model.glb",
    responses=file_of("model/gltf-binary"),
    summary="A taped piece as GLB, in metres",
)
@calmly
def model(body: TapingBody) -> Response:  # noqa: D103
    return Response(mesh_to_glb(byhand.lofted(body.root)), mimetype="model/gltf-binary")


@blueprint.post("/taping/file", responses={200: StationList}, summary="Read girths from a CSV")
def read_file(form: UploadForm) -> dict[str, object]:  # noqa: D103
    read = read_girths_csv(read_upload(form.file))
    return StationList(stations=read).model_dump(mode="json")


@blueprint.post("/pieces/taped", responses={201: PieceShape}, summary="Save a taped piece")
@calmly
def tape(body: NewTapedPiece) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return piece_shape(byhand.add_taped(at, body.name, body.taping)), 201


@blueprint.post("/pieces/filled", responses={201: PieceShape}, summary="Save a filled piece")
def fill(body: NewFilledPiece) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return piece_shape(
            byhand.add_filled(
                at, body.name, body.volume_m3, body.height_m, body.opening_m, body.outline
            )
        ), 201


@blueprint.post("/pieces/clay", responses={201: PieceShape}, summary="Save a piece by its clay")
def clay(body: NewClayPiece) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return piece_shape(byhand.add_by_clay(at, body.name, body.volume_m3, body.thickness_m)), 201


@blueprint.post("/pieces/weighed", responses={201: PieceShape}, summary="Save a piece by a cast")
def weigh(body: NewCastPiece) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return piece_shape(
            byhand.add_by_cast(at, body.name, body.cast_kg, body.material_id, tuple(body.walls_m))
        ), 201
