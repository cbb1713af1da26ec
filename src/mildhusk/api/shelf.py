"""The shelf: materials and their data sheets."""

from decimal import Decimal
from typing import Annotated, Any
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, StringConstraints

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    IdPath,
    ListQuery,
    Name,
    Note,
    Number,
    Shape,
    Whole,
    transaction,
)
from mildhusk.core.amounts import Origin
from mildhusk.core.materials.casting_resin import RatioBasis
from mildhusk.core.materials.traits import Trait
from mildhusk.services import shelf
from mildhusk.services.shelf import Castable
from mildhusk.store.tables import Material

blueprint = APIBlueprint("shelf", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Shelf")])

ShortText = Annotated[str, StringConstraints(max_length=80)]


class ResinValues(Body):
    """The data sheet of a casting resin, in SI; times from the first contact of A and B."""

    material_class: ShortText
    ratio_basis: RatioBasis
    parts_a: Number
    parts_b: Number
    density_a_kg_m3: Number
    density_b_kg_m3: Number
    density_cured_kg_m3: Number
    viscosity_pa_s: Number
    working_time_s: Number
    gel_s: Number
    standard_mass_kg: Number
    standard_temperature_k: Number
    tack_from_s: Number
    tack_until_s: Number
    demould_s: Number
    full_cure_s: Number
    coat_wall_m: Number
    hardness: ShortText
    shrinkage: Number
    hazards: Annotated[list[Note], Field(max_length=20)]
    traits: list[Trait]
    kit_mass_kg: Number
    kit_price: Annotated[Decimal, Field(allow_inf_nan=False, max_digits=9, decimal_places=2)]
    peak_exotherm_k: Number | None = None


class ResinSheet(ResinValues):
    """A data sheet with the origin of its values."""

    origin: Origin


class MaterialShape(Shape):
    """A material on the shelf."""

    id: UUID
    version: int
    kind: str
    key: str
    name: str
    sheet: ResinSheet


class MaterialList(Shape):
    """A page of the casting resins found, and how many there are in all."""

    materials: list[MaterialShape]
    total: int


class NewResin(Body):
    """An own casting resin."""

    name: Name
    sheet: ResinValues


class EditedResin(NewResin):
    """A changed data sheet."""

    version: Whole


def material_shape(material: Material) -> MaterialShape:
    """Return a material as the API shows it."""
    return MaterialShape(
        id=material.id,
        version=material.version,
        kind=material.kind,
        key=material.key,
        name=material.name,
        sheet=ResinSheet.model_validate(_resin_values(material)),
    )


def _resin_values(material: Material) -> dict[str, Any]:
    shelf.resin_of(material)  # a rubber is no casting resin, and says so
    return dict(material.sheet)


@blueprint.get("/materials", responses={200: MaterialList}, summary="Casting resins")
def index(query: ListQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = shelf.list_resins(at, query.page())
        materials = [material_shape(row) for row in found.rows]
        shown = MaterialList(materials=materials, total=found.total)
    return shown.model_dump(mode="json")


class CastableList(Shape):
    """What a husk can be made of, resins first, each with the schools it is poured by."""

    castables: tuple[Castable, ...]


@blueprint.get("/castables", responses={200: CastableList}, summary="What a husk can be made of")
def castables() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = shelf.list_castables(at)
    return CastableList(castables=found).model_dump(mode="json")


@blueprint.post("/materials", responses={201: MaterialShape}, summary="Add an own resin")
def create(body: NewResin) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        shown = material_shape(
            shelf.add_material(at, shelf.CASTING_RESIN, body.name, body.sheet.model_dump())
        )
    return shown.model_dump(mode="json"), 201


@blueprint.get("/materials/<uuid:id>", responses={200: MaterialShape}, summary="One material")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = material_shape(shelf.find_material(at, path.id))
    return shown.model_dump(mode="json")


@blueprint.put("/materials/<uuid:id>", responses={200: MaterialShape}, summary="Edit a resin")
def edit(path: IdPath, body: EditedResin) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        values = body.sheet.model_dump()
        shown = material_shape(shelf.edit_material(at, path.id, body.version, body.name, values))
    return shown.model_dump(mode="json")


@blueprint.delete("/materials/<uuid:id>", responses={200: Deleted}, summary="Delete a material")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        undo = shelf.delete_material(at, path.id)
    return Deleted(undo=undo).model_dump(mode="json")
