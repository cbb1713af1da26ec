"""Answering on a listening socket, until told to stop."""

import json
import logging
import signal
import socket
import sys
import threading
from collections.abc import Iterable
from contextlib import suppress
from http import HTTPStatus
from types import FrameType
from typing import Any
from wsgiref.types import StartResponse, WSGIApplication, WSGIEnvironment

import waitress
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.utilities import RequestEntityTooLarge

from mildhusk.api.guards import MOST_BODY_BYTES, most_bytes
from mildhusk.api.live import ENDING, MOST_SCREENS

THREADS = 4
"""That answer; each screen that looks on has one more."""
_TURN_S = 0.001
"""Longest time one thread computes while another of its process waits. [s]"""
_CONNECTIONS = 1000
_SILENT_S = 30


def answer(listening: int, app: WSGIApplication) -> None:
    """Answer until told to stop by a signal.

    Parameters
    ----------
    listening : int
        File number of a listening socket, which other processes may share.
    app : WSGI application
    """
    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, _stop)
    with suppress(KeyboardInterrupt):
        sys.setswitchinterval(_TURN_S)
        # A request that waits for the one before it is no cause for alarm.
        logging.getLogger("waitress").setLevel(logging.ERROR)
        counted = _Counted(app)
        server: Any = waitress.create_server(
            counted,
            sockets=[socket.socket(fileno=listening)],
            threads=THREADS + MOST_SCREENS,
            # Whoever connects and says nothing costs a socket, no thread, and that not for long.
            connection_limit=_CONNECTIONS,
            channel_timeout=_SILENT_S,
            cleanup_interval=5,
            max_request_body_size=MOST_BODY_BYTES,
            ident="Mild Husk",
        )
        server.channel_class = _Channel
        takes = server.readable
        # Whoever comes while this process is at something is for one that is idle.
        server.readable = lambda: counted.answering == 0 and takes()
        with suppress(KeyboardInterrupt):
            server.run()
        server.close()


class _Counted:
    """An application that counts the requests it is answering."""

    def __init__(self, app: WSGIApplication) -> None:
        self._app, self._lock = app, threading.Lock()
        self.answering = 0

    def __call__(self, environ: WSGIEnvironment, start: StartResponse) -> Iterable[bytes]:
        """Answer one request."""
        with self._lock:
            self.answering += 1
        try:
            return self._app(environ, start)
        finally:
            with self._lock:
                self.answering -= 1


def _stop(_signal: int, _frame: FrameType | None) -> None:
    ENDING.set()
    raise KeyboardInterrupt


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
    """Refuses a body above the limit of its address; unread, where its length is announced."""

    error: Any

    def parse_header(self, header_plus: bytes) -> None:
        """Read the header."""
        super().parse_header(header_plus)
        # The next request of this browser may be for another process.
        self.headers["CONNECTION"] = "close"

    def received(self, data: bytes) -> int:
        """Read on, and compare the body's length with the limit of its address."""
        consumed: int = super().received(data)
        if self.headers_finished and isinstance(self.error, RequestEntityTooLarge | None):
            most, said = most_bytes(self.path)
            if max(self.content_length, self.body_bytes_received) > most:
                self.error, self.completed = _TooLarge(said), True
        return consumed


class _Channel(HTTPChannel):  # type: ignore[misc]
    parser_class = _Parser
