"""The workshop kept elsewhere: backups as archives, read back before they count, and restored.

`husk-web backup FOLDER`, `husk-web verify FILE`, `husk-web restore FILE`. The database is the one
at DATABASE_URL, or the one in the data folder, whether the application runs on it or not.
"""

import argparse
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

from mildhusk.cluster import Cluster, ClusterError
from mildhusk.core.errors import HuskError
from mildhusk.documents.archive_files import ArchiveReader
from mildhusk.services.archive import TakenArchive, take_in_archive, write_archive
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import migrate, open_engine, open_sessions

_NAME = "workshop-{:%Y-%m-%d-%H%M%S}.zip"
_PATTERN = "workshop-*.zip"


def main() -> int:
    """Do one of the three; returns the exit code."""
    given = _arguments()
    try:
        match given.what:
            case "backup":
                _backup(given.place, given.data, given.keep)
            case "verify":
                _verify(given.place)
            case _:
                _restore(given.place, given.data)
    except SQLAlchemyError as error:
        print(f"husk-web: the database does not answer: {error}".splitlines()[0], file=sys.stderr)
        return 1
    except (HuskError, ClusterError, OSError) as error:
        print(f"husk-web: {error}", file=sys.stderr)
        return 1
    return 0


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="husk-web", description=__doc__)
    sub = parser.add_subparsers(dest="what", required=True)
    backup = sub.add_parser("backup", help="write an archive into a folder, and read it back")
    backup.add_argument("place", type=Path, metavar="FOLDER")
    backup.add_argument("--keep", type=_some, default=14, help="so many archives stay there (14)")
    verify = sub.add_parser("verify", help="restore an archive into a database thrown away after")
    verify.add_argument("place", type=Path, metavar="FILE")
    restore = sub.add_parser("restore", help="take an archive in")
    restore.add_argument("place", type=Path, metavar="FILE")
    for one in (backup, restore):
        one.add_argument("--data", type=Path, default=Path(".local/postgres"))
    return parser.parse_args()


def _some(text: str) -> int:
    number = int(text)
    if number < 1:
        raise argparse.ArgumentTypeError("keep one at least")
    return number


def _backup(folder: Path, data: Path, keep: int) -> None:
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


def _verify(path: Path) -> None:
    with tempfile.TemporaryDirectory(prefix="mildhusk-verify-") as folder:
        # Open to the postgres account.
        Path(folder).chmod(0o755)
        with _kept(Cluster(Path(folder) / "data", careless=True)) as address:
            _tell(_taken(path, address))


def _restore(path: Path, data: Path) -> None:
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


if __name__ == "__main__":
    sys.exit(main())
