"""A worker: does jobs for the database at DATABASE_URL until it is told to stop.

With `--while-stdin` it also ends when its standard input does.
"""

import logging
import os
import resource
import signal
import socket
import sys
import threading
from datetime import UTC, datetime
from importlib import import_module

from mildhusk.jobs.queue import PostgresQueue
from mildhusk.jobs.running import Runner
from mildhusk.store.database import open_engine, open_sessions

_MOST_GB = 8.0
"""Address space of a worker, unless MILDHUSK_WORKER_GB says otherwise."""


def main() -> int:
    """Work until stopped; returns the exit code."""
    address = os.environ.get("DATABASE_URL")
    if not address:
        print("worker: set DATABASE_URL to the address of the database.", file=sys.stderr)
        return 2
    if sys.argv[1:] == ["--while-stdin"]:
        threading.Thread(target=_end_with_stdin, daemon=True).start()
    # What is slow to load is loaded before somebody waits for it.
    threading.Thread(target=_rehearse, daemon=True).start()
    logging.basicConfig(level=logging.WARNING)
    # A refused job has failed for the queue; what nobody foresaw is told by the runner.
    logging.getLogger("procrastinate").setLevel(logging.CRITICAL)
    _limit_memory()
    runner = Runner(open_sessions(open_engine(address)), lambda: datetime.now(UTC))
    PostgresQueue(address, runner.run).work(f"{socket.gethostname()}-{os.getpid()}")
    return 0


def _limit_memory() -> None:
    """Hold this process to a memory of its own: a shape that asks for more is refused."""
    most = int(float(os.environ.get("MILDHUSK_WORKER_GB", _MOST_GB)) * 1e9)
    resource.setrlimit(resource.RLIMIT_AS, (most, resource.getrlimit(resource.RLIMIT_AS)[1]))


def _rehearse() -> None:
    """Load and go once through what a wall takes."""
    import_module("mildhusk.services.walls")
    import_module("mildhusk.core.casting.settling")
    import_module("mildhusk.core.coating.rehearsal").rehearse()


def _end_with_stdin() -> None:
    """End when whoever started this process is gone, and its end of the pipe with it."""
    # Past Python's own buffer, whose lock a thread may not hold when the process ends.
    while os.read(sys.stdin.fileno(), 1024):
        pass
    os.kill(os.getpid(), signal.SIGTERM)


if __name__ == "__main__":
    sys.exit(main())
