"""The queue in PostgreSQL: jobs wait in the transaction that asked for them.

States, retries, locks and cancelling are the queue library's own.
"""

import asyncio
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, LiteralString, cast
from uuid import UUID

import procrastinate
from procrastinate.exceptions import JobAborted
from procrastinate.jobs import Job as QueuedJob
from procrastinate.jobs import Status
from procrastinate.manager import JobManager
from procrastinate.psycopg_connector import PsycopgConnector
from sqlalchemy import make_url, text
from sqlalchemy.orm import Session

from mildhusk.services.errors import AwayError, StoppedError
from mildhusk.store.database import reached_by
from mildhusk.store.tables import JobKind, JobStatus

_TASK = "do"
# A worker that was not heard of for so long is taken for dead, and its jobs are given to others.
_HEARTBEAT_S, _DEAD_AFTER_S = 2.0, 10.0
_LOOK_FOR_DEAD_S = 5.0
_FORGET_AFTER_H = 24 * 30
_MOST_RETRIES = 10
_STATUS = {
    "todo": JobStatus.WAITING,
    "doing": JobStatus.RUNNING,
    "aborting": JobStatus.RUNNING,
    "succeeded": JobStatus.DONE,
    "failed": JobStatus.REFUSED,
    "cancelled": JobStatus.CANCELLED,
    "aborted": JobStatus.CANCELLED,
}


@dataclass(frozen=True, slots=True)
class OpenJobs:
    """Jobs that wait or run: kind, where they stand, how many; how long one has waited. [s]"""

    counts: tuple[tuple[str, JobStatus, int], ...]
    longest_wait_s: float


@dataclass(frozen=True, slots=True)
class Attempt:
    """A worker at a job: which time it is tried, whether it shall stop, whether it is still its."""

    job_id: UUID
    number: int
    """From 1."""
    queue_id: int
    shall_stop: Callable[[], bool]

    def is_ours(self, session: Session) -> bool:
        """Whether no other worker has taken the job up; locked until the transaction ends."""
        held = session.execute(
            text(
                "SELECT attempts FROM procrastinate_jobs WHERE id = :id AND status = 'doing' "
                "AND NOT abort_requested FOR UPDATE"
            ),
            {"id": self.queue_id},
        ).scalar_one_or_none()
        return held is not None and held + 1 == self.number


_HELD: LiteralString = (
    "WITH held AS MATERIALIZED (SELECT id FROM procrastinate_jobs WHERE id = %(job_id)s "
    "AND attempts = %(attempts)s AND status = 'doing' FOR UPDATE) "
)


class _HeldJobs(JobManager):
    """Says what becomes of a job only for the attempt that is under way.

    A worker that was cut off for a while comes back to a job that another has taken up. When a job
    is tried again goes by the clock of the database: a worker's may be wrong.
    """

    async def finish_job(self, job: QueuedJob, status: Status, delete_job: bool) -> None:
        """End a job, unless it is another's by now."""
        await self.connector.execute_query_async(
            query=_HELD + "SELECT procrastinate_finish_job_v1(id, %(status)s, false) FROM held",
            job_id=job.id,
            attempts=job.attempts,
            status=status.value,
        )

    async def retry_job(
        self,
        job: QueuedJob,
        retry_at: datetime | None = None,
        priority: int | None = None,
        queue: str | None = None,
        lock: str | None = None,
    ) -> None:
        """Let a job wait again, at once, unless it is another's by now."""
        await self.connector.execute_query_async(
            query=_HELD
            + "SELECT procrastinate_retry_job_v2(id, now(), NULL, NULL, NULL) FROM held",
            job_id=job.id,
            attempts=job.attempts,
        )


class PostgresQueue:
    """The queue on a database.

    Parameters
    ----------
    database_url : str
    run : callable or None
        Does a job; needed by a worker only. What it raises makes the job fail, but for
        `StoppedError`: a job that was cancelled is aborted, one whose worker ends waits again.
    """

    def __init__(self, database_url: str, run: Callable[[Attempt], None] | None = None) -> None:
        plain = make_url(database_url).set(drivername="postgresql")
        conninfo = plain.render_as_string(hide_password=False)
        connector = PsycopgConnector(conninfo=conninfo, kwargs=reached_by(database_url))
        self._app = procrastinate.App(connector=connector)
        self._app.job_manager = _HeldJobs(connector)

        # Tried again at once where it was its worker that ended, or the database was away.
        again = procrastinate.RetryStrategy(
            max_attempts=_MOST_RETRIES, retry_exceptions=[JobAborted, AwayError]
        )

        @self._app.task(name=_TASK, pass_context=True, retry=again)
        def do(context: procrastinate.JobContext, job_id: str) -> None:
            number, job = context.job.id, context.job
            assert number is not None
            if run is None:
                return
            try:
                run(Attempt(UUID(job_id), job.attempts + 1, number, context.should_abort))
            except StoppedError as error:
                raise JobAborted from error

        self._do = do

    def put(self, session: Session, job_id: UUID, lock: str, kind: JobKind) -> int:
        """Let a job wait, from the moment the transaction of the session is committed."""
        # The package's own connection type; this one is the session's.
        connection = cast(Any, session.connection().connection.driver_connection)
        waits = self._do.configure(connection=connection, lock=lock, queue=kind)
        return waits.defer(job_id=str(job_id))

    def states(self, session: Session, numbers: Sequence[int]) -> dict[int, JobStatus]:
        """Return where jobs stand; one that is forgotten is left out.

        Nothing comes any more of one that is to be cancelled, also while its worker has not
        stopped yet (`Attempt.is_ours`).
        """
        rows = session.execute(
            text(
                "SELECT id, CASE WHEN status = 'doing' AND abort_requested THEN 'aborted' "
                "ELSE status::text END FROM procrastinate_jobs WHERE id = ANY(:numbers)"
            ),
            {"numbers": list(numbers)},
        )
        return {number: _STATUS[status] for number, status in rows}

    def open_jobs(self, session: Session) -> OpenJobs:
        """Return how many jobs wait and run."""
        counted = session.execute(
            text(
                "SELECT queue_name, status::text, count(*) FROM procrastinate_jobs "
                "WHERE status IN ('todo', 'doing') GROUP BY 1, 2 ORDER BY 1, 2"
            )
        )
        counts = tuple((kind, _STATUS[status], count) for kind, status, count in counted)
        longest = session.scalar(
            text(
                "SELECT extract(epoch FROM now() - min(at)) FROM procrastinate_events "
                "JOIN procrastinate_jobs ON procrastinate_jobs.id = job_id "
                "WHERE type = 'deferred' AND status = 'todo'"
            )
        )
        return OpenJobs(counts, float(longest or 0.0))

    def cancel(self, session: Session, number: int) -> None:
        """Cancel a job in the transaction of the session, by the package's own function."""
        session.execute(
            text("SELECT procrastinate_cancel_job_v1(:id, true, false)"), {"id": number}
        )

    def work(self, name: str, kinds: Sequence[JobKind] | None = None) -> None:
        """Do jobs, of some kinds or of all, until told to stop by a signal."""
        asyncio.run(self._work(name, kinds))

    async def _work(self, name: str, kinds: Sequence[JobKind] | None) -> None:
        only: Any = {} if kinds is None else {"queues": list(kinds)}
        async with self._app.open_async():
            looking = asyncio.create_task(self._give_on())
            await self._app.job_manager.delete_old_jobs(
                nb_hours=_FORGET_AFTER_H,
                include_failed=True,
                include_cancelled=True,
                include_aborted=True,
            )
            try:
                await self._app.run_worker_async(
                    name=name,
                    **only,
                    concurrency=1,
                    fetch_job_polling_interval=2.0,
                    abort_job_polling_interval=2.0,
                    update_heartbeat_interval=_HEARTBEAT_S,
                    stalled_worker_timeout=_DEAD_AFTER_S,
                    shutdown_graceful_timeout=2.0,
                    delete_jobs="never",
                )
            finally:
                looking.cancel()

    async def _give_on(self) -> None:
        """Let the jobs of dead workers wait again."""
        manager = self._app.job_manager
        while True:
            for job in await manager.get_stalled_jobs(seconds_since_heartbeat=_DEAD_AFTER_S):
                await manager.retry_job(job)
            await asyncio.sleep(_LOOK_FOR_DEAD_S)
