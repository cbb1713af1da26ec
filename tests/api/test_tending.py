"""What tends the devices, as it begins: nothing that changes meanwhile is missed."""

import itertools
import socket
import threading
import time
from contextlib import ExitStack, closing, contextmanager, suppress
from datetime import UTC, datetime, timedelta

import psycopg
import pytest
import time_machine

from mildhusk.devices.protocol import DeviceKind
from mildhusk.jobs import tending
from mildhusk.services.devices import place_standins
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions
from mildhusk.store.live import events
from served import fresh_database

_SLOW_S = 0.8


@pytest.fixture
def url(cluster):
    with fresh_database(cluster) as made:
        yield made


def place(url, port):
    """Note where a scale is reached, as the stand-ins do when they have begun."""
    engine, now = open_engine(url), datetime.now(UTC)
    with open_sessions(engine).begin() as session:
        at = Transaction(session, found_workshop(session, now), now)
        place_standins(at, {DeviceKind.SCALE: f"socket://127.0.0.1:{port}"})
    engine.dispose()


@contextmanager
def tender_of(url):
    """Have the devices of a database tended meanwhile."""
    tender = tending._Tender(url)

    def tend():
        with suppress(psycopg.Error):
            tender.run()

    running = threading.Thread(target=tend)
    running.start()
    try:
        yield
    finally:
        # As if its database were gone.
        tender._failed = psycopg.OperationalError()
        running.join(10.0)
        for one in tender._tended.values():
            one.link.close()
        tender._announcer.close()
        tender._sessions.kw["bind"].dispose()


def slowly(database, channel):
    """Hears of what happens only a while after it was asked to, as on a busy machine."""
    time.sleep(_SLOW_S)
    yield from events(database, channel)


def test_a_device_that_moves_while_it_begins_is_reached_where_it_is(url, monkeypatch):
    monkeypatch.setattr(tending, "events", slowly)
    engine = open_engine(url)
    migrate(engine)
    engine.dispose()
    with socket.create_server(("127.0.0.1", 0)) as here, socket.socket() as nowhere:
        # Bound and deaf: where the scale was before.
        nowhere.bind(("127.0.0.1", 0))
        place(url, nowhere.getsockname()[1])
        here.settimeout(15.0)
        with tender_of(url):
            time.sleep(_SLOW_S / 2)
            place(url, here.getsockname()[1])
            there, _ = here.accept()
            there.close()


@pytest.mark.parametrize("hours", [-2, 2])
def test_what_a_scale_says_is_told_though_the_clock_is_set_meanwhile(url, hours):
    engine = open_engine(url)
    migrate(engine)
    engine.dispose()
    with socket.create_server(("127.0.0.1", 0)) as here, ExitStack() as ends:
        place(url, here.getsockname()[1])
        here.settimeout(15.0)
        told = ends.enter_context(closing(events(url)))
        ends.enter_context(tender_of(url))
        scale = ends.enter_context(here.accept()[0])
        scale.sendall(b"hello kind=scale boot=1 step_g=0.1 max_g=3000 lag_s=0.3\n")
        scale.sendall(b"weight g=1.0 steady=1\n")
        assert _told(told, 0.001)
        with time_machine.travel(datetime.now(UTC) + timedelta(hours=hours)):
            time.sleep(0.2)
            scale.sendall(b"weight g=2.0 steady=1\n")
            assert _told(told, 0.002)
            # And again and again, for a screen that is opened now.
            assert _told(told, 0.002)


def _told(events, kg):
    """Whether screens are told within a few seconds that so much is on the scale."""
    latest = time.monotonic() + 5.0
    return any(
        one is not None and one.get("kg") == pytest.approx(kg)
        for one in itertools.takewhile(lambda _: time.monotonic() < latest, events)
    )
