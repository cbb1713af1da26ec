"""Jobs on the real queue: progress, cancelling, a killed worker, several workers at once."""

import asyncio
import io
import json
import os
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from uuid import UUID

import pytest
from procrastinate.jobs import Status
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from core.shapes import half_sphere, stl_bytes
from mildhusk.core.geometry.length_units import LengthUnit
from mildhusk.core.geometry.survey_options import FaceRole, Mark, SkinChoice, SurveyWish
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.jobs.running import MOST_ATTEMPTS, RefusedError, Runner
from mildhusk.services.errors import StoppedError
from mildhusk.services.files import keep_file, read_facts, take_in_file, write_facts
from mildhusk.services.jobs import JobState, cancel_job, find_job
from mildhusk.services.surveying import ask_piece
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import Sessions, migrate, open_engine, open_sessions
from mildhusk.store.tables import Job, JobStatus, Piece
from mildhusk.store.values import SURVEY_WISHES
from served import ROOT, fresh_database, worker

DOME = stl_bytes(half_sphere(100, 10))
DOME_SHA256 = sha256(DOME).hexdigest()


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
        keep_file(transaction, "dome.stl", DOME_SHA256, len(DOME), io.BytesIO(DOME))
        write_facts(transaction, DOME_SHA256, read_facts(DOME, "dome.stl"))
        asked = ask_piece(transaction, name, DOME_SHA256, LengthUnit.MILLIMETRE, SurveyWish())
        return asked.job.id


def status(sessions: Sessions, url: str, job_id: UUID) -> JobState:
    with sessions() as session:
        home = found_workshop(session, now())
        return find_job(Transaction(session, home, now(), PostgresQueue(url)), job_id)


def until(
    sessions: Sessions, url: str, job_id: UUID, wanted: JobStatus, seconds: float = 60.0
) -> JobState:
    end = time.monotonic() + seconds
    while (found := status(sessions, url, job_id)).status != wanted:
        assert time.monotonic() < end, f"it stays {found.status}: {found.job.said}"
        time.sleep(0.05)
    return found


def attempts(sessions: Sessions, job_id: UUID) -> int:
    """How often a worker took a job up, as the queue counted it."""
    with sessions() as session:
        job = session.get(Job, job_id)
        assert job is not None
        count = text("SELECT attempts FROM procrastinate_jobs WHERE id = :id")
        return int(session.execute(count, {"id": job.queue_id}).scalar_one())


@dataclass(frozen=True)
class Tried:
    """An attempt of this process: cancelled or not, still ours or not."""

    job_id: UUID
    number: int = 1
    cancelled: bool = False
    ours: bool = True

    def shall_stop(self) -> bool:
        return self.cancelled

    def is_ours(self, session: Session) -> bool:
        return self.ours


@contextmanager
def worker_by_command(url: str) -> Iterator[None]:
    """A worker as it is started on a second machine: all it knows is the database's address."""
    process = subprocess.Popen(
        [sys.executable, "-m", "mildhusk.web", "work", "--workers", "1"],
        env={**os.environ, "DATABASE_URL": url},
        cwd=ROOT,
    )
    try:
        yield
    finally:
        process.terminate()
        process.wait(timeout=20)


def test_two_workers_that_know_only_the_database_do_what_waits(database_url, sessions):
    jobs = [ask(sessions, database_url, f"Dome {number}") for number in range(3)]
    with worker_by_command(database_url), worker_by_command(database_url):
        ended = [until(sessions, database_url, job, JobStatus.DONE) for job in jobs]
    with sessions() as session:
        names = set(session.scalars(select(Piece.name)))
    assert names == {"Dome 0", "Dome 1", "Dome 2"}
    assert {one.job.share for one in ended} == {1.0}
    assert {attempts(sessions, job) for job in jobs} == {1}


def test_the_job_of_a_killed_worker_is_done_by_another(database_url, sessions):
    """The first worker is stopped dead while the piece table is held, then the lock is let go."""
    job = ask(sessions, database_url)
    engine = open_engine(database_url)
    with engine.connect() as holder:
        holder.exec_driver_sql("LOCK TABLE piece IN ACCESS EXCLUSIVE MODE")
        with worker(database_url) as first:
            until(sessions, database_url, job, JobStatus.RUNNING)
            first.kill()
            first.join(20)
        holder.rollback()
    engine.dispose()
    assert status(sessions, database_url, job).status == JobStatus.RUNNING
    with worker(database_url):
        until(sessions, database_url, job, JobStatus.DONE)
    # Given on once; done once.
    assert attempts(sessions, job) == 2
    with sessions() as session:
        assert len(session.scalars(select(Piece.id)).all()) == 1


def test_whoever_comes_back_to_a_job_that_another_has_taken_up_leaves_it_alone(
    database_url, sessions
):
    """A worker cut off for a while says what came of an attempt that is no more."""
    job_id = ask(sessions, database_url)
    app = PostgresQueue(database_url)._app

    async def walk() -> list[str]:
        told = []
        async with app.open_async():
            manager = app.job_manager
            first = await manager.fetch_job(None, await manager.register_worker())
            assert first is not None
            # It was not heard of for long: another takes the job up.
            await manager.retry_job(first)
            second = await manager.fetch_job(None, await manager.register_worker())
            assert second is not None
            assert (second.id, second.attempts) == (first.id, 1)
            for late in (
                manager.finish_job(first, Status.ABORTED, False),
                manager.finish_job(first, Status.SUCCEEDED, False),
                manager.retry_job(first),
            ):
                await late
                told.append(status(sessions, database_url, job_id).status)
            await manager.finish_job(second, Status.SUCCEEDED, False)
            told.append(status(sessions, database_url, job_id).status)
        return told

    assert asyncio.run(walk()) == [JobStatus.RUNNING] * 3 + [JobStatus.DONE]
    assert attempts(sessions, job_id) == 2


def test_a_worker_that_has_lost_its_job_writes_no_more_of_it(database_url, sessions):
    job_id = ask(sessions, database_url)
    runner = Runner(sessions, now)
    with pytest.raises(StoppedError):
        runner.run(Tried(job_id, ours=False))
    found = status(sessions, database_url, job_id)
    assert found.job.said == "begun"
    assert found.job.share == 0.0


def test_a_job_whose_connection_is_lost_is_done_again(database_url, sessions):
    """Its connection is ended while it waits for a lock, as by a network that is gone."""
    job = ask(sessions, database_url)
    ends = text(
        "SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity "
        "WHERE wait_event_type = 'Lock' AND datname = current_database()"
    )
    engine = open_engine(database_url)
    with worker(database_url), engine.connect() as holder:
        holder.exec_driver_sql("LOCK TABLE mesh_chunk IN ACCESS EXCLUSIVE MODE")
        until(sessions, database_url, job, JobStatus.RUNNING)
        end = time.monotonic() + 60.0
        while True:
            with sessions() as session:
                if session.scalar(ends):
                    break
            assert time.monotonic() < end
            time.sleep(0.1)
        holder.rollback()
        until(sessions, database_url, job, JobStatus.DONE)
    engine.dispose()
    assert attempts(sessions, job) == 2
    with sessions() as session:
        assert len(session.scalars(select(Piece.id)).all()) == 1


def test_a_waiting_job_is_cancelled_at_once_and_no_worker_takes_it_up(database_url, sessions):
    job = ask(sessions, database_url)
    with sessions.begin() as session:
        at = Transaction(
            session, found_workshop(session, now()), now(), PostgresQueue(database_url)
        )
        assert cancel_job(at, job).status == JobStatus.CANCELLED
    other = ask(sessions, database_url, "Other")
    with worker(database_url):
        until(sessions, database_url, other, JobStatus.DONE)
    with sessions() as session:
        assert session.scalars(select(Piece.name)).all() == ["Other"]


def test_a_running_job_is_cancelled_at_its_next_step(database_url, sessions):
    """A real worker is held at a lock, cancelled, let go; the queue calls the job aborted."""

    def in_the_queue() -> str:
        with sessions() as session:
            states = "SELECT status FROM procrastinate_jobs"
            return session.connection().exec_driver_sql(states).scalar_one()

    job = ask(sessions, database_url)
    engine = open_engine(database_url)
    with worker(database_url), engine.connect() as holder:
        holder.exec_driver_sql("LOCK TABLE mesh_chunk IN ACCESS EXCLUSIVE MODE")
        until(sessions, database_url, job, JobStatus.RUNNING)
        with sessions.begin() as session:
            at = Transaction(
                session, found_workshop(session, now()), now(), PostgresQueue(database_url)
            )
            # Who asks again does not wait for this one.
            assert cancel_job(at, job).status == JobStatus.CANCELLED
        assert in_the_queue() == "doing"
        holder.rollback()
        end = time.monotonic() + 60.0
        while in_the_queue() != "aborted":
            assert time.monotonic() < end
            time.sleep(0.1)
    engine.dispose()
    with sessions() as session:
        assert session.scalars(select(Piece.id)).all() == []


@pytest.mark.parametrize("change", [{"cancelled": True}, {"ours": False}])
def test_a_worker_that_shall_stop_or_was_replaced_writes_nothing(database_url, sessions, change):
    job = ask(sessions, database_url)
    with pytest.raises(StoppedError):
        Runner(sessions, now).run(Tried(job, **change))
    with sessions() as session:
        assert session.scalars(select(Piece.id)).all() == []


def test_what_stops_its_worker_again_and_again_is_given_up(database_url, sessions):
    job = ask(sessions, database_url)
    with pytest.raises(RefusedError, match=f"stopped {MOST_ATTEMPTS} times"):
        Runner(sessions, now).run(Tried(job, number=MOST_ATTEMPTS + 1))
    assert f"stopped {MOST_ATTEMPTS} times" in status(sessions, database_url, job).job.said


def test_an_ask_that_is_rolled_back_leaves_nothing_waiting(database_url, sessions):
    with sessions() as session:
        at = Transaction(
            session, found_workshop(session, now()), now(), PostgresQueue(database_url)
        )
        assert take_in_file(at, "dome.stl", io.BytesIO(DOME)).job is not None
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
    assert SURVEY_WISHES.read(json.loads(json.dumps(SURVEY_WISHES.write(wish)))) == wish
    # As it was kept before values had a version.
    old = {"skin": "outer", "rim_z_m": None, "skirt_m": 0.0}
    assert SURVEY_WISHES.read(old) == SurveyWish()
