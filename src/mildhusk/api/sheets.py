"""Cast sheets: preview while it is changed, keep, print, export."""

from datetime import datetime
from typing import Annotated, Any
from uuid import UUID

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime, BaseModel, Field

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    FindingShape,
    IdPath,
    Name,
    Number,
    QuantityShape,
    desk,
    download,
)
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.cautions import Operation
from mildhusk.core.mixing.recipe import METAL_POWDER_KG_M3
from mildhusk.core.planning.coats import CoatKind
from mildhusk.core.planning.document import school_document, sheet_document
from mildhusk.core.planning.limits import Limit
from mildhusk.core.planning.paste import MOST_PLACES, PastePlace
from mildhusk.core.planning.ribbon import Stretch
from mildhusk.core.planning.wish import CastWish, CoatSchool
from mildhusk.documents.bench_card import bench_card_pdf
from mildhusk.documents.clock_files import clock_ics
from mildhusk.documents.sheet_files import sheet_csv, sheet_json
from mildhusk.services import sheets
from mildhusk.services.desk import Desk
from mildhusk.services.learning import known_of
from mildhusk.store.tables import CastSheetRow

blueprint = APIBlueprint("sheets", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Cast sheets")])


class PastePlaceShape(Body):
    """A named place where a paste goes."""

    name: Name
    area_m2: Number


class PastePlaceShareShape(BaseModel):
    """What of a paste goes to a named place."""

    name: str
    area_m2: float
    mixed_kg: float


class WishShape(Body):
    """What is wanted of a cast, in SI; None of a temperature is the room's."""

    wall_m: Number
    room_temperature_k: Number
    allowance: Number
    loss: Number
    worn: bool
    mould_temperature_k: Number | None = None
    parts_temperature_k: Number | None = None
    school: CoatSchool = CoatSchool.EQUAL
    fixed_m3: Number = 100e-6
    hands: int = 1
    measure: RatioBasis | None = None
    tint: Number = 0.0
    filler: Number = 0.0
    thickener: Number = 0.0
    thinner: Number = 0.0
    filler_density_kg_m3: Number = METAL_POWDER_KG_M3
    catalyst: Number | None = None
    time_factor: Number = 1.0
    paste_places: Annotated[
        list[PastePlaceShape], Field(default_factory=list, max_length=MOST_PLACES)
    ]
    scale_step_kg: Number
    volume_step_m3: Number

    def to_core(self) -> CastWish:
        """Return it as the core's checked value."""
        places = tuple(PastePlace(one.name, one.area_m2) for one in self.paste_places)
        return CastWish(**{**self.model_dump(), "paste_places": places})


class SheetQuestion(Body):
    """Piece, resin and wish: all a plan needs."""

    piece_id: UUID
    material_id: UUID
    wish: WishShape


class NewSheet(SheetQuestion):
    """A cast sheet to keep."""

    name: Name


class EditedSheet(NewSheet):
    """A changed cast sheet."""

    version: int


class PartsShape(BaseModel):
    """The two parts of a charge."""

    A: float
    B: float


class AddedShape(BaseModel):
    """What goes into a charge beside A and B. [kg]"""

    thickener: float
    thinner: float
    powder: float


class CoatShape(BaseModel):
    """One coat; its times run from its own first contact of A and B."""

    number: int
    kind: CoatKind
    charge_kg: float
    parts_kg: PartsShape
    parts_m3: PartsShape
    added_kg: AddedShape
    places: list[PastePlaceShareShape]
    cup_marks_m: dict[str, float | None]
    wall_m: float
    binding_limit: Limit
    fits: bool
    starts_s: float
    pour_by_s: float
    roll_until_s: float
    next_from_s: float
    next_until_s: float


class StretchShape(BaseModel):
    """A stretch of the ribbon."""

    coat: int
    kind: Stretch
    from_s: float
    until_s: float
    hands_busy: bool
    short: bool


class WhyInputShape(QuantityShape):
    """One input of a figure."""

    name: str
    source: str
    band: float | None


class WhyShape(BaseModel):
    """A figure opened."""

    id: str
    title: str
    figure: QuantityShape
    words: str
    inputs: list[WhyInputShape]
    band: list[float] | None


class OperationShape(BaseModel):
    """What to take care of in one operation."""

    operation: Operation
    title: str
    sentences: list[str]


class CoatSchoolShape(BaseModel):
    """A way of dividing the resin into coats, and when to take it."""

    key: CoatSchool
    name: str
    when: str


class SchoolPlanShape(CoatSchoolShape):
    """What a cast comes to by a school; `said` is why it cannot be planned so."""

    coats: int
    total_charge_kg: float
    cast_kg: float
    hands_on_s: float
    out_after_s: float
    fits: bool
    binding_limit: Limit | None
    said: str


class SchoolPlans(BaseModel):
    """A cast by every school."""

    schools: list[SchoolPlanShape]


class LimitsShape(BaseModel):
    """The charges that limits allow one coat, and how long spreading it takes."""

    reach_kg: float
    scale_kg: float
    carry_kg: float
    time_kg: float
    rim_kg: float
    cup_kg: float
    spread_s: float


class DosesShape(BaseModel):
    """Least, usual and largest dose of catalyst, of part A by weight."""

    low: float
    usual: float
    high: float


class PremixShape(BaseModel):
    """Part B for the whole job, and the ratio it then has by weight."""

    b_kg: float
    tint_kg: float
    filler_kg: float
    total_kg: float
    parts_b: float


class FoamShape(BaseModel):
    """Foam that fills what a skin leaves hollow."""

    hollow_m3: float
    kg: float
    expansion: float


class LargestShape(BaseModel):
    """The coat with the largest charge, and what of A and B is in one cup of it."""

    number: int
    cup_kg: float


class PlanShape(BaseModel):
    """A planned cast."""

    estimate: bool
    fits: bool
    area_m2: float
    planned_wall_m: float
    shell_volume_m3: float
    total_charge_kg: float
    total_charge_band_kg: list[float]
    resin_kg: float
    cast_kg: float
    trimmed_kg: float
    cost: str
    hands_on_s: float
    demould_s: float
    full_cure_s: float
    out_after_s: float
    ratio_basis: str
    time_factor: float
    school: CoatSchoolShape
    limits: LimitsShape
    catalyst: DosesShape | None
    premix: PremixShape | None
    foam: FoamShape | None
    largest: LargestShape
    coats: list[CoatShape]
    ribbon: list[StretchShape]
    findings: list[FindingShape]
    why: list[WhyShape]
    cautions: list[str]
    operations: list[OperationShape]


class SheetShape(BaseModel):
    """A kept cast sheet and its plan."""

    id: UUID
    version: int
    name: str
    piece_id: UUID
    piece_name: str
    material_id: UUID
    resin_name: str
    wish: WishShape
    plan: PlanShape
    created_at: datetime


class SheetList(BaseModel):
    """All cast sheets."""

    sheets: list[SheetShape]


def _shape(at: Desk, row: CastSheetRow) -> SheetShape:
    return SheetShape(
        id=row.id,
        version=row.version,
        name=row.name,
        piece_id=row.piece_id,
        piece_name=row.piece.name,
        material_id=row.material_id,
        resin_name=row.material.name,
        wish=WishShape.model_validate(row.wish),
        plan=_plan(at, row),
        created_at=row.created_at,
    )


def _plan(at: Desk, row: CastSheetRow) -> PlanShape:
    known = known_of(at, row.material_id)
    return PlanShape.model_validate(sheet_document(sheets.plan_of(at, row), known))


@blueprint.post("/sheets/preview", responses={200: PlanShape}, summary="Plan without keeping")
def preview(body: SheetQuestion) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        plan = sheets.preview_sheet(at, body.piece_id, body.material_id, body.wish.to_core())
        document = sheet_document(plan, known_of(at, body.material_id))
    return PlanShape.model_validate(document).model_dump(mode="json")


@blueprint.post("/sheets/schools", responses={200: SchoolPlans}, summary="By every school")
def by_school(body: SheetQuestion) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        plans = sheets.by_school(at, body.piece_id, body.material_id, body.wish.to_core())
    documents = (school_document(school, plan) for school, plan in plans.items())
    shown = SchoolPlans(schools=[SchoolPlanShape.model_validate(one) for one in documents])
    return shown.model_dump(mode="json")


@blueprint.get("/sheets", responses={200: SheetList}, summary="All cast sheets")
def index() -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = SheetList(sheets=[_shape(at, row) for row in sheets.list_sheets(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/sheets", responses={201: SheetShape}, summary="Keep a cast sheet")
def create(body: NewSheet) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        row = sheets.add_sheet(at, body.name, body.piece_id, body.material_id, body.wish.to_core())
        shown = _shape(at, row)
    return shown.model_dump(mode="json"), 201


@blueprint.get("/sheets/<uuid:id>", responses={200: SheetShape}, summary="One cast sheet")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(at, sheets.find_sheet(at, path.id))
    return shown.model_dump(mode="json")


@blueprint.put("/sheets/<uuid:id>", responses={200: SheetShape}, summary="Edit a cast sheet")
def edit(path: IdPath, body: EditedSheet) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        row = sheets.edit_sheet(
            at,
            path.id,
            body.version,
            body.name,
            body.piece_id,
            body.material_id,
            body.wish.to_core(),
        )
        shown = _shape(at, row)
    return shown.model_dump(mode="json")


@blueprint.delete("/sheets/<uuid:id>", responses={200: Deleted}, summary="Delete a cast sheet")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        sheets.delete_sheet(at, path.id)
    return Deleted().model_dump(mode="json")


def _exported(id: UUID) -> tuple[str, dict[str, Any]]:
    with desk() as at:
        row = sheets.find_sheet(at, id)
        heading = {
            "name": row.name,
            "piece": row.piece.name,
            "resin": row.material.name,
            "wish": row.wish,
        }
        return row.name, {**heading, "plan": sheet_document(sheets.plan_of(at, row))}


@blueprint.get("/sheets/<uuid:id>/sheet.json", summary="The cast sheet as JSON")
def as_json(path: IdPath) -> Response:  # noqa: D103
    name, content = _exported(path.id)
    return download(sheet_json(content), "application/json", f"{name}.json")


@blueprint.get("/sheets/<uuid:id>/sheet.csv", summary="The cast sheet as CSV, a row a coat")
def as_csv(path: IdPath) -> Response:  # noqa: D103
    name, content = _exported(path.id)
    return download(sheet_csv(content), "text/csv; charset=utf-8", f"{name}.csv")


@blueprint.get("/sheets/<uuid:id>/bench-card.pdf", summary="The bench card as PDF")
def as_bench_card(path: IdPath) -> Response:  # noqa: D103
    name, content = _exported(path.id)
    pour_address = f"{request.host_url}sheets/{path.id}/pour"
    return download(
        bench_card_pdf(content, pour_address), "application/pdf", f"{name}.pdf", shown_at_once=True
    )


class ClockQuery(BaseModel):
    """When A meets B of coat 1, with its time zone."""

    begins_at: AwareDatetime


@blueprint.get("/sheets/<uuid:id>/clock.ics", summary="The clock of the cast as iCalendar")
def as_calendar(path: IdPath, query: ClockQuery) -> Response:  # noqa: D103
    name, content = _exported(path.id)
    with desk() as at:
        now = at.now
    calendar = clock_ics(name, content["plan"], query.begins_at, now, str(path.id))
    return download(calendar, "text/calendar; charset=utf-8", f"{name}.ics")
