"""What no plan can beat, from the hours there are and the work there is."""

import math
from collections.abc import Sequence
from datetime import datetime, timedelta

from mildhusk.core.days.days import EVENING_S, Days
from mildhusk.core.days.shifts import Shift


def work_bound_s(days: Days) -> float:
    """Return what every plan costs at least: all work needs hours in which somebody is there.

    Parameters
    ----------
    days : Days
        With long tasks cut.

    Returns
    -------
    float
        Infinite where there are not so many hours. [s]

    Notes
    -----
    With n evenings given up, the work of all hands is done no sooner than the hours worked by
    everybody and the n longest evenings have held it; the best n counts. Order, skills and places
    are left out, so that it is a bound.
    """
    work_s = sum(task.hands * task.duration_s for task in days.tasks)
    shifts = [one for there in days.shifts().values() for one in there]
    evenings = sum(one.ends > one.closes for one in shifts)
    lasts, best = (days.ends - days.begins).total_seconds(), math.inf
    for given in range(evenings + 1):
        low, high = 0.0, lasts
        if _worked_s(shifts, days.ends, given) < work_s:
            continue
        while high - low > 0.5:
            middle = 0.5 * (low + high)
            at = days.begins + timedelta(seconds=middle)
            low, high = (low, middle) if _worked_s(shifts, at, given) >= work_s else (middle, high)
        best = min(best, low + given * EVENING_S)
    return best


def _worked_s(shifts: Sequence[Shift], until: datetime, given: int) -> float:
    """Return the hours of all until then, with the longest of some evenings given up. [s]"""
    worked, evenings = 0.0, []
    for one in shifts:
        if one.starts < until:
            worked += (min(one.closes, until) - one.starts).total_seconds()
            if one.closes < min(one.ends, until):
                evenings.append((min(one.ends, until) - one.closes).total_seconds())
    return worked + sum(sorted(evenings, reverse=True)[:given])
