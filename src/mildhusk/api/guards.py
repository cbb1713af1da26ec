"""What is refused before anything is read: foreign pages, foreign names, bodies beyond reason."""

import json
from collections.abc import Callable
from http import HTTPStatus
from typing import Any
from urllib.parse import urlsplit

from flask import Flask, Response, request

from mildhusk.api.common import PREFIX, SAFE
from mildhusk.core.constants import MAX_MESH_FILE_BYTES

MARKER = "X-Mild-Husk"
"""Our own pages send it with whatever changes something; a foreign page cannot without asking."""
LOOPBACK = ("127.0.0.1", "localhost", "::1")
MOST_JSON_BYTES = 1_000_000
_FORM_OVERHEAD_BYTES = 100_000
MOST_BODY_BYTES = MAX_MESH_FILE_BYTES + _FORM_OVERHEAD_BYTES
"""Limit for any request. [bytes]"""
_UPLOADS = (
    "/mesh-files",
    "/archive",
    "/archive/tries",
    "/taping/file",
    "/lots/file",
    "/shelf",
    "/photo",
    "/pictures",
    "/readings.csv",
)
_MOST_FILE_BYTES = dict.fromkeys(("/mesh-files", "/archive", "/archive/tries"), MAX_MESH_FILE_BYTES)
_MOST_OTHER_FILE_BYTES = 20_000_000
_INSTEAD = {
    "/mesh-files": "reduce the number of faces and export the file again",
    "/archive": "import a larger archive by the command line: husk-web restore",
    "/archive/tries": "import a larger archive by the command line: husk-web restore",
}
_LONGEST_ADDRESS = 2_000
_DEEPEST = 40

Refuse = Callable[[HTTPStatus, str], Response]


def guard(app: Flask, hosts: tuple[str, ...], refuse: Refuse) -> None:
    """Refuse requests before they are read.

    Parameters
    ----------
    app : Flask
    hosts : tuple of str
        Names under which the application may be asked, without their port; `*` is any.
    refuse : callable
        Makes the answer from a status and a sentence.
    """
    app.config["MAX_CONTENT_LENGTH"] = MOST_BODY_BYTES
    # What a form says beside its file is small.
    app.config["MAX_FORM_MEMORY_SIZE"] = _FORM_OVERHEAD_BYTES

    @app.before_request
    def look() -> Response | None:
        for rule in (_foreign_name(hosts), _long_address, _foreign_page, _large_body, _odd_body):
            found = rule()
            if found is not None:
                return refuse(*found)
        return None


Refusal = tuple[HTTPStatus, str] | None


def _foreign_name(hosts: tuple[str, ...]) -> Callable[[], Refusal]:
    def rule() -> Refusal:
        if "*" in hosts or _host_of(f"//{request.host}") in hosts:
            return None
        return (
            HTTPStatus.MISDIRECTED_REQUEST,
            "This workshop is not asked under that name; add it to MILDHUSK_HOSTS where it should.",
        )

    return rule


def _host_of(address: str) -> str | None:
    try:
        return urlsplit(address).hostname
    except ValueError:
        return None


def _long_address() -> Refusal:
    if len(request.full_path) <= _LONGEST_ADDRESS:
        return None
    return HTTPStatus.REQUEST_URI_TOO_LONG, "The address is longer than any there is here."


def _foreign_page() -> Refusal:
    """A page elsewhere may not change anything here, whatever kind of body it sends."""
    if request.method in SAFE:
        return None
    site = request.headers.get("Sec-Fetch-Site", "same-origin")
    origin = request.headers.get("Origin")
    foreign = origin is not None and urlsplit(origin).netloc != request.host
    if foreign or site not in ("same-origin", "none") or MARKER not in request.headers:
        return (
            HTTPStatus.FORBIDDEN,
            "A change has to come from a page of this workshop, or carry its marker: the header "
            f"{MARKER}.",
        )
    return None


def most_bytes(path: str) -> tuple[int, str]:
    """Return how large a body an address takes, and what to say of a larger one."""
    upload = next((end for end in _UPLOADS if path.endswith(end)), None)
    if upload is None:
        return MOST_JSON_BYTES, f"More than {MOST_JSON_BYTES / 1e6:.0f} MB were sent; send less."
    most = _MOST_FILE_BYTES.get(upload, _MOST_OTHER_FILE_BYTES)
    instead = _INSTEAD.get(upload, "send a smaller file")
    said = f"More than {most / 1e6:.0f} MB were sent; {instead}."
    return most + _FORM_OVERHEAD_BYTES, said


def _large_body() -> Refusal:
    length = request.content_length
    if length is None:
        if request.headers.get("Transfer-Encoding"):
            return HTTPStatus.LENGTH_REQUIRED, "Say how long the body is."
        return None
    most, said = most_bytes(request.path)
    return None if length <= most else (HTTPStatus.REQUEST_ENTITY_TOO_LARGE, said)


def _odd_body() -> Refusal:
    """JSON that no database holds, or that nobody nests so deep."""
    if not request.path.startswith(PREFIX) or not request.is_json:
        return None
    try:
        content = json.loads(request.get_data(cache=True) or b"null")
    except (ValueError, RecursionError):
        return HTTPStatus.UNPROCESSABLE_ENTITY, "The request is not readable JSON."
    said = _oddity(content)
    return None if said is None else (HTTPStatus.UNPROCESSABLE_ENTITY, said)


def _oddity(content: Any) -> str | None:
    """Return what is odd about a JSON value; walked without recursion."""
    left = [(content, 0)]
    while left:
        value, depth = left.pop()
        if depth > _DEEPEST:
            return f"The request is nested deeper than {_DEEPEST} levels; nothing here is."
        if isinstance(value, str) and not _is_text(value):
            return "A text holds characters that are none (NUL, or half of a pair); leave them out."
        if isinstance(value, dict):
            left += [(one, depth + 1) for pair in value.items() for one in pair]
        elif isinstance(value, list):
            left += [(one, depth + 1) for one in value]
    return None


def _is_text(written: str) -> bool:
    return "\0" not in written and not any("\ud800" <= letter <= "\udfff" for letter in written)
