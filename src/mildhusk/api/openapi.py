"""Prints the OpenAPI document, from which the front end's types are generated."""

import json
from collections.abc import Sequence
from uuid import UUID

from sqlalchemy import create_engine
from sqlalchemy.orm import Session

from mildhusk.api.app import create_app
from mildhusk.store.database import open_sessions
from mildhusk.store.tables import JobKind, JobStatus


class _NoQueue:
    """Takes nothing: nobody calls the routes here."""

    def put(self, session: Session, job_id: UUID, lock: str, kind: JobKind) -> int:
        raise NotImplementedError

    def states(self, session: Session, numbers: Sequence[int]) -> dict[int, JobStatus]:
        raise NotImplementedError

    def cancel(self, session: Session, number: int) -> None:
        raise NotImplementedError


def main() -> None:
    """Print the document; no database is reached for it."""
    app = create_app(open_sessions(create_engine("postgresql+psycopg://")), _NoQueue(), UUID(int=0))
    print(json.dumps(app.api_doc, indent=2, sort_keys=True))


if __name__ == "__main__":
    main()
