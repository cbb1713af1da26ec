"""How long an upgrade of a large workshop makes anybody wait: 10,000 pours with 50,000 readings.

From each release that changed rows, with somebody who reads and somebody who writes all the while.
Wanted: the longest that either waited, at most 2 s.
"""

import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from alembic import command  # noqa: E402
from sqlalchemy import Engine, text  # noqa: E402

from log_list import fill_log  # noqa: E402
from mildhusk.demo.scenario import fill  # noqa: E402
from mildhusk.store.database import (  # noqa: E402
    migrate,
    migration_config,
    open_engine,
    open_sessions,
)
from served import fresh_database, temporary_cluster  # noqa: E402

NOW = datetime(2026, 11, 30, 9, 0, tzinfo=UTC)
LIMIT_S, EVERY_S = 2.0, 0.01
EARLIER = {
    "0020": "rows of one workshop",
    "0013": "readings and runs",
    "0010": "steps at the bench",
}
"""Revisions to upgrade from, and what comes first after each."""
ASKED = {
    "reads": "SELECT id, sheet_name FROM pour ORDER BY created_at LIMIT 50",
    "writes": "UPDATE poured_coat SET a_g = a_g WHERE pour_id = (SELECT id FROM pour LIMIT 1)",
}


def main() -> None:
    """Fill, go back, upgrade beside those who ask; print who waited how long."""
    with temporary_cluster() as cluster, fresh_database(cluster) as url:
        engine = open_engine(url)
        migrate(engine)
        fill(open_sessions(engine), NOW)
        with engine.begin() as connection:
            print(f"upgrade: {fill_log(connection):,} pours")
        for revision, said in EARLIER.items():
            _go_back(engine, revision)
            with _asking(engine) as waits:
                began = time.perf_counter()
                migrate(engine)
                took = time.perf_counter() - began
            for what, waited in waits.items():
                print(
                    f"  from {revision} ({said}) in {took:.1f} s: who {what} waited {waited:.2f} s "
                    f"at most; ratio to the limit {waited / LIMIT_S:.2f} (wanted: at most 1)"
                )
        engine.dispose()


def _go_back(engine: Engine, revision: str) -> None:
    with engine.begin() as connection:
        config = migration_config()
        config.attributes["connection"] = connection
        command.downgrade(config, revision)


@contextmanager
def _asking(engine: Engine) -> Iterator[dict[str, float]]:
    """Ask again and again; afterwards how long each kind waited at most. [s]"""
    ends = threading.Event()
    waits = dict.fromkeys(ASKED, 0.0)

    def ask(what: str) -> None:
        while not ends.wait(EVERY_S):
            began = time.perf_counter()
            with engine.begin() as connection:
                connection.execute(text(ASKED[what]))
            waits[what] = max(waits[what], time.perf_counter() - began)

    asking = [threading.Thread(target=ask, args=(what,)) for what in ASKED]
    for one in asking:
        one.start()
    try:
        yield waits
    finally:
        ends.set()
        for one in asking:
            one.join()


if __name__ == "__main__":
    main()
