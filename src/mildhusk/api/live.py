"""What happens while a screen looks on: server-sent events, and the time it is here.

A screen that reads slowly is told the newest of each thing, not all that it missed; one that comes
back is told to look anew. So nothing piles up, and nothing is missed.
"""

import json
import threading
import time
from collections.abc import Callable, Iterator
from datetime import datetime
from http import HTTPStatus
from uuid import UUID

import psycopg
from flask import Flask, Response, current_app
from flask_openapi3 import APIBlueprint, Tag

from mildhusk.api.access import is_still_in
from mildhusk.api.common import PREFIX, Backstage, Shape, backstage, visitor_here
from mildhusk.api.problems import problem
from mildhusk.store.kept import Json
from mildhusk.store.live import events

blueprint = APIBlueprint("live", __name__, url_prefix=PREFIX, abp_tags=[Tag(name="Live")])

MOST_SCREENS = 32
"""So many screens one process tells of what happens; another process takes the next."""
_QUIET_S, _AGAIN_S = 5.0, 0.5
"""A screen hears something at least this often; the database is asked again after so long. [s]"""
_HEARS_S = 2.0
"""The first screen of a process waits so long until that hears of everything. [s]"""
_LOOK_S = 30.0
"""Whether whoever looks on may still come in is asked so often. [s]"""
_EXTENSION = "mildhusk.live"
QUIET: Json = {"topic": "quiet"}
"""Nothing happened; a screen that hears not even this asks again."""
ENDING = threading.Event()
"""Set when this process ends: every screen is let go, and asks another one."""


class Now(Shape):
    """The time it is here, for clocks on other machines."""

    now: datetime


@blueprint.get("/now", responses={200: Now}, summary="The time it is here")
def now() -> dict[str, object]:  # noqa: D103
    return Now(now=backstage().clock()).model_dump(mode="json")


class _Screen:
    """What one screen of a workshop has still to be told: of every thing the newest."""

    def __init__(self, workshop_id: UUID) -> None:
        self.workshop = str(workshop_id)
        self._new: dict[str, Json] = {}
        self._there = threading.Condition()

    def put(self, event: Json) -> None:
        """Have something told."""
        with self._there:
            key = f"{event['topic']} {event.get('id', '')}"
            # What came later is told later, also of a thing that waited already.
            self._new.pop(key, None)
            self._new[key] = event
            self._there.notify()

    def take(self) -> list[Json]:
        """Return what is new, as soon as something is, or nothing after a while."""
        with self._there:
            if not self._new:
                self._there.wait(_QUIET_S)
            taken, self._new = list(self._new.values()), {}
            return taken


class _Told:
    """All screens that this process tells, and one thread that hears for them."""

    def __init__(self, at: Backstage) -> None:
        self._at = at
        self._screens: set[_Screen] = set()
        self._lock = threading.Lock()
        self._is_begun = False
        self._hears = threading.Event()

    def begin(self, workshop_id: UUID) -> _Screen | None:
        """Return a screen to tell things of a workshop, or None where there are enough."""
        with self._lock:
            if len(self._screens) >= MOST_SCREENS or ENDING.is_set():
                return None
            screen = _Screen(workshop_id)
            self._screens.add(screen)
            if not self._is_begun:
                self._is_begun = True
                threading.Thread(target=self._hear, daemon=True).start()
        # What the screen looks at once it is let in is at least as new as what it is told from.
        self._hears.wait(_HEARS_S)
        return screen

    def end(self, screen: _Screen) -> None:
        """Tell a screen nothing more."""
        with self._lock:
            self._screens.discard(screen)

    def _hear(self) -> None:
        while not ENDING.is_set():
            has_missed = self._hears.is_set()
            try:
                for event in events(self._at.sessions.kw["bind"]):
                    if ENDING.is_set():
                        break
                    self._hears.set()
                    if has_missed:
                        # Only now: what is told from here on comes.
                        self._put_to_all({"topic": "look-anew"})
                        has_missed = False
                    if event is not None:
                        self.put(event)
            except psycopg.Error:
                ENDING.wait(_AGAIN_S)
        self._put_to_all({"topic": "ending"})

    def put(self, event: Json) -> None:
        """Have the screens of a workshop told what happened in it."""
        told = {name: value for name, value in event.items() if name != "workshop"}
        with self._lock:
            for screen in self._screens:
                if screen.workshop == event["workshop"]:
                    screen.put(told)

    def _put_to_all(self, event: Json) -> None:
        with self._lock:
            for screen in self._screens:
                screen.put(event)


def register(app: Flask, at: Backstage) -> None:
    """Serve what happens, beside the API's document: it never ends answering."""
    app.extensions[_EXTENSION] = _Told(at)
    app.add_url_rule(f"{PREFIX}/live", view_func=_live)


def _live() -> Response:
    told: _Told = current_app.extensions[_EXTENSION]
    screen = told.begin(visitor_here().workshop_id)
    if screen is None:
        said = "Enough screens look on already here; this one asks again by itself."
        return problem(HTTPStatus.SERVICE_UNAVAILABLE, said)
    lines = _lines(told, screen, is_still_in())
    answer = Response(lines, content_type="text/event-stream; charset=utf-8")
    answer.headers["Cache-Control"] = "no-store"
    # A proxy of the workshop passes it on as it comes.
    answer.headers["X-Accel-Buffering"] = "no"
    return answer


def _lines(told: _Told, screen: _Screen, is_in: Callable[[], bool]) -> Iterator[str]:
    looked = time.monotonic()
    try:
        # A screen that comes back at once; what happened meanwhile it has to look up.
        yield f"retry: 500\n\n{_line({'topic': 'look-anew'})}"
        while not ENDING.is_set():
            new = screen.take()
            if time.monotonic() - looked > _LOOK_S:
                # Who was signed out meanwhile hears nothing more.
                looked = time.monotonic()
                if not is_in():
                    return
            yield "".join(map(_line, new)) or _line(QUIET)
    finally:
        told.end(screen)


def _line(event: Json) -> str:
    return f"data: {json.dumps(event)}\n\n"
