"""The application on a connection whose transaction is rolled back after each test."""

import io
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session, sessionmaker

from core.shapes import half_sphere, stl_bytes
from mildhusk.api.app import create_app
from mildhusk.jobs.running import Runner

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


class QueueInThisThread:
    """A queue that does each job at once, inside the transaction that asked for it."""

    def __init__(self, sessions: Any, clock: Clock) -> None:
        self._runner = Runner(sessions, clock)

    def put(self, session: Session, job_id: UUID) -> None:
        self._runner.run(job_id)


@pytest.fixture
def client(engine: Engine, clock: Clock) -> Iterator[FlaskClient]:
    with engine.connect() as connection, connection.begin() as transaction:
        sessions = sessionmaker(
            bind=connection,
            class_=Session,
            join_transaction_mode="create_savepoint",
            expire_on_commit=False,
        )
        queue = QueueInThisThread(sessions, clock)
        yield create_app(sessions, queue, clock=clock).test_client()
        transaction.rollback()


@pytest.fixture
def upload(client: FlaskClient) -> Callable[..., Any]:
    def send(content: bytes, name: str = "dome.stl") -> Any:
        return client.post(f"{API}/mesh-files", data={"file": (io.BytesIO(content), name)})

    return send


@pytest.fixture
def piece(client: FlaskClient, upload: Callable[..., Any]) -> dict[str, Any]:
    sent = upload(stl_bytes(half_sphere(0.1, 20).scaled(1e3)))
    body = {"name": "Dome", "mesh_sha256": sent.json["sha256"], "units": "mm"}
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
        return next(one for one in shelf if one["key"] == key)

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


def assert_problem(response: Any, status: int, said: str, field: str | None = None) -> None:
    """A refusal as RFC 9457 wants it: its type, and a sentence a maker understands."""
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
