"""The workshop kept elsewhere: backups as archives, read back before they count, and restored."""

import os
import sys
import tempfile
import time
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

from mildhusk.cluster import Cluster
from mildhusk.core.errors import HuskError
from mildhusk.core.progress import Tell
from mildhusk.documents.archive_files import ArchiveReader
from mildhusk.reach import database, transaction
from mildhusk.sealing import KEY, SUFFIX, opened, public_key, seal
from mildhusk.services.archive import TakenArchive, take_in_archive, write_archive
from mildhusk.services.workshop import note_backup, workshop_here

_NAME = "workshop-{:%Y-%m-%d-%H%M%S}.zip"
_PATTERN = "workshop-*.zip*"
KEPT = 14
"""So many stay in the folder unless it is said otherwise."""
_EVERY, _AGAIN_S = timedelta(days=1), 600.0
"""A backup is made so often; whether one is due, or can be made again, is asked so often. [s]"""
_SAID_PARTS = 20
"""How far an import is, is said for each such part. [1]"""


def backup(folder: Path, data: Path, keep: int) -> None:
    """Write an archive into a folder and read it back; the oldest beyond so many are deleted."""
    with database(data) as address:
        path = back_up(address, folder, keep, datetime.now(UTC))
    print(f"{path}: {path.stat().st_size / 1e6:.1f} MB, written and read back.")


def back_up(address: str, folder: Path, keep: int, now: datetime) -> Path:
    """Make a backup of a database and return its file; the workshop knows how it went."""
    name = _NAME.format(now)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        half = (folder / name).with_suffix(".half")
        try:
            path = folder / f"{name}{_write(address, half, now)}"
            half.replace(path)
        finally:
            with suppress(OSError):
                half.unlink(missing_ok=True)
        # Only once a new one is good does an old one go.
        for old in sorted(folder.glob(_PATTERN))[:-keep]:
            old.unlink()
    except (OSError, HuskError) as error:
        with transaction(address, now) as at:
            note_backup(at, str(error))
        raise
    with transaction(address, now) as at:
        note_backup(at)
    return path


def _write(address: str, path: Path, now: datetime) -> str:
    """Write a file that was read back; return what its name ends with: it may be encrypted."""
    key = os.environ.get(KEY)
    if not key:
        _write_archive(address, path, now)
        return ""
    to = public_key(key)
    # What is not encrypted yet stays on this machine.
    with tempfile.TemporaryDirectory(prefix="mildhusk-backup-") as here:
        plain = Path(here) / "workshop.zip"
        _write_archive(address, plain, now)
        seal(plain, path, to)
    return SUFFIX


def _write_archive(address: str, path: Path, now: datetime) -> None:
    with transaction(address, now) as at:
        write_archive(at, path)
    with ArchiveReader(path) as archive:
        archive.check()


def back_up_where_due(address: str, folder: Path, now: datetime) -> bool:
    """Make the day's backup where the last good one is a day old; return whether it was tried."""
    with transaction(address, now) as at:
        last = workshop_here(at).backed_up_at
    if last is not None and now - last < _EVERY:
        return False
    try:
        back_up(address, folder, KEPT, now)
    except (OSError, HuskError) as error:
        print(f"husk-backup: {error}", file=sys.stderr, flush=True)
    return True


def tend_backups(address: str, folder: Path) -> None:
    """Make a backup every day, for as long as this process lives."""
    while True:
        # A database that is away is asked again.
        with suppress(SQLAlchemyError):
            back_up_where_due(address, folder, datetime.now(UTC))
        time.sleep(_AGAIN_S)


def verify(path: Path, key: Path | None = None) -> None:
    """Restore an archive into a database that is thrown away after, and say what was in it."""
    with opened(path, key) as plain, tempfile.TemporaryDirectory(prefix="mildhusk-verify-") as at:
        # Open to the postgres account.
        Path(at).chmod(0o755)
        with Cluster(Path(at) / "data", careless=True).running() as address:
            _tell(_taken(plain, address))


def restore(path: Path, data: Path, key: Path | None = None) -> None:
    """Import an archive, and say what was new."""
    with opened(path, key) as plain, database(data) as address:
        _tell(_taken(plain, address))


def _taken(path: Path, address: str) -> TakenArchive:
    with transaction(address, datetime.now(UTC)) as at:
        return take_in_archive(at, path, tell=_share_teller())


def _share_teller() -> Tell:
    """Return what prints how far it is, each twentieth once."""
    said = 0

    def tell(share: float, words: str) -> None:
        nonlocal said
        if int(share * _SAID_PARTS) > said:
            said = int(share * _SAID_PARTS)
            said_so = f"{100 * share:.0f} % {words}; Ctrl-C stops it, and nothing is imported."
            print(said_so, file=sys.stderr)

    return tell


def _tell(taken: TakenArchive) -> None:
    print(f"'{taken.workshop}', exported {taken.made_at}:")
    for one in taken.tables:
        if one.rows:
            here = one.rows - one.new
            print(f"  {one.table}: {one.new} imported" + (f", {here} here already" if here else ""))
