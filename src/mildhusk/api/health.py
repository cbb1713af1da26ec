"""Whether it lives, and whether it can answer: for whatever looks after it."""

from flask_openapi3 import APIBlueprint, Tag

from mildhusk import __version__
from mildhusk.api.common import PREFIX, Shape, backstage
from mildhusk.services.workshop import tables_revision

blueprint = APIBlueprint("health", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Health")])


class Alive(Shape):
    """It answers; the version of what answers."""

    version: str


class Ready(Shape):
    """Its database answers too; the revision of the tables there."""

    version: str
    tables: str


@blueprint.get("/health", responses={200: Alive}, summary="Whether it lives")
def health() -> dict[str, object]:  # noqa: D103
    return Alive(version=__version__).model_dump(mode="json")


@blueprint.get("/ready", responses={200: Ready}, summary="Whether its database answers")
def ready() -> dict[str, object]:  # noqa: D103
    with backstage().sessions() as session:
        revision = tables_revision(session)
    return Ready(version=__version__, tables=revision).model_dump(mode="json")
