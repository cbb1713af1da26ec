"""Who comes with a request, and whether they may do what they ask: looked at before anything else.

What an address asks for is said here, in one place. What is not named is for whoever may look where
it reads, and for makers where it changes something; so a new address is never open by oversight.
"""

import re
from collections.abc import Callable, Iterable, Mapping
from datetime import timedelta
from typing import Any
from urllib.parse import urlsplit

from flask import Flask, Response, request

from mildhusk.api.common import (
    PREFIX,
    SAFE,
    VISITOR,
    Backstage,
    backstage,
    set_visitor,
    visitor_here,
)
from mildhusk.services.access import Right, Visitor
from mildhusk.services.signing_in import LASTING, Tokens, visitor

Operation = tuple[str, str]
"""A method in capitals, and an address as the document writes it, below the API's own."""


def _named(right: Right | None, words: str) -> Iterable[tuple[Operation, Right | None]]:
    for line in filter(None, map(str.strip, words.splitlines())):
        method, address = line.split()
        yield (method, address), right


_ANYBODY: Right | None = None
_ASKS: Mapping[Operation, Right | None] = dict(
    [
        *_named(
            _ANYBODY,
            """
            GET /health
            GET /ready
            GET /now
            GET /calendar/{secret}.ics
            GET /access
            POST /sign-in
            POST /invitations/welcome
            POST /invitations/accept
            """,
        ),
        *_named(
            Right.LOOK,
            """
            POST /sign-out
            PUT /access/password
            POST /buying
            POST /catalyst
            POST /chain
            POST /compatibility
            POST /cure
            POST /days/board/tries
            POST /mix/follow
            POST /moulds/preview
            POST /moulds/{id}/plan
            POST /moulds/{id}/study
            POST /pieces/{id}/fit
            POST /pieces/{id}/rim
            POST /pours/{id}/wall
            POST /quantities
            POST /sheets/choices
            POST /sheets/preview
            POST /sheets/schools
            POST /sheets/settle
            POST /sheets/{id}/charges
            POST /sheets/{id}/motions
            POST /sheets/{id}/wall
            POST /taping/file
            POST /taping/model.glb
            POST /taping/preview
            POST /practice
            POST /practice/{id}/roll
            """,
        ),
        *_named(
            Right.POUR,
            """
            POST /days/ticks
            POST /dab-tests
            POST /dab-tests/{id}/photo
            POST /dab-tests/{id}/result
            POST /devices/{id}/start
            POST /devices/{id}/stop
            DELETE /jobs/{id}
            POST /moulds/{id}/events
            PUT /moulds/{id}/checks
            POST /pours
            PUT /pours/{id}/cast
            POST /pours/{id}/close
            POST /pours/{id}/coats/{coat}/turning
            POST /pours/{id}/faults
            PUT /pours/{id}/machine
            PUT /pours/{id}/mould
            PUT /pours/{id}/note
            PUT /pours/{id}/offcuts
            POST /pours/{id}/pictures
            POST /pours/{id}/readings
            POST /pours/{id}/readings.csv
            DELETE /pours/{id}/scale
            PUT /pours/{id}/scale
            POST /pours/{id}/scale/press
            POST /pours/{id}/steps
            DELETE /pours/{id}/steps/last
            PUT /pours/{id}/finish
            PUT /pours/{id}/trimmed
            PUT /faults/{id}
            """,
        ),
        *_named(Right.MAKE, "GET /trail"),
        *_named(
            Right.OWN,
            """
            GET /archive.zip
            POST /archive
            POST /archive/tries
            GET /accounts
            POST /accounts/first
            PUT /accounts/{id}
            DELETE /accounts/{id}
            POST /invitations
            DELETE /invitations/{id}
            DELETE /signed-in/{id}
            """,
        ),
    ]
)


def right_for(method: str, address: str) -> Right | None:
    """Return what an address of the API asks for; None where it is for anybody.

    Parameters
    ----------
    method : str
    address : str
        As the document writes it, without where the API begins.
    """
    usual = Right.LOOK if method in SAFE else Right.MAKE
    return _ASKS.get(("GET" if method in SAFE else method, address), usual)


def unknown_operations(document: Mapping[str, Any]) -> list[Operation]:
    """Return what is said here of addresses that there are not."""
    there = {
        (method.upper(), address.removeprefix(PREFIX))
        for address, operations in document["paths"].items()
        for method in operations
    }
    return sorted(set(_ASKS) - there)


def let_in(app: Flask) -> None:
    """Refuse whoever may not do what they ask, before anything of it is done."""

    @app.before_request
    def look() -> None:
        if request.url_rule is None or not request.url_rule.rule.startswith(PREFIX):
            # The pages hold nothing of the workshop.
            return
        right = right_for(request.method, _address(request.url_rule.rule))
        if right is not None:
            find_visitor()
            visitor_here().check(right)


def find_visitor() -> Visitor | None:
    """Find out who asks, and note it with the request; None is a stranger."""
    if VISITOR not in request.environ:
        set_visitor(_visitor(backstage(), request.cookies.get(_cookie("in"))))
    found: Visitor | None = request.environ[VISITOR]
    return found


def is_still_in() -> Callable[[], bool]:
    """Return what tells, long after this request began, whether who asked may still come in."""
    at, token = backstage(), request.cookies.get(_cookie("in"))
    return lambda: _visitor(at, token) is not None


def _visitor(at: Backstage, token: str | None) -> Visitor | None:
    with at.sessions.begin() as session:
        return visitor(session, at.clock(), token, at.workshop_id, must_sign_in=at.must_sign_in)


def _address(rule: str) -> str:
    return re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.removeprefix(PREFIX))


def known_token() -> str | None:
    """Return what the browser has from having signed in before."""
    return request.cookies.get(_cookie("known"))


def keep_tokens(response: Response, tokens: Tokens) -> Response:
    """Have the browser keep what lets it in; no script of a page can read it."""
    _set(response, "in", tokens.signed_in, LASTING[tokens.known is None])
    if tokens.known is not None:
        _set(response, "known", tokens.known, LASTING[True])
    return response


def forget_tokens(response: Response) -> Response:
    """Have the browser forget that it was signed in; it stays known."""
    response.delete_cookie(_cookie("in"), path=PREFIX, httponly=True, samesite="Strict")
    return response


def _set(response: Response, what: str, token: str, lasting: timedelta) -> None:
    response.set_cookie(
        _cookie(what),
        token,
        max_age=lasting,
        path=PREFIX,
        httponly=True,
        samesite="Strict",
        # A proxy that speaks TLS says so; without TLS nobody could sign in with such a cookie.
        secure=request.headers.get("X-Forwarded-Proto", request.scheme) == "https",
    )


def _cookie(what: str) -> str:
    """Name a cookie by the port too: cookies of one machine are not kept apart by it."""
    return f"husk-{what}-{urlsplit(f'//{request.host}').port or 0}"
