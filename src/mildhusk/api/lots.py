"""Lots on the shelf."""

from datetime import date
from decimal import Decimal
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    IdPath,
    Name,
    Number,
    Price,
    Shape,
    TakenOver,
    UploadForm,
    download,
    file_of,
    read_upload,
    transaction,
)
from mildhusk.services import lot_exchange, lots
from mildhusk.store.tables import LotRow

blueprint = APIBlueprint("lots", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Stock")])


class NewLot(Body):
    """A lot to put on the shelf."""

    material_id: UUID
    label: Name
    bought_kg: Number
    opened_on: date | None = None
    expires_on: date
    price: Price | None = None


class LotShape(Shape):
    """A lot and what is left of it."""

    id: UUID
    material_name: str
    label: str
    bought_kg: float
    left_kg: float
    opened_on: date | None
    expires_on: date
    past: bool
    price: Decimal | None


class LotList(Shape):
    """All lots, those that expire first first."""

    lots: list[LotShape]


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
        price=lot.price,
    )


@blueprint.get("/lots", responses={200: LotList}, summary="All lots")
def index() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = LotList(lots=[_shape(lot, at.now.date()) for lot in lots.list_lots(at)])
    return shown.model_dump(mode="json")


@blueprint.post("/lots", responses={201: LotShape}, summary="Put a lot on the shelf")
def create(body: NewLot) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        lot = lots.add_lot(
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
    with transaction() as at:
        undo = lots.delete_lot(at, path.id)
    return Deleted(undo=undo).model_dump(mode="json")


@blueprint.get("/lots.json", responses=file_of("application/json"), summary="All lots as JSON")
def as_json() -> Response:  # noqa: D103
    with transaction() as at:
        content = lot_exchange.export_lots_json(at)
    return download(content, "application/json", "lots.json")


@blueprint.get("/lots.csv", responses=file_of("text/csv"), summary="All lots as CSV")
def as_csv() -> Response:  # noqa: D103
    with transaction() as at:
        content = lot_exchange.export_lots_csv(at)
    return download(content, "text/csv; charset=utf-8", "lots.csv")


@blueprint.post("/lots/file", responses={200: TakenOver}, summary="Import lots from a file")
def take_over(form: UploadForm) -> dict[str, object]:  # noqa: D103
    content = read_upload(form.file)
    with transaction() as at:
        taken = TakenOver(taken=lot_exchange.import_lots(at, content))
    return taken.model_dump(mode="json")
