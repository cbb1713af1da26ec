"""The board of days: by people, moulds and places, moved by hand; plans kept and compared."""

from typing import Annotated

from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime, StringConstraints

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    Deleted,
    IdPath,
    Name,
    Shape,
    calmly,
    transaction,
)
from mildhusk.api.days import TaskId, Zone, known_zone
from mildhusk.services.days import board as boards
from mildhusk.services.days import kept
from mildhusk.services.days.board import Board, MoveTried
from mildhusk.services.days.kept import HowItWent, KeptPlanName
from mildhusk.services.days.planning import plan_days_here
from mildhusk.services.transaction import Transaction

blueprint = APIBlueprint("day_board", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Today")])

PersonName = Annotated[str, StringConstraints(max_length=120)]


class MovedTask(Body):
    """Where a task is put, and to whom it is given; to nobody else where no name is said."""

    task: TaskId
    starts: AwareDatetime
    person: PersonName = ""


class FreedTask(Body):
    """A task that was put somewhere by hand and is planned again."""

    task: TaskId
    zone: Zone = "UTC"


class KeptName(Body):
    """What a plan is kept under."""

    name: Name


class BoardAnswer(Answer[Board]):
    """The board of days."""


class MoveAnswer(Answer[MoveTried]):
    """Where a task was put, and what that breaks."""


class KeptPlanAnswer(Answer[KeptPlanName]):
    """A plan that was kept."""


class KeptPlans(Shape):
    """The plans that were kept, the newest first."""

    kept: list[KeptPlanAnswer]


class HowItWentAnswer(Answer[HowItWent]):
    """A kept plan beside what was done of it."""


@blueprint.get("/days/board", responses={200: BoardAnswer}, summary="The board of days")
def show() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _board(at)


@blueprint.post("/days/board/tries", responses={200: MoveAnswer}, summary="What a move would break")
def try_move(body: MovedTask) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return MoveAnswer(boards.try_move(at, body.task, body.starts, body.person)).told()


@blueprint.post("/days/board/moves", responses={200: BoardAnswer}, summary="Move a task")
@calmly
def move(body: MovedTask) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        boards.move(at, body.task, body.starts, body.person)
        return _board(at)


@blueprint.post(
    "/days/board/freed", responses={200: BoardAnswer}, summary="Let a moved task be planned again"
)
@calmly
def free(body: FreedTask) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        boards.free(at, body.task)
        plan_days_here(at, known_zone(body.zone))
        return _board(at)


def _board(at: Transaction) -> dict[str, object]:
    return BoardAnswer(boards.board(at)).told()


@blueprint.get("/days/kept", responses={200: KeptPlans}, summary="Plans that were kept")
def list_kept() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        told = [KeptPlanAnswer(one) for one in kept.kept_plans(at)]
    return KeptPlans(kept=told).model_dump(mode="json")


@blueprint.post("/days/kept", responses={201: KeptPlanAnswer}, summary="Save the current plan")
def keep(body: KeptName) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return KeptPlanAnswer(kept.keep_plan(at, body.name)).told(), 201


@blueprint.get(
    "/days/kept/<uuid:id>", responses={200: HowItWentAnswer}, summary="A kept plan, and how it went"
)
def how_it_went(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return HowItWentAnswer(kept.how_it_went(at, path.id)).told()


@blueprint.delete("/days/kept/<uuid:id>", responses={200: Deleted}, summary="Delete a kept plan")
def delete_kept(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        kept.delete_kept_plan(at, path.id)
    return Deleted().model_dump()
