"""The rest of the shelf: every kind of material beside casting resins, read and filled in."""

from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import (
    PREFIX,
    Body,
    IdPath,
    ListQuery,
    Name,
    Note,
    Number,
    Shape,
    Whole,
    Word,
    transaction,
)
from mildhusk.core.materials.facts import Fact, FormField, facts_of, form_of
from mildhusk.services import shelf
from mildhusk.store.tables import Material

blueprint = APIBlueprint("supplies", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Shelf")])

SheetValue = bool | int | Number | Note | list[Note] | None


class SupplyShape(Shape):
    """A material that is no casting resin."""

    id: UUID
    kind: str
    key: str
    name: str
    origin: str
    facts: tuple[Fact, ...]
    hazards: tuple[str, ...]
    version: int
    sheet: dict[str, SheetValue]


class SupplyList(Shape):
    """A page of what was found beside the casting resins, and how many there are in all."""

    supplies: list[SupplyShape]
    total: int


class SupplyQuery(ListQuery):
    """What to look for, of a kind or of all."""

    kind: Word | None = None


class NewSupply(Body):
    """An own material of a kind; `sheet` holds the values its form asks for."""

    kind: Word
    name: Name
    sheet: Annotated[dict[str, SheetValue], Field(max_length=50)]


class EditedSupply(Body):
    """A changed data sheet."""

    version: Whole
    name: Name
    sheet: Annotated[dict[str, SheetValue], Field(max_length=50)]


class FormShape(Shape):
    """What a form asks for a material of a kind."""

    fields: tuple[FormField, ...]


class KindPath(BaseModel):
    """A kind of material, in the address."""

    kind: Word


def _shape(row: Material) -> SupplyShape:
    material = shelf.material_of(row)
    return SupplyShape(
        id=row.id,
        kind=row.kind,
        key=row.key,
        name=row.name,
        origin=str(material.origin),
        facts=facts_of(material),
        hazards=material.hazards,
        version=row.version,
        sheet={name: value for name, value in row.sheet.items() if name != "origin"},
    )


@blueprint.get("/supplies", responses={200: SupplyList}, summary="The rest of the shelf")
def supplies(query: SupplyQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = shelf.list_supplies(at, query.kind, query.page())
        shown = SupplyList(supplies=[_shape(row) for row in found.rows], total=found.total)
    return shown.model_dump(mode="json")


@blueprint.get("/supplies/<uuid:id>", responses={200: SupplyShape}, summary="One of the rest")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = _shape(shelf.find_material(at, path.id))
    return shown.model_dump(mode="json")


@blueprint.post("/supplies", responses={201: SupplyShape}, summary="Add an own material")
def create(body: NewSupply) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        shown = _shape(shelf.add_material(at, body.kind, body.name, body.sheet))
    return shown.model_dump(mode="json"), 201


@blueprint.put("/supplies/<uuid:id>", responses={200: SupplyShape}, summary="Edit a material")
def edit(path: IdPath, body: EditedSupply) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = _shape(shelf.edit_material(at, path.id, body.version, body.name, body.sheet))
    return shown.model_dump(mode="json")


@blueprint.get("/forms/<string:kind>", responses={200: FormShape}, summary="The form of a kind")
def form(path: KindPath) -> dict[str, object]:  # noqa: D103
    return FormShape(fields=form_of(path.kind)).model_dump(mode="json")
