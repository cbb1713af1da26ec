"""The built front end: its files, and any other address as the page that stands there."""

import json
import mimetypes
import re
import secrets
from collections.abc import Callable
from http import HTTPStatus
from pathlib import Path

from flask import Flask, Response, g, request, send_from_directory

from mildhusk.api import problems

_LASTING_S = 31_536_000
_PLAN = "addresses.json"
"""Written by the build: which files an address needs, and what its page asks the API for first."""
_KEY = re.compile(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}")
_ANSWER = "rel=preload; as=fetch; crossorigin"
_PAGE = "index.html"
_NONCE = "__NONCE__"
"""Stands in the built page for the number of its answer, by which its scripts may write styles."""


def serve_front_end(app: Flask, folder: Path, api: str) -> None:
    """Serve what was built into a folder.

    Parameters
    ----------
    app : Flask
    folder : Path
    api : str
        Where the API begins, as `/api/v1`.
    """
    early = _early(folder, api)

    def front_end(address: str) -> Response:
        if address.startswith("api/"):
            return problems.problem(HTTPStatus.NOT_FOUND, "There is nothing at this address.")
        if address != _PAGE and (folder / address).is_file():
            # Built files carry the hash of their content in their name.
            lasting_s = _LASTING_S if address.startswith("assets/") else 0
            return _smallest(folder, address, lasting_s)
        sent = _page(folder)
        sent.headers.extend(("Link", link) for link in early(address))
        return sent

    # Flask's own routing: these addresses are no part of the API's document.
    app.add_url_rule("/", view_func=front_end, defaults={"address": ""})
    app.add_url_rule("/<path:address>", view_func=front_end)


def content_policy() -> str:
    """Return what the page of this answer may load and run: its own, and nothing written into it.

    The component library writes styles by script; they bear the number of the answer.
    """
    nonce = g.get("nonce")
    styles = f"'self' 'nonce-{nonce}'" if nonce else "'self'"
    return (
        f"default-src 'self'; style-src {styles}; img-src 'self' data: blob:; "
        "connect-src 'self' blob:; worker-src 'self' blob:; font-src 'self' data:; "
        "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    )


def _page(folder: Path) -> Response:
    """Return the page with a number of its own, which no answer before it had."""
    g.nonce = secrets.token_urlsafe(16)
    page = (folder / _PAGE).read_text("utf-8").replace(_NONCE, g.nonce)
    # Not to be asked again whether it is still so: the number is never the same.
    return Response(page, mimetype="text/html", headers={"Cache-Control": "no-cache"})


def _early(folder: Path, api: str) -> Callable[[str], list[str]]:
    """Return a function from an address to what its page will ask for, as headers (RFC 8288).

    So scripts and answers come beside the first script, and not one after another.
    """
    told = []
    if (folder / _PLAN).is_file():
        for one in json.loads((folder / _PLAN).read_text("utf-8")):
            pattern = re.sub(r":(\w+)", r"(?P<\1>[\\w-]+)", one["path"])
            asks = [re.sub(r":(\w+)", r"{\1}", ask) for ask in one["asks"]]
            told.append((re.compile(pattern), one["files"], asks))

    def links(address: str) -> list[str]:
        for pattern, files, asks in told:
            found = pattern.fullmatch(address)
            if found is None:
                continue
            named = found.groupdict()
            # A new sheet stands where a kept one would, and there is nothing to ask for.
            is_kept = "id" not in named or _KEY.fullmatch(named["id"]) is not None
            return [
                *(f"</{name}>; rel=modulepreload; crossorigin" for name in files),
                *(f"<{api}/{ask.format(**named)}>; {_ANSWER}" for ask in asks if is_kept),
            ]
        return []

    return links


def _smallest(folder: Path, address: str, lasting_s: int) -> Response:
    """Return a built file as it was compressed by the build, where the browser reads that."""
    kind = mimetypes.guess_type(address)[0]
    for encoding, suffix in (("br", ".br"), ("gzip", ".gz")):
        made, is_read = address + suffix, request.accept_encodings.quality(encoding) > 0
        if is_read and (folder / made).is_file():
            sent = send_from_directory(folder, made, mimetype=kind, max_age=lasting_s)
            sent.content_encoding = encoding
            break
    else:
        sent = send_from_directory(folder, address, max_age=lasting_s)
    sent.vary.add("Accept-Encoding")
    return sent
