"""Walls asked for without a server: for tests of the workers that compute them."""

import time
from contextlib import contextmanager
from functools import cache
from uuid import UUID

from sqlalchemy import func, select, text

from mildhusk.api.app import create_app, utc_now
from mildhusk.demo.scenario import fill
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.services.jobs import find_job
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions
from mildhusk.store.tables import CoatRunRow
from served import temporary_cluster

_PATIENCE_S = 150.0


@contextmanager
def filled_cluster():
    """A cluster of its own with the demo in it."""
    with temporary_cluster() as cluster:
        engine = open_engine(cluster.url)
        migrate(engine)
        fill(open_sessions(engine), utc_now())
        engine.dispose()
        yield cluster
        sessions_of(cluster.url).kw["bind"].dispose()


def until(look, what):
    end = time.monotonic() + _PATIENCE_S
    while not (found := look()):
        assert time.monotonic() < end, f"never saw {what}"
        time.sleep(0.1)
    return found


@cache
def sessions_of(url):
    # A connection that a restart broke is noticed and made anew.
    return open_sessions(open_engine(url))


def asked(url, words, **more):
    with sessions_of(url).begin() as session:
        home = found_workshop(session, utc_now())
    app = create_app(sessions_of(url), PostgresQueue(url), home, clock=utc_now)
    client = app.test_client()
    client.environ_base["HTTP_X_MILD_HUSK"] = "page"
    sheets = client.get("/api/v1/sheets").json["sheets"]
    sheet = next(one for one in sheets if words in one["name"])
    body = {"motion": "machine", "capped": True, "edge_m": 0.008, **more}
    return client.post(f"/api/v1/sheets/{sheet['id']}/wall", json=body).json["job"]["id"]


def job(url, key):
    with sessions_of(url)() as session:
        at = Transaction(session, found_workshop(session, utc_now()), utc_now(), PostgresQueue(url))
        state = find_job(at, UUID(key))
        tried = text("SELECT attempts FROM procrastinate_jobs WHERE id = :id")
        attempts = session.execute(tried, {"id": state.job.queue_id}).scalar_one()
        return state.status, state.job.share, attempts


def walls(url):
    with sessions_of(url)() as session:
        return session.scalar(select(func.count()).select_from(CoatRunRow))
