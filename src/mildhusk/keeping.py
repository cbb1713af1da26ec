"""Processes that begin as copies of this one, and are begun again whenever they end."""

import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from multiprocessing.connection import wait
from multiprocessing.process import BaseProcess
from pathlib import Path

Duty = tuple[str, Callable[[], None]]
"""What a process is called, and what it does until told to stop."""
_AGAIN_S = 0.1
_PATIENCE_S = 4.0
_NAME = Path("/proc/self/comm")


def keep(duties: Sequence[Duty], begun: Callable[[], None], ends_with: Sequence[int] = ()) -> None:
    """Have a process at each duty, by its name, until told to stop.

    Parameters
    ----------
    duties : sequence of (str, callable)
    begun : callable
        Called whenever all are at work.
    ends_with : sequence of int
        File numbers; when one of them can be read from, or its other end is gone, all end.
    """
    fork = multiprocessing.get_context("fork")
    told, tell = os.pipe()
    for ending in (signal.SIGTERM, signal.SIGINT):
        # Only noted, so that no process is left half begun.
        signal.signal(ending, lambda *_: os.write(tell, b"."))
    alive, ours = os.pipe()
    at: dict[int, BaseProcess] = {}
    ended: list[object] = []
    while not {*ends_with, told}.intersection(ended):
        for number, (name, duty) in enumerate(duties):
            if number not in at or not at[number].is_alive():
                at[number] = fork.Process(target=_begin, args=(name, duty, alive, ours))
                at[number].start()
        begun()
        ended = list(wait([*(one.sentinel for one in at.values()), *ends_with, told]))
        time.sleep(_AGAIN_S)
    for process in at.values():
        process.terminate()
    for process in at.values():
        process.join(_PATIENCE_S)
        # What it was at is not lost: another takes it up.
        process.kill()


def call_it(name: str) -> None:
    """Name this process for whoever looks at what runs."""
    with suppress(OSError):
        _NAME.write_text(name, "utf-8")


def _begin(name: str, duty: Callable[[], None], alive: int, others: int) -> None:
    """Do a duty in a process of its own, until told to stop or whoever began it is gone."""
    os.close(others)
    for ending in (signal.SIGTERM, signal.SIGINT):
        signal.signal(ending, signal.SIG_DFL)
    threading.Thread(target=_end_with, args=(alive,), daemon=True).start()
    call_it(name)
    duty()


def _end_with(pipe: int) -> None:
    """End when the other end of a pipe is gone."""
    while os.read(pipe, 1024):
        pass
    os.kill(os.getpid(), signal.SIGTERM)
    time.sleep(_PATIENCE_S)
    os.kill(os.getpid(), signal.SIGKILL)
