"""What a use case can refuse.

HuskError
├── NotFoundError      there is no such row in this workshop
└── ConflictError      the state is not, or no longer, what the action needs
"""

from mildhusk.core.errors import HuskError


class NotFoundError(HuskError):
    """There is no such row in this workshop."""


class ConflictError(HuskError):
    """The state is not, or no longer, what the action needs."""


def stale(what: str) -> ConflictError:
    """Return the error for an edit of a version that is no longer the newest."""
    return ConflictError(
        f"This {what} was changed in another window meanwhile; reload it and change it again."
    )
