"""What a use case can refuse.

HuskError
├── NotFoundError      there is no such row in this workshop
├── RefusedRowsError   an import has rows that cannot be taken over, so none was
├── ConflictError      the state is not, or no longer, what the action needs
├── StrangerError      nobody is signed in there, or not with that name and password
├── NotAllowedError    whoever is signed in may not do that
└── TooOftenError      it was tried too often; it says when it may be tried again

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


class StrangerError(HuskError):
    """Nobody is signed in there, or not with that name and password."""


class NotAllowedError(HuskError):
    """Whoever is signed in may not do that."""


class TooOftenError(HuskError):
    """It was tried too often; it may be tried again after `again_s`. [s]"""

    def __init__(self, message: str, again_s: float) -> None:
        super().__init__(message)
        self.again_s = again_s


class AwayError(Exception):
    """The database was away for a moment; nothing was written, and it may be done again."""


class StoppedError(Exception):
    """A job was cancelled, its worker is ending, or another one took it up."""


def stale(what: str) -> ConflictError:
    """Return the error for an edit of a version that is no longer the newest."""
    return ConflictError(
        f"This {what} was changed in another window meanwhile; reload it and change it again."
    )
