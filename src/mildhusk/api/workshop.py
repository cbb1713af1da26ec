"""The workshop: its name, its money, and what the browser should know before it sends something."""

from dataclasses import replace
from datetime import datetime
from decimal import Decimal
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.common import PREFIX, Answer, Body, Price, Shape, calmly, transaction
from mildhusk.core.casting.schools import SCHOOLS
from mildhusk.core.casting.schools.base import SchoolWords
from mildhusk.core.casting.wish import FIRST_WISH, CastWish
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.equipment import Equipment
from mildhusk.demo.scenario import add_example
from mildhusk.services.costs import hour_rate_of
from mildhusk.services.workshop import (
    equipment_of,
    is_backup_overdue,
    set_equipment,
    set_hour_rate,
    workshop_here,
)
from mildhusk.store.tables import Workshop

blueprint = APIBlueprint("workshop", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Workshop")])


class WorkshopShape(Shape):
    """The workshop, and what the browser should know before it sends something."""

    name: str
    currency: str
    hour_rate: Decimal
    hour_rate_is_own: bool
    max_mesh_file_bytes: int
    first_wish: CastWish
    equipment: Equipment
    coat_schools: list[SchoolWords]
    backed_up_at: datetime | None
    backup_said: str
    is_backup_overdue: bool


class HourRate(Body):
    """What an hour of work costs."""

    hour_rate: Price


class EquipmentBody(Answer[Equipment]):
    """What the workshop works with, and when; hours count from midnight."""


def _shape(found: Workshop, now: datetime) -> dict[str, object]:
    equipment = equipment_of(found)
    first = replace(FIRST_WISH, hands=equipment.hands, scale_step_kg=equipment.scale_step_kg)
    return WorkshopShape(
        name=found.name,
        currency=found.currency,
        hour_rate=hour_rate_of(found).amount,
        hour_rate_is_own=found.hour_rate is not None,
        max_mesh_file_bytes=MAX_MESH_FILE_BYTES,
        first_wish=first,
        equipment=equipment,
        coat_schools=[school.words for school in SCHOOLS.values()],
        backed_up_at=found.backed_up_at,
        backup_said=found.backup_said,
        is_backup_overdue=is_backup_overdue(found, now),
    ).model_dump(mode="json")


@blueprint.get("/workshop", responses={200: WorkshopShape}, summary="The workshop")
def show() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(workshop_here(at), at.now)


@blueprint.put("/workshop/hour-rate", responses={200: WorkshopShape}, summary="Price of an hour")
def set_rate(body: HourRate) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(set_hour_rate(at, body.hour_rate), at.now)


@blueprint.put("/workshop/equipment", responses={200: WorkshopShape}, summary="What it works with")
def change_equipment(body: EquipmentBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _shape(set_equipment(at, body.root), at.now)


class Example(Shape):
    """A cast sheet to look at, in a workshop that has none of its own yet."""

    sheet_id: UUID


@blueprint.post("/workshop/example", responses={201: Example}, summary="Add an example to look at")
@calmly
def example() -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return Example(sheet_id=add_example(at)).model_dump(mode="json"), 201
