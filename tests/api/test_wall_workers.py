"""Walls by real workers: two at once, one killed in mid-run, the database restarted under it."""

import time
from functools import cache
from uuid import UUID

import pytest
from sqlalchemy import func, select, text

from mildhusk.api.app import create_app, utc_now
from mildhusk.demo.scenario import fill
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.services.jobs import find_job
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions
from mildhusk.store.tables import CoatRunRow, JobStatus
from served import temporary_cluster, worker

_PATIENCE_S = 150.0


@pytest.fixture(scope="module")
def own_cluster():
    with temporary_cluster() as cluster:
        engine = open_engine(cluster.url)
        migrate(engine)
        fill(open_sessions(engine), utc_now())
        engine.dispose()
        yield cluster
        _sessions(cluster.url).kw["bind"].dispose()


def _until(look, what):
    end = time.monotonic() + _PATIENCE_S
    while not (found := look()):
        assert time.monotonic() < end, f"never saw {what}"
        time.sleep(0.1)
    return found


@cache
def _sessions(url):
    # A connection that a restart broke is noticed and made anew.
    return open_sessions(open_engine(url))


def _ask(url, words, **asked):
    with _sessions(url).begin() as session:
        home = found_workshop(session, utc_now())
    app = create_app(_sessions(url), PostgresQueue(url), home, clock=utc_now)
    client = app.test_client()
    client.environ_base["HTTP_X_MILD_HUSK"] = "page"
    sheets = client.get("/api/v1/sheets").json["sheets"]
    sheet = next(one for one in sheets if words in one["name"])
    body = {"motion": "machine", "capped": True, "edge_m": 0.008, **asked}
    return client.post(f"/api/v1/sheets/{sheet['id']}/wall", json=body).json["job"]["id"]


def _job(url, key):
    with _sessions(url)() as session:
        at = Transaction(session, found_workshop(session, utc_now()), utc_now(), PostgresQueue(url))
        state = find_job(at, UUID(key))
        tried = text("SELECT attempts FROM procrastinate_jobs WHERE id = :id")
        attempts = session.execute(tried, {"id": state.job.queue_id}).scalar_one()
        return state.status, state.job.share, attempts


def _walls(url):
    with _sessions(url)() as session:
        return session.scalar(select(func.count()).select_from(CoatRunRow))


def test_a_worker_killed_in_mid_run_and_a_database_restarted_lose_nothing(own_cluster):
    before = _walls(own_cluster.url)
    key = _ask(own_cluster.url, "chorus")
    with worker(own_cluster.url) as first:
        _until(lambda: _job(own_cluster.url, key)[1] > 0.15, "the run on its way")
        first.kill()
        first.join(20)
    assert _job(own_cluster.url, key)[0] == JobStatus.RUNNING
    own_cluster.stop()
    own_cluster.start()
    with worker(own_cluster.url):
        _until(lambda: _job(own_cluster.url, key)[0] == JobStatus.DONE, "the job done")
    # Begun twice, ended once, one result.
    assert _job(own_cluster.url, key)[2] == 2
    assert _walls(own_cluster.url) == before + 1


def test_two_workers_share_what_is_asked(own_cluster):
    url = own_cluster.url
    keys = [_ask(url, "chorus", motion=f"machine:{rpm},3", edge_m=0.0095) for rpm in (5, 7, 9)]
    seen = set()
    with worker(url), worker(url):

        def both_at_work():
            states = [_job(url, key)[0] for key in keys]
            seen.add(states.count(JobStatus.RUNNING))
            return all(one == JobStatus.DONE for one in states)

        _until(both_at_work, "all walls done")
    assert 2 in seen, "two of them were under way at once"
    assert {_job(url, key)[2] for key in keys} == {1}
