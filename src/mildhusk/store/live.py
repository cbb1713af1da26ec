"""What just happened, told to every process that serves screens: PostgreSQL's own notifications."""

import json
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from uuid import UUID

import psycopg
from sqlalchemy import Engine, make_url, text
from sqlalchemy.orm import Session

from mildhusk.store.database import reached_by, workshop_of
from mildhusk.store.kept import Json

EVENTS, ORDERS = "husk_events", "husk_orders"
"""Channels: what happened, for the screens; what is to be done, for what tends the devices."""
_TELL = text("SELECT pg_notify(:channel, :told)")


def announce(session: Session, event: Json, channel: str = EVENTS) -> None:
    """Tell a session's workshop of something, from the moment its transaction is committed."""
    told = json.dumps(event | {"workshop": str(workshop_of(session))})
    session.execute(_TELL, {"channel": channel, "told": told})


class Announcer:
    """Tells of things at once, on a connection of its own."""

    def __init__(self, database_url: str) -> None:
        self._connection = _connected(database_url)

    def tell(self, workshop_id: UUID, event: Json) -> None:
        """Tell a workshop of something."""
        told = json.dumps(event | {"workshop": str(workshop_id)})
        self._connection.execute("SELECT pg_notify(%s, %s)", (EVENTS, told))

    def close(self) -> None:
        """Give the connection back."""
        self._connection.close()


def events(database: Engine | str, channel: str = EVENTS, every_s: float = 1.0) -> Iterator[Any]:
    """Yield what is told on a channel, and None whenever nothing was for a while.

    None comes first: from then on nothing is missed.

    Parameters
    ----------
    database : Engine or str
        An engine, or an address.
    channel : str
    every_s : float
        How long nothing has to be told for None. [s]

    Raises
    ------
    psycopg.Error
        The database is gone; what is told meanwhile is lost.
    """
    address = database if isinstance(database, str) else _address_of(database)
    with _connected(address) as connection:
        connection.execute(f"LISTEN {channel}")
        yield None
        while True:
            told = False
            for one in connection.notifies(timeout=every_s):
                told = True
                yield json.loads(one.payload)
            if not told:
                yield None


@contextmanager
def alone(database_url: str, name: str, every_s: float = 1.0) -> Iterator[None]:
    """Wait until no other process does what has this name, and hold it meanwhile.

    Raises
    ------
    psycopg.Error
        The database is gone.
    """
    with _connected(database_url) as connection:
        asks = "SELECT pg_try_advisory_lock(hashtext(%s))"
        while connection.execute(asks, (name,)).fetchone() != (True,):
            time.sleep(every_s)
        yield


def _address_of(engine: Engine) -> str:
    return engine.url.render_as_string(hide_password=False)


def _connected(database_url: str) -> psycopg.Connection[Any]:
    plain = make_url(database_url).set(drivername="postgresql")
    address = plain.render_as_string(hide_password=False)
    return psycopg.connect(address, autocommit=True, **reached_by(database_url))
