"""The workshop kept elsewhere: backups as archives, read back before they count, and restored.

The database is the one at DATABASE_URL, or the one in the data folder, whether the application runs
on it or not.
"""

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from mildhusk.cluster import Cluster
from mildhusk.documents.archive_files import ArchiveReader
from mildhusk.services.archive import TakenArchive, take_in_archive, write_archive
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions

_NAME = "workshop-{:%Y-%m-%d-%H%M%S}.zip"
_PATTERN = "workshop-*.zip"


def backup(folder: Path, data: Path, keep: int) -> None:
    """Write an archive into a folder and read it back; the oldest beyond so many are deleted."""
    folder.mkdir(parents=True, exist_ok=True)
    now = datetime.now(UTC)
    path = folder / _NAME.format(now)
    half = path.with_suffix(".half")
    try:
        with _database(data) as address, _transaction(address) as at:
            write_archive(at, half)
        with ArchiveReader(half) as archive:
            archive.check()
        half.replace(path)
    finally:
        half.unlink(missing_ok=True)
    print(f"{path}: {path.stat().st_size / 1e6:.1f} MB, written and read back.")
    # Only once a new one is good does an old one go.
    for old in sorted(folder.glob(_PATTERN))[:-keep]:
        old.unlink()
        print(f"{old}: deleted, as {keep} are kept.")


def verify(path: Path) -> None:
    """Restore an archive into a database that is thrown away after, and say what was in it."""
    with tempfile.TemporaryDirectory(prefix="mildhusk-verify-") as folder:
        # Open to the postgres account.
        Path(folder).chmod(0o755)
        with _kept(Cluster(Path(folder) / "data", careless=True)) as address:
            _tell(_taken(path, address))


def restore(path: Path, data: Path) -> None:
    """Take an archive in, and say what was new."""
    with _database(data) as address:
        _tell(_taken(path, address))


def _taken(path: Path, address: str) -> TakenArchive:
    with _transaction(address) as at:
        return take_in_archive(at, path)


def _tell(taken: TakenArchive) -> None:
    print(f"'{taken.workshop}', exported {taken.made_at}:")
    for one in taken.tables:
        if one.rows:
            here = one.rows - one.new
            print(f"  {one.table}: {one.new} taken in" + (f", {here} here already" if here else ""))


@contextmanager
def _database(data: Path) -> Iterator[str]:
    outside = os.environ.get("DATABASE_URL")
    if outside:
        yield outside
        return
    with _kept(Cluster(data)) as address:
        yield address


@contextmanager
def _kept(cluster: Cluster) -> Iterator[str]:
    """Have a cluster running meanwhile; one that ran before is left running."""
    ours = cluster.start()
    try:
        yield cluster.url
    finally:
        if ours:
            cluster.stop()


@contextmanager
def _transaction(address: str) -> Iterator[Transaction]:
    engine = open_engine(address)
    try:
        migrate(engine)
        sessions, now = open_sessions(engine), datetime.now(UTC)
        with sessions.begin() as session:
            workshop_id = found_workshop(session, now)
        with sessions.begin() as session:
            yield Transaction(session, workshop_id, now)
    finally:
        engine.dispose()
