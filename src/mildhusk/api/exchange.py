"""Materials in and out, as files."""

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import BaseModel, ConfigDict

from mildhusk.api.common import PREFIX, desk, read_upload
from mildhusk.services import exchange

blueprint = APIBlueprint("exchange", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Shelf")])


class KindQuery(BaseModel):
    """Which kind of material."""

    kind: str = "casting-resin"


class MaterialsForm(BaseModel):
    """A multipart form with a JSON or CSV file."""

    model_config = ConfigDict(arbitrary_types_allowed=True)
    file: FileStorage


class TakenOver(BaseModel):
    """How many materials were taken over."""

    materials: int


@blueprint.get("/shelf.json", summary="The whole shelf as JSON")
def as_json() -> Response:  # noqa: D103
    with desk() as at:
        content = exchange.export_json(at)
    return _download(content, "application/json", "shelf.json")


@blueprint.get("/shelf.csv", summary="The materials of a kind as CSV")
def as_csv(query: KindQuery) -> Response:  # noqa: D103
    with desk() as at:
        content = exchange.export_csv(at, query.kind)
    return _download(content, "text/csv; charset=utf-8", f"{query.kind}.csv")


def _download(content: bytes, kind: str, name: str) -> Response:
    response = Response(content, content_type=kind)
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@blueprint.post("/shelf", responses={200: TakenOver}, summary="Take over materials from a file")
def take_over(form: MaterialsForm) -> dict[str, object]:  # noqa: D103
    content = read_upload(form.file)
    with desk() as at:
        taken = TakenOver(materials=exchange.import_materials(at, content))
    return taken.model_dump(mode="json")
