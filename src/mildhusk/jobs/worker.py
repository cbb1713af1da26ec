"""A worker: does jobs for a database until it is told to stop."""

import logging
import os
import resource
import socket
import threading
from collections.abc import Sequence
from datetime import UTC, datetime
from importlib import import_module

from mildhusk.jobs.queue import PostgresQueue
from mildhusk.jobs.running import Runner
from mildhusk.store.database import open_engine, open_sessions
from mildhusk.store.tables import JobKind

_NICE = 12
_MOST_GB = 8.0
"""Address space of a worker, unless MILDHUSK_WORKER_GB says otherwise."""


def work(database_url: str, kinds: Sequence[JobKind] | None = None) -> None:
    """Do jobs for a database, of some kinds or of all, until told to stop by a signal."""
    # Whoever waits for an answer goes first.
    os.nice(_NICE)
    # What is slow to load is loaded before somebody waits for it.
    threading.Thread(target=_rehearse, daemon=True).start()
    logging.basicConfig(level=logging.WARNING)
    # A refused job has failed for the queue; what nobody foresaw is told by the runner. A database
    # that is gone is waited for.
    for name in ("procrastinate", "psycopg.pool"):
        logging.getLogger(name).setLevel(logging.CRITICAL)
    _limit_memory()
    runner = Runner(open_sessions(open_engine(database_url)), lambda: datetime.now(UTC))
    PostgresQueue(database_url, runner.run).work(f"{socket.gethostname()}-{os.getpid()}", kinds)


def _limit_memory() -> None:
    """Hold this process to a memory of its own: a shape that asks for more is refused."""
    most = int(float(os.environ.get("MILDHUSK_WORKER_GB", _MOST_GB)) * 1e9)
    resource.setrlimit(resource.RLIMIT_AS, (most, resource.getrlimit(resource.RLIMIT_AS)[1]))


def _rehearse() -> None:
    """Load and go once through what a wall takes."""
    import_module("mildhusk.services.walls")
    import_module("mildhusk.core.casting.settling")
    import_module("mildhusk.core.coating.rehearsal").rehearse()
