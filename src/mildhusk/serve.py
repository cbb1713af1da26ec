"""The server: answers on a listening socket it is given, for the database at DATABASE_URL.

Started and kept alive by `mildhusk.launch`; ends when its standard input does.
"""

import argparse
import json
import os
import signal
import socket
import sys
import threading
from http import HTTPStatus
from pathlib import Path
from types import FrameType
from typing import Any

import waitress
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.utilities import RequestEntityTooLarge

from mildhusk.api.app import create_app, utc_now
from mildhusk.api.guards import LOOPBACK, most_bytes
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.demo.scenario import fill
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions

THREADS = 16
_CONNECTIONS = 1000
_SILENT_S = 30
_FORM_OVERHEAD_BYTES = 200_000


def main() -> int:
    """Serve until told to stop; returns the exit code."""
    given = _arguments()
    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, _stop)
    threading.Thread(target=_end_with_stdin, daemon=True).start()
    address = os.environ["DATABASE_URL"]
    engine = open_engine(address, connections=THREADS)
    migrate(engine)
    sessions = open_sessions(engine)
    if given.demo:
        fill(sessions, utc_now())
    with sessions.begin() as session:
        workshop_id = found_workshop(session, utc_now())
    hosts = (*LOOPBACK, *filter(None, os.environ.get("MILDHUSK_HOSTS", "").split(",")))
    app = create_app(
        sessions, PostgresQueue(address), workshop_id, hosts=hosts, frontend=given.frontend
    )
    listener = socket.socket(fileno=given.socket)
    server: Any = waitress.create_server(
        app,
        sockets=[listener],
        threads=THREADS,
        # Whoever connects and says nothing costs a socket, not a thread, and that not for long.
        connection_limit=_CONNECTIONS,
        channel_timeout=_SILENT_S,
        cleanup_interval=5,
        max_request_body_size=MAX_MESH_FILE_BYTES + _FORM_OVERHEAD_BYTES,
        ident="Mild Husk",
    )
    server.channel_class = _Channel
    print("serving", flush=True)
    try:
        server.run()
    except KeyboardInterrupt:
        server.close()
    return 0


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="mildhusk.serve", description=__doc__)
    parser.add_argument("--socket", type=int, required=True, help="number of the listening socket")
    parser.add_argument("--demo", action="store_true", help="fill an empty workshop with the demo")
    parser.add_argument("--frontend", type=Path, default=None)
    return parser.parse_args()


class _TooLarge(RequestEntityTooLarge):  # type: ignore[misc]
    """A body that is refused by the length it announces."""

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        """Return it as RFC 9457 problem details."""
        status = HTTPStatus.REQUEST_ENTITY_TOO_LARGE
        problem = {
            "type": "about:blank",
            "title": status.phrase,
            "status": status.value,
            "detail": self.body,
            "errors": [],
        }
        kind = [("Content-Type", "application/problem+json")]
        return f"{status.value} {status.phrase}", kind, json.dumps(problem).encode()


class _Parser(HTTPRequestParser):  # type: ignore[misc]
    """Refuses a body that is too large for its address before it is read."""

    def parse_header(self, header_plus: bytes) -> None:
        """Read the header, and hold the announced length against what the address takes."""
        super().parse_header(header_plus)
        most, said = most_bytes(self.path)
        if self.content_length > most:
            self.error = _TooLarge(said)
            self.completed = True


class _Channel(HTTPChannel):  # type: ignore[misc]
    parser_class = _Parser


def _stop(_signal: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _end_with_stdin() -> None:
    """End when whoever started this process is gone, and its end of the pipe with it."""
    # Past Python's own buffer, whose lock a thread may not hold when the process ends.
    while os.read(sys.stdin.fileno(), 1024):
        pass
    os.kill(os.getpid(), signal.SIGTERM)


if __name__ == "__main__":
    sys.exit(main())
