"""Stock: lots, and what to buy for the casts to come."""

from datetime import date
from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import PREFIX, Body, Deleted, IdPath, Name, Number, desk
from mildhusk.core.planning.document import purchase_document
from mildhusk.services import stock
from mildhusk.store.tables import LotRow

blueprint = APIBlueprint("stock", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Stock")])


class NewLot(Body):
    """A lot to put on the shelf."""

    material_id: UUID
    label: Name
    bought_kg: Number
    opened_on: date | None = None
    expires_on: date


class LotShape(BaseModel):
    """A lot and what is left of it."""

    id: UUID
    material_name: str
    label: str
    bought_kg: float
    left_kg: float
    opened_on: date | None
    expires_on: date
    past: bool


class LotList(BaseModel):
    """All lots, those that expire first first."""

    lots: list[LotShape]


class CastsOfSheet(Body):
    """How many casts of a sheet."""

    sheet_id: UUID
    casts: Annotated[int, Field(ge=1, le=1000)]


class BuyingQuestion(Body):
    """The casts to come."""

    casts: Annotated[list[CastsOfSheet], Field(min_length=1, max_length=100)]


class FromLot(BaseModel):
    """What is taken from a lot."""

    lot: str
    kg: float


class KitsBought(BaseModel):
    """How many of a kit to buy."""

    name: str
    mass_kg: float
    price: str
    count: int


class PurchaseShape(BaseModel):
    """How the need of one resin is met."""

    key: str
    name: str
    need_kg: float
    from_lots: list[FromLot]
    kits: list[KitsBought]
    cost: str
    left_over_kg: float
    left_over_days: int | None
    trial_covers_kg: float
    why_not_bigger: str


class BuyList(BaseModel):
    """What to take and what to buy; `cost` is the sum of the costs shown."""

    purchases: list[PurchaseShape]
    cost: str


def _shape(lot: LotRow, today: date) -> LotShape:
    return LotShape(
        id=lot.id,
        material_name=lot.material.name,
        label=lot.label,
        bought_kg=float(lot.bought_g / 1000),
        left_kg=float(lot.left_g / 1000),
        opened_on=lot.opened_on,
        expires_on=lot.expires_on,
        past=lot.expires_on < today,
    )


@blueprint.get("/lots", responses={200: LotList}, summary="All lots")
def index() -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = LotList(lots=[_shape(lot, at.now.date()) for lot in stock.list_lots(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/lots", responses={201: LotShape}, summary="Put a lot on the shelf")
def create(body: NewLot) -> tuple[dict[str, object], int]:  # noqa: D103
    with desk() as at:
        lot = stock.add_lot(
            at, body.material_id, body.label, body.bought_kg, body.opened_on, body.expires_on
        )
        shown = _shape(lot, at.now.date())
    return shown.model_dump(mode="json"), 201


@blueprint.delete("/lots/<uuid:id>", responses={200: Deleted}, summary="Take a lot off the shelf")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        stock.delete_lot(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.post("/buying", responses={200: BuyList}, summary="What to buy for the casts to come")
def buying(body: BuyingQuestion) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        needs = stock.plan_buying(at, [(one.sheet_id, one.casts) for one in body.casts])
    documents = [
        {**purchase_document(n.material.key, n.need_kg, n.purchase), "name": n.material.name}
        for n in needs
    ]
    shown = BuyList(
        purchases=[PurchaseShape.model_validate(one) for one in documents],
        cost=str(sum(need.purchase.cost for need in needs)),
    )
    return shown.model_dump(mode="json")
