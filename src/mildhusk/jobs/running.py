"""Doing one job: read, compute without a transaction, write all of it or nothing."""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import Any
from uuid import UUID

import structlog

from mildhusk.core.errors import HuskError, InputError
from mildhusk.services.coating import CoatTask
from mildhusk.services.desk import Desk
from mildhusk.services.jobs import begin_job, end_job, still_ours, tell_job
from mildhusk.services.moulds import StudyTask
from mildhusk.services.surveying import SurveyTask
from mildhusk.store.database import Sessions
from mildhusk.store.tables import Job, JobKind, JobStatus

_log = structlog.get_logger()
_TASKS: dict[JobKind, type[SurveyTask] | type[StudyTask] | type[CoatTask]] = {
    JobKind.SURVEY: SurveyTask,
    JobKind.MOULD: StudyTask,
    JobKind.COAT: CoatTask,
}
# Progress is written down this often at most.
_EVERY_S = 0.25


class CancelledError(HuskError):
    """The job was cancelled, or another worker took it up."""


class Runner:
    """Does jobs on a database.

    Parameters
    ----------
    sessions : Sessions
    clock : callable
        The time it is.
    """

    def __init__(self, sessions: Sessions, clock: Callable[[], datetime]) -> None:
        self._sessions = sessions
        self._clock = clock

    def run(self, job_id: UUID) -> None:
        """Do a job to its end, whatever that is; only what nobody foresaw is raised."""
        with self._desk(job_id) as desk:
            if desk is None or (job := begin_job(desk, job_id)) is None:
                return
        try:
            self._do(job)
        except CancelledError:
            self._end(job, JobStatus.CANCELLED, "cancelled")
        except HuskError as error:
            told = error if isinstance(error, InputError) else None
            self._end(job, JobStatus.REFUSED, str(error), told)
        except MemoryError:
            self._end(
                job,
                JobStatus.REFUSED,
                "It needs more memory than there is; reduce the number of faces and try again.",
            )
        except Exception:
            _log.exception("a job failed", job=str(job_id), kind=job.kind)
            self._end(
                job,
                JobStatus.REFUSED,
                "Something went wrong on our side; nothing was saved. Please tell us what you did.",
            )
            raise

    def _do(self, job: Job) -> None:
        task_of = _TASKS[JobKind(job.kind)]
        with self._desk(job.id) as desk:
            if desk is None:
                return
            task = task_of.read(desk, job.asked)
        # Each task writes what it computed itself.
        found: Any = task.compute(self._teller(job))
        with self._desk(job.id) as desk:
            if desk is None or (ours := still_ours(desk, job)) is None:
                raise CancelledError
            result = task.write(desk, job.asked, found)
            end_job(desk, ours, JobStatus.DONE, "done", result=result)

    def _teller(self, job: Job) -> Callable[[float, str], None]:
        last = -_EVERY_S

        def tell(share: float, said: str) -> None:
            nonlocal last
            if time.monotonic() - last < _EVERY_S:
                return
            last = time.monotonic()
            with self._desk(job.id) as desk:
                if desk is None or not tell_job(desk, job, share, said):
                    raise CancelledError

        return tell

    def _end(self, job: Job, status: JobStatus, said: str, error: InputError | None = None) -> None:
        with self._desk(job.id) as desk:
            if desk is None:
                return
            found = desk.find(Job, job.id, "job", lock=True)
            if found.status == JobStatus.RUNNING and found.attempt == job.attempt:
                cancelled = found.cancel_wanted
                end_job(
                    desk, found, JobStatus.CANCELLED if cancelled else status, said, error=error
                )

    @contextmanager
    def _desk(self, job_id: UUID) -> Iterator[Desk | None]:
        """One transaction in the workshop of a job; None when the job is gone."""
        with self._sessions.begin() as session:
            job = session.get(Job, job_id)
            yield None if job is None else Desk(session, job.workshop_id, self._clock())
