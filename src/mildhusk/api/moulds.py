"""Moulds: estimate, keep, edit."""

from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import PREFIX, Body, Deleted, IdPath, Name, Number, desk
from mildhusk.api.sheets import OperationShape
from mildhusk.core.materials.cautions import MOULD_MAKING, cautions_for
from mildhusk.core.planning.document import caution_documents, mould_document
from mildhusk.services import moulds
from mildhusk.store.tables import MouldRow

blueprint = APIBlueprint("moulds", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Moulds")])


class NewMould(Body):
    """How a mould is to be built."""

    name: Name
    piece_id: UUID
    rubber_id: UUID
    shell_id: UUID
    rubber_wall_m: Number
    life_casts: int

    def asked(self) -> moulds.MouldAsked:
        """Return it as the service takes it."""
        return moulds.MouldAsked(
            name=self.name,
            piece_id=self.piece_id,
            rubber_id=self.rubber_id,
            shell_id=self.shell_id,
            rubber_wall_m=self.rubber_wall_m,
            life_casts=self.life_casts,
        )


class EditedMould(NewMould):
    """A changed mould."""

    version: int


class TakesShape(BaseModel):
    """What a mould takes: an estimate."""

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
    takes: TakesShape
    operations: list[OperationShape]


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
        takes=TakesShape.model_validate(mould_document(moulds.estimate_of(row))),
        operations=[OperationShape.model_validate(one) for one in caution_documents(cautions)],
    )


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
