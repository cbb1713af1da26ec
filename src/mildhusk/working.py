"""Workers alone, on a machine that is not the database's."""

import os
from functools import partial

from sqlalchemy import make_url

from mildhusk.core.errors import InputError
from mildhusk.jobs.worker import work
from mildhusk.keeping import keep
from mildhusk.store.database import check_revision, open_engine


def work_from_afar(workers: int) -> None:
    """Have so many workers at the jobs of the database at DATABASE_URL, until told to stop.

    Raises
    ------
    InputError
        No address was given, or the database is of another release.
    SQLAlchemyError
        The database does not answer.
    """
    address = os.environ.get("DATABASE_URL")
    if not address:
        raise InputError(
            "Set DATABASE_URL to the address of the database that the application runs on.",
            "DATABASE_URL",
        )
    engine = open_engine(address)
    check_revision(engine)
    # No process shares a connection with another.
    engine.dispose()
    at = make_url(address).host or "this machine"
    said = f"{workers} at work for the database at {at}. Ctrl-C ends it."
    keep([("husk-worker", partial(work, address))] * workers, partial(print, said, flush=True))
