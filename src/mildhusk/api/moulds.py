"""Moulds: estimate, keep, edit, study, plan; what happens to them."""

from dataclasses import asdict
from datetime import datetime
from typing import Annotated
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import PREFIX, Body, Deleted, IdPath, Name, Note, Number, desk
from mildhusk.api.jobs import JobShape, job_shape
from mildhusk.api.mould_plans import MouldPlanQuestion, MouldPlanShape, PartsQuery, plan_shape
from mildhusk.api.sheets import OperationShape
from mildhusk.core.materials.cautions import MOULD_MAKING, cautions_for
from mildhusk.core.mould.catalyst import catalysed, share_for_room, usual_catalyst
from mildhusk.core.mould.checks import CHECKS
from mildhusk.core.mould.estimate import RUBBER_LOSS
from mildhusk.core.mould.locks import MOST_PARTS
from mildhusk.core.mould.patches import MOST_PATCHES, PatchPlace
from mildhusk.core.mould.study import MouldWay
from mildhusk.core.planning.document import caution_documents, mould_document
from mildhusk.services import costs, moulds
from mildhusk.services.workshop import bench_here
from mildhusk.store.tables import MouldEventKind, MouldRow

blueprint = APIBlueprint("moulds", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Moulds")])


Side = Annotated[float, Field(gt=0.0, le=2.0, allow_inf_nan=False)]


class ClayShape(Body):
    """The clay that was taken off again: what it weighs, or the block it was packed to."""

    mass_kg: Annotated[float, Field(gt=0.0, le=500.0, allow_inf_nan=False)] | None = None
    size_m: Annotated[list[Side], Field(min_length=3, max_length=3)] | None = None


class PatchShape(Body):
    """A soft place of a mould: brushed in a rubber of its own."""

    name: Name
    at_m: Annotated[list[Number], Field(min_length=3, max_length=3)]
    radius_m: Number
    rubber_id: UUID

    def asked(self) -> moulds.PatchAsked:
        """Return it as the service takes it."""
        x, y, z = self.at_m
        return moulds.PatchAsked(self.name, PatchPlace((x, y, z), self.radius_m), self.rubber_id)


class NewMould(Body):
    """How a mould is to be built."""

    name: Name
    piece_id: UUID
    rubber_id: UUID
    shell_id: UUID
    rubber_wall_m: Number
    life_casts: int
    way: MouldWay = MouldWay.BRUSH
    parts: Annotated[int, Field(ge=1, le=MOST_PARTS)] | None = None
    coat_m: Number = 0.003
    print_coat_m: Number = 0.001
    thinned: bool = False
    thickened_from: Annotated[int, Field(ge=0, le=20)] = 2
    thickener: Number = 0.01
    keys: int = 8
    gauze_in: Annotated[int, Field(ge=0, le=40)] = 0
    coats_m: Annotated[list[Number], Field(default_factory=list, max_length=40)]
    loss: Number = RUBBER_LOSS
    clay: ClayShape | None = None
    patches: Annotated[list[PatchShape], Field(default_factory=list, max_length=MOST_PATCHES)]

    def asked(self) -> moulds.MouldAsked:
        """Return it as the service takes it."""
        return moulds.MouldAsked(
            name=self.name,
            piece_id=self.piece_id,
            rubber_id=self.rubber_id,
            shell_id=self.shell_id,
            rubber_wall_m=self.rubber_wall_m,
            life_casts=self.life_casts,
            way=self.way,
            parts=self.parts,
            brush={
                "coat_m": self.coat_m,
                "print_coat_m": self.print_coat_m,
                "thinned": self.thinned,
                "thickened_from": self.thickened_from,
                "thickener": self.thickener,
                "keys": self.keys,
                "gauze_in": self.gauze_in,
                "coats_m": list(self.coats_m),
                "loss": self.loss,
            },
            clay={} if self.clay is None else self.clay.model_dump(exclude_none=True),
            patches=tuple(one.asked() for one in self.patches),
        )


class EditedMould(NewMould):
    """A changed mould."""

    version: int


class BrushShape(BaseModel):
    """How rubber is brushed on."""

    wall_m: float
    coat_m: float
    print_coat_m: float
    thinned: bool
    thickened_from: int
    thickener: float
    keys: int
    gauze_in: int
    coats_m: list[float]
    loss: float


class EventShape(BaseModel):
    """Something that happened to a mould."""

    kind: MouldEventKind
    note: str
    at: datetime


class CheckShape(BaseModel):
    """A check before the next cast, and since when it is ticked off."""

    id: str
    title: str
    reason: str
    done_at: datetime | None


class TakesShape(BaseModel):
    """What a mould takes: planned once its piece is studied, estimated before."""

    rubber_kg: float
    rubber_coats: int
    shell_m2: float
    shell_kg: float
    hours: float
    weight_kg: float


class MouldShape(BaseModel):
    """A kept mould, what it takes, and what to take care of."""

    id: UUID
    version: int
    name: str
    piece_id: UUID
    piece_name: str
    rubber_id: UUID
    rubber_name: str
    shell_id: UUID
    shell_name: str
    rubber_wall_m: float
    life_casts: int
    way: MouldWay
    parts: int | None
    brush: BrushShape
    clay: ClayShape | None
    patches: list[PatchShape]
    studied: bool
    casts_so_far: int
    events: list[EventShape]
    checks: list[CheckShape]
    retired_at: datetime | None
    takes: TakesShape
    operations: list[OperationShape]


class NewEvent(Body):
    """Something that happened to a mould."""

    kind: MouldEventKind
    note: Note = ""


class TickedCheck(Body):
    """A check, done or not."""

    check: str
    done: bool


class Retired(Body):
    """Whether a mould is retired."""

    retired: bool


class CatalystQuestion(Body):
    """A dose of catalyst, the part of it that is fast, the room."""

    share: Number
    fast_share: Number = 0.0
    temperature_k: Number


class CatalysedShape(BaseModel):
    """Times with that dose, and the dose that keeps the usual pot life in that room."""

    pot_life_s: float
    cure_s: float
    life: float
    advised_share: float
    lowest_share: float
    highest_share: float


class MouldList(BaseModel):
    """All moulds."""

    moulds: list[MouldShape]


def _shape(row: MouldRow) -> MouldShape:
    build = moulds.build_of(row)
    cautions = cautions_for(MOULD_MAKING, (build.rubber, build.shell))
    return MouldShape(
        id=row.id,
        version=row.version,
        name=row.name,
        piece_id=row.piece_id,
        piece_name=row.piece.name,
        rubber_id=row.rubber_id,
        rubber_name=row.rubber.name,
        shell_id=row.shell_id,
        shell_name=row.shell.name,
        rubber_wall_m=row.rubber_wall_m,
        life_casts=row.life_casts,
        way=moulds.wish_of(row).way,
        parts=moulds.wish_of(row).parts,
        brush=BrushShape.model_validate(moulds.wish_values(row)),
        clay=ClayShape.model_validate(row.build["clay"]) if row.build.get("clay") else None,
        patches=[
            PatchShape(name=one.name, rubber_id=one.rubber_id, **one.place) for one in row.patches
        ],
        studied=moulds.is_studied(row),
        casts_so_far=sum(one.kind == MouldEventKind.CAST for one in row.events),
        events=[
            EventShape(kind=MouldEventKind(one.kind), note=one.note, at=one.created_at)
            for one in reversed(row.events)
        ],
        checks=[
            CheckShape(
                id=one.id, title=one.title, reason=one.reason, done_at=row.checks.get(one.id)
            )
            for one in CHECKS
        ],
        retired_at=row.retired_at,
        takes=TakesShape.model_validate(mould_document(moulds.estimate_of(row))),
        operations=[OperationShape.model_validate(one) for one in caution_documents(cautions)],
    )


@blueprint.get("/moulds/<uuid:id>", responses={200: MouldShape}, summary="One mould")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(moulds.find_mould(at, path.id))
    return shown.model_dump(mode="json")


@blueprint.post("/moulds/<uuid:id>/study", responses={202: JobShape}, summary="Study its piece")
def study(path: IdPath) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        shown = job_shape(moulds.ask_study(at, moulds.find_mould(at, path.id)))
    return shown.model_dump(mode="json"), 202


@blueprint.post("/moulds/<uuid:id>/plan", responses={200: MouldPlanShape}, summary="Its plan")
def plan(path: IdPath, body: MouldPlanQuestion) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        asked = moulds.PlanAsked(body.begins_at, bench_here(at.session), body.charge_kg)
        planned = costs.price_mould(at, path.id, asked)
    return plan_shape(planned).model_dump(mode="json")


@blueprint.get("/moulds/<uuid:id>/model.glb", summary="The outside of its rubber as GLB")
def model(path: IdPath, query: PartsQuery) -> Response:  # noqa: D103
    with desk() as at:
        content = moulds.model_of_mould(at, path.id, query.parts)
    return Response(content, mimetype="model/gltf-binary")


@blueprint.post("/moulds/<uuid:id>/events", responses={201: MouldShape}, summary="What happened")
def happened(path: IdPath, body: NewEvent) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        shown = _shape(moulds.add_event(at, path.id, body.kind, body.note))
    return shown.model_dump(mode="json"), 201


@blueprint.put("/moulds/<uuid:id>/checks", responses={200: MouldShape}, summary="Tick a check")
def tick(path: IdPath, body: TickedCheck) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(moulds.tick_check(at, path.id, body.check, done=body.done))
    return shown.model_dump(mode="json")


@blueprint.put("/moulds/<uuid:id>/retired", responses={200: MouldShape}, summary="Retire a mould")
def retire(path: IdPath, body: Retired) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(moulds.retire_mould(at, path.id, retired=body.retired))
    return shown.model_dump(mode="json")


@blueprint.post("/catalyst", responses={200: CatalysedShape}, summary="Catalyst for a room")
def catalyst(body: CatalystQuestion) -> dict[str, object]:  # noqa: D103
    sheet = usual_catalyst()
    found = catalysed(sheet, body.share, body.fast_share, body.temperature_k)
    usual = catalysed(sheet, sheet.by_share[1].share, 0.0, sheet.temperature_k)
    shown = CatalysedShape(
        **asdict(found),
        advised_share=share_for_room(sheet, body.temperature_k, usual.pot_life_s),
        lowest_share=sheet.by_share[0].share,
        highest_share=sheet.by_share[-1].share,
    )
    return shown.model_dump(mode="json")


@blueprint.get("/moulds", responses={200: MouldList}, summary="All moulds")
def index() -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = MouldList(moulds=[_shape(row) for row in moulds.list_moulds(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/moulds/preview", responses={200: TakesShape}, summary="Estimate a mould")
def preview(body: NewMould) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        takes = moulds.preview_mould(at, body.asked())
    return TakesShape.model_validate(mould_document(takes)).model_dump(mode="json")


@blueprint.post("/moulds", responses={201: MouldShape}, summary="Keep a mould")
def create(body: NewMould) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        shown = _shape(moulds.add_mould(at, body.asked()))
    return shown.model_dump(mode="json"), 201


@blueprint.put("/moulds/<uuid:id>", responses={200: MouldShape}, summary="Edit a mould")
def edit(path: IdPath, body: EditedMould) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(moulds.edit_mould(at, path.id, body.version, body.asked()))
    return shown.model_dump(mode="json")


@blueprint.delete("/moulds/<uuid:id>", responses={200: Deleted}, summary="Delete a mould")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        moulds.delete_mould(at, path.id)
    return Deleted().model_dump(mode="json")
