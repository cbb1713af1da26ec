"""The one place where errors become problem+json."""

from http import HTTPStatus
from typing import Any

import structlog
from flask import Flask, Response, make_response
from pydantic import ValidationError
from sqlalchemy.exc import DataError, IntegrityError, OperationalError
from sqlalchemy.orm.exc import StaleDataError
from werkzeug.exceptions import HTTPException

from mildhusk.api.common import FieldError, Problem
from mildhusk.core.constants import MAX_MESH_FILE_BYTES
from mildhusk.core.errors import HuskError, InputError, MeshTooLargeError
from mildhusk.services.errors import (
    ConflictError,
    NotAllowedError,
    NotFoundError,
    RefusedRowsError,
    StrangerError,
    TooOftenError,
    stale,
)

_log = structlog.get_logger()

# The first class that fits decides.
_STATUS: tuple[tuple[type[HuskError], HTTPStatus], ...] = (
    (MeshTooLargeError, HTTPStatus.REQUEST_ENTITY_TOO_LARGE),
    (InputError, HTTPStatus.UNPROCESSABLE_ENTITY),
    (RefusedRowsError, HTTPStatus.UNPROCESSABLE_ENTITY),
    (NotFoundError, HTTPStatus.NOT_FOUND),
    (ConflictError, HTTPStatus.CONFLICT),
    (StrangerError, HTTPStatus.UNAUTHORIZED),
    (NotAllowedError, HTTPStatus.FORBIDDEN),
    (TooOftenError, HTTPStatus.TOO_MANY_REQUESTS),
)

_HTTP_SENTENCES = {
    HTTPStatus.NOT_FOUND: "There is nothing at this address.",
    HTTPStatus.METHOD_NOT_ALLOWED: "This address does not take that kind of request.",
    HTTPStatus.BAD_REQUEST: "The request cannot be read.",
    HTTPStatus.UNSUPPORTED_MEDIA_TYPE: "Send this as JSON.",
    HTTPStatus.REQUEST_ENTITY_TOO_LARGE: (
        f"More than {MAX_MESH_FILE_BYTES / 1e6:.0f} MB were sent; reduce the number of faces and "
        "export the file again."
    ),
}


def status_of(error: HuskError) -> HTTPStatus | None:
    """Return the status of one of our errors; None when nobody thought of it."""
    return next((status for kind, status in _STATUS if isinstance(error, kind)), None)


def register(app: Flask) -> None:
    """Make an application answer every error with problem+json."""
    app.register_error_handler(HuskError, _ours)
    app.register_error_handler(HTTPException, _of_http)
    app.register_error_handler(StaleDataError, lambda _: _ours(stale("row")))
    app.register_error_handler(IntegrityError, _no_longer_fits)
    app.register_error_handler(DataError, _too_much)
    app.register_error_handler(OperationalError, _no_database)
    app.register_error_handler(Exception, _unforeseen)


def problem(status: HTTPStatus, detail: str, errors: list[FieldError] | None = None) -> Response:
    """Return a problem+json response."""
    body = Problem(title=status.phrase, status=status, detail=detail, errors=errors or [])
    response = make_response(body.model_dump(mode="json"), status)
    response.content_type = "application/problem+json"
    return response


def _ours(error: HuskError) -> Response:
    status = status_of(error)
    if status is None:
        return _unforeseen(error)
    if isinstance(error, RefusedRowsError):
        return problem(
            status, str(error), [FieldError(field="file", message=m) for m in error.lines]
        )
    field = error.field if isinstance(error, InputError) else None
    said = problem(
        status, str(error), [FieldError(field=field, message=str(error))] if field else []
    )
    if isinstance(error, TooOftenError):
        said.headers["Retry-After"] = str(max(1, round(error.again_s)))
    return said


def _of_http(error: HTTPException) -> Response:
    status = HTTPStatus(error.code or 500)
    return problem(status, _HTTP_SENTENCES.get(status, error.description or status.phrase))


def _no_longer_fits(error: IntegrityError) -> Response:
    _log.warning("rows no longer fit together", error=str(error.orig))
    return problem(
        HTTPStatus.CONFLICT,
        "Something this needs was changed or deleted meanwhile, perhaps in another window; nothing "
        "was saved. Reload the page and try again.",
    )


def _too_much(error: DataError) -> Response:
    _log.warning("a value does not fit its column", error=str(error.orig))
    return problem(
        HTTPStatus.UNPROCESSABLE_ENTITY,
        "A value is larger than can be kept; nothing was saved. Check the numbers.",
    )


def _no_database(error: OperationalError) -> Response:
    _log.error("database unreachable", error=str(error.orig))
    return problem(
        HTTPStatus.SERVICE_UNAVAILABLE,
        "The database does not answer; nothing was saved. Try again in a moment.",
    )


def _unforeseen(error: Exception) -> Response:
    _log.error("unforeseen error", exc_info=error)
    return problem(
        HTTPStatus.INTERNAL_SERVER_ERROR,
        "Something went wrong on our side; nothing was saved. Please tell us what you did.",
    )


def bad_fields(error: ValidationError) -> Response:
    """Say what is wrong with the fields of a request, a sentence each."""
    errors = [_field_error(dict(one)) for one in error.errors()]
    detail = " ".join(dict.fromkeys(one.message for one in errors))
    return problem(HTTPStatus.UNPROCESSABLE_ENTITY, detail, errors)


def _field_error(error: dict[str, Any]) -> FieldError:
    """Say what is wrong with a field; where the core says it, in its words and of its field."""
    inner = error.get("ctx", {}).get("error")
    if isinstance(inner, InputError):
        return FieldError(field=inner.field or _field(error), message=str(inner))
    return FieldError(field=_field(error), message=_sentence(error))


def _field(error: dict[str, Any]) -> str:
    """Name a field one way: as the core's value does, without what it stands in."""
    parts = [str(one) for one in error["loc"]]
    return ".".join(part for part in parts if part not in _AROUND) or "request"


_AROUND = ("wish", "cup")
_WORDS = {
    "wall_m": "wall",
    "room_temperature_k": "room temperature",
    "piece_id": "piece",
    "material_id": "resin",
    "mesh_sha256": "uploaded file",
    "cast_kg": "cast weight",
    "density_a_kg_m3": "density of part A",
    "density_b_kg_m3": "density of part B",
    "density_cured_kg_m3": "density of the cured resin",
}


def _sentence(error: dict[str, Any]) -> str:
    kind, context = error["type"], error.get("ctx", {})
    if kind in ("json_invalid", "model_type", "model_attributes_type"):
        return "The request is not readable JSON."
    key = str(error["loc"][-1]) if error["loc"] else "request"
    what = f"The {_WORDS.get(key, key.replace('_', ' '))}"
    given = repr(error.get("input"))[:40]
    match kind:
        case "missing":
            return f"{what} is missing; fill it in."
        case (
            "float_parsing"
            | "float_type"
            | "int_parsing"
            | "int_type"
            | "int_from_float"
            | "int_parsing_size"
            | "decimal_parsing"
            | "decimal_type"
        ):
            return f"{what} is {given}, which is not a number."
        case "greater_than_equal" | "less_than_equal":
            bound = "at least" if kind == "greater_than_equal" else "at most"
            return f"{what} is {given}; give {bound} {context.get('ge', context.get('le'))}."
        case "greater_than" | "less_than":
            bound = "more" if kind == "greater_than" else "less"
            return f"{what} is {given}; give {bound} than {context.get('gt', context.get('lt'))}."
        case "too_short" | "too_long":
            return f"{what} has {context['actual_length']} entries; that is too few or too many."
        case "string_pattern_mismatch":
            return f"{what} is {given}, which names nothing here; choose it again."
        case "datetime_parsing" | "datetime_from_date_parsing" | "timezone_aware":
            return f"{what} is {given}; give a time with its zone, as 2026-06-30T18:00:00Z."
        case "bool_parsing" | "bool_type":
            return f"{what} is {given}; it is true or false."
        case "decimal_max_digits" | "decimal_max_places" | "decimal_whole_digits":
            return f"{what} is {given}; give up to 9 digits, 2 of them behind the point."
        case "list_type" | "tuple_type" | "dict_type" | "dataclass_type" | "string_type":
            return f"{what} is {given}, which is of another kind than is wanted."
        case "dataclass_exact_type" | "unexpected_keyword_argument":
            return f"{what} is not known here."
        case "string_unicode":
            return f"{what} holds characters that are none; leave them out."
        case "date_from_datetime_parsing" | "date_parsing" | "date_type":
            return f"{what} is {given}; write a date as 2026-06-30."
        case "uuid_parsing" | "uuid_type":
            return f"{what} is {given}, which names nothing here; choose it again."
        case "finite_number":
            return f"{what} must be a finite number."
        case "string_too_short":
            return f"{what} is empty; fill it in."
        case "string_too_long":
            return f"{what} is longer than {context['max_length']} characters; shorten it."
        case "enum" | "literal_error":
            return f"{what} is {given}; it must be {context['expected']}."
        case "extra_forbidden":
            return f"{what} is not known here."
        case "value_error":
            return f"{what} {context['error']}."
        case _:
            return f"{what}: {error['msg']}."
