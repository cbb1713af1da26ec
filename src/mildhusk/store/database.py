"""Reaching the database, and bringing its tables up to date."""

from importlib.resources import files

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, make_url
from sqlalchemy.orm import Session, sessionmaker

Sessions = sessionmaker[Session]
_CONNECT_S = 5


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


def open_sessions(engine: Engine) -> Sessions:
    """Return the session factory of an engine."""
    return sessionmaker(engine, expire_on_commit=False)


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
