"""What the walls between workshops cost: the questions of a long log, with and without them.

Row-level security is taken from every table and put back between rounds of one run, so that both
meet the same machine. Wanted: at most 1.5 times as long as without it.
"""

import statistics
import sys
import time
from collections import defaultdict
from pathlib import Path

from sqlalchemy import text

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.lookup import fetch, fetch_bytes, sheet_named  # noqa: E402
from log_list import fill_log  # noqa: E402
from mildhusk.store.base import Base  # noqa: E402
from mildhusk.store.database import open_engine  # noqa: E402
from served import fresh_database, served, temporary_cluster  # noqa: E402

ROUNDS, ANSWERS, RATIO = 5, 10, 1.5


def main() -> None:
    """Fill a log, ask it with the walls up and down in turn, print the ratios."""
    with (
        temporary_cluster() as cluster,
        fresh_database(cluster) as url,
        served(url, "--demo") as server,
    ):
        engine = open_engine(url)
        with engine.begin() as connection:
            total = fill_log(connection)
        address = server.address
        mould = next(one for one in fetch(address, "/moulds")["moulds"] if "Harb" in one["name"])
        sheet = sheet_named(address, "souvenir")
        fetch(address, f"/sheets/{sheet['id']}/learned")
        paths = {
            "nothing much": "/workshop",
            "the log": "/pours",
            "its search": "/pours?search=brow",
            "a mould": f"/moulds/{mould['id']}",
            "its casts and charts": f"/moulds/{mould['id']}/casts",
            "its life": f"/moulds/{mould['id']}/life",
        }
        print(f"row_security: {total:,} pours, {ROUNDS} rounds of {ANSWERS} answers of each kind")
        took: dict[tuple[str, str], list[float]] = defaultdict(list)
        for _ in range(ROUNDS):
            for what in ("DISABLE", "ENABLE"):
                with engine.begin() as connection:
                    for table in set(Base.metadata.tables) - {"failed_sign_in"}:
                        connection.execute(text(f"ALTER TABLE {table} {what} ROW LEVEL SECURITY"))
                for name, path in paths.items():
                    for at in range(ANSWERS + 2):
                        began = time.perf_counter()
                        fetch_bytes(address, path)
                        # The first two plan their statements anew.
                        if at > 1:
                            took[name, what].append(1e3 * (time.perf_counter() - began))
        engine.dispose()
        for name in paths:
            without, within = (statistics.median(took[name, one]) for one in ("DISABLE", "ENABLE"))
            print(
                f"  {name}: {without:.1f} ms without, {within:.1f} ms with; ratio "
                f"{within / without:.2f} (wanted: at most {RATIO})"
            )


if __name__ == "__main__":
    main()
