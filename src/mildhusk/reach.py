"""Reaching the workshop from the command line, whether the application runs on it or not."""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

from mildhusk.cluster import Cluster
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions


@contextmanager
def database(data: Path) -> Iterator[str]:
    """Return the address of the database at DATABASE_URL, or of the one in the data folder."""
    outside = os.environ.get("DATABASE_URL")
    if outside:
        yield outside
        return
    with Cluster(data).running() as address:
        yield address


@contextmanager
def transaction(address: str, now: datetime) -> Iterator[Transaction]:
    """One transaction in the workshop of a database, whose tables are brought up to date."""
    engine = open_engine(address)
    try:
        migrate(engine)
        sessions = open_sessions(engine)
        with sessions.begin() as session:
            workshop_id = found_workshop(session, now)
        with sessions.begin() as session:
            yield Transaction(session, workshop_id, now)
    finally:
        engine.dispose()
