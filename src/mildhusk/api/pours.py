"""Pours: start, tick off, close; and the log of them."""

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime, BaseModel

from mildhusk.api.common import PREFIX, Body, IdPath, Note, Number, desk
from mildhusk.api.sheets import CoatShape, OperationShape, PremixShape
from mildhusk.core.planning.coats import CoatKind
from mildhusk.core.planning.limits import Limit
from mildhusk.core.planning.pouring import (
    CoatRecord,
    PourStep,
    coat_times,
    last_step,
    next_step,
)
from mildhusk.services import pours
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

    coat: int
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


class TimesShape(BaseModel):
    """When the clocks of a coat run out."""

    pour_by: datetime
    roll_until: datetime
    next_from: datetime
    next_until: datetime
    demould: datetime


class PouredCoatShape(BaseModel):
    """What was done of a coat."""

    number: int
    a_kg: float | None
    b_kg: float | None
    weighed_at: datetime | None
    mixed_at: datetime | None
    poured_at: datetime | None
    gelled_at: datetime | None
    times: TimesShape | None


class StepShape(BaseModel):
    """A step of a coat."""

    coat: int
    step: PourStep


class ComparisonShape(BaseModel):
    """Planned beside poured."""

    planned_kg: float
    poured_kg: float
    planned_cast_kg: float
    cast_kg: float | None
    stayed_share: float | None


class FrozenPlanShape(BaseModel):
    """The plan a pour follows, as it was when it began: what the bench and the log need of it."""

    total_charge_kg: float
    cast_kg: float
    ratio_basis: str
    premix: PremixShape | None
    coats: list[CoatShape]
    cautions: list[str]
    operations: list[OperationShape]


class PourShape(BaseModel):
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
    plan: FrozenPlanShape
    coats: list[PouredCoatShape]
    next_step: StepShape | None
    last_step: StepShape | None
    comparison: ComparisonShape
    note: str


class PourList(BaseModel):
    """All pours, newest first."""

    pours: list[PourShape]


_OLD_COAT = {
    "kind": CoatKind.ROLLED,
    "added_kg": {"thickener": 0.0, "thinner": 0.0, "powder": 0.0},
    "binding_limit": Limit.CARRY,
    "fits": True,
    "places": [],
}


def _frozen(plan: dict[str, Any]) -> FrozenPlanShape:
    """Return a kept plan; one of an earlier version has what is usual where it said nothing."""
    coats = [{**_OLD_COAT, **coat} for coat in plan["coats"]]
    return FrozenPlanShape.model_validate(
        {"operations": [], "premix": None, **plan, "coats": coats}
    )


def _shape(pour: Pour, now: datetime) -> PourShape:
    records = pours.records_of(pour)
    following, last = next_step(records), last_step(records)
    comparison = pours.comparison_of(pour)
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
        plan=_frozen(pour.plan),
        coats=[_coat(pour, record) for record in records],
        next_step=following and StepShape(coat=following.coat, step=following.step),
        last_step=last and StepShape(coat=last.coat, step=last.step),
        comparison=ComparisonShape(
            planned_kg=comparison.planned_kg,
            poured_kg=comparison.poured_kg,
            planned_cast_kg=comparison.planned_cast_kg,
            cast_kg=comparison.cast_kg,
            stayed_share=comparison.stayed_share,
        ),
        note=pour.note,
    )


def _coat(pour: Pour, record: CoatRecord) -> PouredCoatShape:
    planned = pour.plan["coats"][record.number - 1]
    times = None
    if record.mixed_at is not None:
        made = coat_times(
            record.mixed_at,
            pour_by_s=planned["pour_by_s"],
            roll_until_s=planned["roll_until_s"],
            next_from_s=planned["next_from_s"],
            next_until_s=planned["next_until_s"],
            demould_s=pour.plan["demould_s"],
        )
        times = TimesShape(
            pour_by=made.pour_by,
            roll_until=made.roll_until,
            next_from=made.next_from,
            next_until=made.next_until,
            demould=made.demould,
        )
    return PouredCoatShape(
        number=record.number,
        a_kg=record.a_kg,
        b_kg=record.b_kg,
        weighed_at=record.weighed_at,
        mixed_at=record.mixed_at,
        poured_at=record.poured_at,
        gelled_at=record.gelled_at,
        times=times,
    )


@blueprint.get("/pours", responses={200: PourList}, summary="All pours, newest first")
def index() -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = PourList(pours=[_shape(pour, at.now) for pour in pours.list_pours(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/pours", responses={201: PourShape}, summary="Start a pour")
def start(body: NewPour) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        shown = _shape(pours.start_pour(at, body.sheet_id), at.now)
    return shown.model_dump(mode="json"), 201


@blueprint.get("/pours/<uuid:id>", responses={200: PourShape}, summary="One pour")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(pours.find_pour(at, path.id), at.now)
    return shown.model_dump(mode="json")


@blueprint.post("/pours/<uuid:id>/steps", responses={200: PourShape}, summary="Tick off a step")
def tick(path: IdPath, body: DoneStep) -> dict[str, object]:  # noqa: D103
    parts = None if body.parts is None else pours.WeighedParts(body.parts.a, body.parts.b)
    with desk() as at:
        pour = pours.record_step(at, path.id, body.coat, body.step, body.at, parts)
        shown = _shape(pour, at.now)
    return shown.model_dump(mode="json")


@blueprint.delete(
    "/pours/<uuid:id>/steps/last", responses={200: PourShape}, summary="Take the last tick back"
)
def untick(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(pours.take_back_step(at, path.id), at.now)
    return shown.model_dump(mode="json")


@blueprint.post("/pours/<uuid:id>/close", responses={200: PourShape}, summary="Close a pour, once")
def close(path: IdPath, body: Closing) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        status = PourStatus(body.status)
        shown = _shape(pours.close_pour(at, path.id, status, body.cast_kg, body.note), at.now)
    return shown.model_dump(mode="json")


@blueprint.put("/pours/<uuid:id>/note", responses={200: PourShape}, summary="Change the note")
def note(path: IdPath, body: NoteBody) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(pours.edit_note(at, path.id, body.note), at.now)
    return shown.model_dump(mode="json")
