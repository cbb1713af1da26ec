"""Deciding backwards: the chain, and what happens where materials touch."""

from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mildhusk.api.common import PREFIX, Answer, Body, Number, Shape, Word, calmly, transaction
from mildhusk.core.choosing.answer import Chain
from mildhusk.core.choosing.task import Link, Purpose
from mildhusk.core.materials.compatibility import PairVerdict
from mildhusk.services import choosing

blueprint = APIBlueprint(
    "choosing", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Deciding backwards")]
)


class ChainQuestion(Body):
    """What the husk must do, and what is known of piece and master."""

    purpose: Purpose
    opening_girth_m: Number
    widest_girth_m: Number
    painted: bool
    spun: bool
    piece_id: UUID | None = None
    master_key: Word | None = None
    taken: Annotated[dict[Link, Word], Field(default_factory=dict)]


class ChainAnswer(Answer[Chain]):
    """The links with their candidates, best first."""


class CheckQuestion(Body):
    """Materials that touch."""

    keys: Annotated[list[Word], Field(min_length=2, max_length=12)]


class PairList(Shape):
    """Pair by pair."""

    pairs: tuple[PairVerdict, ...]


@blueprint.post(
    "/chain",
    responses={200: ChainAnswer},
    summary="Choose materials from the husk back to the master",
)
@calmly
def chain(body: ChainQuestion) -> dict[str, object]:  # noqa: D103
    asked = choosing.Question(
        purpose=body.purpose,
        opening_girth_m=body.opening_girth_m,
        widest_girth_m=body.widest_girth_m,
        painted=body.painted,
        spun=body.spun,
        piece_id=body.piece_id,
        master_key=body.master_key,
    )
    with transaction() as at:
        found = choosing.decide_backwards(at, asked, body.taken)
    return ChainAnswer(found).told()


@blueprint.post("/compatibility", responses={200: PairList}, summary="What happens where two touch")
@calmly
def compatibility(body: CheckQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        judged = choosing.check_together(at, body.keys)
    return PairList(pairs=judged).model_dump(mode="json")
