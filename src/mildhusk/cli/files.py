"""Files that commands read."""

from pathlib import Path

from mildhusk.core.errors import InputError

_MOST_BYTES = 200_000_000


def read_file(path: Path) -> bytes:
    """Return the content of a file.

    Raises
    ------
    InputError
        It cannot be read, or is larger than any that is meant.
    """
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise InputError(f"{path} has more than {_MOST_BYTES / 1e6:.0f} MB.", "file")
        return path.read_bytes()
    except OSError as error:
        raise InputError(f"{path} cannot be read: {error.strerror}.", "file") from error
