"""Cast sheets: preview while it is changed, keep, print, export."""

from datetime import datetime
from uuid import UUID

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime, BaseModel

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    Deleted,
    IdPath,
    Name,
    NamedListQuery,
    Shape,
    Whole,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.core.casting.plan import CastPlan
from mildhusk.core.casting.wish import CastWish
from mildhusk.documents.bench_card import bench_card_pdf
from mildhusk.documents.clock_files import clock_ics
from mildhusk.documents.sheet_files import SheetFile, sheet_csv, sheet_json
from mildhusk.services import sheets
from mildhusk.services.drawings import draw_soon
from mildhusk.services.sheets import SchoolPlan, SheetQuestion, SheetSummary
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import CastSheetRow, PieceSource

blueprint = APIBlueprint("sheets", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Cast sheets")])


class SheetRequest(Body):
    """Piece, material and wish: all a plan needs."""

    piece_id: UUID
    material_id: UUID
    wish: CastWish

    def question(self) -> SheetQuestion:
        """Return it as the service takes it."""
        return SheetQuestion(self.piece_id, self.material_id, self.wish)


class NewSheet(SheetRequest):
    """A cast sheet to keep."""

    name: Name


class EditedSheet(NewSheet):
    """A changed cast sheet."""

    version: Whole


class PlanAnswer(Answer[CastPlan]):
    """A planned cast."""


class SchoolPlans(Shape):
    """A cast by every school its material is poured by."""

    schools: tuple[SchoolPlan, ...]


class SheetPiece(Shape):
    """What a cast sheet shows of its piece."""

    id: UUID
    version: int
    name: str
    source: PieceSource
    area_m2: float


class SheetShape(Shape):
    """A kept cast sheet and its plan."""

    id: UUID
    version: int
    name: str
    piece: SheetPiece
    piece_id: UUID
    piece_name: str
    material_id: UUID
    resin_name: str
    wish: CastWish
    plan: CastPlan
    created_at: datetime


class SheetList(Shape):
    """A page of the cast sheets, the newest first, and how many there are in all.

    `drawing`: a worker is at drawings that are missing or old.
    """

    sheets: tuple[SheetSummary, ...]
    total: int
    drawing: bool


def sheet_shape(at: Transaction, row: CastSheetRow) -> dict[str, object]:
    """Return a kept sheet as it is shown."""
    plan = sheets.plan_of(at, row)
    return SheetShape(
        id=row.id,
        version=row.version,
        name=row.name,
        piece=SheetPiece(
            id=row.piece_id,
            version=row.piece.version,
            name=row.piece.name,
            source=PieceSource(row.piece.source),
            area_m2=row.piece.measures["area_m2"],
        ),
        piece_id=row.piece_id,
        piece_name=row.piece.name,
        material_id=row.material_id,
        resin_name=row.material.name,
        wish=plan.wish,
        plan=plan,
        created_at=row.created_at,
    ).model_dump(mode="json")


@blueprint.post("/sheets/preview", responses={200: PlanAnswer}, summary="Plan without keeping")
@calmly
def preview(body: SheetRequest) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        plan = sheets.plan_sheet(at, body.question())
    return PlanAnswer(plan).told()


@blueprint.post("/sheets/schools", responses={200: SchoolPlans}, summary="By every school")
@calmly
def by_school(body: SheetRequest) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        plans = sheets.by_school(at, body.question())
    return SchoolPlans(schools=plans).model_dump(mode="json")


@blueprint.get("/sheets", responses={200: SheetList}, summary="A page of the cast sheets")
def index(query: NamedListQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = sheets.list_sheets(at, query.page())
        drawing = draw_soon(at, "sheets", found.undrawn)
    return SheetList(sheets=found.rows, total=found.total, drawing=drawing).model_dump(mode="json")


@blueprint.post("/sheets", responses={201: SheetShape}, summary="Save a cast sheet")
@calmly
def create(body: NewSheet) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return sheet_shape(at, sheets.add_sheet(at, body.name, body.question())), 201


@blueprint.get("/sheets/<uuid:id>", responses={200: SheetShape}, summary="One cast sheet")
@calmly
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return sheet_shape(at, sheets.find_sheet(at, path.id))


@blueprint.put("/sheets/<uuid:id>", responses={200: SheetShape}, summary="Edit a cast sheet")
@calmly
def edit(path: IdPath, body: EditedSheet) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        row = sheets.edit_sheet(at, path.id, body.version, body.name, body.question())
        return sheet_shape(at, row)


@blueprint.delete("/sheets/<uuid:id>", responses={200: Deleted}, summary="Delete a cast sheet")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        undo = sheets.delete_sheet(at, path.id)
    return Deleted(undo=undo).model_dump(mode="json")


def _file(id: UUID) -> tuple[SheetFile, datetime]:
    """Return a kept sheet as it leaves, and the time it is."""
    with transaction() as at:
        row = sheets.find_sheet(at, id)
        plan = sheets.plan_of(at, row)
        return SheetFile(row.name, row.piece.name, row.material.name, plan.wish, plan), at.now


@blueprint.get(
    "/sheets/<uuid:id>/sheet.json",
    responses=file_of("application/json"),
    summary="The cast sheet as JSON",
)
@calmly
def as_json(path: IdPath) -> Response:  # noqa: D103
    sheet, _ = _file(path.id)
    return download(sheet_json(sheet), "application/json", f"{sheet.name}.json")


@blueprint.get(
    "/sheets/<uuid:id>/sheet.csv",
    responses=file_of("text/csv"),
    summary="The cast sheet as CSV, a row a coat",
)
@calmly
def as_csv(path: IdPath) -> Response:  # noqa: D103
    sheet, _ = _file(path.id)
    return download(sheet_csv(sheet), "text/csv; charset=utf-8", f"{sheet.name}.csv")


@blueprint.get(
    "/sheets/<uuid:id>/bench-card.pdf",
    responses=file_of("application/pdf"),
    summary="The bench card as PDF",
)
@calmly
def as_bench_card(path: IdPath) -> Response:  # noqa: D103
    sheet, _ = _file(path.id)
    card = bench_card_pdf(sheet, f"{request.host_url}sheets/{path.id}/pour")
    return download(card, "application/pdf", f"{sheet.name}.pdf", shown_at_once=True)


class ClockQuery(BaseModel):
    """When A meets B of coat 1, with its time zone."""

    begins_at: AwareDatetime


@blueprint.get(
    "/sheets/<uuid:id>/clock.ics",
    responses=file_of("text/calendar"),
    summary="The clock of the cast as iCalendar",
)
@calmly
def as_calendar(path: IdPath, query: ClockQuery) -> Response:  # noqa: D103
    sheet, now = _file(path.id)
    calendar = clock_ics(sheet.name, sheet.plan, query.begins_at, now, str(path.id))
    return download(calendar, "text/calendar; charset=utf-8", f"{sheet.name}.ics")
