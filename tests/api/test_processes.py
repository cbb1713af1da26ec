"""Real server processes: two tabs at once, a server killed in the middle of a save."""

import threading
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from sqlalchemy import text

from core.shapes import half_sphere, stl_bytes
from mildhusk.api.app import create_app, utc_now
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions
from served import fresh_database, processes_below, served


@pytest.fixture
def database_url(cluster) -> Iterator[str]:
    """An empty database of its own: these tests really commit."""
    with fresh_database(cluster) as url:
        yield url


DOME = stl_bytes(half_sphere(100, 10))


def _upload(address: str, content: bytes) -> None:
    boundary = "husk"
    body = (
        f'--{boundary}\r\nContent-Disposition: form-data; name="file"; filename="d.stl"\r\n\r\n'
    ).encode()
    body += content + f"\r\n--{boundary}--\r\n".encode()
    kind = {"Content-Type": f"multipart/form-data; boundary={boundary}", "X-Mild-Husk": "test"}
    request = urllib.request.Request(f"{address}api/v1/mesh-files", body, kind)
    with urllib.request.urlopen(request, timeout=20):
        pass


def test_a_server_killed_in_the_middle_of_a_save_leaves_nothing_half_written(database_url):
    with served(database_url) as server:
        engine = open_engine(database_url)
        with engine.connect() as holder, engine.connect() as watcher:
            # Hold the table, so that the save is caught in the middle of its transaction.
            holder.execute(text("LOCK TABLE mesh_file IN ACCESS EXCLUSIVE MODE"))
            saving = threading.Thread(target=_quietly, args=(_upload, server.address, DOME))
            saving.start()
            waiting = text("SELECT count(*) FROM pg_locks WHERE NOT granted")
            _until(lambda: watcher.execute(waiting).scalar_one() > 0)
            server.kill_what_serves()
            holder.rollback()
            saving.join(timeout=20)
            # PostgreSQL notices the lost client and rolls back; then the table is as it was.
            _until(lambda: watcher.execute(waiting).scalar_one() == 0)
        with engine.connect() as connection:
            assert connection.execute(text("SELECT count(*) FROM mesh_file")).scalar_one() == 0
        engine.dispose()

        # It was started again by what supervises it, at the same address.
        _until(lambda: _quietly(_upload, server.address, DOME))


def test_an_upload_makes_no_server_grow_by_more_than_itself_and_64_mb(database_url):
    triangles = 1_000_000
    content = bytes(80) + triangles.to_bytes(4, "little") + bytes(50 * triangles)
    with served(database_url) as server:
        several = processes_below(server.process.pid, "husk-server")
        assert len(several) > 1
        before = {one: _memory(one, "VmRSS") for one in several}
        _upload(server.address, content)
        grown = [_memory(one, "VmHWM") - before[one] for one in several]
    assert sum(grown) < len(content) + 64e6


def _memory(process: int, what: str) -> int:
    """Of a process now, or at its most. [bytes]"""
    lines = Path(f"/proc/{process}/status").read_text("utf-8").splitlines()
    return 1024 * int(next(one for one in lines if one.startswith(what)).split()[1])


def _quietly(work, *words) -> bool:
    """Whether it went through; a server that is gone is no failure of the test."""
    try:
        work(*words)
    except OSError:
        return False
    return True


def _until(condition, seconds: float = 40.0) -> None:
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it never happened"
        time.sleep(0.02)


def test_of_eight_windows_that_close_a_pour_at_once_one_does(database_url):
    engine = open_engine(database_url)
    migrate(engine)
    sessions = open_sessions(engine)
    with sessions.begin() as session:
        workshop_id = found_workshop(session, utc_now())
    app = create_app(sessions, PostgresQueue(database_url), workshop_id, clock=utc_now)

    def tab() -> FlaskClient:
        made = app.test_client()
        made.environ_base["HTTP_X_MILD_HUSK"] = "page"
        return made

    client = tab()
    clay = {"name": "D", "volume_m3": 0.0006, "thickness_m": 0.01}
    piece_id = client.post("/api/v1/pieces/clay", json=clay).json["id"]
    resin = client.get("/api/v1/materials").json["materials"][0]
    wish = {
        "wall_m": 0.003, "room_temperature_k": 295.0, "allowance": 0.0, "loss": 0.05,
        "worn": False, "scale_step_kg": 1e-4, "volume_step_m3": 1e-6,
    }  # fmt: skip
    sheet = client.post(
        "/api/v1/sheets",
        json={"name": "S", "piece_id": piece_id, "material_id": resin["id"], "wish": wish},
    ).json
    pour = client.post("/api/v1/pours", json={"sheet_id": sheet["id"]}).json
    codes: list[int] = []
    ready = threading.Barrier(8)

    def close() -> None:
        ready.wait()
        body = {"status": "spoilt", "note": threading.current_thread().name}
        codes.append(tab().post(f"/api/v1/pours/{pour['id']}/close", json=body).status_code)

    windows = [threading.Thread(target=close) for _ in range(8)]
    for window in windows:
        window.start()
    for window in windows:
        window.join()
    engine.dispose()
    assert sorted(codes) == [200] + [409] * 7
