"""Jobs that a worker does: how far they are, cancel them."""

from datetime import datetime
from uuid import UUID

from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel

from mildhusk.api.common import PREFIX, IdPath, Shape, transaction
from mildhusk.services import jobs
from mildhusk.services.jobs import JobState
from mildhusk.store.tables import JobKind, JobStatus

blueprint = APIBlueprint("jobs", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Jobs")])


class JobShape(Shape):
    """A job; `said` is what is being done, or why it was refused, about `field` if there is one."""

    id: UUID
    kind: JobKind
    title: str
    status: JobStatus
    share: float
    said: str
    field: str | None
    mesh_sha256: str | None
    piece_id: UUID | None
    mould_id: UUID | None
    created_at: datetime


class JobQuery(BaseModel):
    """Which jobs."""

    kind: JobKind


class JobList(Shape):
    """Jobs that are not ended."""

    jobs: list[JobShape]


def job_shape(state: JobState) -> JobShape:
    """Return a job as the API shows it."""
    job = state.job
    cancelled = state.status is JobStatus.CANCELLED
    return JobShape(
        id=job.id,
        kind=JobKind(job.kind),
        title=job.title,
        status=state.status,
        share=job.share,
        said="cancelled" if cancelled else job.said,
        field=job.field,
        mesh_sha256=job.asked.get("mesh_sha256"),
        piece_id=job.result.get("piece_id") or job.asked.get("piece_id"),
        mould_id=job.asked.get("mould_id"),
        created_at=job.created_at,
    )


def job_answer(state: JobState) -> dict[str, object]:
    """Return a job as an answer."""
    return job_shape(state).model_dump(mode="json")


@blueprint.get("/jobs", responses={200: JobList}, summary="What workers have to do")
def index(query: JobQuery) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        shown = JobList(jobs=[job_shape(job) for job in jobs.list_open_jobs(at, query.kind)])
    return shown.model_dump(mode="json")


@blueprint.get("/jobs/<uuid:id>", responses={200: JobShape}, summary="How far a job is")
def show(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return job_answer(jobs.find_job(at, path.id))


@blueprint.delete("/jobs/<uuid:id>", responses={200: JobShape}, summary="Cancel a job")
def cancel(path: IdPath) -> dict[str, object]:  # noqa: D103
    with transaction() as at:
        return job_answer(jobs.cancel_job(at, path.id))
