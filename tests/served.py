"""The application as it is started, as a process of its own on a database of its own."""

import multiprocessing
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from multiprocessing.process import BaseProcess
from pathlib import Path

from sqlalchemy import Connection, create_engine, event, text

from mildhusk.cluster import Cluster
from mildhusk.jobs.worker import work
from mildhusk.store.database import Sessions, open_engine, open_sessions

ROOT = Path(__file__).parents[1]
_COPIES = multiprocessing.get_context("forkserver")
_COPIES.set_forkserver_preload(
    ["mildhusk.jobs.worker", "mildhusk.services.walls", "mildhusk.core.coating.rehearsal"]
)


@contextmanager
def temporary_cluster() -> Iterator[Cluster]:
    """A PostgreSQL cluster that is thrown away in the end."""
    folder = Path(tempfile.mkdtemp(prefix="mildhusk-cluster-"))
    cluster = Cluster(folder, careless=True)
    try:
        cluster.start()
        yield cluster
    finally:
        cluster.stop()
        shutil.rmtree(folder)


@contextmanager
def demo_server() -> Iterator[str]:
    """The address of the demo on a cluster of its own, for scripts."""
    with (
        temporary_cluster() as cluster,
        fresh_database(cluster) as url,
        served(url, "--demo") as server,
    ):
        yield server.address


def sessions_on(connection: Connection) -> Sessions:
    """Sessions in one transaction, which is never committed; each begins outside of any walls."""
    sessions = open_sessions(connection)
    sessions.configure(join_transaction_mode="create_savepoint")
    event.listen(
        sessions,
        "after_begin",
        lambda _session, _begun, here: here.execute(text("SET LOCAL ROLE NONE")),
        insert=True,
    )
    return sessions


@contextmanager
def fresh_database(cluster: Cluster) -> Iterator[str]:
    """The address of an empty database that is dropped in the end."""
    name = f"husk_{time.monotonic_ns()}"
    admin = create_engine(open_engine(cluster.url).url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    try:
        yield cluster.url.rsplit("/", 1)[0] + f"/{name}"
    finally:
        with admin.connect() as connection:
            connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
        admin.dispose()


@contextmanager
def served(database_url: str, *words: str) -> Iterator["Server"]:
    """The application on a database, ended whatever happens."""
    server = Server(database_url, *words)
    try:
        yield server
    finally:
        assert server.stop() == 0


@contextmanager
def worker(database_url: str) -> Iterator[BaseProcess]:
    """A worker that knows only the database: a copy of a loaded process, as the keeper's are."""
    process = _COPIES.Process(target=work, args=(database_url,))
    process.start()
    try:
        yield process
    finally:
        process.kill()
        process.join(20)
        assert not process.is_alive()


class Server:
    """`mildhusk.launch` on any free port, unless one is given."""

    def __init__(self, database_url: str, *words: str) -> None:
        port = [] if "--port" in words else ["--port", "0"]
        self.process = subprocess.Popen(
            [sys.executable, "-m", "mildhusk.launch", *port, *words],
            env={**os.environ, "DATABASE_URL": database_url},
            stdout=subprocess.PIPE,
            text=True,
            cwd=ROOT,
        )
        assert self.process.stdout is not None
        self.address = self.process.stdout.readline().split(" at ")[1].strip()

    def kill_what_serves(self) -> None:
        """End every process that answers, as a power cut would; what keeps them goes on."""
        for one in processes_below(self.process.pid, "husk-server"):
            os.kill(one, signal.SIGKILL)

    def kill(self, process: int) -> None:
        """End one of its processes, as a power cut would."""
        os.kill(process, signal.SIGKILL)

    def stop(self, how: signal.Signals = signal.SIGTERM) -> int:
        """End it, and return its exit code."""
        self.process.send_signal(how)
        code = self.process.wait(timeout=60)
        if self.process.stdout:
            self.process.stdout.close()
        return code


def processes_below(root: int, name: str) -> list[int]:
    """The processes of a name that one has begun, or those that it has."""
    children: dict[int, list[int]] = {}
    names: dict[int, str] = {}
    for stat in Path("/proc").glob("[0-9]*/stat"):
        # It may have ended meanwhile.
        with suppress(OSError):
            before, _, after = stat.read_text("utf-8").rpartition(")")
            number = int(stat.parent.name)
            children.setdefault(int(after.split()[1]), []).append(number)
            names[number] = before.partition("(")[2]
    found, todo = [], [root]
    while todo:
        below = children.get(todo.pop(), [])
        todo += below
        found += [one for one in below if names[one] == name]
    return found
