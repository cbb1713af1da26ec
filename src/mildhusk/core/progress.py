"""Progress reporting for long computations, alone and side by side."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from threading import Event
from typing import TypeVar

Tell = Callable[[float, str], None]
"""Is told how far it is, 0 to 1, and what is done next; may raise to stop it."""


def within(tell: Tell, begins: float, ends: float) -> Tell:
    """Return what tells the progress of a part of the whole.

    Parameters
    ----------
    tell : callable
        Is told the progress of the whole.
    begins, ends : float
        Where in the whole the part begins and ends. [1]

    Returns
    -------
    callable
    """

    def told(share: float, words: str) -> None:
        tell(begins + (ends - begins) * share, words)

    return told


def saying(first: str, tell: Tell) -> Tell:
    """Return what tells the same, with something said before it each time.

    Parameters
    ----------
    first : str
    tell : callable

    Returns
    -------
    callable
    """
    return lambda share, words: tell(share, f"{first}; {words}")


def silent(_share: float, _words: str) -> None:
    """Report to nobody."""


class _CancelledError(Exception):
    """What runs beside something that was stopped."""


_AT_ONCE, _TOLD_EVERY_S = 2, 0.1
Result = TypeVar("Result")


def side_by_side(
    compute: Callable[[int, Tell], Result], count: int, words: str, tell: Tell = silent
) -> list[Result]:
    """Compute several things, two at once, and tell how far all of them are.

    Parameters
    ----------
    compute : callable
        Takes the number of a thing, from 0, and what it tells its own progress.
    count : int
        How many things there are.
    words : str
        What is done.
    tell : callable
        Is told the progress, only from the thread that called; what it raises stops all of them.

    Returns
    -------
    list
        In the order of their numbers. What one of them raises is raised.
    """
    stopped, shares = Event(), [0.0] * count

    def one(at: int) -> Result:
        def told(share: float, _words: str) -> None:
            shares[at] = share
            if stopped.is_set():
                raise _CancelledError

        return compute(at, told)

    with ThreadPoolExecutor(_AT_ONCE) as pool:
        futures: list[Future[Result]] = [pool.submit(one, at) for at in range(count)]
        try:
            while wait(futures, _TOLD_EVERY_S).not_done:
                # The first that failed is told at once.
                next((future.result() for future in futures if _failed(future)), None)
                tell(sum(shares) / count, words)
        except BaseException:
            stopped.set()
            for future in futures:
                future.cancel()
            raise
    return [future.result() for future in futures]


def _failed(future: Future[Result]) -> bool:
    return future.done() and future.exception() is not None
