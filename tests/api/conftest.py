"""The application on a connection whose transaction is rolled back after each test."""

import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from core.shapes import half_sphere, stl_bytes
from mildhusk.api.app import create_app
from mildhusk.api.common import Backstage, set_backstage
from mildhusk.jobs.running import RefusedError, Runner
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import open_sessions
from mildhusk.store.scratch import Scratch
from mildhusk.store.tables import JobKind, JobStatus
from served import sessions_on

API = "/api/v1"
START = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)
WISH = {
    "wall_m": 0.003,
    "room_temperature_k": 296.15,
    "allowance": 0.0,
    "loss": 0.05,
    "worn": False,
    "scale_step_kg": 0.0001,
    "volume_step_m3": 0.000001,
}


class Clock:
    """A clock that moves when a test moves it."""

    def __init__(self) -> None:
        self.now = START

    def __call__(self) -> datetime:
        return self.now

    def pass_seconds(self, seconds: float) -> None:
        self.now += timedelta(seconds=seconds)


@pytest.fixture
def clock() -> Clock:
    return Clock()


@dataclass(frozen=True)
class AttemptAtOnce:
    """The only attempt at a job: nobody cancels it, nobody else takes it up."""

    job_id: UUID
    number: int = 1

    def shall_stop(self) -> bool:
        return False

    def is_ours(self, session: Session) -> bool:
        return True


class QueueInThisThread:
    """A queue that does each job at once, inside the transaction that asked for it."""

    def __init__(self, sessions: Any, clock: Clock) -> None:
        self._runner = Runner(sessions, clock)
        self._states: dict[int, JobStatus] = {}

    def put(self, session: Session, job_id: UUID, lock: str, kind: JobKind) -> int:
        number = len(self._states) + 1
        try:
            self._runner.run(AttemptAtOnce(job_id))
        except RefusedError:
            self._states[number] = JobStatus.REFUSED
        else:
            self._states[number] = JobStatus.DONE
        return number

    def states(self, session: Session, numbers: Sequence[int]) -> dict[int, JobStatus]:
        return {number: self._states[number] for number in numbers if number in self._states}

    def cancel(self, session: Session, number: int) -> None:
        self._states[number] = JobStatus.CANCELLED


@pytest.fixture(scope="session")
def workshop_id(engine: Engine) -> UUID:
    """The workshop that every test begins with."""
    with open_sessions(engine).begin() as session:
        return found_workshop(session, START)


@pytest.fixture(scope="session")
def app(engine: Engine, workshop_id: UUID) -> Flask:
    """The application; made once, as its routes take long to lay."""
    sessions = open_sessions(engine)
    return create_app(sessions, QueueInThisThread(sessions, Clock()), workshop_id)


@pytest.fixture
def client(app: Flask, engine: Engine, workshop_id: UUID, clock: Clock) -> Iterator[FlaskClient]:
    with engine.connect() as connection, connection.begin() as transaction:
        sessions = sessions_on(connection)
        queue = QueueInThisThread(sessions, clock)
        set_backstage(app, Backstage(sessions, workshop_id, clock, queue, Scratch()))
        made = app.test_client()
        made.environ_base["HTTP_X_MILD_HUSK"] = "page"
        yield made
        transaction.rollback()


@pytest.fixture
def upload(client: FlaskClient) -> Callable[..., Any]:
    """Send a file and return what a worker read of it, or the refusal of either."""

    def send(content: bytes, name: str = "dome.stl") -> Any:
        sent = client.post(f"{API}/mesh-files", data={"file": (io.BytesIO(content), name)})
        if sent.status_code != 202 or sent.json["job"]["status"] != "done":
            return sent
        return client.get(f"{API}/mesh-files/{sent.json['sha256']}")

    return send


@pytest.fixture
def piece(client: FlaskClient, upload: Callable[..., Any]) -> dict[str, Any]:
    read = upload(stl_bytes(half_sphere(0.1, 20).scaled(1e3)))
    body = {"name": "Dome", "mesh_sha256": read.json["sha256"], "units": "mm"}
    return surveyed(client, client.post(f"{API}/pieces", json=body))


def surveyed(client: FlaskClient, asked: Any) -> dict[str, Any]:
    """The piece that a job asked for has made or changed."""
    assert asked.status_code == 202, asked.text
    assert asked.json["status"] == "done", asked.json["said"]
    return client.get(f"{API}/pieces/{asked.json['piece_id']}").json


@pytest.fixture
def resin(client: FlaskClient) -> Callable[[str], dict[str, Any]]:
    def find(key: str) -> dict[str, Any]:
        shelf = client.get(f"{API}/materials").json["materials"]
        rest = client.get(f"{API}/supplies?limit=500").json["supplies"]
        return next(one for one in [*shelf, *rest] if one["key"] == key)

    return find


@pytest.fixture
def sheet(
    client: FlaskClient, piece: dict[str, Any], resin: Callable[[str], dict[str, Any]]
) -> dict[str, Any]:
    body = {
        "name": "Dome in fast rigid",
        "piece_id": piece["id"],
        "material_id": resin("pu-fast-rigid")["id"],
        "wish": WISH,
    }
    return client.post(f"{API}/sheets", json=body).json


@pytest.fixture
def mould(
    client: FlaskClient, piece: dict[str, Any], resin: Callable[[str], dict[str, Any]]
) -> dict[str, Any]:
    body = {
        "name": "Dome glove",
        "piece_id": piece["id"],
        "rubber_id": resin("rubber-addition-firm")["id"],
        "shell_id": resin("shell-bandage")["id"],
        "rubber_wall_m": 0.009,
        "life_casts": 40,
    }
    made = client.post(f"{API}/moulds", json=body)
    assert made.status_code == 201, made.text
    return dict(made.json)


def assert_problem(response: Any, status: int, said: str, field: str | None = None) -> None:
    """A refusal as RFC 9457 wants it, or a worker's: a sentence a maker understands."""
    if response.status_code == 202:
        job = response.json.get("job", response.json)
        assert (job["status"], status) == ("refused", 422), response.text
        assert said in job["said"]
        assert job["said"].endswith(".")
        assert field is None or job["field"] == field
        return
    assert response.status_code == status, response.text
    assert response.content_type == "application/problem+json"
    problem = response.json
    assert problem["status"] == status
    assert said in problem["detail"]
    assert problem["detail"].endswith(".")
    if field is not None:
        assert field in {one["field"] for one in problem["errors"]}


def form_with(content: bytes, name: str) -> dict[str, Any]:
    """A form with one file, written by hand: the client leaves a large one's spool file open."""
    head = f'--x\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
    return {
        "data": head.encode() + content + b"\r\n--x--\r\n",
        "content_type": "multipart/form-data; boundary=x",
    }
