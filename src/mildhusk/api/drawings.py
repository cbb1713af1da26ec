"""Drawings: the small pictures that lists show."""

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import PREFIX, file_of, transaction
from mildhusk.api.pieces import Sha256
from mildhusk.services.drawings import KIND, content_of_drawing

blueprint = APIBlueprint("drawings", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Drawings")])


class DrawingPath(BaseModel):
    """What a drawing was made from, hashed."""

    key: Sha256


@blueprint.get(
    "/drawings/<string:key>",
    responses=file_of(KIND),
    summary="A drawing of a piece, a mould or a wall",
)
def show(path: DrawingPath) -> Response:  # noqa: D103
    with transaction() as at:
        content = content_of_drawing(at, path.key)
    response = Response(content, content_type=KIND)
    # Its name is its content: it never changes.
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
