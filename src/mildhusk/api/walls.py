"""Walls: a cast as its coats land in the mould, and its files."""

from uuid import UUID

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.common import (
    PREFIX,
    Body,
    IdPath,
    Number,
    Shape,
    Whole,
    Word,
    calmly,
    download,
    file_of,
    transaction,
)
from mildhusk.api.jobs import JobShape, job_shape
from mildhusk.api.sheets import SheetRequest
from mildhusk.core.casting.choices import Choice
from mildhusk.core.casting.plan import CastPlan
from mildhusk.core.casting.trials import split_words
from mildhusk.core.coating.answer import LandedWall
from mildhusk.core.coating.motion import (
    MOTIONS,
    ROUGH_FROM_M,
    motion_names,
    motion_words,
)
from mildhusk.documents.wall_files import (
    SCALE_ENDS,
    WallModel,
    film_file,
    unpack_wall,
    wall_csv,
    wall_glb,
    wall_ply,
)
from mildhusk.documents.wall_page import wall_pdf
from mildhusk.services import settling, wall_trials, walls
from mildhusk.services.coat_choices import coat_choices
from mildhusk.services.errors import NotFoundError
from mildhusk.store.tables import CoatRunRow, JobStatus
from mildhusk.store.values import WallRequest

blueprint = APIBlueprint("walls", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Walls")])


class WallQuestion(Body):
    """How the mould of a sheet is turned, and how finely it is looked at."""

    motion: Word
    capped: bool
    edge_m: Number
    coats: Whole | None = None
    lead: Number = 1.0


class RunShape(Shape):
    """A cast as its coats landed: an estimate. Its maps are drawn up to `scale_m`. [m]"""

    id: UUID
    motion: str
    motion_words: str
    capped: bool
    edge_m: float
    is_first_look: bool
    doubt: str
    scale_m: float
    coat_scale_m: float
    wall: LandedWall


class WallShape(Shape):
    """A run that is done, else the job that computes it."""

    run: RunShape | None
    job: JobShape | None


class MotionShape(Shape):
    """A way of turning a mould."""

    name: str
    words: str
    says: str
    by_hand: bool
    needs_lid: bool


class MotionList(Shape):
    """The motions that ship."""

    motions: list[MotionShape]


def run_shape(run: CoatRunRow) -> RunShape:
    """Return a run as it is shown."""
    kept = walls.wall_of_run(run)
    asked, wall = kept.asked, kept.wall
    return RunShape(
        id=run.id,
        motion=asked.motion,
        motion_words=kept.turned_words,
        capped=asked.capped,
        edge_m=asked.edge_m,
        is_first_look=asked.edge_m >= ROUGH_FROM_M,
        doubt=wall.doubt,
        scale_m=SCALE_ENDS * wall.target_m,
        coat_scale_m=SCALE_ENDS * wall.coat_target_m,
        wall=wall,
    )


@blueprint.get("/motions", responses={200: MotionList}, summary="How a mould can be turned")
def motions() -> dict[str, object]:  # noqa: D103
    named = zip(motion_names(), MOTIONS, strict=True)
    shown = [
        MotionShape(
            name=name,
            words=motion_words(one.name),
            says=one.says,
            by_hand=one.by_hand,
            needs_lid=one.needs_lid,
        )
        for name, one in named
    ]
    return MotionList(motions=shown).model_dump(mode="json")


@blueprint.post(
    "/sheets/<uuid:id>/wall",
    responses={200: WallShape},
    summary="The wall of a cast as it lands; asked of a worker where it is not known",
)
@calmly
def ask(path: IdPath, body: WallQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        asked = WallRequest(body.motion, body.capped, body.edge_m, body.coats, body.lead)
        found = walls.wall_of(at, path.id, asked)
        shown = WallShape(
            run=found.run and run_shape(found.run), job=found.job and job_shape(found.job)
        )
    return shown.model_dump(mode="json")


class SettledShape(WallShape):
    """A plan as it is known now, and its wall or the job that settles it."""

    plan: CastPlan


@blueprint.post(
    "/sheets/settle",
    responses={200: SettledShape},
    summary="A plan settled by simulating its coats; asked of a worker where it is not known",
)
@calmly
def settle(body: SheetRequest) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = settling.settle_sheet(at, body.question())
        run, job = found.wall.run, found.wall.job
        shown = SettledShape(
            plan=found.plan, run=run and run_shape(run), job=job and job_shape(job)
        )
    return shown.model_dump(mode="json")


class ChoicesQuestion(SheetRequest):
    """A plan in more or fewer coats; `settle` asks for what is not known, `stop` cancels that."""

    settle: bool = False
    stop: bool = False


class CoatChoiceShape(Shape):
    """A number of coats to choose; `wish_coats` is what a wish says that takes it."""

    choice: Choice
    wish_coats: int | None
    is_chosen: bool
    job: JobShape | None


class ChoicesShape(Shape):
    """A cast in several numbers of coats, the fewest first."""

    choices: list[CoatChoiceShape]
    open: int


@blueprint.post(
    "/sheets/choices",
    responses={200: ChoicesShape},
    summary="A plan in more or fewer coats: resin, time and evenness, side by side",
)
@calmly
def choose(body: ChoicesQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = coat_choices(at, body.question(), settle=body.settle, stop=body.stop)
        shown = ChoicesShape(
            choices=[
                CoatChoiceShape(
                    choice=one.choice,
                    wish_coats=one.wish_coats,
                    is_chosen=one.is_chosen,
                    job=one.job and job_shape(one.job),
                )
                for one in found
            ],
            open=sum(one.job is not None and one.job.is_open for one in found),
        )
    return shown.model_dump(mode="json")


class TrialShape(Shape):
    """One way that is tried: what it came to, or how far it is."""

    motion: str
    words: str
    coats: int | None
    lead: float
    split: str
    charge_kg: float | None
    status: JobStatus
    said: str
    p05_m: float | None
    mean_m: float | None
    under_target: float | None
    reached: float | None
    pool_kg: float | None
    spilt_kg: float | None


class MotionsQuestion(Body):
    """Which motions are tried; `stop` cancels what is open, `again` asks for it anew."""

    by_hand: bool
    capped: bool
    stop: bool = False
    again: bool = False


class MotionsShape(Shape):
    """Ways tried so far with the same resin, the best first."""

    ways: list[TrialShape]
    open: int
    said: str


class ChargesQuestion(Body):
    """How the mould is turned meanwhile; `stop` cancels what is open, `again` asks for it anew."""

    motion: Word
    capped: bool
    stop: bool = False
    again: bool = False


class ChargesShape(Shape):
    """Charges tried so far as a first coat."""

    ways: list[TrialShape]
    open: int
    smallest_kg: float | None
    largest_kg: float | None


def _trial_shape(way: wall_trials.Tried) -> TrialShape:
    wall, job = way.wall, way.answer.job
    return TrialShape(
        motion=way.asked.motion,
        words=motion_words(way.asked.motion),
        coats=way.asked.coats,
        lead=way.asked.lead,
        split=split_words(way.asked.coats or 1, way.asked.lead),
        charge_kg=wall and wall.coats[0].charge_kg,
        status=JobStatus.DONE if job is None else job.status,
        said="done" if job is None else job.job.said,
        p05_m=wall and wall.p05_m,
        mean_m=wall and wall.mean_m,
        under_target=wall and wall.under_target,
        reached=wall and wall.reached,
        pool_kg=wall and wall.pool_kg,
        spilt_kg=wall and wall.spilt_kg,
    )


@blueprint.post(
    "/sheets/<uuid:id>/motions",
    responses={200: MotionsShape},
    summary="Other ways to turn it, tried by workers; asking again tells how far they are",
)
@calmly
def try_motions(path: IdPath, body: MotionsQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = wall_trials.try_motions(
            at, path.id, by_hand=body.by_hand, capped=body.capped, again=body.again
        )
        ways = wall_trials.stop_trying(at, found.ways) if body.stop else found.ways
        shown = MotionsShape(
            ways=[_trial_shape(one) for one in ways],
            open=sum(one.is_open for one in ways),
            said=found.said,
        )
    return shown.model_dump(mode="json")


@blueprint.post(
    "/sheets/<uuid:id>/charges",
    responses={200: ChargesShape},
    summary="Charges of a first coat, tried by workers: what reaches everywhere, what puddles",
)
@calmly
def try_charges(path: IdPath, body: ChargesQuestion) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        found = wall_trials.try_charges(
            at, path.id, body.motion, capped=body.capped, again=body.again
        )
        ways = wall_trials.stop_trying(at, found.ways) if body.stop else found.ways
        shown = ChargesShape(
            ways=[_trial_shape(one) for one in ways],
            open=sum(one.is_open for one in ways),
            smallest_kg=found.smallest_kg,
            largest_kg=found.largest_kg,
        )
    return shown.model_dump(mode="json")


class FilmPath(IdPath):
    """One coat of a wall."""

    coat: int


@blueprint.get(
    "/walls/<uuid:id>/coats/<int:coat>/film",
    responses=file_of("application/octet-stream"),
    summary="A coat on its way: a line of JSON, then a byte for every corner at every moment",
)
def film(path: FilmPath) -> Response:  # noqa: D103
    with transaction() as at:
        content = film_file(walls.find_run(at, path.id).films, path.coat)
    if content is None:
        raise NotFoundError(f"Coat {path.coat} of this wall was not simulated by itself.")
    return download(content, "application/octet-stream", f"coat-{path.coat}.film")


def _model(path: IdPath) -> tuple[WallModel, float]:
    with transaction() as at:
        run = walls.find_run(at, path.id)
        return unpack_wall(run.model), walls.wall_of_run(run).wall.target_m


@blueprint.get(
    "/walls/<uuid:id>/wall.glb",
    responses=file_of("model/gltf-binary"),
    summary="The wall as GLB, in metres",
)
@calmly
def as_glb(path: IdPath) -> Response:  # noqa: D103
    response = download(wall_glb(*_model(path)), "model/gltf-binary", "wall.glb")
    # What is kept by content never changes.
    response.set_etag(str(path.id))
    response.make_conditional(request)
    return response


@blueprint.get(
    "/walls/<uuid:id>/wall.ply",
    responses=file_of("application/octet-stream"),
    summary="The wall as PLY, in millimetres",
)
@calmly
def as_ply(path: IdPath) -> Response:  # noqa: D103
    return download(wall_ply(*_model(path)), "application/octet-stream", "wall.ply")


@blueprint.get(
    "/walls/<uuid:id>/wall.pdf",
    responses=file_of("application/pdf"),
    summary="The wall on one page",
)
@calmly
def as_pdf(path: IdPath) -> Response:  # noqa: D103
    with transaction() as at:
        run = walls.find_run(at, path.id)
        model, kept = unpack_wall(run.model), walls.wall_of_run(run)
    page = wall_pdf(model, kept.wall, kept.turned_words, capped=kept.asked.capped)
    return download(page, "application/pdf", "wall.pdf")


@blueprint.get(
    "/walls/<uuid:id>/wall.csv",
    responses=file_of("text/csv"),
    summary="The wall face by face as CSV",
)
@calmly
def as_csv(path: IdPath) -> Response:  # noqa: D103
    return download(wall_csv(_model(path)[0]), "text/csv; charset=utf-8", "wall.csv")
