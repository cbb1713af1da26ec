"""Dab tests: start, judge, photograph, read."""

from datetime import datetime
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import BaseModel, ConfigDict

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    IdPath,
    Note,
    Shape,
    file_of,
    read_upload,
    transaction,
)
from mildhusk.core.materials.compatibility import DabResult
from mildhusk.services import dabs
from mildhusk.store.tables import DabTestRow

blueprint = APIBlueprint("dabs", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Dab tests")])


class NewDab(Body):
    """A dab of one material on another."""

    first_id: UUID
    second_id: UUID
    note: Note = ""


class JudgedDab(Body):
    """What a dab came to."""

    result: DabResult
    note: Note = ""


class PhotoForm(BaseModel):
    """A multipart form with one photo."""

    model_config = ConfigDict(arbitrary_types_allowed=True)
    file: FileStorage


class DabShape(Shape):
    """A dab test; it is due a day after it was made."""

    id: UUID
    first_name: str
    second_name: str
    made_at: datetime
    due_at: datetime
    due: bool
    result: DabResult | None
    judged_at: datetime | None
    note: str
    has_photo: bool


class DabList(Shape):
    """All dab tests, newest first."""

    dabs: list[DabShape]


def _shape(dab: DabTestRow, now: datetime) -> DabShape:
    due_at = dab.created_at + dabs.WAIT
    return DabShape(
        id=dab.id,
        first_name=dab.first.name,
        second_name=dab.second.name,
        made_at=dab.created_at,
        due_at=due_at,
        due=dab.result is None and due_at <= now,
        result=None if dab.result is None else DabResult(dab.result),
        judged_at=dab.judged_at,
        note=dab.note,
        has_photo=dab.photo_kind is not None,
    )


@blueprint.get("/dab-tests", responses={200: DabList}, summary="All dab tests")
def index() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = DabList(dabs=[_shape(dab, at.now) for dab in dabs.list_dabs(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/dab-tests", responses={201: DabShape}, summary="Start a dab test")
def start(body: NewDab) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        shown = _shape(dabs.start_dab(at, body.first_id, body.second_id, body.note), at.now)
    return shown.model_dump(mode="json"), 201


@blueprint.post("/dab-tests/<uuid:id>/result", responses={200: DabShape}, summary="Judge a dab")
def judge(path: IdPath, body: JudgedDab) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = _shape(dabs.judge_dab(at, path.id, body.result, body.note), at.now)
    return shown.model_dump(mode="json")


@blueprint.post("/dab-tests/<uuid:id>/photo", responses={200: DabShape}, summary="Save a photo")
def photograph(path: IdPath, form: PhotoForm) -> dict[str, object]:  # noqa: D103
    content = read_upload(form.file)
    with transaction() as at:
        shown = _shape(dabs.keep_photo(at, path.id, content), at.now)
    return shown.model_dump(mode="json")


@blueprint.get(
    "/dab-tests/<uuid:id>/photo",
    responses=file_of("image/jpeg", "image/png", "image/webp"),
    summary="The photo of a dab",
)
def photo(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        content, kind = dabs.photo_of(at, path.id)
    return Response(content, content_type=kind)


@blueprint.delete("/dab-tests/<uuid:id>", responses={200: Deleted}, summary="Forget a dab test")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        dabs.delete_dab(at, path.id)
    return Deleted().model_dump(mode="json")
