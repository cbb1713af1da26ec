"""The finish of a cast: its steps, what paint waits for, what it weighs."""

from flask_openapi3 import APIBlueprint, Tag
from pydantic import AwareDatetime

from mildhusk.api.common import (
    PREFIX,
    Answer,
    Body,
    IdPath,
    Number,
    Word,
    calmly,
    transaction,
)
from mildhusk.api.days import Zone, known_zone
from mildhusk.core.finishing.finish import FinishWish
from mildhusk.services.days.finishes import Finish, finish_of_pour, set_finish, weigh_trimmed
from mildhusk.services.days.planning import plan_days_here

blueprint = APIBlueprint(
    "finishes", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pour and log")]
)


class FinishBody(Body):
    """What becomes of a cast, and by when."""

    finish: FinishWish
    release: Word = ""
    due: AwareDatetime | None = None
    zone: Zone = "UTC"


class TrimmedBody(Body):
    """What a cast weighs with its openings cut; null takes it back. [kg]"""

    trimmed_kg: Number | None


class FinishAnswer(Answer[Finish]):
    """The finish of a cast."""


@blueprint.get(
    "/pours/<uuid:id>/finish", responses={200: FinishAnswer}, summary="The finish of a cast"
)
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return FinishAnswer(finish_of_pour(at, path.id)).told()


@blueprint.put(
    "/pours/<uuid:id>/finish", responses={200: FinishAnswer}, summary="Say what becomes of a cast"
)
@calmly
def give(path: IdPath, body: FinishBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        set_finish(at, path.id, body.finish, body.release, body.due)
        plan_days_here(at, known_zone(body.zone))
        return FinishAnswer(finish_of_pour(at, path.id)).told()


@blueprint.put(
    "/pours/<uuid:id>/trimmed", responses={200: FinishAnswer}, summary="Weigh a trimmed cast"
)
def weigh(path: IdPath, body: TrimmedBody) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        weigh_trimmed(at, path.id, body.trimmed_kg)
        return FinishAnswer(finish_of_pour(at, path.id)).told()
