"""What happens is told to every screen: over server-sent events, through the real server."""

import json
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from datetime import UTC, datetime
from uuid import uuid4

import pytest
from sqlalchemy.orm import Session

from browser.lookup import fetch, post, start_pour
from mildhusk.api.live import _Screen
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import open_engine
from mildhusk.store.live import Announcer
from served import fresh_database, served


@pytest.fixture(scope="module")
def url(cluster):
    with fresh_database(cluster) as made:
        yield made


@pytest.fixture(scope="module")
def server(url):
    with served(url, "--demo") as made:
        yield made


def _told(address: str) -> Iterator[dict[str, str]]:
    """The events as the standard has them: lines of data, a blank line after each (WHATWG HTML,
    9.2 Server-sent events)."""
    with urllib.request.urlopen(f"{address}api/v1/live", timeout=20) as answer:
        assert answer.headers["Content-Type"].startswith("text/event-stream")
        for line in answer:
            if line.startswith(b"data: "):
                yield json.loads(line[6:])


def _opened(address: str) -> Iterator[dict[str, str]]:
    """A screen that is told things; where one process has enough of them it asks again."""
    for _ in range(20):
        screen = _told(address)
        try:
            next(screen)
        except urllib.error.HTTPError as refused:
            if refused.code != 503:
                raise
            time.sleep(0.2)
        else:
            return screen
    raise AssertionError("no process takes this screen")


def _until(told, topic, within_s=5.0):
    end = time.monotonic() + within_s
    for event in told:
        if event["topic"] == topic:
            return event
        assert time.monotonic() < end, f"never told of {topic}"
    raise AssertionError(f"it ended before it told of {topic}")


def test_a_change_of_a_pour_is_told_to_every_screen_at_once(server):
    address = server.address
    pour = start_pour(address, "stage break")
    screens = [_told(address) for _ in range(3)]
    for screen in screens:
        assert next(screen) == {"topic": "look-anew"}
    time.sleep(0.3)
    begun = time.monotonic()
    step = {"coat": 1, "step": "weigh", "parts": {"a": 0.03, "b": 0.03}}
    post(address, f"/pours/{pour['id']}/steps", step)
    for screen in screens:
        assert _until(screen, "pour") == {"topic": "pour", "id": pour["id"]}
    assert time.monotonic() - begun < 1.0


def test_a_screen_hears_nothing_of_another_workshop(server, url):
    screen = _told(server.address)
    assert next(screen) == {"topic": "look-anew"}
    time.sleep(0.3)
    engine = open_engine(url)
    with Session(engine) as session:
        home = found_workshop(session, datetime.now(UTC))
    engine.dispose()
    somebodys, ours = str(uuid4()), str(uuid4())
    speaks = Announcer(url)
    speaks.tell(uuid4(), {"topic": "pour", "id": somebodys})
    speaks.tell(home, {"topic": "pour", "id": ours})
    heard = _until(screen, "pour")
    while heard["id"] not in (somebodys, ours):
        heard = _until(screen, "pour")
    # In the order in which they were told: the first would have come first.
    assert heard == {"topic": "pour", "id": ours}
    speaks.close()


def test_many_screens_hold_up_nobody_who_asks(server):
    """More of them than the threads that answer; all is asked and answered meanwhile."""
    address = server.address
    screens = [_opened(address) for _ in range(60)]
    assert len(screens) == 60
    for _ in range(40):
        assert fetch(address, "/workshop")["name"]


def test_a_screen_whose_server_is_killed_finds_another_and_looks_anew(server):
    address = server.address
    screen = _told(address)
    next(screen)
    server.kill_what_serves()
    with pytest.raises((OSError, AssertionError)):
        _until(screen, "pour", 20.0)
    assert next(_told(address)) == {"topic": "look-anew"}


def test_a_slow_screen_is_told_the_newest_of_each_thing_and_nothing_twice():
    """Law: what waits is bounded by how many things there are, not by how often they change."""
    screen = _Screen(uuid4())
    for number in range(10_000):
        screen.put({"topic": "weight", "id": "left", "kg": number})
        if number == 7_000:
            screen.put({"topic": "pour", "id": "p"})
    taken = screen.take()
    assert taken == [
        {"topic": "pour", "id": "p"},
        {"topic": "weight", "id": "left", "kg": 9_999},
    ]
    threading.Timer(0.05, screen.put, [{"topic": "pour", "id": "q"}]).start()
    assert screen.take() == [{"topic": "pour", "id": "q"}]
