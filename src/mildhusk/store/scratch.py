"""Arrays that live for an hour at most, shared by the processes of one machine: not the database's.

Each lies in a file of its own; a reader never meets one that is half written.
"""

import fcntl
import os
import shutil
import tempfile
import time
import weakref
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from uuid import UUID

import numpy as np
from numpy.typing import NDArray

_KEPT_S, _MOST = 3600.0, 400
"""A file that nobody wrote to for so long is thrown away [s]; so are the oldest beyond so many."""
Arrays = dict[str, NDArray[np.generic]]


class Scratch:
    """A folder of arrays by key and name, which is gone with the process that made it."""

    def __init__(self) -> None:
        self._folder = Path(tempfile.mkdtemp(prefix="mildhusk-scratch-"))
        weakref.finalize(self, _remove, self._folder, os.getpid())

    def write(self, key: UUID, name: str, arrays: Mapping[str, NDArray[np.generic]]) -> None:
        """Write arrays, in place of those of before."""
        path = self._path(key, name)
        half = path.with_suffix(f".{os.getpid()}.half")
        with half.open("wb") as file:
            np.savez(file, allow_pickle=False, **arrays)
        half.replace(path)

    def read(self, key: UUID, name: str) -> Arrays | None:
        """Return arrays; None where there are none, or not any more."""
        try:
            with np.load(self._path(key, name), allow_pickle=False) as kept:
                return dict(kept)
        except FileNotFoundError:
            return None

    @contextmanager
    def alone(self, key: UUID) -> Iterator[None]:
        """Let nobody else at a key meanwhile, whichever process it is."""
        with self._path(key, "lock").open("wb") as file:
            fcntl.flock(file, fcntl.LOCK_EX)
            yield

    def tidy(self) -> None:
        """Throw away what nobody has used for long, and the oldest where there is too much."""
        files = sorted(((one.stat().st_mtime, one) for one in self._folder.iterdir()), reverse=True)
        for at, (written, path) in enumerate(files):
            if at >= _MOST or written < time.time() - _KEPT_S:
                path.unlink(missing_ok=True)

    def _path(self, key: UUID, name: str) -> Path:
        return self._folder / f"{key}.{name}"


def _remove(folder: Path, maker: int) -> None:
    """Remove a folder, unless a copy of the process that made it only ends."""
    if os.getpid() == maker:
        shutil.rmtree(folder, ignore_errors=True)
