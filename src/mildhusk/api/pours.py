"""Pours: start, tick off, close; and the log of them."""

from datetime import datetime
from math import radians
from typing import Literal
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime, BaseModel, Field

from mildhusk.api.common import (
    PREFIX,
    Body,
    IdPath,
    ListQuery,
    Note,
    Number,
    Shape,
    ShortText,
    Whole,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.api.jobs import JobShape, job_shape
from mildhusk.api.walls import RunShape, run_shape
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.room_clock import CoatInRoom
from mildhusk.core.coating.motion import HandStep, MachineRates, hand_pattern, machine_rates
from mildhusk.core.coating.recorded import written_motion
from mildhusk.core.errors import CoatingError
from mildhusk.core.materials.cautions import OperationCautions
from mildhusk.core.pouring.missed import MissedWindow, missed_window
from mildhusk.core.pouring.steps import (
    CoatTimes,
    Comparison,
    NextStep,
    PourStep,
    last_step,
    next_step,
)
from mildhusk.documents.log_files import log_csv, log_json
from mildhusk.services import casts, pours
from mildhusk.services.casts import CastSummary
from mildhusk.services.errors import ConflictError
from mildhusk.services.log import logged_pours
from mildhusk.services.mould_history import CastCharts, charts_of_mould
from mildhusk.services.pour_facts import comparison_of, followed_by, kilograms, records_of
from mildhusk.services.poured_walls import NotRecordedError, PouredWalls, poured_walls
from mildhusk.services.pours import Ending, PourSummary, Press
from mildhusk.services.room import in_room, room_of, times_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.turning import (
    Orientation,
    add_orientations,
    recorded_lengths,
    turned_motion,
)
from mildhusk.services.walls import wall_of_run
from mildhusk.services.weighing import scale_of
from mildhusk.store.tables import CastState, Pour, PourStatus

blueprint = APIBlueprint("pours", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pour and log")])


_MOST_READINGS = 2_000
"""Of a tablet at once: more than half a minute of them."""


class NewPour(Body):
    """The sheet to pour, and in which mould; the newest in use of its piece where none is said."""

    sheet_id: UUID
    mould_id: UUID | None = None


class MeasuredParts(Body):
    """What was measured out: kilograms for a resin by weight, cubic metres for one by volume."""

    a: Number
    b: Number


class DoneStep(Body):
    """A step ticked off; without a time it was done now.

    A press that carries a key is taken once, however often it is sent.
    """

    coat: Whole
    step: PourStep
    press: UUID | None = None
    at: AwareDatetime | None = None
    parts: MeasuredParts | None = None


class TakenBack(BaseModel):
    """Which tick is taken back; the last one where it is not said."""

    press: UUID | None = None
    coat: Whole | None = None
    step: PourStep | None = None


class Closing(Body):
    """How a pour ended, and when: now, where that is not said."""

    status: Literal["cast", "spoilt"]
    press: UUID | None = None
    at: AwareDatetime | None = None
    cast_kg: Number | None = None
    note: Note = ""


class NoteBody(Body):
    """A note for the log."""

    note: Note


class OffcutsBody(Body):
    """What was cut away before the cast was weighed; None of nothing."""

    offcuts_kg: Number | None


class PouredCoatShape(Shape):
    """What was done of a coat, and when its clocks run out once it is mixed.

    `rates` is how a machine turns it, `pattern` how hands do by the clock, and for so long it was
    recorded how it was really turned; `in_room` is its clock where the room is not as planned.
    """

    number: int
    a_kg: float | None
    b_kg: float | None
    weighed_at: datetime | None
    mixed_at: datetime | None
    poured_at: datetime | None
    gelled_at: datetime | None
    times: CoatTimes | None
    rates: MachineRates | None
    pattern: tuple[HandStep, ...]
    recorded_s: float | None
    in_room: CoatInRoom | None


class PourMould(Shape):
    """The mould a pour is of."""

    id: UUID
    name: str


class CastShape(Shape):
    """What came out of a mould, by its number of that mould."""

    number: int
    state: CastState
    for_whom: str
    place: str


class SaidMould(Body):
    """Which mould it was."""

    mould_id: UUID


class CastBody(Body):
    """What became of a cast."""

    state: CastState
    for_whom: ShortText = ""
    place: ShortText = ""


class PourShape(Shape):
    """A pour as it stands.

    `now` is the server's time, for clocks on other machines; `scale_id` is the live scale it is
    weighed on; from the humidity `too_damp_from` on the air foams what is poured.
    """

    id: UUID
    sheet_id: UUID
    sheet_name: str
    piece_id: UUID
    piece_name: str
    resin_name: str
    mould: PourMould | None
    cast: CastShape | None
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
    offcuts_kg: float | None
    note: str
    scale_id: UUID | None
    missed: MissedWindow | None
    too_damp_from: float | None


class PourQuery(ListQuery):
    """Which pours."""

    status: PourStatus | None = None


class PourList(Shape):
    """A page of the pours, newest first, and how many there are in all."""

    pours: tuple[PourSummary, ...]
    total: int


def _shape(pour: Pour, at: Transaction) -> dict[str, object]:
    records, plan = records_of(pour), followed_by(pour)
    cautions, operations = pours.cautions_of(pour)
    recorded = recorded_lengths(at, pour.id)
    coats = []
    for record, row, planned in zip(records, pour.coats, plan.coats, strict=True):
        room_k = room_of(at, row)
        coats.append(
            PouredCoatShape(
                number=record.number,
                a_kg=record.a_kg,
                b_kg=record.b_kg,
                weighed_at=record.weighed_at,
                mixed_at=record.mixed_at,
                poured_at=record.poured_at,
                gelled_at=record.gelled_at,
                rates=machine_rates(planned.motion),
                pattern=hand_pattern(planned.motion),
                recorded_s=recorded.get(record.number),
                times=times_of(plan, row, room_k),
                in_room=in_room(plan, record.number, room_k),
            )
        )
    return PourShape(
        id=pour.id,
        sheet_id=pour.sheet_id,
        sheet_name=pour.sheet_name,
        piece_id=pour.piece_id,
        piece_name=pour.piece_name,
        resin_name=pour.resin_name,
        mould=pour.mould and PourMould(id=pour.mould.id, name=pour.mould.name),
        cast=pour.cast
        and CastShape(
            number=pour.cast.number,
            state=pour.cast.state,
            for_whom=pour.cast.for_whom,
            place=pour.cast.place,
        ),
        status=PourStatus(pour.status),
        started_at=pour.created_at,
        closed_at=pour.closed_at,
        now=at.now,
        plan=plan,
        cautions=cautions,
        operations=operations,
        coats=coats,
        next_step=next_step(records),
        last_step=last_step(records),
        comparison=comparison_of(pour),
        offcuts_kg=kilograms(pour.offcuts_g),
        note=pour.note,
        scale_id=scale_of(at, pour.id),
        missed=_missed(pour, plan, coats, at.now),
        too_damp_from=pours.too_damp_for(pour),
    ).model_dump(mode="json")


def _missed(
    pour: Pour, plan: PourPlan, coats: list[PouredCoatShape], now: datetime
) -> MissedWindow | None:
    """Return what can be said where the coat to be mixed has missed its window."""
    step = next_step(records_of(pour)) if pour.status == PourStatus.OPEN else None
    if step is None or step.coat < 2 or step.step not in (PourStep.WEIGH, PourStep.MIX):
        return None
    before = coats[step.coat - 2].times
    if before is None:
        return None
    walls = tuple(coat.wall_m for coat in plan.coats)
    return missed_window(step.coat, before.next_until, before.demould, now, walls)


@blueprint.get("/pours", responses={200: PourList}, summary="A page of the pours, newest first")
def index(query: PourQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = pours.list_pours(at, query.page(), query.status)
    return PourList(pours=found.rows, total=found.total).model_dump(mode="json")


@blueprint.post("/pours", responses={201: PourShape}, summary="Start a pour")
@calmly
def start(body: NewPour) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.start_pour(at, body.sheet_id, body.mould_id), at), 201


@blueprint.get("/pours/<uuid:id>", responses={200: PourShape}, summary="One pour")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.find_pour(at, path.id), at)


@blueprint.post("/pours/<uuid:id>/steps", responses={200: PourShape}, summary="Tick off a step")
def tick(path: IdPath, body: DoneStep) -> dict[str, object]:  # noqa: D103
    parts = None if body.parts is None else pours.WeighedParts(body.parts.a, body.parts.b)
    with transaction() as at:
        press = Press(body.press, body.at)
        pour = pours.record_step(at, path.id, body.coat, body.step, press, parts)
        return _shape(pour, at)


@blueprint.delete(
    "/pours/<uuid:id>/steps/last", responses={200: PourShape}, summary="Undo the last tick"
)
def untick(path: IdPath, query: TakenBack) -> dict[str, object]:  # noqa: D103
    said = query.coat is not None and query.step is not None
    meant = NextStep(query.coat, query.step) if said else None  # type: ignore[arg-type]
    with transaction() as at:
        return _shape(pours.take_back_step(at, path.id, Press(query.press), meant), at)


@blueprint.post("/pours/<uuid:id>/close", responses={200: PourShape}, summary="Close a pour, once")
def close(path: IdPath, body: Closing) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        ending = Ending(PourStatus(body.status), body.cast_kg, body.note)
        return _shape(pours.close_pour(at, path.id, Press(body.press, body.at), ending), at)


@blueprint.put("/pours/<uuid:id>/note", responses={200: PourShape}, summary="Change the note")
def note(path: IdPath, body: NoteBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.edit_note(at, path.id, body.note), at)


@blueprint.put("/pours/<uuid:id>/offcuts", responses={200: PourShape}, summary="Weigh offcuts")
def offcuts(path: IdPath, body: OffcutsBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(pours.weigh_offcuts(at, path.id, body.offcuts_kg), at)


@blueprint.put("/pours/<uuid:id>/mould", responses={200: PourShape}, summary="Say its mould")
def say_mould(path: IdPath, body: SaidMould) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(casts.say_mould(at, path.id, body.mould_id), at)


@blueprint.put("/pours/<uuid:id>/cast", responses={200: PourShape}, summary="What became of it")
def edit_cast(path: IdPath, body: CastBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(casts.edit_cast(at, path.id, body.state, body.for_whom, body.place), at)


class CastList(Shape):
    """A page of the casts of a mould, the newest first, how many there are, and their charts."""

    casts: tuple[CastSummary, ...]
    total: int
    charts: CastCharts


@blueprint.get("/moulds/<uuid:id>/casts", responses={200: CastList}, summary="Casts of a mould")
def casts_of_mould(path: IdPath, query: ListQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = casts.list_casts(at, path.id, query.page())
        charts = charts_of_mould(at, path.id)
    shown = CastList(casts=found.rows, total=found.total, charts=charts)
    return shown.model_dump(mode="json")


@blueprint.get(
    "/log.csv", responses=file_of("text/csv"), summary="The whole log as CSV, a row a pour"
)
def as_csv() -> Response:  # noqa: D103
    with transaction() as at:
        content = log_csv(logged_pours(at))
    return download(content, "text/csv", "log.csv")


@blueprint.get(
    "/log.json", responses=file_of("application/json"), summary="The whole log, coat by coat"
)
def as_json() -> Response:  # noqa: D103
    with transaction() as at:
        content = log_json(logged_pours(at))
    return download(content, "application/json", "log.json")


class WallsQuestion(Body):
    """`again` asks anew for what was cancelled or refused."""

    again: bool = False


class PouredWallsShape(Shape):
    """The wall of the plan and that of the pour, on the same faces; else the job for both.

    `why` says why there is none; `can_be` that it can be asked for all the same.
    """

    planned: RunShape | None
    poured: RunShape | None
    recorded: tuple[int, ...]
    job: JobShape | None
    why: str = ""
    can_be: bool = False


@blueprint.post(
    "/pours/<uuid:id>/wall",
    responses={200: PouredWallsShape},
    summary="The wall as it was really poured and turned, beside the planned one",
)
@calmly
def wall(path: IdPath, body: WallsQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        try:
            found = poured_walls(at, path.id, again=body.again)
        except (CoatingError, ConflictError) as error:
            can_be = isinstance(error, NotRecordedError)
            found = PouredWalls(None, None, None, why=str(error), can_be=can_be)
        shown = PouredWallsShape(
            why=found.why,
            can_be=found.can_be,
            planned=found.planned and run_shape(found.planned),
            poured=found.poured and run_shape(found.poured),
            recorded=wall_of_run(found.poured).recorded if found.poured else (),
            job=found.job and job_shape(found.job),
        )
    return shown.model_dump(mode="json")


class CoatPath(IdPath):
    """A coat of a pour."""

    coat: Whole


class TabletOrientation(BaseModel):
    """How a tablet on the mould is held at a moment. [degrees]"""

    at: AwareDatetime
    beta: float = Field(ge=-180.0, le=180.0, allow_inf_nan=False)
    gamma: float = Field(ge=-90.0, le=90.0, allow_inf_nan=False)


class TurningBody(Body):
    """What a tablet on the mould told since it last sent."""

    readings: list[TabletOrientation] = Field(max_length=_MOST_READINGS)


class RecordedSoFar(Shape):
    """How long a coat is recorded for. [s]"""

    recorded_s: float


@blueprint.post(
    "/pours/<uuid:id>/coats/<int:coat>/turning",
    responses={200: RecordedSoFar},
    summary="Record how the mould is turned, by a tablet strapped to it",
)
def record_turning(path: CoatPath, body: TurningBody) -> dict[str, object]:  # noqa: D103
    told = [Orientation(one.at, radians(one.beta), radians(one.gamma)) for one in body.readings]
    with transaction() as at:
        recorded_s = add_orientations(at, path.id, path.coat, told)
    return RecordedSoFar(recorded_s=recorded_s).model_dump(mode="json")


@blueprint.get(
    "/pours/<uuid:id>/coats/<int:coat>/turning.json",
    responses=file_of("application/json"),
    summary="How the mould was really turned for a coat",
)
def turning(path: CoatPath) -> Response:  # noqa: D103
    with transaction() as at:
        motion = turned_motion(at, path.id, path.coat)
    return download(written_motion(motion).encode(), "application/json", f"coat-{path.coat}.json")
