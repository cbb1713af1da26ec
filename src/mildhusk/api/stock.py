"""Stock: lots, and what to buy for the casts to come."""

from datetime import date
from decimal import Decimal
from typing import Annotated
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    IdPath,
    Name,
    Number,
    Price,
    TakenOver,
    UploadForm,
    desk,
    download,
    read_upload,
)
from mildhusk.core.materials.kit import Kit
from mildhusk.core.planning.document import purchase_document
from mildhusk.services import lot_exchange, stock
from mildhusk.store.tables import LotRow

blueprint = APIBlueprint("stock", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Stock")])


class NewLot(Body):
    """A lot to put on the shelf."""

    material_id: UUID
    label: Name
    bought_kg: Number
    opened_on: date | None = None
    expires_on: date
    price: Price | None = None


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
    price: str | None


class LotList(BaseModel):
    """All lots, those that expire first first."""

    lots: list[LotShape]


class CastsOfSheet(Body):
    """How many casts of a sheet."""

    sheet_id: UUID
    casts: Annotated[int, Field(ge=1, le=1000)]


class MouldsWanted(Body):
    """How many of a mould."""

    mould_id: UUID
    count: Annotated[int, Field(ge=1, le=100)]


class BuyingQuestion(Body):
    """The casts and the moulds to come."""

    casts: Annotated[list[CastsOfSheet], Field(max_length=100, default_factory=list)]
    moulds: Annotated[list[MouldsWanted], Field(max_length=100, default_factory=list)]


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
        price=None if lot.price is None else str(lot.price),
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
            at,
            body.material_id,
            body.label,
            body.bought_kg,
            body.opened_on,
            body.expires_on,
            body.price,
        )
        shown = _shape(lot, at.now.date())
    return shown.model_dump(mode="json"), 201


@blueprint.delete("/lots/<uuid:id>", responses={200: Deleted}, summary="Take a lot off the shelf")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        stock.delete_lot(at, path.id)
    return Deleted().model_dump(mode="json")


@blueprint.get("/lots.json", summary="All lots as JSON")
def as_json() -> Response:  # noqa: D103
    with desk() as at:
        content = lot_exchange.export_lots_json(at)
    return download(content, "application/json", "lots.json")


@blueprint.get("/lots.csv", summary="All lots as CSV")
def as_csv() -> Response:  # noqa: D103
    with desk() as at:
        content = lot_exchange.export_lots_csv(at)
    return download(content, "text/csv; charset=utf-8", "lots.csv")


@blueprint.post("/lots/file", responses={200: TakenOver}, summary="Take over lots from a file")
def take_over(form: UploadForm) -> dict[str, object]:  # noqa: D103
    content = read_upload(form.file)
    with desk() as at:
        taken = TakenOver(taken=lot_exchange.import_lots(at, content))
    return taken.model_dump(mode="json")


class KitShape(Body):
    """A kit on offer."""

    name: Name
    mass_kg: Number
    price: Price
    shelf_life_days: Annotated[int, Field(le=36_500)]


class KitList(Body):
    """The kits on offer for a material, the smallest first."""

    kits: Annotated[list[KitShape], Field(max_length=100)]


def _kits(kits: tuple[Kit, ...]) -> dict[str, object]:
    shown = KitList(
        kits=[
            KitShape(
                name=kit.name,
                mass_kg=kit.mass_kg,
                price=kit.price,
                shelf_life_days=kit.shelf_life_days,
            )
            for kit in kits
        ]
    )
    return shown.model_dump(mode="json")


@blueprint.get("/materials/<uuid:id>/kits", responses={200: KitList}, summary="Kits on offer")
def kits(path: IdPath) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        return _kits(stock.kits_of(at, path.id))


@blueprint.put("/materials/<uuid:id>/kits", responses={200: KitList}, summary="Replace the kits")
def set_kits(path: IdPath, body: KitList) -> dict[str, object]:  # noqa: D103
    asked = [Kit(k.name, k.mass_kg, k.price, k.shelf_life_days) for k in body.kits]
    with desk() as at:
        return _kits(stock.set_kits(at, path.id, asked))


@blueprint.post("/buying", responses={200: BuyList}, summary="What to buy for the casts to come")
def buying(body: BuyingQuestion) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        needs = stock.plan_buying(
            at,
            [(one.sheet_id, one.casts) for one in body.casts],
            [(one.mould_id, one.count) for one in body.moulds],
        )
    documents = [
        {**purchase_document(n.material.key, n.need_kg, n.purchase), "name": n.material.name}
        for n in needs
    ]
    shown = BuyList(
        purchases=[PurchaseShape.model_validate(one) for one in documents],
        cost=str(sum((need.purchase.cost for need in needs), Decimal("0.00"))),
    )
    return shown.model_dump(mode="json")
