"""Puts the clock wrong of every process that begins with this on its path; for `scripts/faults.py`.

The file at MILDHUSK_WRONG_CLOCK says by how much [s], and is read again and again.
"""

import os
import threading
import time
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path

import time_machine

_LOOK_S = 0.05


class _Clock:
    """How wrong the clock of this process is."""

    def __init__(self, path: Path) -> None:
        self._path, self._wrong_s = path, 0.0
        self._coordinates: time_machine.Coordinates | None = None

    def look_on(self) -> None:
        """Follow the file from now on, in a thread of this process."""
        threading.Thread(target=self._follow, daemon=True).start()

    def _follow(self) -> None:
        while True:
            # It is not there yet, or is being written.
            with suppress(OSError, ValueError):
                self._put(float(self._path.read_text("ascii")))
            time.sleep(_LOOK_S)

    def _put(self, wrong_s: float) -> None:
        if wrong_s == self._wrong_s:
            return
        if self._coordinates is None:
            self._coordinates = time_machine.travel(datetime.now(UTC), tick=True).start()
        self._coordinates.shift(wrong_s - self._wrong_s)
        self._wrong_s = wrong_s


if "MILDHUSK_WRONG_CLOCK" in os.environ:
    _clock = _Clock(Path(os.environ["MILDHUSK_WRONG_CLOCK"]))
    _clock.look_on()
    # A copy of this process is as wrong, and has no threads.
    os.register_at_fork(after_in_child=_clock.look_on)
