"""What every use case works at: a transaction, a workshop, and the time it is."""

from dataclasses import dataclass
from datetime import datetime
from typing import Protocol, TypeVar
from uuid import UUID

from sqlalchemy.orm import Session

from mildhusk.services.errors import NotFoundError, stale
from mildhusk.store.base import Owned, Versioned

Row = TypeVar("Row", bound=Owned)


class Queue(Protocol):
    """Where jobs wait for a worker."""

    def put(self, session: Session, job_id: UUID) -> None:
        """Let a job wait, from the moment the transaction of the session is committed."""


@dataclass(frozen=True, slots=True)
class Desk:
    """A transaction in one workshop; whoever opens it commits it as a whole.

    Without a queue, as in the demo's filling, nothing can be left to a worker.
    """

    session: Session
    workshop_id: UUID
    now: datetime
    queue: Queue | None = None

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
