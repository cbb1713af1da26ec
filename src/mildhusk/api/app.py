"""The Flask application: the API, and the built front end for every other address."""

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import UUID

from flask import Response, request
from flask.json.provider import DefaultJSONProvider
from flask_compress import Compress
from flask_openapi3 import Info
from pydantic_core import to_json

from mildhusk import __version__
from mildhusk.api import (
    access,
    accounts,
    archive,
    buying,
    byhand,
    choosing,
    costs,
    curing,
    dabs,
    day_board,
    day_offers,
    days,
    deleted,
    devices,
    drawings,
    exchange,
    faults,
    finishes,
    health,
    jobs,
    live,
    logs,
    lots,
    metrics,
    mixing,
    mould_life,
    moulds,
    patterns,
    pieces,
    pours,
    practice,
    problems,
    quantities,
    readings,
    runs,
    sheets,
    shelf,
    supplies,
    trail,
    walls,
    workshop,
)
from mildhusk.api.common import PREFIX, Backstage, Problem, set_backstage
from mildhusk.api.documented import Documented
from mildhusk.api.front_end import content_policy, serve_front_end
from mildhusk.api.guards import LOOPBACK, guard
from mildhusk.services.transaction import Queue
from mildhusk.store.database import Sessions
from mildhusk.store.scratch import Scratch

_STATIONS = (
    workshop,
    accounts,
    trail,
    health,
    archive,
    jobs,
    pieces,
    byhand,
    moulds,
    patterns,
    mould_life,
    shelf,
    supplies,
    choosing,
    dabs,
    exchange,
    lots,
    buying,
    sheets,
    curing,
    costs,
    mixing,
    walls,
    pours,
    practice,
    readings,
    runs,
    faults,
    days,
    deleted,
    day_board,
    day_offers,
    finishes,
    devices,
    drawings,
    live,
    quantities,
)
_COMPRESSED = (
    "application/json",
    "application/problem+json",
    "text/html",
    "text/css",
    "text/javascript",
    "application/javascript",
    "image/svg+xml",
    "text/csv",
)


class _Json(DefaultJSONProvider):
    """JSON by pydantic's own writer: a plan is 40 kB of it."""

    def dumps(self, obj: Any, **_: Any) -> str:
        return to_json(obj).decode()


def utc_now() -> datetime:
    """The time it is."""
    return datetime.now(UTC)


def create_app(
    sessions: Sessions,
    queue: Queue,
    workshop_id: UUID,
    *,
    hosts: tuple[str, ...] = LOOPBACK,
    clock: Callable[[], datetime] = utc_now,
    frontend: Path | None = None,
) -> Documented:
    """Return the application of a workshop on a database and its queue.

    Parameters
    ----------
    sessions : Sessions
    queue : Queue
    workshop_id : UUID
        Founded before.
    hosts : tuple of str
        Names under which it may be asked; `*` is any. With any but the machine's own, nobody may
        ask before signing in.
    clock : callable
        The time it is.
    frontend : Path or None
        Of the built front end, which it serves then.
    """
    app = Documented(
        __name__,
        info=Info(title="Mild Husk", version=__version__),
        security_schemes={},
        validation_error_model=Problem,
        validation_error_callback=problems.bad_fields,
        doc_prefix=PREFIX,
        static_folder=None,
    )
    app.json = _Json(app)
    app.config["COMPRESS_MIMETYPES"] = _COMPRESSED
    # What everyone's browser knows; brotli's best takes longer than the request itself.
    app.config["COMPRESS_ALGORITHM"] = ["gzip"]
    Compress(app)
    must_sign_in = not set(hosts) <= set(LOOPBACK)
    at = Backstage(sessions, workshop_id, clock, queue, Scratch(), must_sign_in)
    set_backstage(app, at)
    live.register(app, at)
    logs.register(app)
    metrics.register(app)
    guard(app, hosts, problems.problem)
    access.let_in(app)
    problems.register(app)
    for station in _STATIONS:
        app.register_api(station.blueprint)

    @app.after_request
    def close(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = content_policy()
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        if request.path.startswith(PREFIX):
            # A browser of several people keeps nothing of one for the next, but what is large.
            keeps = "private, no-cache" if "ETag" in response.headers else "no-store"
            response.headers.setdefault("Cache-Control", keeps)
        return response

    if frontend is not None:
        serve_front_end(app, frontend, PREFIX)
    return app
