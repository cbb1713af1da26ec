"""A whole workshop as one open file: JSON Lines and untouched files in a ZIP, with checksums.

The form is told in docs/archive.md. Nothing is held in memory that is larger than a row or a
stretch of a file, whichever way it goes.
"""

import json
import re
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from typing import IO, Any, Self

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from mildhusk.core.errors import InputError
from mildhusk.core.progress import Tell, silent

FORMAT, VERSION = "mild-husk-archive", 1
_MANIFEST = "manifest.json"
_STRETCH = 4_000_000
_MOST_MANIFEST, _LONGEST_ROW = 50_000_000, 64_000_000
_MOST_PACKED = 60
"""What is said once is packed well; a file packed better than so many times is a trap (assumed)."""
_SOME = 50_000_000
_SHA = r"^[0-9a-f]{64}$"
Row = dict[str, Any]


class ArchiveError(InputError):
    """A file that is no archive of a workshop, or not a whole one."""

    def __init__(self, message: str) -> None:
        super().__init__(message, "file")


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")
    bytes: int = Field(ge=0)
    sha256: str = Field(pattern=_SHA)


class TablePart(_Part):
    """A table's rows: how many, how large, and their checksum."""

    rows: int = Field(ge=0)


class Manifest(BaseModel):
    """What an archive holds."""

    model_config = ConfigDict(extra="forbid")
    format: str
    version: int
    made_at: str
    workshop_id: str
    workshop: Row
    of: str = Field(default="", max_length=300)
    tables: dict[str, TablePart]
    files: dict[str, _Part]


@dataclass(frozen=True, slots=True)
class Maker:
    """Who makes an archive: when, of which workshop, with its settings; of which part, or all."""

    made_at: str
    workshop_id: str
    workshop: Row
    of: str = ""


class ArchiveWriter:
    """Writes an archive: tables in the order they are taken in again, files once each."""

    def __init__(self, path: Path, maker: Maker) -> None:
        self._zip = zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=6)
        self._maker = maker
        self._tables: dict[str, TablePart] = {}
        self._files: dict[str, _Part] = {}

    def __enter__(self) -> Self:
        """Begin."""
        return self

    def __exit__(self, kind: object, error: object, trace: object) -> None:
        """Write what is in it, and close; nothing of that where something went wrong."""
        if kind is None:
            manifest = Manifest(
                format=FORMAT,
                version=VERSION,
                made_at=self._maker.made_at,
                workshop_id=self._maker.workshop_id,
                workshop=self._maker.workshop,
                of=self._maker.of,
                tables=self._tables,
                files=self._files,
            )
            self._zip.writestr(_MANIFEST, manifest.model_dump_json(indent=1))
        self._zip.close()

    def table(self, name: str, lines: Iterable[str]) -> None:
        """Write rows, each a line of JSON; files that they need are written after all of them."""
        digest, size, rows = sha256(), 0, 0
        with self._zip.open(f"tables/{name}.jsonl", "w", force_zip64=True) as part:
            for line in lines:
                written = line.encode() + b"\n"
                part.write(written)
                digest.update(written)
                size += len(written)
                rows += 1
        self._tables[name] = TablePart(bytes=size, sha256=digest.hexdigest(), rows=rows)

    def file(self, stretches: Iterable[bytes], key: str, suffix: str = "") -> None:
        """Write a file under its checksum, where it is not written yet."""
        name = path_of(key, suffix)
        if name in self._files:
            return
        size = 0
        with self._zip.open(name, "w", force_zip64=True) as part:
            for one in stretches:
                part.write(one)
                size += len(one)
        self._files[name] = _Part(bytes=size, sha256=key)


def path_of(key: str, suffix: str = "") -> str:
    """Return where a file stands in an archive: by its checksum, with a harmless ending."""
    return f"files/{key}{suffix if re.fullmatch(r'[.][a-z0-9]{1,8}', suffix) else ''}"


class ArchiveReader:
    """Reads an archive, and refuses one that is not whole in one sentence."""

    def __init__(self, path: Path, tell: Tell = silent) -> None:
        """Read what is in it; how far it is read later is told.

        Raises
        ------
        ArchiveError
            It is no archive, or of a newer version, or parts are missing.
        """
        try:
            self._zip = zipfile.ZipFile(path)
        except (zipfile.BadZipFile, OSError) as error:
            raise ArchiveError(
                "This is no archive, or only the beginning of one; export the workshop again."
            ) from error
        self._tell, self._been_read = tell, 0
        try:
            self.manifest = self._manifest()
            self._check(path)
            parts = (*self.manifest.tables.values(), *self.manifest.files.values())
            self._whole = sum(part.bytes for part in parts)
        except BaseException:
            self._zip.close()
            raise

    def __enter__(self) -> Self:
        """Begin."""
        return self

    def __exit__(self, *_: object) -> None:
        """Close it."""
        self._zip.close()

    def rows(self, table: str) -> Iterator[Row]:
        """Yield the rows of a table; none where the archive has no such table.

        Raises
        ------
        ArchiveError
            After the last row, where they are not those that were written.
        """
        part = self.manifest.tables.get(table)
        if part is None:
            return
        name, number = f"tables/{table}.jsonl", 0
        for line in self._lines(name, part):
            number += 1
            try:
                row = json.loads(line)
            except (ValueError, RecursionError) as error:
                raise ArchiveError(f"Row {number} of {name} is no JSON.") from error
            if not isinstance(row, dict):
                raise ArchiveError(f"Row {number} of {name} is no row.")
            yield row
        if number != part.rows:
            raise _damaged(name)

    def stretches(self, name: str) -> Iterator[bytes]:
        """Yield a file in stretches.

        Raises
        ------
        ArchiveError
            There is none, or its content is not what was written.
        """
        part = self.manifest.files.get(name)
        if part is None:
            raise ArchiveError(f"{name} is missing in the archive; export the workshop again.")
        digest, size = sha256(), 0
        with self._opened(name) as content:
            while True:
                one = self._read(content, name, _STRETCH)
                if not one:
                    break
                digest.update(one)
                size += len(one)
                self._told(len(one))
                yield one
        if digest.hexdigest() != part.sha256 or size != part.bytes:
            raise _damaged(name)

    def check(self) -> None:
        """Read all of it once.

        Raises
        ------
        ArchiveError
            Something is not what was written.
        """
        for table in self.manifest.tables:
            for _ in self.rows(table):
                pass
        for name in self.manifest.files:
            for _ in self.stretches(name):
                pass

    def _lines(self, name: str, part: TablePart) -> Iterator[bytes]:
        digest, size = sha256(), 0
        with self._opened(name) as content:
            while True:
                try:
                    line = content.readline(_LONGEST_ROW)
                except (zipfile.BadZipFile, zlib.error, EOFError) as error:
                    raise _damaged(name) from error
                if not line:
                    break
                digest.update(line)
                size += len(line)
                self._told(len(line))
                if not line.endswith(b"\n") or size > part.bytes:
                    raise _damaged(name)
                yield line
        if digest.hexdigest() != part.sha256:
            raise _damaged(name)

    def _told(self, more: int) -> None:
        """Tell how far it is read, from the first byte to the last."""
        self._been_read += more
        self._tell(min(self._been_read / max(self._whole, 1), 1.0), "read")

    def _opened(self, name: str) -> IO[bytes]:
        try:
            return self._zip.open(name)
        except (KeyError, RuntimeError, NotImplementedError, zipfile.BadZipFile) as error:
            raise _damaged(name) from error

    def _read(self, content: IO[bytes], name: str, most: int) -> bytes:
        try:
            return content.read(most)
        except (zipfile.BadZipFile, zlib.error, EOFError) as error:
            raise _damaged(name) from error

    def _manifest(self) -> Manifest:
        if _MANIFEST not in self._zip.namelist():
            raise ArchiveError("This ZIP is no archive of a workshop: it has no manifest.json.")
        with self._opened(_MANIFEST) as content:
            written = self._read(content, _MANIFEST, _MOST_MANIFEST)
        try:
            told = json.loads(written)
        except (ValueError, RecursionError) as error:
            raise _damaged(_MANIFEST) from error
        version = told.get("version") if isinstance(told, dict) else None
        if not isinstance(version, int) or told.get("format") != FORMAT:
            raise ArchiveError("This ZIP is no archive of a workshop.")
        if version > VERSION:
            raise ArchiveError(
                f"This archive has version {version}, and this release reads up to {VERSION}; "
                "update Mild Husk here first."
            )
        try:
            return Manifest.model_validate(told)
        except ValidationError as error:
            raise _damaged(_MANIFEST) from error

    def _check(self, path: Path) -> None:
        """Refuse an archive in which there is something else than its manifest says."""
        told: dict[str, _Part] = {
            **{f"tables/{name}.jsonl": part for name, part in self.manifest.tables.items()},
            **self.manifest.files,
        }
        there = [one for one in self._zip.infolist() if one.filename != _MANIFEST]
        if sorted(one.filename for one in there) != sorted(told):
            raise ArchiveError(
                "The archive does not hold what its manifest says; export the workshop again."
            )
        for one in there:
            if one.file_size != told[one.filename].bytes:
                raise _damaged(one.filename)
        whole = sum(one.file_size for one in there)
        if whole > _SOME + _MOST_PACKED * path.stat().st_size:
            raise ArchiveError("The archive is packed more tightly than any workshop is.")


def _damaged(name: str) -> ArchiveError:
    return ArchiveError(f"The archive is damaged at {name}; export the workshop again.")
