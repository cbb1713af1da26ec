"""Tends the devices: hears them, tells the screens, follows what is weighed, passes orders on.

One process of a workshop does it; another waits to take its place. What it has to know when it is
started again stands in the database.
"""

import math
import queue
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import partial
from typing import Any
from uuid import UUID

import numpy as np
import psycopg
from sqlalchemy.exc import DBAPIError

from mildhusk.core.errors import HuskError, InputError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.pouring.weighing import ScaleReading, Weigher, Weighing
from mildhusk.devices.link import Link
from mildhusk.devices.protocol import DeviceKind, Hello, Line, ProtocolError, weight_of
from mildhusk.services.devices import coat_in_mould, list_devices
from mildhusk.services.pours import find_pour
from mildhusk.services.room import keep_room
from mildhusk.services.transaction import Transaction
from mildhusk.services.turning import (
    LONGEST_S,
    Rolled,
    keep_readings,
    readings_of,
    rolled_now,
)
from mildhusk.services.weighing import finish_weighing, keep_weighing, weighing_on
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import open_engine, open_sessions
from mildhusk.store.kept import Json, facts
from mildhusk.store.live import EVENTS, ORDERS, Announcer, alone, events

_TELL_EVERY_S, _TELL_AGAIN_S = 0.09, 1.0
"""A device is told of so often at most, and again after so long though nothing changed. [s]"""
_KEEP_EVERY_S = 10.0
"""The room is kept so often. [s]"""
_KEEP_TURNING_S = 5.0
"""What is recorded is kept so often. [s]"""
_NUMBERS = ("c", "rh", "over_rpm", "round_rpm", "over_deg", "round_deg", "x", "y", "z")
_WORDS = ("state", "fault")


def tend(database_url: str) -> None:
    """Tend the devices of the workshop on a database until the process ends, or that is gone."""
    # Whoever keeps this process starts it again; there is nothing to tell of it.
    with suppress(psycopg.Error, DBAPIError), alone(database_url, "husk devices"):
        _Tender(database_url).run()


@dataclass
class _Tended:
    """A device, the line to it, and what it last said."""

    key: UUID
    name: str
    kind: DeviceKind
    address: str
    link: Link
    hello: Hello | None = None
    said: Json | None = None
    told: Json | None = None
    told_s: float = -math.inf
    """When, by a clock that nobody sets; as that of what is kept. [s]"""
    kept_s: float = -math.inf


@dataclass
class _Followed:
    """A weighing on a scale."""

    pour: UUID
    coat: int
    weigher: Weigher
    kept: Weighing


class _Recording:
    """How the mould of one coat is turned."""

    def __init__(self, rolled: Rolled, before: Floats | None) -> None:
        self.rolled, self.kept_s = rolled, -math.inf
        self._readings = [] if before is None else before.tolist()
        self._began: tuple[float, float] | None = None

    def take(self, said: Line, at_s: float) -> None:
        """Note a reading; by the sensor's own clock, which a slow line does not shift."""
        own_s = said.number_or("at", at_s)
        if self._began is None or own_s < self._began[0]:
            self._began = (own_s, at_s - self.rolled.poured_at.timestamp())
        moment = self._began[1] + own_s - self._began[0]
        last = self._readings[-1][0] if self._readings else 0.0
        if last < moment <= LONGEST_S:
            self._readings.append([moment, *(said.number(name) for name in "xyz")])

    def keep(self, at: Transaction) -> None:
        """Keep it so far."""
        if self._readings:
            keep_readings(at, self.rolled.pour, self.rolled.coat, np.array(self._readings))


class _Tender:
    def __init__(self, database_url: str) -> None:
        self._url = database_url
        self._sessions = open_sessions(open_engine(database_url, connections=1))
        self._announcer = Announcer(database_url)
        with self._sessions.begin() as session:
            self._workshop_id = found_workshop(session, datetime.now(UTC))
        self._tended: dict[UUID, _Tended] = {}
        self._followed: dict[UUID, _Followed] = {}
        self._turned: dict[UUID, UUID] = {}
        self._recording: _Recording | None = None
        self._heard: queue.SimpleQueue[Callable[[], None]] = queue.SimpleQueue()
        self._failed: BaseException | None = None

    def run(self) -> None:
        """Go on until the database is gone."""
        for channel in (ORDERS, EVENTS):
            hears = threading.Event()
            threading.Thread(target=self._listen, args=(channel, hears), daemon=True).start()
            # What changes after the first look is told; what changed before it is seen.
            while not hears.wait(0.25) and self._failed is None:
                pass
        self._reach_all()
        self._begin_recording()
        while self._failed is None:
            with suppress(queue.Empty):
                self._heard.get(timeout=0.25)()
            self._tell_again()
        raise self._failed

    def _listen(self, channel: str, hears: threading.Event) -> None:
        act = self._obey if channel == ORDERS else self._look
        try:
            for told in events(self._url, channel):
                hears.set()
                if told is not None:
                    self._heard.put(partial(act, told))
        except psycopg.Error as error:
            self._failed = error

    @contextmanager
    def _transaction(self) -> Iterator[Transaction]:
        with self._sessions.begin() as session:
            yield Transaction(session, self._workshop_id, datetime.now(UTC))

    def _announce(self, event: Json) -> None:
        self._announcer.tell(self._workshop_id, event)

    # --- which devices there are ---

    def _reach_all(self) -> None:
        with self._transaction() as at:
            rows = {one.id: (one.name, one.kind, one.address) for one in list_devices(at)}
        for key, tended in list(self._tended.items()):
            if rows.get(key, ("", "", ""))[2] != tended.address:
                tended.link.close()
                del self._tended[key]
                self._followed.pop(key, None)
        for key, (name, kind, address) in rows.items():
            if key in self._tended:
                self._tended[key].name = name
                continue
            with suppress(InputError):
                link = Link(address, self._hearer(key))
                self._tended[key] = _Tended(key, name, DeviceKind(kind), address, link)
        self._follow_all()

    def _hearer(self, key: UUID) -> Callable[[Line | None], None]:
        def hears(said: Line | None) -> None:
            at_s = time.time()
            self._heard.put(lambda: self._hear(key, said, at_s))

        return hears

    # --- what they say ---

    def _hear(self, key: UUID, said: Line | None, at_s: float) -> None:
        tended = self._tended.get(key)
        if tended is None:
            return
        if said is None:
            self._lose(tended)
            return
        with suppress(ProtocolError):
            if said.word == "hello":
                self._meet(tended, Hello.of(said))
            elif tended.hello is not None:
                self._take(tended, said, at_s)

    def _lose(self, tended: _Tended) -> None:
        was_there, tended.hello, tended.said = tended.hello is not None, None, None
        followed = self._followed.get(tended.key)
        if followed is not None:
            followed.weigher.lose()
            self._tell_weighing(tended, followed)
        if was_there or tended.told is None:
            self._tell(tended)

    def _meet(self, tended: _Tended, hello: Hello) -> None:
        if hello.kind is not tended.kind:
            return
        is_known = tended.hello is not None and tended.hello.boot == hello.boot
        tended.hello = hello
        followed = self._followed.get(tended.key)
        if followed is not None and not is_known:
            followed.weigher.begin(hello.boot, hello.step_kg, hello.lag_s)
            self._after(tended, followed)

    def _take(self, tended: _Tended, said: Line, at_s: float) -> None:
        if said.word == "weight":
            kg = weight_of(said)
            tended.said = {"kg": kg, "steady": said.is_set("steady")}
            followed = self._followed.get(tended.key)
            if followed is not None:
                followed.weigher.read(ScaleReading(at_s, kg, said.is_set("steady")))
                self._after(tended, followed)
        elif said.word == tended.kind:
            numbers = {name: said.number(name) for name in _NUMBERS if name in said.fields}
            tended.said = numbers | {k: v for k, v in said.fields.items() if k in _WORDS}
            if "c" in numbers and time.monotonic() - tended.kept_s >= _KEEP_EVERY_S:
                tended.kept_s = time.monotonic()
                with self._transaction() as at:
                    keep_room(at, tended.key, numbers["c"])
        elif said.word == "refused":
            why = said.fields.get("why", "")
            self._announce({"topic": "refused", "id": str(tended.key), "why": why})
            return
        if said.word == DeviceKind.TURN:
            self._record(said, at_s)
        changed = self._state(tended) != tended.told
        is_new = (tended.told or {}).get("state") != self._state(tended)["state"]
        if is_new or (changed and time.monotonic() - tended.told_s >= _TELL_EVERY_S):
            self._tell(tended)

    # --- what is weighed ---

    def _follow_all(self) -> None:
        for tended in self._tended.values():
            if tended.kind is DeviceKind.SCALE:
                self._follow(tended)

    def _follow(self, tended: _Tended) -> None:
        with self._transaction() as at:
            found = weighing_on(at, tended.key)
        known = self._followed.get(tended.key)
        if found is None:
            if known is not None:
                del self._followed[tended.key]
                tended.link.say("show", say="idle")
            return
        pour, coat, state = found
        if known is not None and (known.pour, known.coat) == (pour, coat) and state == known.kept:
            return
        followed = self._followed[tended.key] = _Followed(pour, coat, Weigher(state), state)
        hello = tended.hello
        if hello is None:
            followed.weigher.lose()
        else:
            followed.weigher.begin(hello.boot, hello.step_kg, hello.lag_s)
        self._after(tended, followed)

    def _after(self, tended: _Tended, followed: _Followed) -> None:
        """Keep what has to be kept, log what is done, tell screens and scale how it stands."""
        state, view = followed.weigher.state, followed.weigher.view
        if state.is_done:
            del self._followed[tended.key]
            with suppress(HuskError), self._transaction() as at:
                finish_weighing(at, followed.pour, followed.coat, state)
        elif _worth_keeping(state, followed.kept):
            followed.kept = state
            with self._transaction() as at:
                keep_weighing(at, followed.pour, followed.coat, state)
        self._tell_weighing(tended, followed)
        tended.link.say(
            "show", say=view.say, part=view.part or "-", left_g=round(view.left_kg * 1e3, 2)
        )

    def _tell_weighing(self, tended: _Tended, followed: _Followed) -> None:
        view: Json = facts(followed.weigher.view)
        told = {"topic": "weighing", "id": str(followed.pour), "coat": followed.coat, **view}
        self._announce(told | {"device": str(tended.key)})

    # --- how a mould is turned ---

    def _begin_recording(self) -> None:
        """Record what is rolled now, on where a process before this one stopped."""
        with self._transaction() as at:
            rolled = rolled_now(at)
            known = self._recording
            if rolled == (None if known is None else known.rolled):
                return
            if known is not None:
                known.keep(at)
            before = None if rolled is None else readings_of(at, rolled.pour, rolled.coat)
        self._recording = None if rolled is None else _Recording(rolled, before)

    def _record(self, said: Line, at_s: float) -> None:
        recording = self._recording
        if recording is None:
            return
        recording.take(said, at_s)
        if time.monotonic() - recording.kept_s >= _KEEP_TURNING_S:
            recording.kept_s = time.monotonic()
            with self._transaction() as at:
                recording.keep(at)

    # --- what is ordered ---

    def _obey(self, order: Any) -> None:
        match order:
            case {"do": "devices"}:
                self._reach_all()
            case {"do": "weighings"}:
                self._follow_all()
            case {"do": "tell", "id": key, "word": word, "fields": fields}:
                tended = self._tended.get(UUID(key))
                if tended is not None and not tended.link.say(word, **fields):
                    self._tell(tended)
            case {"do": "turn", "id": key, "pour": pour, "fields": fields}:
                tended = self._tended.get(UUID(key))
                if tended is not None and tended.link.say("start", **fields):
                    self._turned[UUID(pour)] = tended.key
            case {"do": "press", "pour": pour, "press": press}:
                self._press(UUID(pour), press)

    def _press(self, pour: UUID, press: str) -> None:
        for key, followed in list(self._followed.items()):
            if followed.pour != pour:
                continue
            # What cannot be yet is not done; the screen shows how it stands.
            with suppress(InputError):
                if press == "cup-is-on":
                    followed.weigher.take_as_cup()
                elif press == "accept":
                    followed.weigher.accept()
            self._after(self._tended[key], followed)

    def _look(self, event: Any) -> None:
        """A pour has changed: perhaps another coat is to be weighed, or what was turned has set."""
        if event.get("topic") != "pour":
            return
        self._follow_all()
        self._begin_recording()
        pour = UUID(event["id"])
        if pour not in self._turned:
            return
        with self._transaction() as at:
            turns_on = coat_in_mould(find_pour(at, pour)) is not None
        if not turns_on:
            tended = self._tended.get(self._turned.pop(pour))
            if tended is not None:
                tended.link.say("stop")

    # --- what screens are told ---

    def _state(self, tended: _Tended) -> Json:
        hello = tended.hello
        there = {} if hello is None else {"step_kg": hello.step_kg, "standin": hello.is_standin}
        said = tended.said or {}
        return {
            "topic": "device", "id": str(tended.key), "name": tended.name, "kind": tended.kind,
            "is_there": hello is not None, "unreadable": tended.link.unreadable, **there,
            "state": said.get("state", ""), **said,
        }  # fmt: skip

    def _tell(self, tended: _Tended) -> None:
        tended.told, tended.told_s = self._state(tended), time.monotonic()
        self._announce(tended.told)

    def _tell_again(self) -> None:
        """Tell of those that nothing was told of for a while: a screen may have come since."""
        for tended in self._tended.values():
            if time.monotonic() - tended.told_s >= _TELL_AGAIN_S:
                self._tell(tended)
                followed = self._followed.get(tended.key)
                if followed is not None:
                    self._tell_weighing(tended, followed)


def _worth_keeping(state: Weighing, kept: Weighing) -> bool:
    """Whether a weighing has gone on: an empty scale's zero alone is found again."""
    return state != kept and (state.base_kg is not None or kept.base_kg is not None)
