"""How long a large workshop takes out and in as an archive, and how much memory that needs.

10,000 pours with 50,000 readings, and ten meshes of 200 MB that nothing packs. Wanted: memory that
does not grow with what is archived: at most 250 MB above a process that did nothing.
"""

import multiprocessing
import os
import sys
import tempfile
import time
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from log_list import fill_log  # noqa: E402
from mildhusk.demo.scenario import fill  # noqa: E402
from mildhusk.services.archive import take_in_archive, write_archive  # noqa: E402
from mildhusk.services.files import keep_file  # noqa: E402
from mildhusk.services.transaction import Transaction  # noqa: E402
from mildhusk.services.workshop import found_workshop  # noqa: E402
from mildhusk.store.database import migrate, open_engine, open_sessions  # noqa: E402
from served import fresh_database, temporary_cluster  # noqa: E402

MESHES, MESH_BYTES, LIMIT_MB = 10, 200_000_000, 250.0
NOW = datetime(2026, 11, 30, 9, 0, tzinfo=UTC)


def main() -> None:
    """Fill a workshop, write it, try it and take it in elsewhere; each in a process of its own."""
    spawn = multiprocessing.get_context("spawn")
    with (
        temporary_cluster() as cluster,
        fresh_database(cluster) as here,
        fresh_database(cluster) as there,
        tempfile.TemporaryDirectory() as folder,
    ):
        path = Path(folder) / "workshop.zip"
        _filled(here)
        for said, url, what in (
            ("written", here, "write"), ("tried", there, "try"), ("taken in", there, "take")
        ):  # fmt: skip
            with spawn.Pool(1) as pool:
                took, grown = pool.apply(_measured, (url, path, what))
            size = path.stat().st_size / 1e9
            print(f"archive: {size:.2f} GB {said} in {took:.0f} s; memory grew by {grown:.0f} MB, "
                  f"ratio {grown / LIMIT_MB:.2f} (wanted: at most 1)")  # fmt: skip


def _filled(url: str) -> None:
    with _Opened(url) as at:
        fill(at.sessions, NOW)
        with at.sessions.begin() as session:
            transaction = Transaction(session, found_workshop(session, NOW), NOW)
            for number in range(MESHES):
                with tempfile.TemporaryFile() as file:
                    digest = sha256()
                    for _ in range(MESH_BYTES // 10_000_000):
                        stretch = os.urandom(10_000_000)
                        digest.update(stretch)
                        file.write(stretch)
                    file.seek(0)
                    keep_file(transaction, f"m{number}.stl", digest.hexdigest(), MESH_BYTES, file)
        with at.engine.begin() as connection:
            print(f"archive: {fill_log(connection):,} pours, {MESHES} meshes of 200 MB")


def _measured(url: str, path: Path, what: str) -> tuple[float, float]:
    """Return how long it took [s], and how much memory it needed more than before [MB]."""
    with _Opened(url) as at, at.sessions.begin() as session:
        workshop_id = found_workshop(session, NOW)
        session.commit()
        # The highest so far is forgotten: what it took to begin counts as before.
        Path("/proc/self/clear_refs").write_text("5")
        before, began = _peak_mb(), time.perf_counter()
        with at.sessions.begin() as fresh:
            transaction = Transaction(fresh, workshop_id, NOW)
            if what == "write":
                write_archive(transaction, path)
            else:
                take_in_archive(transaction, path, try_only=what == "try")
        return time.perf_counter() - began, _peak_mb() - before


def _peak_mb() -> float:
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(float(one.split()[1]) for one in lines if one.startswith("VmHWM")) / 1e3


class _Opened:
    def __init__(self, url: str) -> None:
        self.engine = open_engine(url)
        self.sessions = open_sessions(self.engine)

    def __enter__(self) -> "_Opened":
        migrate(self.engine)
        return self

    def __exit__(self, *_: object) -> None:
        self.engine.dispose()


if __name__ == "__main__":
    main()
