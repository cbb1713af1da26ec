"""Mixing at the bench: what is still to add when more was poured than was wanted."""

from typing import Annotated

from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mildhusk.api.common import PREFIX, Body, Number, Shape
from mildhusk.core.mixing.ratio import still_to_add

blueprint = APIBlueprint("mixing", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Mixing")])

Parts = Annotated[list[Number], Field(min_length=2, max_length=6)]


class Poured(Body):
    """What was wanted of every part, and what is in the cup of it; by weight or by volume."""

    wanted: Parts
    poured: Parts


class StillToAdd(Shape):
    """What is still to add of every part; nothing is taken out again."""

    add: list[float]


@blueprint.post("/mix/follow", responses={200: StillToAdd}, summary="Follow an overshoot")
def follow(body: Poured) -> dict[str, object]:  # noqa: D103
    return StillToAdd(add=list(still_to_add(tuple(body.wanted), tuple(body.poured)))).model_dump()
