"""Deciding backwards: the chain, and what happens where materials touch."""

from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import PREFIX, Body, Number, desk
from mildhusk.core.planning.chain import Link, Purpose, Standing
from mildhusk.core.planning.document import chain_document, verdict_document
from mildhusk.services import deciding

blueprint = APIBlueprint(
    "deciding", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Deciding backwards")]
)


class ChainQuestion(Body):
    """What the husk must do, and what is known of piece and master."""

    purpose: Purpose
    opening_girth_m: Number
    widest_girth_m: Number
    painted: bool
    spun: bool
    piece_id: UUID | None = None
    master_key: str | None = None
    taken: Annotated[dict[Link, str], Field(default_factory=dict)]


class CandidateShape(BaseModel):
    """A candidate of a link, with its reasons."""

    key: str
    name: str
    verdict: Standing
    reasons: list[str]


class WayShape(BaseModel):
    """One way to do it, with what it gains and costs."""

    name: str
    gains: list[str]
    costs: list[str]


class SchoolShape(BaseModel):
    """A question practitioners answer differently."""

    id: str
    question: str
    ways: list[WayShape]


class ChainShape(BaseModel):
    """The links with their candidates, best first."""

    needed_stretch: float
    links: dict[Link, list[CandidateShape]]
    schools: list[SchoolShape]


class CheckQuestion(Body):
    """Materials that touch."""

    keys: Annotated[list[str], Field(min_length=2, max_length=12)]


class RuleShape(BaseModel):
    """A rule behind a verdict."""

    id: str
    severity: str
    reason: str
    remedy: str
    origin: str


class PairShape(BaseModel):
    """The verdict on two materials."""

    pair: list[str]
    verdict: str
    rules: list[RuleShape]


class PairList(BaseModel):
    """Pair by pair."""

    pairs: list[PairShape]


@blueprint.post("/chain", responses={200: ChainShape}, summary="Decide backwards")
def chain(body: ChainQuestion) -> dict[str, object]:  # noqa: D103
    asked = deciding.Question(
        purpose=body.purpose,
        opening_girth_m=body.opening_girth_m,
        widest_girth_m=body.widest_girth_m,
        painted=body.painted,
        spun=body.spun,
        piece_id=body.piece_id,
        master_key=body.master_key,
    )
    with desk() as at:
        document = chain_document(*deciding.decide_backwards(at, asked, body.taken))
    return ChainShape.model_validate(document).model_dump(mode="json")


@blueprint.post("/compatibility", responses={200: PairList}, summary="What happens where two touch")
def compatibility(body: CheckQuestion) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        judged = deciding.check_together(at, body.keys)
    shown = PairList(pairs=[PairShape.model_validate(verdict_document(one)) for one in judged])
    return shown.model_dump(mode="json")
