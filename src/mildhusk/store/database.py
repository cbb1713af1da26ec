"""Reaching the database, and bringing its tables up to date."""

from importlib.resources import files
from uuid import UUID

from alembic import command
from alembic.config import Config
from sqlalchemy import Connection, Engine, create_engine, event, make_url, text
from sqlalchemy.orm import Session, SessionTransaction, sessionmaker

Sessions = sessionmaker[Session]
_CONNECT_S = 5
_WORKSHOP, _HAS_BEGUN = "workshop_id", "has_begun"
"""What a session notes of itself."""
_BEHIND_ITS_WALLS = text(
    "SELECT set_config('role', 'husk_rows', true), set_config('husk.workshop', :id, true)"
)
"""Until the transaction ends, row-level security lets through the rows of one workshop alone."""


def open_engine(database_url: str, connections: int = 5) -> Engine:
    """Return an engine for a PostgreSQL address, with so many connections kept open."""
    url = make_url(database_url)
    if url.drivername in ("postgresql", "postgres"):
        url = url.set(drivername="postgresql+psycopg")
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=connections,
        connect_args={"connect_timeout": _CONNECT_S},
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
    """Bring the tables to the newest revision."""
    with engine.begin() as connection:
        config = migration_config()
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


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
