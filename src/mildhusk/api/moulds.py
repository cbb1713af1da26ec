"""Moulds: estimate, keep, edit, study, plan."""

from datetime import UTC, datetime
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
    NamedListQuery,
    Number,
    Shape,
    Whole,
    calmly,
    file_of,
    transaction,
)
from mildhusk.api.jobs import JobShape, job_answer
from mildhusk.core.materials.cautions import MOULD_MAKING, OperationCautions, cautions_for
from mildhusk.core.materials.kinds import RubberCure
from mildhusk.core.mould.answer import PlannedMould
from mildhusk.core.mould.brushing import BrushWish
from mildhusk.core.mould.checks import CHECKS
from mildhusk.core.mould.estimate import RUBBER_LOSS, MouldEstimate
from mildhusk.core.mould.locks import MOST_PARTS
from mildhusk.core.mould.patches import MOST_PATCHES, PatchPlace
from mildhusk.core.mould.study import MouldWay
from mildhusk.services import costs, moulds
from mildhusk.services.drawings import draw_soon
from mildhusk.services.mould_build import (
    MouldRequest,
    PatchRequest,
    build_of,
    kept_build_of,
    place_of,
    wish_of,
)
from mildhusk.services.mould_life import casts_so_far, newest_events
from mildhusk.services.mould_study import PlanRequest, ask_study, is_studied, model_of_mould
from mildhusk.services.moulds import MouldSummary
from mildhusk.services.workshop import equipment_here
from mildhusk.store.tables import MouldEventKind, MouldPatch, MouldRow
from mildhusk.store.values import Brushing, KeptBuild, RemovedClay

blueprint = APIBlueprint("moulds", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Moulds")])

EARLIEST, LATEST = datetime(2000, 1, 1, tzinfo=UTC), datetime(2100, 1, 1, tzinfo=UTC)
"""When a build may begin: what lies outside is a slip of the keys."""


class PatchShape(Body):
    """A soft place of a mould: brushed in a rubber of its own."""

    name: Name
    at_m: tuple[Number, Number, Number]
    radius_m: Number
    rubber_id: UUID

    def asked(self) -> PatchRequest:
        """Return it as the service takes it."""
        return PatchRequest(self.name, PatchPlace(self.at_m, self.radius_m), self.rubber_id)


class NewMould(Body):
    """How a mould is to be built; how rubber is brushed on stands beside the rest."""

    name: Name
    piece_id: UUID
    rubber_id: UUID
    shell_id: UUID
    rubber_wall_m: Number
    life_casts: Whole
    way: MouldWay = MouldWay.BRUSH
    parts: Annotated[int, Field(ge=1, le=MOST_PARTS)] | None = None
    coat_m: Number = 0.003
    print_coat_m: Number = 0.001
    thinned: bool = False
    thickened_from: Annotated[int, Field(ge=0, le=20)] = 2
    thickener: Number = 0.01
    keys: Whole = 8
    gauze_in: Annotated[int, Field(ge=0, le=40)] = 0
    coats_m: Annotated[list[Number], Field(default_factory=list, max_length=40)]
    loss: Number = RUBBER_LOSS
    clay: RemovedClay | None = None
    patches: Annotated[list[PatchShape], Field(default_factory=list, max_length=MOST_PATCHES)]

    def asked(self) -> MouldRequest:
        """Return it as the service takes it."""
        brush = Brushing(
            self.coat_m,
            self.print_coat_m,
            self.thinned,
            self.thickened_from,
            self.thickener,
            self.keys,
            self.gauze_in,
            tuple(self.coats_m),
            self.loss,
        )
        return MouldRequest(
            name=self.name,
            piece_id=self.piece_id,
            rubber_id=self.rubber_id,
            shell_id=self.shell_id,
            rubber_wall_m=self.rubber_wall_m,
            life_casts=self.life_casts,
            build=KeptBuild(self.way, self.parts, brush, self.clay),
            patches=tuple(one.asked() for one in self.patches),
        )


class EditedMould(NewMould):
    """A changed mould."""

    version: Whole


class EventShape(Shape):
    """Something that happened to a mould."""

    kind: MouldEventKind
    note: str
    at: datetime


class CheckShape(Shape):
    """A check before the next cast, and since when it is ticked off."""

    id: str
    title: str
    reason: str
    done_at: datetime | None


class MouldShape(Shape):
    """A kept mould, what it takes, and what to take care of."""

    id: UUID
    version: int
    name: str
    piece_id: UUID
    piece_name: str
    rubber_id: UUID
    rubber_name: str
    rubber_cure: RubberCure
    shell_id: UUID
    shell_name: str
    rubber_wall_m: float
    life_casts: int
    way: MouldWay
    parts: int | None
    brush: BrushWish
    clay: RemovedClay | None
    patches: list[PatchShape]
    studied: bool
    casts_so_far: int
    events: list[EventShape]
    checks: list[CheckShape]
    retired_at: datetime | None
    takes: MouldEstimate
    operations: tuple[OperationCautions, ...]


class MouldList(Shape):
    """A page of the moulds, the newest first, and how many there are in all.

    `drawing`: a worker is at drawings that are missing or old.
    """

    moulds: tuple[MouldSummary, ...]
    total: int
    drawing: bool


class MouldPlanQuestion(Body):
    """When a build shall begin, what wet charge is lifted with it."""

    begins_at: Annotated[datetime, Field(ge=EARLIEST, le=LATEST)]
    charge_kg: Annotated[float, Field(ge=0.0, le=100.0)] = 0.0


class PartsQuery(BaseModel):
    """In how many parts the shell is."""

    parts: Annotated[int, Field(ge=1, le=MOST_PARTS)] = 2


class TakesAnswer(Answer[MouldEstimate]):
    """What a mould takes."""


class MouldPlanAnswer(Answer[PlannedMould]):
    """A planned mould."""


def mould_shape(row: MouldRow) -> dict[str, object]:
    """Return a mould as the API shows it."""
    wish, build = wish_of(row), build_of(row)
    return MouldShape(
        id=row.id,
        version=row.version,
        name=row.name,
        piece_id=row.piece_id,
        piece_name=row.piece.name,
        rubber_id=row.rubber_id,
        rubber_name=row.rubber.name,
        rubber_cure=build.rubber.cure,
        shell_id=row.shell_id,
        shell_name=row.shell.name,
        rubber_wall_m=row.rubber_wall_m,
        life_casts=row.life_casts,
        way=wish.way,
        parts=wish.parts,
        brush=wish.brush,
        clay=kept_build_of(row).clay,
        patches=[_patch(one) for one in row.patches],
        studied=is_studied(row),
        casts_so_far=casts_so_far(row),
        events=[
            EventShape(kind=MouldEventKind(one.kind), note=one.note, at=one.created_at)
            for one in newest_events(row)
        ],
        checks=[
            CheckShape(id=one.id, title=one.title, reason=one.reason, done_at=_since(row, one.id))
            for one in CHECKS
        ],
        retired_at=row.retired_at,
        takes=moulds.estimate_of(row),
        operations=cautions_for(MOULD_MAKING, (build.rubber, build.shell)),
    ).model_dump(mode="json")


def _patch(row: MouldPatch) -> PatchShape:
    place = place_of(row)
    return PatchShape(
        name=row.name, at_m=place.at_m, radius_m=place.radius_m, rubber_id=row.rubber_id
    )


def _since(row: MouldRow, check: str) -> datetime | None:
    ticked = row.checks.get(check)
    return None if ticked is None else datetime.fromisoformat(ticked)


@blueprint.get("/moulds/<uuid:id>", responses={200: MouldShape}, summary="One mould")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return mould_shape(moulds.find_mould(at, path.id))


@blueprint.post("/moulds/<uuid:id>/study", responses={202: JobShape}, summary="Study its piece")
def study(path: IdPath) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return job_answer(ask_study(at, moulds.find_mould(at, path.id))), 202


@blueprint.post("/moulds/<uuid:id>/plan", responses={200: MouldPlanAnswer}, summary="Its plan")
@calmly
def plan(path: IdPath, body: MouldPlanQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        asked = PlanRequest(body.begins_at, equipment_here(at), body.charge_kg)
        planned = costs.price_mould(at, path.id, asked)
    return MouldPlanAnswer(PlannedMould.of(planned)).told()


@blueprint.get(
    "/moulds/<uuid:id>/model.glb",
    responses=file_of("model/gltf-binary"),
    summary="The outside of its rubber as GLB",
)
@calmly
def model(path: IdPath, query: PartsQuery) -> Response:  # noqa: D103
    with transaction() as at:
        content = model_of_mould(at, path.id, query.parts)
    return Response(content, mimetype="model/gltf-binary")


@blueprint.get("/moulds", responses={200: MouldList}, summary="A page of the moulds")
def index(query: NamedListQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = moulds.list_moulds(at, query.page())
        drawing = draw_soon(at, "moulds", found.undrawn)
    return MouldList(moulds=found.rows, total=found.total, drawing=drawing).model_dump(mode="json")


@blueprint.post("/moulds/preview", responses={200: TakesAnswer}, summary="Estimate a mould")
@calmly
def preview(body: NewMould) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        takes = moulds.preview_mould(at, body.asked())
    return TakesAnswer(takes).told()


@blueprint.post("/moulds", responses={201: MouldShape}, summary="Save a mould")
@calmly
def create(body: NewMould) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return mould_shape(moulds.add_mould(at, body.asked())), 201


@blueprint.put("/moulds/<uuid:id>", responses={200: MouldShape}, summary="Edit a mould")
@calmly
def edit(path: IdPath, body: EditedMould) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return mould_shape(moulds.edit_mould(at, path.id, body.version, body.asked()))


@blueprint.delete("/moulds/<uuid:id>", responses={200: Deleted}, summary="Delete a mould")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        undo = moulds.delete_mould(at, path.id)
    return Deleted(undo=undo).model_dump(mode="json")
