"""The rest of the shelf: every kind of material beside casting resins, read and filled in."""

from dataclasses import asdict
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
    QuantityShape,
    desk,
)
from mildhusk.core.materials.facts import FieldKind, facts_of, form_of
from mildhusk.core.wording import Unit
from mildhusk.services import shelf
from mildhusk.store.tables import Material

blueprint = APIBlueprint("supplies", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Shelf")])

SheetValue = bool | int | Number | Note | list[Note] | None


class FactShape(BaseModel):
    """One value of a data sheet: a quantity, or words."""

    label: str
    quantity: QuantityShape | None
    words: str


class SupplyShape(BaseModel):
    """A material that is no casting resin."""

    id: UUID
    kind: str
    key: str
    name: str
    origin: str
    facts: list[FactShape]
    hazards: list[str]
    version: int
    sheet: dict[str, SheetValue]


class SupplyList(BaseModel):
    """What was found beside the casting resins, and how many there are in all."""

    supplies: list[SupplyShape]
    total: int


class SupplyQuery(ListQuery):
    """What to look for, of a kind or of all."""

    kind: str | None = None


class NewSupply(Body):
    """An own material of a kind; `sheet` holds the values its form asks for."""

    kind: str
    name: Name
    sheet: Annotated[dict[str, SheetValue], Field(max_length=50)]


class EditedSupply(Body):
    """A changed data sheet."""

    version: int
    name: Name
    sheet: Annotated[dict[str, SheetValue], Field(max_length=50)]


class FormFieldShape(BaseModel):
    """One value of a data sheet as a form asks for it."""

    name: str
    label: str
    kind: FieldKind
    unit: Unit
    options: list[str]
    may_be_empty: bool


class FormShape(BaseModel):
    """What a form asks for a material of a kind."""

    fields: list[FormFieldShape]


class KindPath(BaseModel):
    """A kind of material, in the address."""

    kind: str


def _shape(row: Material) -> SupplyShape:
    material = shelf.material_of(row)
    return SupplyShape(
        id=row.id,
        kind=row.kind,
        key=row.key,
        name=row.name,
        origin=str(material.origin),
        facts=[
            FactShape(
                label=fact.label,
                quantity=fact.quantity
                and QuantityShape(value=fact.quantity.value, unit=fact.quantity.unit),
                words=fact.words,
            )
            for fact in facts_of(material)
        ],
        hazards=list(material.hazards),
        version=row.version,
        sheet={name: value for name, value in row.sheet.items() if name != "origin"},
    )


@blueprint.get("/supplies", responses={200: SupplyList}, summary="The rest of the shelf")
def supplies(query: SupplyQuery) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        found = shelf.list_supplies(at, query.kind, query.search, query.limit)
        shown = SupplyList(supplies=[_shape(row) for row in found.rows], total=found.total)
    return shown.model_dump(mode="json")


@blueprint.get("/supplies/<uuid:id>", responses={200: SupplyShape}, summary="One of the rest")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(shelf.find_material(at, path.id))
    return shown.model_dump(mode="json")


@blueprint.post("/supplies", responses={201: SupplyShape}, summary="Add an own material")
def create(body: NewSupply) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        shown = _shape(shelf.add_material(at, body.kind, body.name, body.sheet))
    return shown.model_dump(mode="json"), 201


@blueprint.put("/supplies/<uuid:id>", responses={200: SupplyShape}, summary="Edit a material")
def edit(path: IdPath, body: EditedSupply) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(shelf.edit_material(at, path.id, body.version, body.name, body.sheet))
    return shown.model_dump(mode="json")


@blueprint.get("/forms/<string:kind>", responses={200: FormShape}, summary="The form of a kind")
def form(path: KindPath) -> dict[str, object]:  # noqa: D103
    fields = [FormFieldShape.model_validate(asdict(field)) for field in form_of(path.kind)]
    return FormShape(fields=fields).model_dump(mode="json")
