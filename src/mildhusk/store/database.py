"""Reaching the database, and bringing its tables up to date."""

import time
from importlib.resources import files
from typing import Any
from uuid import UUID

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from psycopg.errors import LockNotAvailable, QueryCanceled
from sqlalchemy import Connection, Engine, create_engine, event, make_url, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, SessionTransaction, sessionmaker

from mildhusk.core.errors import InputError

Sessions = sessionmaker[Session]
_SILENT = {"keepalives_idle": 5, "keepalives_interval": 2, "keepalives_count": 3}
"""When a line that says nothing is asked whether it is there [s], how often again [s, 1]."""
_GIVEN_UP_MS = 10_000
_REACHED_BY: dict[str, Any] = {
    "connect_timeout": 5,
    # A cable that was pulled is noticed by both ends: what was locked there is free again.
    **_SILENT,
    "tcp_user_timeout": _GIVEN_UP_MS,
    "options": " ".join(
        f"-c tcp_{name}={value}"
        for name, value in {**_SILENT, "user_timeout": _GIVEN_UP_MS}.items()
    ),
}
"""Words of the client library."""
_WORKSHOP, _HAS_BEGUN = "workshop_id", "has_begun"
"""What a session notes of itself."""
_BEHIND_ITS_WALLS = text(
    "SELECT set_config('role', 'husk_rows', true), set_config('husk.workshop', :id, true)"
)
"""Until the transaction ends, row-level security lets through the rows of one workshop alone."""


_ALONE, _MIGRATING = text("SELECT pg_advisory_xact_lock(:number)"), 22_041
_GIVE_UP_SOON = text("SET LOCAL lock_timeout = '100ms'; SET LOCAL statement_timeout = '500ms'")
_TAKE_ALL = text("""
DO $$ BEGIN
  EXECUTE (SELECT 'LOCK TABLE ' || string_agg(quote_ident(tablename), ', ' ORDER BY tablename)
    FROM pg_tables WHERE schemaname = current_schema() AND tablename NOT LIKE 'procrastinate\\_%');
END $$""")
_IN_NO_HURRY = text("SET LOCAL statement_timeout TO DEFAULT")
_TRIES, _AGAIN_S = 300, 0.5


def reached_by(database_url: str) -> dict[str, Any]:
    """Return how a database is reached, wherever it is; what its address says goes before."""
    told = make_url(database_url).query
    return {name: value for name, value in _REACHED_BY.items() if name not in told}


def open_engine(database_url: str, connections: int = 5) -> Engine:
    """Return an engine for a PostgreSQL address, with so many connections kept open."""
    url = make_url(database_url)
    if url.drivername in ("postgresql", "postgres"):
        url = url.set(drivername="postgresql+psycopg")
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=connections,
        connect_args=reached_by(database_url),
    )


def open_sessions(bind: Engine | Connection) -> Sessions:
    """Return the session factory of an engine, or of a connection."""
    sessions = sessionmaker(bind, expire_on_commit=False)
    event.listen(sessions, "after_begin", _wall_in)
    return sessions


def stay_in(session: Session, workshop_id: UUID) -> None:
    """Have the database show a session the rows of one workshop alone, from now on."""
    if session.info.get(_WORKSHOP) == workshop_id:
        return
    session.info[_WORKSHOP] = workshop_id
    # Until the first statement a use case may still say how its transaction is to be isolated.
    if session.info.get(_HAS_BEGUN):
        session.execute(_BEHIND_ITS_WALLS, {"id": str(workshop_id)})


def workshop_of(session: Session) -> UUID | None:
    """Return which workshop a session stays in; None for one outside of all walls."""
    found: UUID | None = session.info.get(_WORKSHOP)
    return found


def _wall_in(session: Session, _begun: SessionTransaction, connection: Connection) -> None:
    session.info[_HAS_BEGUN] = True
    if _WORKSHOP in session.info:
        connection.execute(_BEHIND_ITS_WALLS, {"id": str(session.info[_WORKSHOP])})


def migrate(engine: Engine) -> None:
    """Bring the tables to the newest revision, one start at a time, each revision all or nothing.

    A revision takes all tables for itself before it begins, or none and tries again: who works
    meanwhile waits as long as one revision takes, and for a shorter time than it takes to find a
    deadlock if the tables are not to be had.

    Raises
    ------
    OperationalError
        Others hold what it needs for minutes.
    """
    config = migration_config()
    newest = ScriptDirectory.from_config(config).get_current_head()
    left = _TRIES
    while left:
        try:
            with engine.begin() as connection:
                connection.execute(_ALONE, {"number": _MIGRATING})
                found = MigrationContext.configure(connection).get_current_revision()
                if found == newest:
                    return
                if found:
                    connection.execute(_GIVE_UP_SOON)
                    connection.execute(_TAKE_ALL)
                    connection.execute(_IN_NO_HURRY)
                config.attributes["connection"] = connection
                # Nobody waits for tables that are not there yet.
                command.upgrade(config, "+1" if found else "head")
            left = _TRIES
        except OperationalError as error:
            left -= 1
            if left == 0 or not isinstance(error.orig, LockNotAvailable | QueryCanceled):
                raise
            time.sleep(_AGAIN_S)


def check_revision(engine: Engine) -> None:
    """Refuse tables that are not of this release, and leave them as they are.

    Raises
    ------
    InputError
        They are of another, or there are none.
    """
    with engine.connect() as connection:
        found = MigrationContext.configure(connection).get_current_revision()
    newest = ScriptDirectory.from_config(migration_config()).get_current_head()
    if found != newest:
        raise InputError(
            f"The database is at revision {found or 'none'}, this release at {newest}: install "
            "the release here that the application runs there, which brings the tables up to date.",
            "DATABASE_URL",
        )


def is_ours(thing: object, name: str | None, kind: str, reflected: bool, other: object) -> bool:
    """Whether a table is of our models; the queue's are its package's."""
    table = getattr(thing, "table", None)
    of_table = name if table is None else table.name
    return not (of_table or "").startswith("procrastinate_")


def migration_config() -> Config:
    """Return the Alembic configuration; its connection is passed as an attribute."""
    config = Config()
    config.set_main_option("script_location", str(files("mildhusk.store") / "migrations"))
    config.set_main_option("path_separator", "os")
    return config
