"""Doing one job: read, compute without a transaction, write all of it or nothing."""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import Any, Protocol
from uuid import UUID

import structlog
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.orm import Session

from mildhusk.core.errors import HuskError, InputError
from mildhusk.services import jobs
from mildhusk.services.days.planning import DaysTask
from mildhusk.services.drawings import DrawTask
from mildhusk.services.errors import AwayError, StoppedError
from mildhusk.services.files import FileTask
from mildhusk.services.learning import LearnTask
from mildhusk.services.mould_study import StudyTask
from mildhusk.services.poured_walls import FitTask, PouredTask
from mildhusk.services.settling import SettleTask
from mildhusk.services.surveying import SurveyTask
from mildhusk.services.trail import followed
from mildhusk.services.transaction import Transaction
from mildhusk.services.walls import CoatTask, Computed
from mildhusk.store.database import Sessions
from mildhusk.store.tables import Job, JobKind

_log = structlog.get_logger()
_Task = (
    FileTask
    | SurveyTask
    | StudyTask
    | CoatTask
    | SettleTask
    | PouredTask
    | FitTask
    | LearnTask
    | DaysTask
    | DrawTask
)
_TASKS: dict[JobKind, type[_Task]] = {
    JobKind.FILE: FileTask,
    JobKind.SURVEY: SurveyTask,
    JobKind.MOULD: StudyTask,
    JobKind.COAT: CoatTask,
    JobKind.SETTLE: SettleTask,
    JobKind.POURED: PouredTask,
    JobKind.FIT: FitTask,
    JobKind.LEARN: LearnTask,
    JobKind.DAYS: DaysTask,
    JobKind.DRAW: DrawTask,
}
MOST_ATTEMPTS = 3
# Progress is written down this often at most.
_EVERY_S = 0.25
_TOO_MUCH = "It needs more memory than there is; reduce the number of faces and try again."
# What the database fails with when it is gone, or full, and how long is waited for it.
_AWAY, _AWAY_S = (OperationalError, InterfaceError), 2.0
_OURS = "Something went wrong on our side; nothing was saved. Please tell us what you did."
_STOPPED = (
    f"The worker was stopped {MOST_ATTEMPTS} times at this; it may need more memory than there is. "
    "Reduce the number of faces and try again."
)


class Attempt(Protocol):
    """A worker at a job, as its queue hands it out."""

    @property
    def job_id(self) -> UUID:
        """Which job."""

    @property
    def number(self) -> int:
        """Which time it is tried, from 1."""

    @property
    def shall_stop(self) -> Callable[[], bool]:
        """Asks whether it was cancelled."""

    def is_ours(self, session: Session) -> bool:
        """Whether no other worker has taken it up."""


class RefusedError(HuskError):
    """The job ended with a sentence that is written down."""


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

    def run(self, attempt: Attempt) -> None:
        """Do a job to its end.

        Raises
        ------
        StoppedError
            It was cancelled, or this worker is ending; nothing was written.
        AwayError
            The database was away; nothing was written, and it may be done again.
        RefusedError
            It cannot be done; the sentence is written down.
        """
        try:
            self._run(attempt)
        except _AWAY as error:
            # It may be back in a moment.
            time.sleep(_AWAY_S)
            raise AwayError from error

    def _run(self, attempt: Attempt) -> None:
        with self._transaction(attempt.job_id) as (transaction, job):
            if job is None:
                return
            if attempt.number > MOST_ATTEMPTS:
                jobs.refuse(transaction, job, _STOPPED, None)
            else:
                jobs.say(transaction, job, "begun", 0.0)
        if attempt.number > MOST_ATTEMPTS:
            raise RefusedError(_STOPPED)
        try:
            self._do(attempt, job)
        except (StoppedError, *_AWAY):
            raise
        except HuskError as error:
            told = error if isinstance(error, InputError) else None
            said = str(error)
            self._write(attempt, job, lambda at: jobs.refuse(at, job, said, told))
            raise RefusedError(said) from error
        except MemoryError as error:
            self._write(attempt, job, lambda at: jobs.refuse(at, job, _TOO_MUCH, None))
            raise RefusedError(_TOO_MUCH) from error
        except Exception:
            _log.exception("a job failed", job=str(job.id), kind=job.kind)
            self._write(attempt, job, lambda at: jobs.refuse(at, job, _OURS, None))
            raise

    def _do(self, attempt: Attempt, job: Job) -> None:
        task_of = _TASKS[JobKind(job.kind)]
        with self._transaction(job.id) as (transaction, _):
            task = task_of.read(transaction, job.asked)
        # Each task writes what it computed itself.
        found: Any = self._computed(task, attempt, job)
        self._write(attempt, job, lambda at: jobs.finish(at, job, task.write(at, job.asked, found)))

    def _computed(self, task: _Task, attempt: Attempt, job: Job) -> object:
        tell = self._teller(attempt, job)
        if not isinstance(task, SettleTask):
            return task.compute(tell)

        def first_look(found: Computed) -> None:
            self._write(attempt, job, lambda at: task.write_first_look(at, job.asked, found))

        return task.compute(tell, first_look)

    def _teller(self, attempt: Attempt, job: Job) -> Callable[[float, str], None]:
        last = -_EVERY_S

        def tell(share: float, said: str) -> None:
            nonlocal last
            if attempt.shall_stop():
                raise StoppedError
            if time.monotonic() - last < _EVERY_S:
                return
            last = time.monotonic()
            self._write(attempt, job, lambda at: jobs.say(at, job, said, share))

        return tell

    def _write(self, attempt: Attempt, job: Job, write: Callable[[Transaction], None]) -> None:
        """Write something of a job; who has lost it to another worker stops."""
        with self._transaction(job.id) as (transaction, held):
            if held is None or not attempt.is_ours(transaction.session):
                raise StoppedError
            write(transaction)

    @contextmanager
    def _transaction(self, job_id: UUID) -> Iterator[tuple[Transaction, Job | None]]:
        """One transaction in the workshop of a job; None for a job that is gone."""
        with self._sessions.begin() as session:
            job = session.get(Job, job_id)
            workshop, by = (job_id, "") if job is None else (job.workshop_id, job.asked_by)
            at = Transaction(session, workshop, self._clock(), by=by)
            with followed(at):
                yield at, job
