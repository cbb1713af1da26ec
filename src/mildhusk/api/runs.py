"""Runs of casts, control charts, how long a mould lasts, and pours beside each other."""

from datetime import date, datetime
from typing import Annotated
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    Deleted,
    IdPath,
    Name,
    Shape,
    Whole,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.documents.album import album_pdf
from mildhusk.services import beside as side_by_side
from mildhusk.services import runs
from mildhusk.services.album import album_of
from mildhusk.services.mould_history import CastCharts, MouldLife, life_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import CastRun

blueprint = APIBlueprint("runs", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pour and log")])


class NewRun(Body):
    """So many casts by a sheet, in some moulds, by a day."""

    name: Name
    sheet_id: UUID
    mould_ids: Annotated[list[UUID], Field(max_length=runs.MOST_MOULDS)]
    wanted: Whole
    due_on: date


class EndedRun(Body):
    """Whether a run is ended."""

    ended: bool


class CastRunShape(Shape):
    """A run and where it stands."""

    id: UUID
    name: str
    sheet_id: UUID
    sheet_name: str
    wanted: int
    due_on: date
    began_at: datetime
    ended_at: datetime | None
    state: runs.RunState


class CastRunList(Shape):
    """The runs, those that go on first."""

    runs: list[CastRunShape]


class CastRunWithCharts(Shape):
    """A run, and the control charts of its casts."""

    run: CastRunShape
    charts: CastCharts


class LifeAnswer(Answer[MouldLife]):
    """How long a mould lasts."""


class BesideAnswer(Answer[side_by_side.BesideEachOther]):
    """Pours beside each other."""


class BesideQuery(BaseModel):
    """Which pours, two to four."""

    pours: Annotated[list[UUID], Field(max_length=20)]


def _shape(at: Transaction, run: CastRun) -> CastRunShape:
    return CastRunShape(
        id=run.id,
        name=run.name,
        sheet_id=run.sheet_id,
        sheet_name=runs.sheet_of(at, run).name,
        wanted=run.wanted,
        due_on=run.due_on,
        began_at=run.created_at,
        ended_at=run.ended_at,
        state=runs.state_of_run(at, run),
    )


def _told(at: Transaction, run: CastRun) -> dict[str, object]:
    shown = CastRunWithCharts(run=_shape(at, run), charts=runs.charts_of_run(at, run))
    return shown.model_dump(mode="json")


@blueprint.get("/runs", responses={200: CastRunList}, summary="The runs, those that go on first")
@calmly
def index() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = CastRunList(runs=[_shape(at, one) for one in runs.list_runs(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/runs", responses={201: CastRunWithCharts}, summary="Begin a run")
@calmly
def add(body: NewRun) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        run = runs.add_run(at, body.name, body.sheet_id, body.mould_ids, body.wanted, body.due_on)
        return _told(at, run), 201


@blueprint.get(
    "/runs/<uuid:id>", responses={200: CastRunWithCharts}, summary="A run with its charts"
)
@calmly
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _told(at, runs.find_run(at, path.id))


@blueprint.put("/runs/<uuid:id>/ended", responses={200: CastRunWithCharts}, summary="End a run")
@calmly
def end(path: IdPath, body: EndedRun) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _told(at, runs.end_run(at, path.id, ended=body.ended))


@blueprint.delete("/runs/<uuid:id>", responses={200: Deleted}, summary="Delete a run")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        runs.delete_run(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.get(
    "/moulds/<uuid:id>/life", responses={200: LifeAnswer}, summary="How long a mould lasts"
)
@calmly
def life(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return LifeAnswer(life_of(at, path.id)).told()


@blueprint.get(
    "/moulds/<uuid:id>/album.pdf",
    responses=file_of("application/pdf"),
    summary="The casts of a mould with their pictures, as PDF",
)
@calmly
def album(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        found = album_of(at, path.id)
    return download(album_pdf(found), "application/pdf", "album.pdf")


@blueprint.get(
    "/pours/beside",
    responses={200: BesideAnswer},
    summary="Two to four pours compared: what differed, what came of it",
)
@calmly
def beside(query: BesideQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return BesideAnswer(side_by_side.pours_beside(at, query.pours)).told()
