"""Prints the OpenAPI document, from which the front end's types are generated."""

import json
from collections.abc import Sequence
from typing import Any
from uuid import UUID

from sqlalchemy import create_engine
from sqlalchemy.orm import Session

from mildhusk.api.app import create_app
from mildhusk.store.database import open_sessions
from mildhusk.store.tables import JobStatus


class _NoQueue:
    """Takes nothing: nobody calls the routes here."""

    def put(self, session: Session, job_id: UUID, lock: str) -> int:
        raise NotImplementedError

    def states(self, session: Session, numbers: Sequence[int]) -> dict[int, JobStatus]:
        raise NotImplementedError

    def cancel(self, session: Session, number: int) -> None:
        raise NotImplementedError


def main() -> None:
    """Print the document; no database is reached for it."""
    app = create_app(open_sessions(create_engine("postgresql+psycopg://")), _NoQueue(), UUID(int=0))
    print(json.dumps(_even_tuples(app.api_doc), indent=2, sort_keys=True))


def _even_tuples(node: Any) -> Any:
    """Say of three numbers in a row that they are a list of numbers: the client reads them so."""
    if isinstance(node, dict):
        items = node.get("prefixItems")
        if items and all(one == items[0] for one in items):
            node = {**{k: v for k, v in node.items() if k != "prefixItems"}, "items": items[0]}
        return {name: _even_tuples(one) for name, one in node.items()}
    return [_even_tuples(one) for one in node] if isinstance(node, list) else node


if __name__ == "__main__":
    main()
