"""The workshop: its name, its money, and what the browser should know before it sends something."""

from dataclasses import asdict

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import PREFIX, Body, Price, desk
from mildhusk.api.sheets import WishShape
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.planning.wish import FIRST_WISH
from mildhusk.services.costs import hour_rate_of
from mildhusk.services.workshop import set_hour_rate, the_workshop
from mildhusk.store.tables import Workshop

blueprint = APIBlueprint("workshop", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Workshop")])


class WorkshopShape(BaseModel):
    """The workshop, and what the browser should know before it sends something."""

    name: str
    currency: str
    hour_rate: str
    hour_rate_is_own: bool
    max_mesh_file_bytes: int
    first_wish: WishShape


class HourRate(Body):
    """What an hour of work costs."""

    hour_rate: Price


def _shape(found: Workshop | None) -> WorkshopShape:
    assert found is not None  # the desk founded it
    return WorkshopShape(
        name=found.name,
        currency=found.currency,
        hour_rate=str(hour_rate_of(found).amount),
        hour_rate_is_own=found.hour_rate is not None,
        max_mesh_file_bytes=MAX_MESH_FILE_BYTES,
        first_wish=WishShape.model_validate(asdict(FIRST_WISH)),
    )


@blueprint.get("/workshop", responses={200: WorkshopShape}, summary="The workshop")
def show() -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(the_workshop(at.session))
    return shown.model_dump(mode="json")


@blueprint.put("/workshop/hour-rate", responses={200: WorkshopShape}, summary="Price of an hour")
def set_rate(body: HourRate) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        shown = _shape(set_hour_rate(at.session, body.hour_rate))
    return shown.model_dump(mode="json")
