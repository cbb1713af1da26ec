"""What no plan can beat, from the hours there are and the work there is."""

from datetime import datetime

from mildhusk.core.days.days import EVENING_S, Days


def work_bound_s(days: Days) -> float:
    """Return what every plan costs at least: all work needs hours in which somebody is there.

    Parameters
    ----------
    days : Days
        With long tasks cut.

    Returns
    -------
    float
        [s]

    Notes
    -----
    With n evenings given up, the work of all hands is done no sooner than the hours worked by
    everybody and the n longest evenings have held it; the best n counts. Order, skills and places
    are left out, so that it is a bound.
    """
    work_s = sum(task.hands * task.duration_s for task in days.tasks)
    shifts = [one for there in days.shifts().values() for one in there]
    ends = sorted({at for one in shifts for at in (one.closes, one.ends)})
    evenings = sum(one.ends > one.closes for one in shifts)
    best = (days.ends - days.begins).total_seconds()
    for given in range(evenings + 1):
        done = _done_by(days, work_s, given, ends)
        if done is not None:
            best = min(best, (done - days.begins).total_seconds() + given * EVENING_S)
    return best


def _done_by(days: Days, work_s: float, given: int, ends: list[datetime]) -> datetime | None:
    """Return when so much work is done at the earliest, with some evenings given up."""
    low, high = days.begins, days.ends
    if not ends or _hours_until(days, high, given) < work_s:
        return None
    for _ in range(40):
        middle = low + (high - low) / 2
        low, high = (low, middle) if _hours_until(days, middle, given) >= work_s else (middle, high)
    return low


def _hours_until(days: Days, at: datetime, given: int) -> float:
    worked, evenings = 0.0, []
    for there in days.shifts().values():
        for one in there:
            worked += max(0.0, (min(one.closes, at) - one.starts).total_seconds())
            evenings.append(max(0.0, (min(one.ends, at) - one.closes).total_seconds()))
    return worked + sum(sorted(evenings, reverse=True)[:given])
