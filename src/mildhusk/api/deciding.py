"""Deciding backwards: the rest of the shelf, the chain, what happens where materials touch."""

from typing import Annotated
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import PREFIX, Body, ListQuery, Number, QuantityShape, desk
from mildhusk.core.materials.facts import facts_of
from mildhusk.core.planning.chain import Link, Purpose, Standing
from mildhusk.core.planning.document import chain_document, verdict_document
from mildhusk.services import deciding, shelf
from mildhusk.store.tables import Material

blueprint = APIBlueprint(
    "deciding", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Deciding backwards")]
)


class FactShape(BaseModel):
    """One value of a data sheet: a quantity, or words."""

    label: str
    quantity: QuantityShape | None
    words: str


class SupplyShape(BaseModel):
    """A material that is no casting resin."""

    id: UUID
    kind: str
    key: str
    name: str
    origin: str
    facts: list[FactShape]
    hazards: list[str]


class SupplyList(BaseModel):
    """What was found beside the casting resins, and how many there are in all."""

    supplies: list[SupplyShape]
    total: int


class SupplyQuery(ListQuery):
    """What to look for, of a kind or of all."""

    kind: str | None = None


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


class ChainShape(BaseModel):
    """The links with their candidates, best first."""

    needed_stretch: float
    links: dict[Link, list[CandidateShape]]


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


def _shape(row: Material) -> SupplyShape:
    material = shelf.material_of(row)
    return SupplyShape(
        id=row.id,
        kind=row.kind,
        key=row.key,
        name=row.name,
        origin=str(material.origin),
        facts=[
            FactShape(
                label=fact.label,
                quantity=fact.quantity
                and QuantityShape(value=fact.quantity.value, unit=fact.quantity.unit),
                words=fact.words,
            )
            for fact in facts_of(material)
        ],
        hazards=list(material.hazards),
    )


@blueprint.get("/supplies", responses={200: SupplyList}, summary="The rest of the shelf")
def supplies(query: SupplyQuery) -> dict[str, object]:  # noqa: D103
    with desk() as at:
        found = shelf.list_supplies(at, query.kind, query.search, query.limit)
        shown = SupplyList(supplies=[_shape(row) for row in found.rows], total=found.total)
    return shown.model_dump(mode="json")


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
