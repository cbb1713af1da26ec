"""What a cast and a run cost."""

from typing import Annotated
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from mildhusk.api.common import PREFIX, Answer, IdPath, calmly, download, file_of, transaction
from mildhusk.core.supply.costing import Cost
from mildhusk.documents.cost_files import cost_csv
from mildhusk.services import costs

blueprint = APIBlueprint("costs", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Cast sheets")])


class CostQuery(BaseModel):
    """How many casts, and out of which mould."""

    casts: Annotated[int, Field(ge=1, le=1000)] = 1
    mould_id: UUID | None = None


class CostAnswer(Answer[Cost]):
    """The cost of one cast and of the run; the sums are those of the lines."""


@blueprint.get("/sheets/<uuid:id>/cost", responses={200: CostAnswer}, summary="What casts cost")
@calmly
def show(path: IdPath, query: CostQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = costs.cost_sheet(at, path.id, query.casts, query.mould_id)
    return CostAnswer(found.cost).told()


@blueprint.get(
    "/sheets/<uuid:id>/cost.csv",
    responses=file_of("text/csv"),
    summary="What casts cost, a row a line, as CSV",
)
@calmly
def as_csv(path: IdPath, query: CostQuery) -> Response:  # noqa: D103
    with transaction() as at:
        found = costs.cost_sheet(at, path.id, query.casts, query.mould_id)
    content = cost_csv(found.sheet_name, found.mould_name, found.cost)
    return download(content, "text/csv; charset=utf-8", f"{found.sheet_name} cost.csv")
