"""Where a task stands: its window, and whether it may begin."""

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta

from mildhusk.core.days.days import Planned
from mildhusk.core.days.tasks import Task

_FOREVER_S = 60 * 86_400.0


def window_of(task: Task, at: Mapping[str, Planned]) -> tuple[datetime | None, datetime | None]:
    """Return from when until when a task has to begin; None twice where no window closes.

    What goes by itself has none to be kept.
    """
    windows = [one for one in task.after if one.task in at and one.until_s < _FOREVER_S]
    if not windows or task.hands == 0:
        return None, None
    return (
        max(at[one.task].ends + timedelta(seconds=one.from_s) for one in windows),
        min(at[one.task].ends + timedelta(seconds=one.until_s) for one in windows),
    )


def late_tasks(tasks: Iterable[Task], at: Mapping[str, Planned]) -> tuple[Task, ...]:
    """Return the tasks that end after they are due, of those that are planned."""
    return tuple(
        task
        for task in tasks
        if task.due is not None and task.id in at and at[task.id].ends > task.due
    )


def may_begin(task: Task, done: Mapping[str, Planned], now: datetime) -> bool:
    """Return whether all is over that a task follows, with the wait after it.

    Parameters
    ----------
    task : Task
    done : mapping of str to Planned
        What was done, or is being done.
    now : datetime

    Returns
    -------
    bool
    """
    return all(
        one.task in done and done[one.task].ends + timedelta(seconds=one.from_s) <= now
        for one in task.after
    )
