"""The whole workshop as one file, and taken in again: here, or on another machine.

The database writes its rows down and reads them back itself, whatever columns they have.
"""

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path, PurePath
from typing import Any
from uuid import UUID

from sqlalchemy import (
    Column,
    ColumnElement,
    Engine,
    LargeBinary,
    Table,
    Text,
    and_,
    bindparam,
    cast,
    delete,
    exists,
    func,
    insert,
    literal,
    select,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.exc import DBAPIError

from mildhusk.core.materials.catalogue import shipped_materials
from mildhusk.core.progress import Tell, silent
from mildhusk.documents.archive_files import (
    ArchiveError,
    ArchiveReader,
    ArchiveWriter,
    Maker,
    Row,
    path_of,
)
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import locked_workshop
from mildhusk.store.access_tables import WHO_COMES_IN
from mildhusk.store.base import Base
from mildhusk.store.kept import Kept
from mildhusk.store.tables import (
    CastSheetRow,
    KeptPattern,
    KitOffer,
    Material,
    MeshChunk,
    MeshFile,
    MouldEvent,
    MouldEventKind,
    MouldPatch,
    MouldRow,
    Pictured,
    Piece,
    Workshop,
)
from mildhusk.store.values import (
    BUILDS,
    DAY_JOBS,
    EQUIPMENT,
    FACES,
    PATTERNS,
    POUR_PLANS,
    SURVEYS,
    WALLS,
    WISHES,
)

_OF_THIS_MACHINE = WHO_COMES_IN | {
    "workshop", "job", "drawing", "mesh_chunk", "device", "live_weighing",
}  # fmt: skip
"""Not archived: what is made anew, what is plugged in here, and what is archived otherwise."""
_BY_NAME = {"person", "coat_run", "day_plan", "day_tick"}
"""Where a row of the same name, or for the same thing, stands here, that one stays."""
_SETTINGS = ("name", "currency", "hour_rate", "equipment", "day_places")
_AT_ONCE, _BYTES_AT_ONCE = 200, 4_000_000
_KEPT: dict[tuple[str, str], Kept[Any]] = {
    ("piece", "measures"): FACES,
    ("piece", "survey"): SURVEYS,
    ("cast_sheet", "wish"): WISHES,
    ("mould", "build"): BUILDS,
    ("coat_run", "figures"): WALLS,
    ("pour", "plan"): POUR_PLANS,
    ("day_job", "asked"): DAY_JOBS,
    ("kept_pattern", "asked"): PATTERNS,
}
"""What a screen reads of a row: refused while it is taken in, not when somebody looks."""
_UNREADABLE = (ValueError, TypeError, LookupError, AttributeError, ArithmeticError)
"""What reading a value can end with that was made to be no value; the core's own errors too."""


@dataclass(frozen=True, slots=True)
class TakenRows:
    """Of a table, how many rows an archive has and how many of them were not here yet."""

    table: str
    rows: int
    new: int


@dataclass(frozen=True, slots=True)
class TakenArchive:
    """What came of taking in an archive.

    Parameters
    ----------
    made_at : str
    workshop : str
        Its name when it was made.
    of : str
        What of it the archive holds; empty where it is all.
    replaces : bool
        Whether this workshop was empty: then it becomes the other one, with its settings.
    tables : tuple of TakenRows
        In the order in which they were taken in.
    """

    made_at: str
    workshop: str
    of: str
    replaces: bool
    tables: tuple[TakenRows, ...]


# --- out ---


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a workshop: what it is called, and which rows of which tables it is."""

    name: str
    rows: Mapping[str, ColumnElement[bool]]


def part_of_piece(transaction: Transaction, key: UUID) -> Part:
    """Return a piece with its file."""
    piece = transaction.find(Piece, key, "piece")
    patterns = {"kept_pattern": KeptPattern.piece_id == piece.id}
    return Part(f"piece '{piece.name}'", {**_piece_and_file(piece), **patterns})


def part_of_sheet(transaction: Transaction, key: UUID) -> Part:
    """Return a cast sheet with its piece and what it is cast of."""
    sheet = transaction.find(CastSheetRow, key, "sheet")
    return Part(
        f"cast sheet '{sheet.name}'",
        {
            **_piece_and_file(sheet.piece),
            **_materials(sheet.material_id),
            "cast_sheet": CastSheetRow.id == sheet.id,
        },
    )


def part_of_mould(transaction: Transaction, key: UUID) -> Part:
    """Return a mould with its piece, its rubber and shell, and what happened to it but casts."""
    mould = transaction.find(MouldRow, key, "mould")
    patches = [one.rubber_id for one in mould.patches]
    return Part(
        f"mould '{mould.name}'",
        {
            **_piece_and_file(mould.piece),
            **_materials(mould.rubber_id, mould.shell_id, *patches),
            "mould": MouldRow.id == mould.id,
            "mould_patch": MouldPatch.mould_id == mould.id,
            "kept_pattern": KeptPattern.mould_id == mould.id,
            "mould_event": and_(
                MouldEvent.mould_id == mould.id, MouldEvent.kind != MouldEventKind.CAST
            ),
        },
    )


def _piece_and_file(piece: Piece) -> dict[str, ColumnElement[bool]]:
    return {"piece": Piece.id == piece.id, "mesh_file": MeshFile.sha256 == piece.mesh_sha256}


def _materials(*keys: UUID) -> dict[str, ColumnElement[bool]]:
    return {"material": Material.id.in_(keys), "kit_offer": KitOffer.material_id.in_(keys)}


def write_archive(transaction: Transaction, path: Path, part: Part | None = None) -> None:
    """Write the workshop as it is at one moment, whatever is changed meanwhile; or a part of it.

    Parameters
    ----------
    transaction : Transaction
        For the whole workshop one in which nothing was read yet.
    path : Path
        Of the file; it is written anew.
    part : Part or None
    """
    session = transaction.session
    # On a connection that somebody else began, what that sees is what there is.
    if part is None and isinstance(session.get_bind(), Engine):
        session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
    row = session.get_one(Workshop, transaction.workshop_id)
    told = _SETTINGS if part is None else _SETTINGS[:1]
    columns = [Workshop.__table__.columns[name] for name in told]
    settings = session.scalars(select(_built(*columns)).where(Workshop.id == row.id)).one()
    of = "" if part is None else part.name
    maker = Maker(transaction.now.isoformat(), str(row.id), json.loads(settings), of)
    with ArchiveWriter(path, maker) as archive:
        for table in _tables():
            if part is not None and table.name not in part.rows:
                continue
            which = _mine(transaction, table)
            if part is not None:
                which = and_(which, part.rows[table.name])
            archive.table(table.name, _lines(transaction, table, which))
            _write_files(transaction, archive, table, which)
            if table is MeshFile.__table__:
                _write_meshes(transaction, archive, which)


def _tables() -> list[Table]:
    """Return what is archived: materials first, and nothing before what it refers to."""
    tables = [one for one in Base.metadata.sorted_tables if one.name not in _OF_THIS_MACHINE]
    return sorted(tables, key=lambda one: one is not Material.__table__)


def _files_of(table: Table) -> list[Column[Any]]:
    return [one for one in table.columns if isinstance(one.type, LargeBinary)]


def _columns_of(table: Table) -> list[Column[Any]]:
    """Return what of a table is archived: all but what the database fills in again."""
    return [one for one in table.columns if not one.info.get("is_filled_in")]


def _built(*columns: Any, **more: Any) -> ColumnElement[str]:
    """Return columns as one JSON object, as text: not a digit is lost on the way."""
    named = {**{one.name: one for one in columns}, **more}
    parts: list[Any] = [part for name, value in named.items() for part in (literal(name), value)]
    return cast(func.jsonb_build_object(*parts), Text)


def _mine(transaction: Transaction, table: Table) -> ColumnElement[bool]:
    """Return which rows of a table are of this workshop."""
    return table.columns["workshop_id"] == transaction.workshop_id


def _sha_of(column: Column[Any]) -> ColumnElement[str]:
    return func.encode(func.sha256(column), "hex")


def _lines(transaction: Transaction, table: Table, which: ColumnElement[bool]) -> Iterator[str]:
    """Yield a table's rows as JSON; of a column of bytes the checksum alone."""
    told = {one.name: _sha_of(one) for one in _files_of(table)}
    if issubclass(_class_of(table), Pictured):
        # Drawings are made anew where it is taken in.
        told |= {"picture": literal(""), "picture_of": literal("")}
    plain = [one for one in _columns_of(table) if one.name not in told]
    rows = select(_built(*plain, **told)).where(which)
    yield from transaction.session.scalars(
        rows.order_by(*table.primary_key.columns), execution_options={"yield_per": _AT_ONCE}
    )


def _class_of(table: Table) -> type[Base]:
    return next(one.class_ for one in Base.registry.mappers if one.local_table is table)


def _write_files(
    transaction: Transaction, archive: ArchiveWriter, table: Table, which: ColumnElement[bool]
) -> None:
    for column in _files_of(table):
        rows = transaction.session.execute(
            select(_sha_of(column), column).where(which, column.is_not(None)),
            execution_options={"yield_per": 1},
        )
        for key, content in rows:
            archive.file([content], key)


def _write_meshes(
    transaction: Transaction, archive: ArchiveWriter, which: ColumnElement[bool]
) -> None:
    for key, name in transaction.session.execute(
        select(MeshFile.sha256, MeshFile.file_name).where(which).order_by(MeshFile.sha256)
    ).all():
        stretches = transaction.session.scalars(
            select(MeshChunk.content)
            .where(MeshChunk.workshop_id == transaction.workshop_id, MeshChunk.sha256 == key)
            .order_by(MeshChunk.number),
            execution_options={"yield_per": 1},
        )
        archive.file(stretches, key, PurePath(name).suffix.lower())


# --- in ---


def take_in_archive(
    transaction: Transaction, path: Path, *, try_only: bool = False, tell: Tell = silent
) -> TakenArchive:
    """Take in an archive, all of it or nothing; what is here already stays as it is.

    Parameters
    ----------
    transaction : Transaction
    path : Path
        Of the archive.
    try_only : bool
        Do it, say what came of it, and undo it.
    tell : callable
        Is told how far it is; what it raises stops it, and undoes it.

    Returns
    -------
    TakenArchive

    Raises
    ------
    ArchiveError
        The file is no whole archive, or what is in it does not fit here.
    """
    with ArchiveReader(path, tell) as archive:
        known = {one.name for one in _tables()}
        if unknown := sorted(set(archive.manifest.tables) - known):
            raise ArchiveError(f"This release knows no table '{unknown[0]}'; update it first.")
        # What is only tried is undone; so is what fails, and nothing is left half taken in.
        nested = transaction.session.begin_nested()
        try:
            taken = _Taking(transaction, archive).all()
        except (DBAPIError, RecursionError, UnicodeError) as error:
            nested.rollback()
            raise ArchiveError(
                "Something in the archive does not go together with what is here, so nothing was "
                "imported; import it into an empty workshop."
            ) from error
        except BaseException:
            nested.rollback()
            raise
        if try_only:
            nested.rollback()
        else:
            nested.commit()
        return taken


class _Taking:
    """Takes in an archive, table by table."""

    def __init__(self, transaction: Transaction, archive: ArchiveReader) -> None:
        self._transaction, self._archive = transaction, archive
        self._session = transaction.session
        self._here = {archive.manifest.workshop_id: str(transaction.workshop_id)}
        """What keys of the archive stand for what keys here."""
        self._used: set[str] = set()

    def all(self) -> TakenArchive:
        manifest = self._archive.manifest
        replaces = not manifest.of and _is_empty(self._transaction)
        workshop = locked_workshop(self._transaction)
        if replaces:
            # The shelf it was founded with goes; the archive brings its own.
            for shelf in (KitOffer, Material):
                mine = shelf.workshop_id == self._transaction.workshop_id
                self._session.execute(delete(shelf).where(mine))
            self._take_settings(workshop)
        told = [self._take(table) for table in _tables()]
        self._take_meshes()
        for name in sorted(self._archive.manifest.files.keys() - self._used):
            for _ in self._archive.stretches(name):
                pass
        self._session.expire_all()
        name = str(manifest.workshop.get("name", ""))[:120]
        return TakenArchive(manifest.made_at, name, manifest.of, replaces, tuple(told))

    def _take_settings(self, workshop: Workshop) -> None:
        told = self._archive.manifest.workshop
        _read("workshop", "equipment", EQUIPMENT, told.get("equipment"))
        statement = text(
            "UPDATE workshop SET "
            + ", ".join(f"{name} = told.{name}" for name in _SETTINGS)
            + " FROM jsonb_populate_record(NULL::workshop, :told) AS told WHERE workshop.id = :id"
        )
        given = {"told": {name: told.get(name) for name in _SETTINGS}, "id": workshop.id}
        self._session.execute(statement.bindparams(bindparam("told", type_=JSONB)), given)

    def _take(self, table: Table) -> TakenRows:
        rows = new = 0
        columns = {one.name for one in _columns_of(table)}
        files = [one.name for one in _files_of(table)]
        for batch in _batches(self._read_rows(table, columns, files)):
            rows += len(batch)
            new += self._insert(table, self._mapped(table, batch))
        return TakenRows(table.name, rows, new)

    def _read_rows(self, table: Table, columns: set[str], files: list[str]) -> Iterator[Row]:
        for row in self._archive.rows(table.name):
            if row.keys() != columns:
                odd = sorted(row.keys() ^ columns)[0]
                raise ArchiveError(f"A row of {table.name} does not fit: look at '{odd}'.")
            found: Row = self._moved(row)
            if "workshop_id" in columns:
                found["workshop_id"] = str(self._transaction.workshop_id)
            for (of, name), kept in _KEPT.items():
                if of == table.name:
                    _read(of, name, kept, found[name])
            for name in files:
                if found[name] is not None:
                    found[name] = self._content(str(found[name]))
            yield found

    def _moved(self, value: Any) -> Any:
        """Return a value in which keys are those of here."""
        if isinstance(value, str):
            return self._here.get(value, value)
        if isinstance(value, list):
            return [self._moved(one) for one in value]
        if isinstance(value, dict):
            return {name: self._moved(one) for name, one in value.items()}
        return value

    def _content(self, key: str) -> str:
        """Return a file as the database reads bytes."""
        name = path_of(key)
        self._used.add(name)
        return "\\x" + b"".join(self._archive.stretches(name)).hex()

    def _mapped(self, table: Table, batch: list[Row]) -> list[Row]:
        """Return what of a batch is to be taken in: no material twice, and none of its offers."""
        if table is Material.__table__:
            there = select(Material.key, Material.id).where(
                Material.workshop_id == self._transaction.workshop_id,
                Material.key.in_([one["key"] for one in batch]),
            )
            known = {key: str(found) for key, found in self._session.execute(there)}
            new = []
            for row in batch:
                if str(row["key"]) in known:
                    self._here[str(row["id"])] = known[str(row["key"])]
                else:
                    new.append(row)
            return new
        if table is KitOffer.__table__:
            stood = set(self._here.values())
            return [row for row in batch if str(row["material_id"]) not in stood]
        return batch

    def _insert(self, table: Table, rows: list[Row]) -> int:
        if not rows:
            return 0
        keys = ", ".join(table.primary_key.columns.keys())
        columns = ", ".join(f'"{one.name}"' for one in _columns_of(table))
        where = "" if table.name in _BY_NAME else f"({keys}) "
        statement = text(
            f"INSERT INTO {table.name} ({columns}) SELECT {columns} FROM "
            f"jsonb_populate_recordset(NULL::{table.name}, :rows) "
            f"ON CONFLICT {where}DO NOTHING RETURNING 1"
        )
        found = self._session.execute(
            statement.bindparams(bindparam("rows", type_=JSONB)), {"rows": rows}
        )
        return len(found.all())

    def _take_meshes(self) -> None:
        here = self._transaction.workshop_id
        has_chunks = exists().where(
            MeshChunk.workshop_id == here, MeshChunk.sha256 == MeshFile.sha256
        )
        bare = select(MeshFile.sha256, MeshFile.file_name).where(
            MeshFile.workshop_id == here, ~has_chunks
        )
        for key, file_name in self._session.execute(bare).all():
            name = path_of(key, PurePath(file_name).suffix.lower())
            self._used.add(name)
            part = self._archive.manifest.files.get(name)
            if part is not None and part.sha256 != key:
                raise ArchiveError(f"{name} is not the file that its name says.")
            for number, content in enumerate(self._archive.stretches(name)):
                values = {"workshop_id": here, "sha256": key, "number": number, "content": content}
                self._session.execute(insert(MeshChunk).values(**values))


def _read(table: str, column: str, kept: Kept[Any], value: Any) -> None:
    """Refuse what no screen could read."""
    if not value:
        return
    try:
        kept.read(dict(value))
    except _UNREADABLE as error:
        raise ArchiveError(
            f"A row of {table} cannot be read: {column} is not as it was."
        ) from error


def _batches(rows: Iterable[Row]) -> Iterator[list[Row]]:
    """Yield rows in batches that are not large, however large a row is."""
    batch: list[Row] = []
    size = 0
    for row in rows:
        batch.append(row)
        size += sum(len(one) for one in row.values() if isinstance(one, str))
        if len(batch) >= _AT_ONCE or size > _BYTES_AT_ONCE:
            yield batch
            batch, size = [], 0
    if batch:
        yield batch


def _is_empty(transaction: Transaction) -> bool:
    """Whether nothing is here but the shelf that a workshop is founded with."""
    apart = {Material.__tablename__, KitOffer.__tablename__}
    for table in _tables():
        if table.name in apart:
            continue
        if transaction.session.scalar(select(exists().where(_mine(transaction, table)))):
            return False
    shipped = [one.key for one in shipped_materials()]
    own = (Material.workshop_id == transaction.workshop_id, Material.key.not_in(shipped))
    return not transaction.session.scalar(select(exists().where(*own)))
