"""Offers: can so many casts be done by a day, and at what price."""

from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime, Field

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    Deleted,
    IdPath,
    Name,
    Number,
    Shape,
    Word,
    calmly,
    transaction,
)
from mildhusk.api.days import Zone, known_zone
from mildhusk.core.finishing.finish import FinishWish
from mildhusk.services.days.offers import (
    MOST_CASTS,
    Offer,
    OfferRequest,
    delete_offer,
    list_offers,
    make_offer,
    take_offer,
)
from mildhusk.services.days.planning import plan_days_here

blueprint = APIBlueprint("day_offers", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Today")])


class OfferQuestion(Body):
    """So many casts by a day; what becomes of them, and what is put on top of their cost."""

    title: Name
    sheet_id: UUID
    mould_id: UUID | None = None
    casts: Annotated[int, Field(ge=1, le=MOST_CASTS)]
    due: AwareDatetime
    finish: FinishWish | None = None
    release: Word = ""
    margin: Annotated[Number, Field(ge=0, le=10)] = 0.3
    delivery_days: Annotated[int, Field(ge=0, le=60)] = 3
    zone: Zone = "UTC"


class OfferTaken(Body):
    """An offer that is put into the days, with another mould or without."""

    second_mould: bool = False
    zone: Zone = "UTC"


class OfferShape(Answer[Offer]):
    """An offer as it was kept."""


class OfferList(Shape):
    """The offers, the newest first."""

    offers: list[OfferShape]


@blueprint.get("/days/offers", responses={200: OfferList}, summary="Offers that were kept")
def show() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        told = [OfferShape(one) for one in list_offers(at)]
    return OfferList(offers=told).model_dump(mode="json")


@blueprint.post("/days/offers", responses={201: OfferShape}, summary="Can that be done by then?")
@calmly
def ask(body: OfferQuestion) -> tuple[dict[str, object], int]:  # noqa: D103
    asked = OfferRequest(
        body.casts,
        body.due,
        body.mould_id,
        body.finish,
        body.release,
        body.margin,
        body.delivery_days,
    )
    with transaction() as at:
        made = make_offer(at, body.sheet_id, body.title, asked, known_zone(body.zone))
        return OfferShape(made).told(), 201


@blueprint.post(
    "/days/offers/<uuid:id>/taken", responses={200: OfferShape}, summary="Put it into the days"
)
@calmly
def take(path: IdPath, body: OfferTaken) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        taken = take_offer(at, path.id, second_mould=body.second_mould)
        plan_days_here(at, known_zone(body.zone))
        return OfferShape(taken).told()


@blueprint.delete("/days/offers/<uuid:id>", responses={200: Deleted}, summary="Delete an offer")
def delete(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        delete_offer(at, path.id)
    return Deleted().model_dump()
