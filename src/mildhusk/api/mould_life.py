"""The life of a mould, and the catalyst of its rubber."""

from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.common import PREFIX, Body, IdPath, Note, Number, Shape, Word, transaction
from mildhusk.api.moulds import MouldShape, mould_shape
from mildhusk.core.mould.catalyst import catalysed, share_for_room, usual_catalyst
from mildhusk.services import mould_life
from mildhusk.store.tables import MouldEventKind

blueprint = APIBlueprint("mould_life", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Moulds")])


class NewEvent(Body):
    """Something that happened to a mould."""

    kind: MouldEventKind
    note: Note = ""


class TickedCheck(Body):
    """A check, done or not."""

    check: Word
    done: bool


class Retired(Body):
    """Whether a mould is retired."""

    retired: bool


class CatalystQuestion(Body):
    """A dose of catalyst, the part of it that is fast, the room."""

    share: Number
    fast_share: Number = 0.0
    temperature_k: Number


class CatalysedShape(Shape):
    """Times with that dose, and the dose that keeps the usual pot life in that room."""

    pot_life_s: float
    cure_s: float
    life: float
    advised_share: float
    lowest_share: float
    highest_share: float


@blueprint.post("/moulds/<uuid:id>/events", responses={201: MouldShape}, summary="What happened")
def happened(path: IdPath, body: NewEvent) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return mould_shape(mould_life.add_event(at, path.id, body.kind, body.note)), 201


@blueprint.put("/moulds/<uuid:id>/checks", responses={200: MouldShape}, summary="Tick a check")
def tick(path: IdPath, body: TickedCheck) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return mould_shape(mould_life.tick_check(at, path.id, body.check, done=body.done))


@blueprint.put("/moulds/<uuid:id>/retired", responses={200: MouldShape}, summary="Retire a mould")
def retire(path: IdPath, body: Retired) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return mould_shape(mould_life.retire_mould(at, path.id, retired=body.retired))


@blueprint.post("/catalyst", responses={200: CatalysedShape}, summary="Catalyst for a room")
def catalyst(body: CatalystQuestion) -> dict[str, object]:  # noqa: D103
    sheet = usual_catalyst()
    found = catalysed(sheet, body.share, body.fast_share, body.temperature_k)
    usual = catalysed(sheet, sheet.by_share[1].share, 0.0, sheet.temperature_k)
    shown = CatalysedShape(
        pot_life_s=found.pot_life_s,
        cure_s=found.cure_s,
        life=found.life,
        advised_share=share_for_room(sheet, body.temperature_k, usual.pot_life_s),
        lowest_share=sheet.by_share[0].share,
        highest_share=sheet.by_share[-1].share,
    )
    return shown.model_dump(mode="json")
