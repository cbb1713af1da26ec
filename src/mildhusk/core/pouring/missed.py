"""A tack window that was missed: what still can be done, from the clock of the coat before."""

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class MissedWindow:
    """A coat that no longer bonds by itself.

    Parameters
    ----------
    coat : int
        The one that was to go on.
    late_s : float
        Since the window closed. [s]
    wall_m, wanted_m : float
        Mean wall of the coats that are on, and of all that were planned. [m]
    is_hard : bool
        The coat before may come out of the mould: what is scuffed does not smear any more.
    """

    coat: int
    late_s: float
    wall_m: float
    wanted_m: float
    is_hard: bool


def missed_window(
    coat: int,
    closed: datetime,
    hard_from: datetime,
    now: datetime,
    walls_m: tuple[float, ...],
) -> MissedWindow | None:
    """Return what can be said of a coat whose window has closed; None while it is open.

    Parameters
    ----------
    coat : int
        The one to go on, from 2.
    closed, hard_from : datetime
        When the window of the coat before closed, and from when that may leave the mould.
    now : datetime
    walls_m : tuple of float
        What each planned coat adds. [m]

    Returns
    -------
    MissedWindow or None
    """
    if now <= closed:
        return None
    return MissedWindow(
        coat,
        (now - closed).total_seconds(),
        sum(walls_m[: coat - 1]),
        sum(walls_m),
        now >= hard_from,
    )
