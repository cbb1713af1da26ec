"""What a use case can refuse.

HuskError
├── NotFoundError      there is no such row in this workshop
├── RefusedRowsError   an import has rows that cannot be taken over, so none was
└── ConflictError      the state is not, or no longer, what the action needs

StoppedError           no refusal: a job was cancelled, its worker ends, or another took it up
"""

from mildhusk.core.errors import HuskError


class NotFoundError(HuskError):
    """There is no such row in this workshop."""


class RefusedRowsError(HuskError):
    """An import with rows that cannot be taken over; `rows` says why, a line each."""

    def __init__(self, rows: int = 0, refused: int = 0, lines: list[str] | None = None) -> None:
        super().__init__(
            f"Nothing was imported: {refused} of {rows} rows cannot be. Correct them and try again."
        )
        self.lines = lines or []


class ConflictError(HuskError):
    """The state is not, or no longer, what the action needs."""


class StoppedError(Exception):
    """A job was cancelled, its worker is ending, or another one took it up."""


def stale(what: str) -> ConflictError:
    """Return the error for an edit of a version that is no longer the newest."""
    return ConflictError(
        f"This {what} was changed in another window meanwhile; reload it and change it again."
    )
