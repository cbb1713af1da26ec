"""How long the list of a shelf of 10,000 materials takes to answer; wanted: under 100 ms at p95."""

import statistics
import sys
import time
import urllib.request
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from sqlalchemy import text  # noqa: E402

from mildhusk.store.database import open_engine  # noqa: E402
from served import Server, fresh_database, temporary_cluster  # noqa: E402 - the tests' server

MATERIALS, ROUNDS, LIMIT_MS = 10_000, 100, 100.0
# Own copies of the shipped resins and supplies under other keys and names.
_FILL = text(
    "INSERT INTO material (id, workshop_id, created_at, version, kind, key, name, sheet) "
    "SELECT gen_random_uuid(), workshop_id, created_at, 1, kind, key || '-' || n, "
    "name || ' ' || n, sheet FROM material, generate_series(1, :copies) AS n"
)


def main() -> None:
    """Fill a shelf, ask for its lists, print the percentiles and their ratio to the limit."""
    with temporary_cluster() as cluster, fresh_database(cluster) as url:
        server = Server(url)
        try:
            engine = open_engine(url)
            with engine.begin() as connection:
                known = connection.execute(text("SELECT count(*) FROM material")).scalar_one()
                connection.execute(_FILL, {"copies": MATERIALS // known})
                connection.execute(text("ANALYZE material"))
                total = connection.execute(text("SELECT count(*) FROM material")).scalar_one()
            engine.dispose()
            print(f"shelf_list: {total:,} materials on the shelf, {ROUNDS} answers each")
            for path in ("materials", "supplies"):
                _report(server.address, path)
        finally:
            server.stop()


def _report(address: str, path: str) -> None:
    took = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        with urllib.request.urlopen(f"{address}api/v1/{path}") as answer:
            answer.read()
        took.append((time.perf_counter() - start) * 1e3)
    p95 = statistics.quantiles(took, n=20)[18]
    print(
        f"  /{path}: median {statistics.median(took):.0f} ms, 95th percentile {p95:.0f} ms, "
        f"ratio to the limit {p95 / LIMIT_MS:.2f} (wanted: at most 1)"
    )


if __name__ == "__main__":
    main()
