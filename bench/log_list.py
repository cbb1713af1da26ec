"""How long log, search and mould take to answer with 10,000 pours and 50,000 readings.

Copies of the demo's pours, one after another over six years. Wanted: lists, search and the views of
a mould's page under 150 ms at the 95th percentile; what a new pour teaches within 1 s of its
closing, when the next plan asks.
"""

import statistics
import sys
import time
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from sqlalchemy import Connection, text  # noqa: E402

from browser.lookup import fetch, fetch_bytes, post, sheet_named  # noqa: E402 - the tests' words
from mildhusk.store.database import open_engine  # noqa: E402
from served import fresh_database, served, temporary_cluster  # noqa: E402

POURS, READINGS, ROUNDS, LIMIT_MS, LEARN_S = 10_000, 5, 60, 150.0, 1.0
_COPIES = """
CREATE TEMP TABLE copied AS
SELECT p.id AS old, gen_random_uuid() AS new, n
FROM pour p, generate_series(1, :times) AS n WHERE p.status = 'cast';
"""
_FILL = (
    "INSERT INTO pour (id, workshop_id, created_at, sheet_id, piece_id, mould_id, material_id, "
    "sheet_name, piece_name, resin_name, plan, status, closed_at, cast_g, note) "
    "SELECT new, workshop_id, created_at - n * interval '3 days', sheet_id, piece_id, mould_id, "
    "material_id, sheet_name, piece_name, resin_name, plan, status, "
    "closed_at - n * interval '3 days', cast_g, note || ' ' || n FROM pour JOIN copied ON old = id",
    "INSERT INTO poured_coat (workshop_id, pour_id, number, a_g, b_g, weighed_at, mixed_at, "
    "poured_at, gelled_at, room_k) SELECT workshop_id, new, number, a_g, b_g, weighed_at, "
    "mixed_at, poured_at, gelled_at, room_k FROM poured_coat JOIN copied ON old = pour_id",
    "INSERT INTO numbered_cast (id, workshop_id, created_at, pour_id, mould_id, number, state, "
    "for_whom, place) SELECT gen_random_uuid(), workshop_id, created_at, new, mould_id, "
    "100 + row_number() OVER (PARTITION BY mould_id), state, '', '' "
    "FROM numbered_cast JOIN copied ON old = pour_id",
    "INSERT INTO mould_event (id, workshop_id, created_at, mould_id, kind, note) "
    "SELECT gen_random_uuid(), workshop_id, created_at, mould_id, 'cast', '' "
    "FROM pour WHERE id IN (SELECT new FROM copied) AND mould_id IS NOT NULL",
    "INSERT INTO wall_reading (id, workshop_id, created_at, pour_id, by, wall_m, place) "
    "SELECT gen_random_uuid(), workshop_id, created_at, id, 'hole', 0.002 + random() * 0.002, "
    "'place ' || n FROM pour, generate_series(1, :readings) AS n "
    "WHERE id IN (SELECT new FROM copied)",
    "INSERT INTO pour_fault (id, workshop_id, created_at, pour_id, kind, place, told, verdict) "
    "SELECT gen_random_uuid(), workshop_id, created_at, id, 'thin', 'brow', '{}', '' "
    "FROM pour WHERE id IN (SELECT new FROM copied WHERE n % 10 = 0)",
)


def main() -> None:
    """Fill a log, ask, print percentiles and their ratios to the limits."""
    with (
        temporary_cluster() as cluster,
        fresh_database(cluster) as url,
        served(url, "--demo") as server,
    ):
        engine = open_engine(url)
        with engine.begin() as connection:
            total = fill_log(connection)
        engine.dispose()
        address = server.address
        sheet = sheet_named(address, "souvenir")
        mould = next(one for one in fetch(address, "/moulds")["moulds"] if "Harb" in one["name"])
        print(f"log_list: {total:,} pours, {READINGS} readings each, {ROUNDS} answers of each kind")
        began = time.perf_counter()
        while not _is_told(url):
            fetch(address, f"/sheets/{sheet['id']}/learned")
        print(f"  once, all pours told anew in {time.perf_counter() - began:.1f} s")
        key = mould["id"]
        for said, path in (
            ("the log", "/pours"),
            ("its search", "/pours?search=brow"),
            ("a mould", f"/moulds/{key}"),
            ("its casts and charts", f"/moulds/{key}/casts"),
            ("its life", f"/moulds/{key}/life"),
            ("what was learned", f"/sheets/{sheet['id']}/learned"),
        ):
            _told(said, address, path)
        _learn(address, sheet)


def fill_log(connection: Connection) -> int:
    """Copy the poured casts until there are enough; return how many pours there are."""
    known = connection.execute(text("SELECT count(*) FROM pour WHERE status = 'cast'")).scalar_one()
    connection.execute(text(_COPIES), {"times": POURS // known + 1})
    for statement in _FILL:
        bound = {"readings": READINGS} if ":readings" in statement else {}
        connection.execute(text(statement), bound)
    connection.execute(text("ANALYZE"))
    return int(connection.execute(text("SELECT count(*) FROM pour")).scalar_one())


def _is_told(url: str) -> bool:
    engine = open_engine(url)
    with engine.begin() as connection:
        left = connection.execute(text("SELECT count(*) FROM pour WHERE lesson IS NULL")).scalar()
    engine.dispose()
    return not left


def _told(said: str, address: str, path: str) -> None:
    took = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        fetch_bytes(address, path)
        took.append(1e3 * (time.perf_counter() - began))
    late = statistics.quantiles(took, n=20)[18]
    print(
        f"  {said}: median {statistics.median(took):.0f} ms, 95th percentile {late:.0f} ms; "
        f"ratio to the limit {late / LIMIT_MS:.2f} (wanted: at most 1)"
    )


def _learn(address: str, sheet: dict[str, object]) -> None:
    """Pour and close once more; how long the next plan takes that learns of it."""
    pour = post(address, "/pours", {"sheet_id": sheet["id"]})
    for coat in pour["plan"]["coats"]:
        parts = coat["parts_m3"] if pour["plan"]["ratio_basis"] == "volume" else coat["parts_kg"]
        for step in ("weigh", "mix", "pour", "gel"):
            done = {"coat": coat["number"], "step": step}
            if step == "weigh":
                done["parts"] = {"a": parts["A"], "b": parts["B"]}
            post(address, f"/pours/{pour['id']}/steps", done)
    post(address, f"/pours/{pour['id']}/close", {"status": "cast", "cast_kg": 0.2})
    began = time.perf_counter()
    fetch(address, f"/sheets/{sheet['id']}/learned")
    took = time.perf_counter() - began
    print(
        f"  learned after a pour in {1e3 * took:.0f} ms; ratio to the limit {took / LEARN_S:.2f} "
        "(wanted: at most 1)"
    )


if __name__ == "__main__":
    main()
