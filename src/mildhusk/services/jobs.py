"""Jobs: what is asked of a worker, how far it is, cancelled, ended."""

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from sqlalchemy import select, update

from mildhusk.core.errors import InputError
from mildhusk.services.desk import Desk
from mildhusk.services.errors import ConflictError
from mildhusk.store.tables import Job, JobKind, JobStatus

OPEN = (JobStatus.WAITING, JobStatus.RUNNING)
MOST_ATTEMPTS = 3


def put_job(desk: Desk, kind: JobKind, title: str, asked: dict[str, Any]) -> Job:
    """Ask something of a worker."""
    if desk.queue is None:
        raise ConflictError("There is no worker here to do this.")
    job = Job(
        workshop_id=desk.workshop_id,
        created_at=desk.now,
        kind=kind,
        title=title,
        asked=asked,
        status=JobStatus.WAITING,
        share=0.0,
        said="waiting for a worker",
        result={},
        cancel_wanted=False,
        attempt=0,
    )
    desk.session.add(job)
    desk.session.flush()
    desk.queue.put(desk.session, job.id)
    desk.session.refresh(job)
    return job


def find_job(desk: Desk, key: UUID) -> Job:
    """Return one job."""
    return desk.find(Job, key, "job")


def list_open_jobs(desk: Desk, kind: JobKind) -> Sequence[Job]:
    """Return the jobs of a kind that are not ended, the oldest first."""
    mine = select(Job).where(
        Job.workshop_id == desk.workshop_id, Job.kind == kind, Job.status.in_(OPEN)
    )
    return desk.session.scalars(mine.order_by(Job.created_at)).all()


def cancel_job(desk: Desk, key: UUID) -> Job:
    """Cancel a job: at once while it waits, at its worker's next step while it runs."""
    job = desk.find(Job, key, "job", lock=True)
    if job.status == JobStatus.WAITING:
        end_job(desk, job, JobStatus.CANCELLED, "cancelled")
    elif job.status == JobStatus.RUNNING:
        job.cancel_wanted = True
        job.said = "being cancelled"
    desk.session.flush()
    return job


def begin_job(desk: Desk, key: UUID) -> Job | None:
    """Take a job up; None when it is ended, or was begun in vain too often."""
    job = desk.find(Job, key, "job", lock=True)
    if job.status not in OPEN:
        return None
    if job.cancel_wanted:
        end_job(desk, job, JobStatus.CANCELLED, "cancelled")
        return None
    if job.attempt >= MOST_ATTEMPTS:
        end_job(
            desk,
            job,
            JobStatus.REFUSED,
            f"The worker was stopped {MOST_ATTEMPTS} times at this; it may need more memory than "
            "there is. Reduce the number of faces and try again.",
        )
        return None
    job.attempt += 1
    job.status, job.share, job.said = JobStatus.RUNNING, 0.0, "begun"
    desk.session.flush()
    return job


def tell_job(desk: Desk, job: Job, share: float, said: str) -> bool:
    """Write down how far a job is; returns whether its worker shall go on."""
    told = desk.session.execute(
        update(Job)
        .where(
            Job.id == job.id,
            Job.status == JobStatus.RUNNING,
            Job.attempt == job.attempt,
            Job.cancel_wanted.is_(False),
        )
        .values(share=min(max(share, 0.0), 1.0), said=said)
        .returning(Job.id)
    )
    return told.scalar_one_or_none() is not None


def still_ours(desk: Desk, job: Job) -> Job | None:
    """Return a begun job, locked, unless it was cancelled or another worker took it up."""
    found = desk.find(Job, job.id, "job", lock=True)
    ours = found.status == JobStatus.RUNNING and found.attempt == job.attempt
    return found if ours and not found.cancel_wanted else None


def end_job(
    desk: Desk,
    job: Job,
    status: JobStatus,
    said: str,
    *,
    error: InputError | None = None,
    result: dict[str, Any] | None = None,
) -> None:
    """End a job, with what came of it or with the reason why nothing did."""
    job.status, job.said, job.ended_at = status, said[:500], desk.now
    job.field = error.field if error is not None else None
    job.result = result or {}
    if status is JobStatus.DONE:
        job.share = 1.0
    desk.session.flush()
