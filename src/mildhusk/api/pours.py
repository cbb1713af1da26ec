"""Pours: start, tick off, close; and the log of them."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime

from mildhusk.api.common import (
    PREFIX,
    Body,
    IdPath,
    ListQuery,
    Note,
    Number,
    Shape,
    Whole,
    calmly,
    transaction,
)
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.materials.cautions import OperationCautions
from mildhusk.core.pouring.steps import (
    CoatTimes,
    Comparison,
    NextStep,
    PourStep,
    coat_times,
    last_step,
    next_step,
)
from mildhusk.services import pours
from mildhusk.services.pours import PourSummary
from mildhusk.store.tables import Pour, PourStatus

blueprint = APIBlueprint("pours", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pour and log")])


class NewPour(Body):
    """The sheet to pour."""

    sheet_id: UUID


class MeasuredParts(Body):
    """What was measured out: kilograms for a resin by weight, cubic metres for one by volume."""

    a: Number
    b: Number


class DoneStep(Body):
    """A step ticked off; without a time it was done now."""

    coat: Whole
    step: PourStep
    at: AwareDatetime | None = None
    parts: MeasuredParts | None = None


class Closing(Body):
    """How a pour ended."""

    status: Literal["cast", "spoilt"]
    cast_kg: Number | None = None
    note: Note = ""


class NoteBody(Body):
    """A note for the log."""

    note: Note


class PouredCoatShape(Shape):
    """What was done of a coat, and when its clocks run out once it is mixed."""

    number: int
    a_kg: float | None
    b_kg: float | None
    weighed_at: datetime | None
    mixed_at: datetime | None
    poured_at: datetime | None
    gelled_at: datetime | None
    times: CoatTimes | None


class PourShape(Shape):
    """A pour as it stands; `now` is the server's time, for clocks on other machines."""

    id: UUID
    sheet_id: UUID
    sheet_name: str
    piece_name: str
    resin_name: str
    status: PourStatus
    started_at: datetime
    closed_at: datetime | None
    now: datetime
    plan: PourPlan
    cautions: tuple[str, ...]
    operations: tuple[OperationCautions, ...]
    coats: list[PouredCoatShape]
    next_step: NextStep | None
    last_step: NextStep | None
    comparison: Comparison
    note: str


class PourQuery(ListQuery):
    """Which pours."""

    status: PourStatus | None = None


class PourList(Shape):
    """A page of the pours, newest first, and how many there are in all."""

    pours: tuple[PourSummary, ...]
    total: int


def _shape(pour: Pour, now: datetime) -> dict[str, object]:
    records, plan = pours.records_of(pour), pours.followed_by(pour)
    cautions, operations = pours.cautions_of(pour)
    coats = [
        PouredCoatShape(
            number=record.number,
            a_kg=record.a_kg,
            b_kg=record.b_kg,
            weighed_at=record.weighed_at,
            mixed_at=record.mixed_at,
            poured_at=record.poured_at,
            gelled_at=record.gelled_at,
            times=None
            if record.mixed_at is None
            else coat_times(
                record.mixed_at,
                pour_by_s=planned.pour_by_s,
                roll_until_s=planned.roll_until_s,
                next_from_s=planned.next_from_s,
                next_until_s=planned.next_until_s,
                demould_s=plan.demould_s,
            ),
        )
        for record, planned in zip(records, plan.coats, strict=True)
    ]
    return PourShape(
        id=pour.id,
        sheet_id=pour.sheet_id,
        sheet_name=pour.sheet_name,
        piece_name=pour.piece_name,
        resin_name=pour.resin_name,
        status=PourStatus(pour.status),
        started_at=pour.created_at,
        closed_at=pour.closed_at,
        now=now,
        plan=plan,
        cautions=cautions,
        operations=operations,
        coats=coats,
        next_step=next_step(records),
        last_step=last_step(records),
        comparison=pours.comparison_of(pour),
        note=pour.note,
    ).model_dump(mode="json")


@blueprint.get("/pours", responses={200: PourList}, summary="A page of the pours, newest first")
def index(query: PourQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = pours.list_pours(at, query.page(), query.status)
    return PourList(pours=found.rows, total=found.total).model_dump(mode="json")


@blueprint.post("/pours", responses={201: PourShape}, summary="Start a pour")
@calmly
def start(body: NewPour) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.start_pour(at, body.sheet_id), at.now), 201


@blueprint.get("/pours/<uuid:id>", responses={200: PourShape}, summary="One pour")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.find_pour(at, path.id), at.now)


@blueprint.post("/pours/<uuid:id>/steps", responses={200: PourShape}, summary="Tick off a step")
def tick(path: IdPath, body: DoneStep) -> dict[str, object]:  # noqa: D103
    parts = None if body.parts is None else pours.WeighedParts(body.parts.a, body.parts.b)
    with transaction() as at:
        pour = pours.record_step(at, path.id, body.coat, body.step, body.at, parts)
        return _shape(pour, at.now)


@blueprint.delete(
    "/pours/<uuid:id>/steps/last", responses={200: PourShape}, summary="Take the last tick back"
)
def untick(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.take_back_step(at, path.id), at.now)


@blueprint.post("/pours/<uuid:id>/close", responses={200: PourShape}, summary="Close a pour, once")
def close(path: IdPath, body: Closing) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        status = PourStatus(body.status)
        return _shape(pours.close_pour(at, path.id, status, body.cast_kg, body.note), at.now)


@blueprint.put("/pours/<uuid:id>/note", responses={200: PourShape}, summary="Change the note")
def note(path: IdPath, body: NoteBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.edit_note(at, path.id, body.note), at.now)
