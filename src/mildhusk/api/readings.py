"""Readings of the wall of a cast, what was cut off it, pictures of it, and what it teaches."""

from datetime import datetime
from uuid import UUID

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage, Tag
from pydantic import BaseModel, ConfigDict

from mildhusk.api.common import (
    PREFIX,
    Body,
    Deleted,
    IdPath,
    Number,
    Shape,
    ShortText,
    TakenOver,
    UploadForm,
    calmly,
    download,
    file_of,
    read_upload,
    transaction,
)
from mildhusk.api.jobs import JobShape, job_shape
from mildhusk.core.learning.learned import Learned
from mildhusk.core.learning.readings import ReadBy, WallReading
from mildhusk.core.learning.viscosity import FEWEST_READINGS
from mildhusk.documents.wall_files import read_wall_glb, unpack_wall
from mildhusk.services import pictures, readings
from mildhusk.services.errors import NotFoundError
from mildhusk.services.poured_walls import fit_viscosity, poured_run, read_beside
from mildhusk.services.pours import find_pour
from mildhusk.services.sheets import find_sheet, learned_for, question_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.walls import wall_of_run
from mildhusk.store.tables import Piece

blueprint = APIBlueprint(
    "readings", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Pour and log")]
)
_COURSE = 12
"""After so many of the newest pours a learned value is told too."""

Place = tuple[Number, Number, Number]


class NewReadingBody(Body):
    """A reading of the wall: on the piece [m], or where in words."""

    by: ReadBy
    wall_m: Number | None = None
    light: bool | None = None
    at_m: Place | None = None
    place: ShortText = ""

    def new(self) -> readings.NewReading:
        """Return it as the service takes it."""
        read = WallReading(self.by, self.wall_m, self.light)
        return readings.NewReading(read, self.at_m, self.place)


class ReadingShape(Shape):
    """A reading, and what the simulation of its pour has there."""

    id: UUID
    by: ReadBy
    wall_m: float | None
    light: bool | None
    at_m: Place | None
    place: str
    simulated_m: float | None


class PictureForm(BaseModel):
    """A multipart form with one picture, what it shows, and of which fault."""

    model_config = ConfigDict(arbitrary_types_allowed=True)
    file: FileStorage
    caption: ShortText = ""
    fault_id: UUID | None = None


class PictureShape(Shape):
    """A picture; `width` and `height` in pixels."""

    id: UUID
    fault_id: UUID | None
    caption: str
    width: int
    height: int
    taken_at: datetime


class ReadingList(Shape):
    """The readings of a cast, and its pictures, the oldest first.

    `piece_version` is that of the shape they lie on; `simulated` the wall they are set beside,
    where it was simulated; `viscosity` what was fitted to them, by the data sheet's.
    """

    readings: list[ReadingShape]
    pictures: list[PictureShape]
    piece_version: int
    simulated: UUID | None
    coats: int
    wished_m: float | None
    viscosity: float | None
    can_fit: bool


class LearnedList(Shape):
    """What pours taught of a resin in a mould."""

    values: tuple[Learned, ...]


def _list(at: Transaction, pour_id: UUID) -> dict[str, object]:
    pour = find_pour(at, pour_id)
    rows = readings.list_readings(at, pour_id)
    run = poured_run(at, pour_id)
    kept = None if run is None else wall_of_run(run)
    on_piece = sum(row.x_m is not None and row.wall_m is not None for row in rows)
    shown = ReadingList(
        readings=[
            ReadingShape(
                id=row.id,
                by=ReadBy(row.by),
                wall_m=row.wall_m,
                light=row.light,
                at_m=None if row.x_m is None else (row.x_m, row.y_m or 0.0, row.z_m or 0.0),
                place=row.place,
                simulated_m=row.simulated_m,
            )
            for row in rows
        ],
        pictures=[
            PictureShape(
                id=row.id,
                fault_id=row.fault_id,
                caption=row.caption,
                width=row.width,
                height=row.height,
                taken_at=row.created_at,
            )
            for row in pictures.list_pictures(at, pour_id)
        ],
        piece_version=at.session.get_one(Piece, pour.piece_id).version,
        simulated=None if run is None else run.id,
        coats=0 if kept is None else len(kept.wall.coats),
        wished_m=None if kept is None else kept.wall.target_m,
        viscosity=None if pour.viscosity is None else pour.viscosity["value"],
        can_fit=run is not None and on_piece >= FEWEST_READINGS,
    )
    return shown.model_dump(mode="json")


@blueprint.get(
    "/pours/<uuid:id>/readings", responses={200: ReadingList}, summary="Readings of the wall"
)
def index(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _list(at, path.id)


@blueprint.post("/pours/<uuid:id>/readings", responses={201: ReadingList}, summary="Save a reading")
@calmly
def add(path: IdPath, body: NewReadingBody) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        readings.add_readings(at, path.id, [body.new()])
        read_beside(at, path.id)
        return _list(at, path.id), 201


@blueprint.delete("/readings/<uuid:id>", responses={200: ReadingList}, summary="Take one off")
def remove(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return _list(at, readings.remove_reading(at, path.id))


@blueprint.get(
    "/pours/<uuid:id>/readings.csv", responses=file_of("text/csv"), summary="Readings as CSV"
)
def as_csv(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        content = readings.readings_csv(readings.list_readings(at, path.id))
    return download(content, "text/csv", "readings.csv")


@blueprint.post(
    "/pours/<uuid:id>/readings.csv",
    responses={201: TakenOver},
    summary="Take readings over from CSV, all of them or none",
)
@calmly
def from_csv(path: IdPath, form: UploadForm) -> tuple[dict[str, object], int]:  # noqa: D103
    content = read_upload(form.file)
    with transaction() as at:
        taken = readings.add_csv(at, path.id, content)
        read_beside(at, path.id)
    return TakenOver(taken=taken).model_dump(mode="json"), 201


@blueprint.get(
    "/pours/<uuid:id>/read-wall.glb",
    responses=file_of("model/gltf-binary"),
    summary="The wall as simulated, as read, and the difference, on the casting face",
)
@calmly
def as_glb(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        run = poured_run(at, path.id)
        if run is None:
            raise NotFoundError("The wall of this pour was not simulated yet.")
        model = unpack_wall(run.model)
        ratio = readings.ratio_on(model, readings.list_readings(at, path.id))
        target_m = wall_of_run(run).wall.target_m
    return download(read_wall_glb(model, target_m, ratio), "model/gltf-binary", "read-wall.glb")


@blueprint.post(
    "/pours/<uuid:id>/viscosity",
    responses={202: JobShape},
    summary="Fit the viscosity of the resin to the readings",
)
@calmly
def fit(path: IdPath) -> tuple[dict[str, object], int]:  # noqa: D103
    with transaction() as at:
        return job_shape(fit_viscosity(at, path.id)).model_dump(mode="json"), 202


# --- pictures ---


@blueprint.post("/pours/<uuid:id>/pictures", responses={201: ReadingList}, summary="Save a picture")
@calmly
def add_picture(path: IdPath, form: PictureForm) -> tuple[dict[str, object], int]:  # noqa: D103
    content = read_upload(form.file)
    with transaction() as at:
        pictures.add_picture(at, path.id, content, form.caption, form.fault_id)
        return _list(at, path.id), 201


@blueprint.get("/pictures/<uuid:id>", responses=file_of("image/jpeg"), summary="A picture")
def picture(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        content = pictures.content_of_picture(at, path.id)
    response = Response(content, content_type=pictures.KIND)
    # A picture never changes; another one has another key.
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@blueprint.delete("/pictures/<uuid:id>", responses={200: Deleted}, summary="Take a picture off")
def remove_picture(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        pictures.remove_picture(at, path.id)
    return Deleted().model_dump(mode="json")


# --- what was learned ---


@blueprint.get(
    "/sheets/<uuid:id>/learned",
    responses={200: LearnedList},
    summary="What pours taught of the resin and the mould of a sheet",
)
def learned(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        sheet = find_sheet(at, path.id)
        found = learned_for(at, question_of(sheet), course=_COURSE)
    return LearnedList(values=tuple(found.values())).model_dump(mode="json")
