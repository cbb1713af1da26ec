"""Jobs: what is asked of a worker, how far it is, what came of it; its state is the queue's."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import select, update

from mildhusk.core.errors import InputError
from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Queue, Transaction
from mildhusk.store.tables import Job, JobKind, JobStatus

OPEN = (JobStatus.WAITING, JobStatus.RUNNING)
_MOST_LISTED = 500


@dataclass(frozen=True, slots=True)
class JobState:
    """A job, and where it stands."""

    job: Job
    status: JobStatus

    @property
    def is_open(self) -> bool:
        """Whether a worker has yet to say what comes of it."""
        return self.status in OPEN

    @property
    def is_done(self) -> bool:
        """Whether something came of it."""
        return self.status is JobStatus.DONE


def put_job(
    transaction: Transaction, kind: JobKind, title: str, asked: dict[str, Any], key: str = ""
) -> JobState:
    """Ask something of a worker; of jobs with one key only one is done at a time."""
    job_id = uuid4()
    job = Job(
        id=job_id,
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        kind=kind,
        key=key,
        title=title,
        asked=asked,
        asked_by=transaction.by,
        queue_id=0,
        share=0.0,
        said="waiting for a worker",
        result={},
    )
    transaction.session.add(job)
    transaction.session.flush()
    queue = _queue(transaction)
    job.queue_id = queue.put(transaction.session, job_id, key or str(job_id), kind)
    transaction.session.flush()
    transaction.session.refresh(job)
    return state_of(transaction, job)


def _queue(transaction: Transaction) -> Queue:
    if transaction.queue is None:
        raise ConflictError("There is no worker here to do this.")
    return transaction.queue


def state_of(transaction: Transaction, job: Job) -> JobState:
    """Return a job with where it stands."""
    return states_of(transaction, [job])[0]


def states_of(transaction: Transaction, jobs: Sequence[Job]) -> list[JobState]:
    """Return jobs with where they stand, in one question to the queue."""
    if not jobs:
        return []
    numbers = [job.queue_id for job in jobs]
    known = _queue(transaction).states(transaction.session, numbers)
    # The queue forgets what ended long ago.
    return [JobState(job, known.get(job.queue_id, _ended(job))) for job in jobs]


def _ended(job: Job) -> JobStatus:
    return JobStatus.DONE if job.result else JobStatus.CANCELLED


def find_job(transaction: Transaction, key: UUID) -> JobState:
    """Return one job."""
    return state_of(transaction, transaction.find(Job, key, "job"))


def list_open_jobs(transaction: Transaction, kind: JobKind) -> list[JobState]:
    """Return the jobs of a kind that are not ended, the oldest first."""
    mine = select(Job).where(Job.workshop_id == transaction.workshop_id, Job.kind == kind)
    newest = transaction.session.scalars(
        mine.order_by(Job.created_at.desc()).limit(_MOST_LISTED)
    ).all()
    return [one for one in states_of(transaction, newest[::-1]) if one.is_open]


def newest_jobs(
    transaction: Transaction, kind: JobKind, keys: Sequence[str]
) -> dict[str, JobState]:
    """Return the newest job of a kind for each of some keys, where there is one."""
    mine = (
        select(Job)
        .where(
            Job.workshop_id == transaction.workshop_id, Job.kind == kind, Job.key.in_(list(keys))
        )
        .order_by(Job.created_at)
    )
    return {
        one.job.key: one for one in states_of(transaction, transaction.session.scalars(mine).all())
    }


def cancel_job(transaction: Transaction, key: UUID) -> JobState:
    """Cancel a job: nothing comes of it; a worker that is at it stops at its next step."""
    found = find_job(transaction, key)
    if found.is_open:
        _queue(transaction).cancel(transaction.session, found.job.queue_id)
        say(transaction, found.job, "cancelled")
        transaction.session.refresh(found.job)
    return state_of(transaction, found.job)


def say(transaction: Transaction, job: Job, said: str, share: float | None = None) -> None:
    """Write down what is being done of a job, and how far it is."""
    values: dict[str, Any] = {"said": said[:500]}
    if share is not None:
        values["share"] = min(max(share, 0.0), 1.0)
    transaction.session.execute(update(Job).where(Job.id == job.id).values(**values))


def finish(transaction: Transaction, job: Job, result: dict[str, Any]) -> None:
    """Write down what came of a job."""
    transaction.session.execute(
        update(Job).where(Job.id == job.id).values(share=1.0, said="done", result=result)
    )


def refuse(transaction: Transaction, job: Job, said: str, error: InputError | None) -> None:
    """Write down why nothing came of a job."""
    field = None if error is None else error.field
    transaction.session.execute(
        update(Job).where(Job.id == job.id).values(said=said[:500], field=field)
    )
