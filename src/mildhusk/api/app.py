"""The Flask application: the API, and the built front end for every other address."""

from collections.abc import Callable
from datetime import UTC, datetime
from http import HTTPStatus
from pathlib import Path

from flask import Response, send_from_directory
from flask_openapi3 import Info, OpenAPI

from mildhusk import __version__
from mildhusk.api import (
    byhand,
    costs,
    curing,
    dabs,
    deciding,
    exchange,
    jobs,
    mixing,
    moulds,
    pieces,
    pours,
    problems,
    sheets,
    shelf,
    stock,
    supplies,
    walls,
    workshop,
)
from mildhusk.api.common import PREFIX, Backstage, Problem, set_backstage
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.services.desk import Queue
from mildhusk.store.database import Sessions

# Everything ships with the application; the style attribute is Ant Design's way to write its CSS.
_CONTENT_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "connect-src 'self' blob:; worker-src 'self' blob:; font-src 'self' data:; "
    "frame-ancestors 'none'"
)
_FORM_OVERHEAD_BYTES = 100_000
_STATIONS = (
    workshop,
    jobs,
    pieces,
    byhand,
    moulds,
    shelf,
    supplies,
    deciding,
    dabs,
    exchange,
    stock,
    sheets,
    curing,
    costs,
    mixing,
    walls,
    pours,
)


def utc_now() -> datetime:
    """The time it is."""
    return datetime.now(UTC)


def create_app(
    sessions: Sessions,
    queue: Queue,
    *,
    clock: Callable[[], datetime] = utc_now,
    frontend: Path | None = None,
) -> OpenAPI:
    """Return the application on a database and its queue; with a front end, it serves that."""
    app = OpenAPI(
        __name__,
        info=Info(title="Mild Husk", version=__version__),
        security_schemes={},
        validation_error_model=Problem,
        validation_error_callback=problems.bad_fields,
        doc_prefix=PREFIX,
        static_folder=None,
    )
    app.config["MAX_CONTENT_LENGTH"] = MAX_MESH_FILE_BYTES + _FORM_OVERHEAD_BYTES
    set_backstage(app, Backstage(sessions, clock, queue))
    problems.register(app)
    for station in _STATIONS:
        app.register_api(station.blueprint)

    @app.after_request
    def guard(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = _CONTENT_POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        return response

    if frontend is not None:
        _serve_front_end(app, frontend)
    return app


def _serve_front_end(app: OpenAPI, folder: Path) -> None:
    def front_end(address: str) -> Response:
        if address.startswith("api/"):
            return problems.problem(HTTPStatus.NOT_FOUND, "There is nothing at this address.")
        if address and (folder / address).is_file():
            # Built files carry the hash of their content in their name.
            lasting = 31_536_000 if address.startswith("assets/") else 0
            return send_from_directory(folder, address, max_age=lasting)
        return send_from_directory(folder, "index.html", max_age=0)

    # Flask's own routing: these addresses are no part of the API's document.
    app.add_url_rule("/", view_func=front_end, defaults={"address": ""})
    app.add_url_rule("/<path:address>", view_func=front_end)
