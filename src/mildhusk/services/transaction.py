"""What every use case works in: a transaction, a workshop, and the time it is."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import Any, Generic, Protocol, TypeVar
from uuid import UUID

from sqlalchemy import ColumnElement, case, func, literal, select, update
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import InstrumentedAttribute, Session

from mildhusk.services.errors import NotFoundError, stale
from mildhusk.store.base import Owned, Versioned
from mildhusk.store.database import stay_in
from mildhusk.store.kept import Json
from mildhusk.store.tables import JobKind, JobStatus

Row = TypeVar("Row", bound=Owned)
Item = TypeVar("Item")


class Queue(Protocol):
    """Where jobs wait for a worker, and who knows where they stand."""

    def put(self, session: Session, job_id: UUID, lock: str, kind: JobKind) -> int:
        """Let a job wait, from the moment the transaction is committed; returns its number.

        Of jobs with one lock only one is done at a time. What is short waits for no other kind.
        """

    def states(self, session: Session, numbers: Sequence[int]) -> dict[int, JobStatus]:
        """Return where jobs stand; one that is forgotten is left out."""

    def cancel(self, session: Session, number: int) -> None:
        """Cancel a job: at once while it waits, at its worker's next step while it runs."""


class ListOrder(StrEnum):
    """What stands first in a list."""

    NEWEST = "newest"
    NAME = "name"


@dataclass(frozen=True, slots=True)
class Page:
    """Which part of a list: so many rows, from one on; those with some words in their name."""

    search: str = ""
    limit: int = 50
    offset: int = 0
    order: ListOrder = ListOrder.NEWEST

    def ordered(self, table: type[Owned], name: ColumnElement[str]) -> tuple[Any, ...]:
        """Return what rows of a table with a name are ordered by; no two stand alike."""
        newest = table.created_at.desc()
        first = (func.lower(name), newest) if self.order is ListOrder.NAME else (newest, name)
        return (*first, table.id)


@dataclass(frozen=True, slots=True)
class Listed(Generic[Item]):
    """A page of a list, and how many rows there are in all.

    `undrawn` are those whose drawing is missing or old, with what a new one is made from.
    """

    rows: tuple[Item, ...]
    total: int
    undrawn: Mapping[UUID, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Transaction:
    """A transaction in one workshop; whoever opens it commits it as a whole.

    Without a queue, as in the demo's filling, nothing can be left to a worker. `by` is the name of
    whoever it is done for; empty where that is nobody, or anybody. The session sees no row of
    another workshop from then on, whatever a use case asks it for.
    """

    session: Session
    workshop_id: UUID
    now: datetime
    queue: Queue | None = None
    by: str = ""

    def __post_init__(self) -> None:
        """Put up the walls of the workshop."""
        stay_in(self.session, self.workshop_id)

    def find(self, kind: type[Row], key: UUID, what: str, *, lock: bool = False) -> Row:
        """Return a row of this workshop, locked until the transaction ends when asked for."""
        row = self.session.get(kind, key, with_for_update=lock or None)
        if row is None or row.workshop_id != self.workshop_id:
            raise NotFoundError(f"There is no such {what}; it may have been deleted.")
        return row

    def find_version(self, kind: type[Row], key: UUID, version: int, what: str) -> Row:
        """Return a row to edit, or refuse when it is no longer the version the editor saw."""
        row = self.find(kind, key, what, lock=True)
        if isinstance(row, Versioned) and row.version != version:
            raise stale(what)
        return row

    def count(self, kind: type[Owned], *matching: ColumnElement[bool]) -> int:
        """Return how many rows of this workshop match."""
        mine = select(func.count()).select_from(kind).where(kind.workshop_id == self.workshop_id)
        return self.session.scalar(mine.where(*matching)) or 0

    def keep_figures(
        self,
        column: InstrumentedAttribute[dict[str, Any]],
        stamp: InstrumentedAttribute[str],
        made: Mapping[UUID, Json],
        stamps: Mapping[UUID, str],
    ) -> None:
        """Keep figures of rows, made anew, with what they were made from; in one statement.

        Past the version: figures made anew are no edit that a person could lose.

        Parameters
        ----------
        column, stamp : columns of one table
            Of the figures, and of what they were made from.
        made, stamps : by the key of the row
        """
        table = column.class_
        figures = {key: literal(told, JSONB) for key, told in made.items()}
        statement = update(table).where(table.id.in_(list(made)))
        self.session.execute(
            statement.values(
                {
                    column: case(figures, value=table.id),
                    stamp: case({key: stamps[key] for key in made}, value=table.id),
                }
            ),
            execution_options={"synchronize_session": False},
        )
