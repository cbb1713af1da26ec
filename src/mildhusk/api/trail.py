"""The trail: who did what, and what it was before."""

from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.common import PREFIX, ListQuery, Shape, transaction
from mildhusk.services.trail import TrailLine, list_trail

blueprint = APIBlueprint("trail", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Access")])


class TrailPage(Shape):
    """A page of the trail, the newest first."""

    entries: tuple[TrailLine, ...]
    total: int


@blueprint.get("/trail", responses={200: TrailPage}, summary="Who did what")
def index(query: ListQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = list_trail(at, query.page())
    return TrailPage(entries=found.rows, total=found.total).model_dump(mode="json")
