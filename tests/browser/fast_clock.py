"""The application on a clock that a test moves, and a browser whose clock goes with it."""

import threading
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from selenium import webdriver
from sqlalchemy.orm import Session
from werkzeug.serving import make_server

from mildhusk.api.app import create_app
from mildhusk.cluster import Cluster
from mildhusk.jobs.running import RefusedError, Runner
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import Sessions, migrate, open_engine, open_sessions
from mildhusk.store.tables import Job, JobKind, JobStatus
from served import ROOT, fresh_database

_COMMITTED_WITHIN_S = 10.0
_KEY = "test clock ahead by"
_SHIFT = f"""
{{
  const own = Date, ahead = () => Number(localStorage.getItem("{_KEY}") ?? 0);
  Date = class extends own {{
    constructor(...given) {{ if (given.length) super(...given); else super(own.now() + ahead()); }}
    static now() {{ return own.now() + ahead(); }}
  }};
}}
"""


class Clock:
    """A clock that stands until a test moves it."""

    def __init__(self, now: datetime) -> None:
        self.now = now

    def __call__(self) -> datetime:
        return self.now


@dataclass(frozen=True)
class _Attempt:
    """The only attempt at a job."""

    job_id: UUID
    number: int = 1

    def shall_stop(self) -> bool:
        return False

    def is_ours(self, session: Session) -> bool:
        return True


@dataclass
class _Worker:
    """A queue, and the thread that does what was put into it once that was committed."""

    sessions: Sessions
    clock: Clock
    states_of: dict[int, JobStatus] = field(default_factory=dict)
    waiting: list[tuple[int, UUID, float]] = field(default_factory=list)
    ending: threading.Event = field(default_factory=threading.Event)

    def put(self, session: Session, job_id: UUID, lock: str, kind: JobKind) -> int:
        number = len(self.states_of) + 1
        self.states_of[number] = JobStatus.WAITING
        self.waiting.append((number, job_id, time.monotonic()))
        return number

    def states(self, session: Session, numbers: Sequence[int]) -> dict[int, JobStatus]:
        return {number: self.states_of[number] for number in numbers if number in self.states_of}

    def cancel(self, session: Session, number: int) -> None:
        self.states_of[number] = JobStatus.CANCELLED

    def work(self) -> None:
        runner = Runner(self.sessions, self.clock)
        while not self.ending.wait(0.1):
            for number, job_id, put_at in tuple(self.waiting):
                if self._is_committed(job_id):
                    self.states_of[number] = JobStatus.RUNNING
                    self.waiting.remove((number, job_id, put_at))
                    self.states_of[number] = self._done(runner, job_id)
                elif time.monotonic() - put_at > _COMMITTED_WITHIN_S:
                    # Whoever put it in took all of it back.
                    self.waiting.remove((number, job_id, put_at))
                    self.states_of[number] = JobStatus.CANCELLED

    def _is_committed(self, job_id: UUID) -> bool:
        with self.sessions() as session:
            return session.get(Job, job_id) is not None

    def _done(self, runner: Runner, job_id: UUID) -> JobStatus:
        try:
            runner.run(_Attempt(job_id))
        except RefusedError:
            return JobStatus.REFUSED
        return JobStatus.DONE

    def is_idle(self) -> bool:
        return not {JobStatus.WAITING, JobStatus.RUNNING} & set(self.states_of.values())


@dataclass
class FastDay:
    """A workshop of which a test moves the clock."""

    address: str
    clock: Clock
    app: Any
    worker: _Worker

    def ask(self, method: str, path: str, **told: Any) -> Any:
        """Ask the server past the screen."""
        client = self.app.test_client()
        client.environ_base["HTTP_X_MILD_HUSK"] = "test"
        answer = client.open(f"/api/v1{path}", method=method, **told)
        assert answer.status_code < 300, answer.text
        return answer.json

    def show(self, driver: webdriver.Chrome) -> None:
        """Let the browser's clock go with the server's."""
        ahead_ms = (self.clock.now - datetime.now(UTC)).total_seconds() * 1e3
        driver.execute_script(f"localStorage.setItem('{_KEY}', '{ahead_ms:.0f}')")


@contextmanager
def fast_day(cluster: Cluster, begins: datetime) -> Iterator[FastDay]:
    """A workshop on a database of its own, served in a thread."""
    with fresh_database(cluster) as url:
        engine = open_engine(url, connections=8)
        migrate(engine)
        sessions, clock = open_sessions(engine), Clock(begins)
        with sessions.begin() as session:
            workshop_id = found_workshop(session, begins)
        worker = _Worker(sessions, clock)
        app = create_app(
            sessions, worker, workshop_id, clock=clock, frontend=ROOT / "frontend/dist"
        )
        server = make_server("127.0.0.1", 0, app, threaded=True)
        threads = [threading.Thread(target=one) for one in (server.serve_forever, worker.work)]
        for one in threads:
            one.start()
        try:
            yield FastDay(f"http://127.0.0.1:{server.server_port}/", clock, app, worker)
        finally:
            worker.ending.set()
            server.shutdown()
            for one in threads:
                one.join(20.0)
            server.server_close()
            engine.dispose()


def let_clock_run_ahead(driver: webdriver.Chrome) -> None:
    """Make every page of a browser tell the time of the test."""
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": _SHIFT})
