"""What is logged of requests: those that change something, fail or take long, each by a number.

The number stands in the answer too (`X-Request-Id`), so that who reports a fault can say which it
was. Addresses are logged as the document writes them: no key, no secret, nothing of a body.
"""

import time
from uuid import uuid4

import structlog
from flask import Flask, Response, g, request
from structlog.contextvars import bind_contextvars, clear_contextvars

from mildhusk.api.common import SAFE, VISITOR
from mildhusk.services.access import Visitor

NUMBER = "X-Request-Id"
_SLOW_S = 2.0
"""What takes longer is logged, whatever it was. [s]"""
_FAILED = 500
_log = structlog.get_logger()


def register(app: Flask) -> None:
    """Number every request, and log those that matter."""

    @app.before_request
    def begin() -> None:
        clear_contextvars()
        g.began, g.number = time.monotonic(), uuid4().hex
        bind_contextvars(request=g.number)

    @app.after_request
    def end(response: Response) -> Response:
        response.headers[NUMBER] = g.get("number", "")
        took_s = time.monotonic() - g.get("began", time.monotonic())
        is_failed = response.status_code >= _FAILED
        if is_failed or took_s > _SLOW_S or request.method not in SAFE:
            visitor: Visitor | None = request.environ.get(VISITOR)
            (_log.error if is_failed else _log.info)(
                "answered",
                method=request.method,
                address=None if request.url_rule is None else request.url_rule.rule,
                status=response.status_code,
                ms=round(took_s * 1e3),
                by="" if visitor is None else visitor.name,
                where=request.remote_addr,
            )
        return response
