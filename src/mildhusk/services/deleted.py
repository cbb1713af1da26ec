"""What was deleted, for thirty days: kept as it was, and brought back by a press."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, bindparam, column, delete, func, select, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.exc import IntegrityError

from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Transaction
from mildhusk.store.base import Owned
from mildhusk.store.tables import DeletedThing, Pictured

KEPT_FOR = timedelta(days=30)
Hanging = tuple[type[Owned], ColumnElement[bool]]
"""A table, and which of its rows go with what is deleted."""


def put_away(
    transaction: Transaction, row: Owned, name: str, hanging: Sequence[Hanging] = ()
) -> UUID:
    """Keep a row that is about to be deleted, with what hangs on it; returns what brings it back.

    The database writes the rows down and reads them back itself, whatever columns they have.
    """
    transaction.session.flush()
    transaction.session.execute(
        delete(DeletedThing).where(
            DeletedThing.workshop_id == transaction.workshop_id,
            DeletedThing.created_at < transaction.now - KEPT_FOR,
        )
    )
    table = type(row)
    kept = [
        {"table": one.__tablename__, "row": {**written, **_undrawn(one)}}
        for one, which in ((table, table.id == row.id), *hanging)
        for written in transaction.session.scalars(_written(one, which))
    ]
    thing = DeletedThing(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        what=table.__tablename__,
        name=name,
        rows=kept,
    )
    transaction.session.add(thing)
    transaction.session.flush()
    return thing.id


def _undrawn(table: type[Owned]) -> dict[str, str]:
    """Return what is told of a drawing that is thrown away meanwhile: it is made anew."""
    return {"picture": "", "picture_of": ""} if issubclass(table, Pictured) else {}


def _written(table: type[Owned], which: ColumnElement[bool]) -> Any:
    return select(func.to_jsonb(column(table.__tablename__))).select_from(table).where(which)


@dataclass(frozen=True, slots=True)
class DeletedSummary:
    """A thing that was deleted: its table's name, its own, when."""

    id: UUID
    what: str
    name: str
    deleted_at: datetime


def list_deleted(transaction: Transaction) -> tuple[DeletedSummary, ...]:
    """Return what can be brought back, the newest first."""
    rows = transaction.session.execute(
        select(DeletedThing.id, DeletedThing.what, DeletedThing.name, DeletedThing.created_at)
        .where(
            DeletedThing.workshop_id == transaction.workshop_id,
            DeletedThing.created_at >= transaction.now - KEPT_FOR,
        )
        .order_by(DeletedThing.created_at.desc(), DeletedThing.id)
        .limit(200)
    )
    return tuple(DeletedSummary(*row) for row in rows)


def bring_back(transaction: Transaction, key: UUID) -> DeletedSummary:
    """Bring a thing back as it was when it was deleted.

    Raises
    ------
    ConflictError
        What it stands on is gone as well, or something has taken its place.
    """
    thing = transaction.find(DeletedThing, key, "deleted thing", lock=True)
    told = DeletedSummary(thing.id, thing.what, thing.name, thing.created_at)
    try:
        with transaction.session.begin_nested():
            for one in thing.rows:
                table = DeletedThing.metadata.tables[one["table"]]
                transaction.session.execute(
                    text(
                        f"INSERT INTO {table.name} SELECT * FROM "
                        f"jsonb_populate_record(NULL::{table.name}, :row)"
                    ).bindparams(bindparam("row", one["row"], JSONB))
                )
    except IntegrityError as error:
        raise ConflictError(
            f"'{thing.name}' cannot come back: what it stands on was deleted too, or another has "
            "taken its place. Bring that back first."
        ) from error
    transaction.session.delete(thing)
    transaction.session.flush()
    return told
