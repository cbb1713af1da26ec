"""A worker: does jobs for the database at DATABASE_URL until it is told to stop.

With `--while-stdin` it also ends when its standard input does.
"""

import logging
import os
import signal
import socket
import sys
import threading
from datetime import UTC, datetime
from importlib import import_module

from mildhusk.jobs.queue import PostgresQueue
from mildhusk.jobs.running import Runner
from mildhusk.store.database import open_engine, open_sessions


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
    runner = Runner(open_sessions(open_engine(address)), lambda: datetime.now(UTC))
    PostgresQueue(address, runner.run).work(f"{socket.gethostname()}-{os.getpid()}")
    return 0


def _rehearse() -> None:
    """Load and go once through what a wall takes."""
    import_module("mildhusk.services.coating")
    import_module("mildhusk.core.coating.casting")
    import_module("mildhusk.core.coating.rehearsal").rehearse()


def _end_with_stdin() -> None:
    """End when whoever started this process is gone, and its end of the pipe with it."""
    # Past Python's own buffer, whose lock a thread may not hold when the process ends.
    while os.read(sys.stdin.fileno(), 1024):
        pass
    os.kill(os.getpid(), signal.SIGTERM)


if __name__ == "__main__":
    sys.exit(main())
