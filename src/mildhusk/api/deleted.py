"""What was deleted, and how it comes back."""

from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.common import PREFIX, IdPath, Shape, transaction
from mildhusk.services import deleted
from mildhusk.services.deleted import DeletedSummary

blueprint = APIBlueprint("deleted", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Deleted")])


class DeletedList(Shape):
    """What can be brought back, the newest first."""

    deleted: tuple[DeletedSummary, ...]


class BroughtBack(Shape):
    """What came back."""

    what: str
    name: str


@blueprint.get("/deleted", responses={200: DeletedList}, summary="What can be brought back")
def index() -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = deleted.list_deleted(at)
    return DeletedList(deleted=found).model_dump(mode="json")


@blueprint.post(
    "/deleted/<uuid:id>/restore", responses={200: BroughtBack}, summary="Bring a thing back"
)
def restore(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = deleted.bring_back(at, path.id)
    return BroughtBack(what=found.what, name=found.name).model_dump(mode="json")
