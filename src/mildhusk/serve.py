"""What answers and works: processes that share a listening socket, and the workers.

All begin as copies of one that has loaded everything, and one that ends is started again. So one
that plans holds up no other. Started and kept alive by `mildhusk.launch`; ends when its standard
input does. The database is the one at DATABASE_URL.
"""

import argparse
import os
import socket
import sys
from functools import partial
from pathlib import Path

from flask import Flask

from mildhusk.api.answering import THREADS, answer
from mildhusk.api.app import create_app, utc_now
from mildhusk.api.common import PREFIX, VISITOR
from mildhusk.api.guards import LOOPBACK
from mildhusk.backup import tend_backups
from mildhusk.core.casting.rehearsal import rehearse
from mildhusk.demo.scenario import fill
from mildhusk.inviting import say_who_is_let_in
from mildhusk.jobs.queue import PostgresQueue
from mildhusk.jobs.standing_in import stand_in
from mildhusk.jobs.tending import tend
from mildhusk.jobs.worker import work
from mildhusk.keeping import call_it, keep
from mildhusk.logs import log_as_lines
from mildhusk.metering import meter
from mildhusk.services.access import Visitor
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.access_tables import Role
from mildhusk.store.database import migrate, open_engine, open_sessions
from mildhusk.store.tables import SHORT_JOBS

PROCESSES = 10
_STATIONS = ("days", "days/board", "pieces", "moulds", "materials", "sheets", "pours", "workshop")


def main() -> int:
    """Serve until told to stop; returns the exit code."""
    given = _arguments()
    call_it("husk-keeper")
    log_as_lines()
    address, folder = os.environ["DATABASE_URL"], os.environ.get("MILDHUSK_BACKUP")
    with socket.socket(fileno=os.dup(given.socket)) as listening:
        at = listening.getsockname()
    app = _application(address, given.frontend, at, demo=given.demo)
    keep(
        [
            *(("husk-server", partial(answer, given.socket, app)) for _ in range(PROCESSES)),
            # One more does what is short: no upload waits for a simulation.
            ("husk-worker", partial(work, address, SHORT_JOBS)),
            *(("husk-worker", partial(work, address)) for _ in range(max(given.workers, 1))),
            ("husk-devices", partial(tend, address)),
            *((("husk-metrics", partial(meter, address, given.metrics)),) if given.metrics else ()),
            *((("husk-backup", partial(tend_backups, address, Path(folder))),) if folder else ()),
            *((("husk-standins", partial(stand_in, address)),) if given.demo else ()),
        ],
        begun=partial(print, "serving", flush=True),
        ends_with=(sys.stdin.fileno(),),
    )
    return 0


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="mildhusk.serve", description=__doc__)
    parser.add_argument("--socket", type=int, required=True, help="number of the listening socket")
    parser.add_argument("--demo", action="store_true", help="fill an empty workshop with the demo")
    parser.add_argument("--workers", type=int, default=1, help="processes for long work")
    parser.add_argument("--frontend", type=Path, required=True)
    parser.add_argument("--metrics", help="address and port at which it tells how it goes")
    return parser.parse_args()


def _application(address: str, frontend: Path, at: tuple[str, int], *, demo: bool) -> Flask:
    """Bring the database up to date; return the application of the workshop in it."""
    hosts = (*LOOPBACK, *filter(None, os.environ.get("MILDHUSK_HOSTS", "").split(",")))
    engine = open_engine(address, connections=THREADS)
    migrate(engine)
    sessions = open_sessions(engine)
    if demo:
        fill(sessions, utc_now())
    with sessions.begin() as session:
        workshop_id = found_workshop(session, utc_now())
        if len(hosts) > len(LOOPBACK):
            begun = Transaction(session, workshop_id, utc_now())
            say_who_is_let_in(begun, "http://{}:{}/".format(*at))
    rehearse()
    app = create_app(sessions, PostgresQueue(address), workshop_id, hosts=hosts, frontend=frontend)
    _rehearse_answers(app, Visitor(workshop_id, Role.OWNER))
    # No process shares a connection with another; all share what is slow the first time.
    engine.dispose()
    return app


def _rehearse_answers(app: Flask, visitor: Visitor) -> None:
    """Ask once for what the stations show, so that statements and shapes are made already."""
    client, known = app.test_client(), {VISITOR: visitor}
    for station in _STATIONS:
        answer = client.get(f"{PREFIX}/{station}", environ_overrides=known).get_json()
        for one in (answer.get(station) or [])[:1]:
            client.get(f"{PREFIX}/{station}/{one['id']}", environ_overrides=known)


if __name__ == "__main__":
    sys.exit(main())
