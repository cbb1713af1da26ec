"""Starts cluster, migrations, demo, worker and server; Ctrl-C ends them all."""

import argparse
import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

import waitress

from mildhusk.api.app import create_app, utc_now
from mildhusk.cluster import Cluster, ClusterError
from mildhusk.demo.scenario import fill
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions

_THREADS = 16
_WORKER_AGAIN_S = 1.0


def main() -> int:
    """Run until interrupted; returns the exit code."""
    given = _arguments()
    # Also for Ctrl-C: a shell that starts it in the background has it ignored otherwise.
    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, _stop)
    outside = os.environ.get("DATABASE_URL")
    cluster = None
    try:
        if not outside:
            cluster = Cluster(given.data)
            cluster.start()
        _serve(outside or (cluster.url if cluster else ""), given)
    except ClusterError as error:
        print(f"mildhusk: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        pass
    finally:
        if cluster is not None:
            cluster.stop()
    return 0


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="mildhusk.launch", description=__doc__)
    parser.add_argument("--demo", action="store_true", help="fill an empty workshop with the demo")
    parser.add_argument("--port", type=int, default=8410, help="0 takes any free one")
    parser.add_argument("--data", type=Path, default=Path(".local/postgres"))
    parser.add_argument(
        "--workers", type=int, default=min(os.cpu_count() or 1, 4), help="processes for long work"
    )
    parser.add_argument("--frontend", type=Path, default=Path("frontend/dist"))
    return parser.parse_args()


def _serve(database_url: str, given: argparse.Namespace) -> None:
    engine = open_engine(database_url)
    migrate(engine)
    sessions = open_sessions(engine)
    if given.demo:
        fill(sessions, utc_now())
    else:
        with sessions.begin() as session:
            found_workshop(session, utc_now())
    queue = PostgresQueue(database_url)
    app = create_app(sessions, queue, frontend=given.frontend.resolve())
    with _listen(given.port) as listener, _workers(database_url, max(given.workers, 1)):
        server = waitress.create_server(app, sockets=[listener], threads=_THREADS)
        # Only now it listens.
        print(f"Mild Husk is at http://127.0.0.1:{listener.getsockname()[1]}/", flush=True)
        print("Ctrl-C ends it.", flush=True)
        server.run()


@contextmanager
def _workers(database_url: str, count: int) -> Iterator[None]:
    """Keep workers at work as long as the server runs; one that dies is started again."""
    ending = threading.Event()
    started: dict[int, subprocess.Popen[bytes]] = {}

    def keep(one: int) -> None:
        while not ending.is_set():
            worker = subprocess.Popen(
                [sys.executable, "-m", "mildhusk.jobs.worker", "--while-stdin"],
                # It ends when this pipe does, however this process ends.
                stdin=subprocess.PIPE,
                env={**os.environ, "DATABASE_URL": database_url},
                # Ctrl-C is for this process, which then ends the worker.
                start_new_session=True,
            )
            started[one] = worker
            worker.wait()
            ending.wait(_WORKER_AGAIN_S)

    keepers = [threading.Thread(target=keep, args=(one,), daemon=True) for one in range(count)]
    for keeper in keepers:
        keeper.start()
    try:
        yield
    finally:
        ending.set()
        for worker in list(started.values()):
            worker.terminate()
        for worker in list(started.values()):
            _end(worker)
        for keeper in keepers:
            keeper.join(timeout=5.0)


def _end(worker: subprocess.Popen[bytes]) -> None:
    try:
        worker.wait(timeout=4.0)
    except subprocess.TimeoutExpired:
        # What it was at is not lost: another worker takes it up.
        worker.kill()


def _listen(port: int) -> socket.socket:
    """Listen on loopback, at another port when the wanted one is taken."""
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError:
        listener.bind(("127.0.0.1", 0))
    return listener


def _stop(_signal: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


if __name__ == "__main__":
    sys.exit(main())
