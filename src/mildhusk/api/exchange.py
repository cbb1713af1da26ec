"""Materials in and out, as files."""

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import (
    PREFIX,
    TakenOver,
    UploadForm,
    Word,
    download,
    file_of,
    read_upload,
    transaction,
)
from mildhusk.services import exchange

blueprint = APIBlueprint("exchange", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Shelf")])


class KindQuery(BaseModel):
    """Which kind of material."""

    kind: Word = "casting-resin"


@blueprint.get(
    "/shelf.json", responses=file_of("application/json"), summary="The whole shelf as JSON"
)
def as_json() -> Response:  # noqa: D103
    with transaction() as at:
        content = exchange.export_json(at)
    return download(content, "application/json", "shelf.json")


@blueprint.get(
    "/shelf.csv", responses=file_of("text/csv"), summary="The materials of a kind as CSV"
)
def as_csv(query: KindQuery) -> Response:  # noqa: D103
    with transaction() as at:
        content = exchange.export_csv(at, query.kind)
    return download(content, "text/csv; charset=utf-8", f"{query.kind}.csv")


@blueprint.post("/shelf", responses={200: TakenOver}, summary="Import materials from a file")
def take_over(form: UploadForm) -> dict[str, object]:  # noqa: D103
    content = read_upload(form.file)
    with transaction() as at:
        taken = TakenOver(taken=exchange.import_materials(at, content))
    return taken.model_dump(mode="json")
