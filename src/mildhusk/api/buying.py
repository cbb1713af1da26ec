"""What to buy for the casts to come, and the kits it is bought in."""

from decimal import Decimal
from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mildhusk.api.common import (
    PREFIX,
    Body,
    IdPath,
    Name,
    Number,
    Price,
    Shape,
    calmly,
    transaction,
)
from mildhusk.core.casting.unevenness import StandsOn
from mildhusk.core.materials.kit import Kit
from mildhusk.core.supply.besides import Beside
from mildhusk.core.supply.buying import Purchase
from mildhusk.services import buying

blueprint = APIBlueprint("buying", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Stock")])


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
    minimum_order: Annotated[Decimal, Field(ge=0, le=100_000, decimal_places=2)] = Decimal(0)


class PurchaseShape(Shape):
    """How the need of one material is met."""

    key: str
    name: str
    purchase: Purchase
    stands_on: StandsOn | None


class BuyList(Shape):
    """What to take and what to buy; `cost` is the sum of the costs shown.

    `raised_by` is what the shop's minimum order adds, `short_by` what is lacking of it where no
    sensible amount fills it up; `besides` is what comes in no kit.
    """

    purchases: list[PurchaseShape]
    besides: list[Beside]
    cost: Decimal
    raised_by: Decimal
    short_by: Decimal


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
    with transaction() as at:
        return _kits(buying.kits_of(at, path.id))


@blueprint.put("/materials/<uuid:id>/kits", responses={200: KitList}, summary="Replace the kits")
def set_kits(path: IdPath, body: KitList) -> dict[str, object]:  # noqa: D103
    asked = [Kit(k.name, k.mass_kg, k.price, k.shelf_life_days) for k in body.kits]
    with transaction() as at:
        return _kits(buying.set_kits(at, path.id, asked))


@blueprint.post("/buying", responses={200: BuyList}, summary="What to buy for the casts to come")
@calmly
def list_to_buy(body: BuyingQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = buying.plan_buying(
            at,
            [(one.sheet_id, one.casts) for one in body.casts],
            [(one.mould_id, one.count) for one in body.moulds],
            body.minimum_order,
        )
        purchases = [
            PurchaseShape(
                key=one.material.key,
                name=one.material.name,
                purchase=one.purchase,
                stands_on=one.stands_on,
            )
            for one in found.needs
        ]
    told = BuyList(
        purchases=purchases,
        besides=list(found.besides),
        cost=found.cost,
        raised_by=found.raised_by,
        short_by=found.short_by,
    )
    return told.model_dump(mode="json")
