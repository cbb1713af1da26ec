"""Jobs on the real queue: progress, cancelling, a killed worker, several workers at once."""

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from uuid import UUID

import pytest
from sqlalchemy import select, update

from core.shapes import half_sphere, stl_bytes
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.survey_options import FaceRole, Mark, SkinChoice, SurveyWish
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.jobs.running import Runner
from mildhusk.services.jobs import MOST_ATTEMPTS, begin_job, cancel_job, find_job, tell_job
from mildhusk.services.pieces import take_in_file
from mildhusk.services.surveying import ask_piece, wish_document, wish_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import Sessions, migrate, open_engine, open_sessions
from mildhusk.store.tables import Job, JobStatus, Piece
from served import ROOT, fresh_database

DOME = stl_bytes(half_sphere(100, 10))


def now() -> datetime:
    return datetime.now(UTC)


@pytest.fixture
def database_url(cluster) -> Iterator[str]:
    with fresh_database(cluster) as url:
        yield url


@pytest.fixture
def sessions(database_url) -> Iterator[Sessions]:
    engine = open_engine(database_url)
    migrate(engine)
    yield open_sessions(engine)
    engine.dispose()


def ask(sessions: Sessions, url: str, name: str = "Dome") -> UUID:
    with sessions.begin() as session:
        transaction = Transaction(
            session, found_workshop(session, now()), now(), PostgresQueue(url)
        )
        file = take_in_file(transaction, "dome.stl", DOME)
        return ask_piece(transaction, name, file.sha256, LengthUnit.MILLIMETRE, SurveyWish()).id


def status(sessions: Sessions, job_id: UUID) -> Job:
    with sessions() as session:
        found = session.get(Job, job_id)
        assert found is not None
        return found


def until(sessions: Sessions, job_id: UUID, wanted: JobStatus, seconds: float = 60.0) -> Job:
    end = time.monotonic() + seconds
    while (job := status(sessions, job_id)).status != wanted:
        assert time.monotonic() < end, f"it stays {job.status}: {job.said}"
        time.sleep(0.05)
    return job


class Workers:
    def __init__(self, url: str, count: int) -> None:
        self.processes = [
            subprocess.Popen(
                [sys.executable, "-m", "mildhusk.jobs.worker"],
                env={**os.environ, "DATABASE_URL": url},
                cwd=ROOT,
            )
            for _ in range(count)
        ]

    def stop(self) -> None:
        for process in self.processes:
            process.terminate()
        for process in self.processes:
            process.wait(timeout=20)


def test_two_workers_that_know_only_the_database_do_what_waits(database_url, sessions):
    jobs = [ask(sessions, database_url, f"Dome {number}") for number in range(3)]
    workers = Workers(database_url, 2)
    try:
        ended = [until(sessions, job, JobStatus.DONE) for job in jobs]
    finally:
        workers.stop()
    with sessions() as session:
        names = set(session.scalars(select(Piece.name)))
    assert names == {"Dome 0", "Dome 1", "Dome 2"}
    assert {one.share for one in ended} == {1.0}
    assert {one.attempt for one in ended} == {1}


def test_the_job_of_a_killed_worker_is_done_by_another(database_url, sessions):
    """The first worker is stopped dead while the piece table is held, then the lock is let go."""
    job = ask(sessions, database_url)
    engine = open_engine(database_url)
    with engine.connect() as holder:
        holder.exec_driver_sql("LOCK TABLE piece IN ACCESS EXCLUSIVE MODE")
        first = Workers(database_url, 1)
        until(sessions, job, JobStatus.RUNNING)
        first.processes[0].send_signal(signal.SIGKILL)
        first.processes[0].wait(timeout=20)
        holder.rollback()
    engine.dispose()
    assert status(sessions, job).status == JobStatus.RUNNING
    second = Workers(database_url, 1)
    try:
        done = until(sessions, job, JobStatus.DONE)
    finally:
        second.stop()
    assert done.attempt == 2
    with sessions() as session:
        assert len(session.scalars(select(Piece.id)).all()) == 1


def test_a_waiting_job_is_cancelled_at_once_and_no_worker_takes_it_up(database_url, sessions):
    job = ask(sessions, database_url)
    with sessions.begin() as session:
        transaction = Transaction(session, found_workshop(session, now()), now())
        assert cancel_job(transaction, job).status == JobStatus.CANCELLED
        assert begin_job(transaction, job) is None
    Runner(sessions, now).run(job)
    with sessions() as session:
        assert session.scalars(select(Piece.id)).all() == []


def test_a_running_job_is_cancelled_at_its_next_step(database_url, sessions):
    job_id = ask(sessions, database_url)
    with sessions.begin() as session:
        transaction = Transaction(session, found_workshop(session, now()), now())
        job = begin_job(transaction, job_id)
        assert job is not None
        assert tell_job(transaction, job, 0.4, "repairing")
        assert (find_job(transaction, job_id).share, find_job(transaction, job_id).said) == (
            0.4,
            "repairing",
        )
        cancel_job(transaction, job_id)
        assert not tell_job(transaction, job, 0.5, "going on all the same")
    # Whoever takes it up next sees that it was cancelled.
    Runner(sessions, now).run(job_id)
    assert status(sessions, job_id).status == JobStatus.CANCELLED


def test_what_stops_its_worker_again_and_again_is_given_up(database_url, sessions):
    job_id = ask(sessions, database_url)
    with sessions.begin() as session:
        session.execute(update(Job).values(attempt=MOST_ATTEMPTS, status=JobStatus.RUNNING))
    Runner(sessions, now).run(job_id)
    given_up = status(sessions, job_id)
    assert given_up.status == JobStatus.REFUSED
    assert f"stopped {MOST_ATTEMPTS} times" in given_up.said


def test_an_ask_that_is_rolled_back_leaves_nothing_waiting(database_url, sessions):
    with sessions() as session:
        transaction = Transaction(
            session, found_workshop(session, now()), now(), PostgresQueue(database_url)
        )
        file = take_in_file(transaction, "dome.stl", DOME)
        ask_piece(transaction, "Dome", file.sha256, LengthUnit.MILLIMETRE, SurveyWish())
        session.rollback()
    with sessions() as session:
        waiting = session.connection().exec_driver_sql("SELECT count(*) FROM procrastinate_jobs")
        assert waiting.scalar_one() == 0
        assert session.scalars(select(Job.id)).all() == []


def test_a_wish_is_kept_whole():
    wish = SurveyWish(
        skin=SkinChoice.ALL,
        rim_z_m=0.01,
        skirt_m=0.05,
        ledge_m=0.02,
        close_holes=True,
        marks=(Mark((0.1, 0.2, 0.3), 0.02, FaceRole.CUT_AWAY),),
    )
    assert wish_of(wish_document(wish)) == wish
    assert wish_of({"skin": "outer", "rim_z_m": None, "skirt_m": 0.0}) == SurveyWish()
