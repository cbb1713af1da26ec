"""Tasks of the days to come: what each takes, what it follows, what it may wait for."""

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from graphlib import CycleError, TopologicalSorter

from mildhusk.core.errors import DaysError

_LONGEST_S = 60 * 86_400.0


@dataclass(frozen=True, slots=True)
class After:
    """What a task follows, and its window.

    Parameters
    ----------
    task : str
        The one before.
    from_s, until_s : float
        It begins so long after the end of the one before, at the earliest and at the latest;
        `until_s` may be infinite: then it may wait overnight. [s]
    """

    task: str
    from_s: float = 0.0
    until_s: float = math.inf

    def __post_init__(self) -> None:
        if not 0.0 <= self.from_s <= self.until_s or math.isnan(self.until_s):
            raise DaysError(
                f"What follows '{self.task}' would close its window before it opens.", "after"
            )


@dataclass(frozen=True, slots=True)
class Task:
    """One thing to be done, or to be waited for.

    Parameters
    ----------
    id, title : str
    job : str
        The mould, cast or run it belongs to.
    duration_s : float
        [s]
    hands : int
        Pairs of hands it needs from beginning to end; with 0 it goes by itself.
    places : tuple of str
        That it takes up: bench, machine, hot box, spray booth, a mould.
    skill : str
        Whoever does it must have it; empty for anybody.
    after : tuple of After
    not_before, due : datetime or None
        When it may begin; when it shall have ended.
    left_alone : bool
        Of a task without hands: it goes on while nobody is there.
    temperature_k : float or None
        That it needs, as a cure in a hot box does. [K]
    interruptible : bool
        It may be put down and taken up again, also another day.
    note : str
        A caution, or what may be done meanwhile.
    due_by : str
        What it is due by, where that is no wish of the maker: its resin expires.
    """

    id: str
    title: str
    job: str
    duration_s: float
    hands: int = 1
    places: tuple[str, ...] = ()
    skill: str = ""
    after: tuple[After, ...] = ()
    not_before: datetime | None = None
    due: datetime | None = None
    left_alone: bool = True
    temperature_k: float | None = None
    interruptible: bool = False
    note: str = ""
    due_by: str = ""

    def __post_init__(self) -> None:
        if not 0.0 < self.duration_s <= _LONGEST_S:
            raise DaysError(f"'{self.title}' has to take some time, up to 60 days.", "tasks")
        if not 0 <= self.hands <= 8:
            raise DaysError(f"'{self.title}' needs 0 to 8 pairs of hands.", "tasks")
        for one in (self.not_before, self.due):
            if one is not None and one.tzinfo is None:
                raise DaysError(f"'{self.title}' has a time without its zone.", "tasks")


@dataclass(frozen=True, slots=True)
class Held:
    """A place that is taken from the start of one task to the end of another: a mould with a cast.

    Parameters
    ----------
    place, first, last : str
    """

    place: str
    first: str
    last: str


@dataclass(frozen=True, slots=True)
class Place:
    """Where tasks are done: how many at once, and how warm it is. [K]"""

    name: str
    capacity: int = 1
    temperature_k: float | None = None


def in_order(tasks: Sequence[Task], held: Sequence[Held] = ()) -> tuple[Task, ...]:
    """Return tasks so that each stands after those it follows.

    Parameters
    ----------
    tasks : sequence of Task
    held : sequence of Held

    Returns
    -------
    tuple of Task

    Raises
    ------
    DaysError
        Two tasks of one name, one that follows nothing known, tasks that wait for each other.
    """
    known = {one.id: one for one in tasks}
    if len(known) < len(tasks):
        ((twice, _),) = Counter(one.id for one in tasks).most_common(1)
        raise DaysError(f"Two tasks are called '{twice}'.", "tasks")
    for task in tasks:
        for after in task.after:
            if after.task not in known:
                raise DaysError(
                    f"'{task.title}' follows '{after.task}', which is no task.", "tasks"
                )
    for one in held:
        for end in (one.first, one.last):
            if end not in known:
                raise DaysError(f"'{one.place}' is held by '{end}', which is no task.", "held")
    try:
        order = TopologicalSorter({one.id: [a.task for a in one.after] for one in tasks})
        return tuple(known[key] for key in order.static_order())
    except CycleError as error:
        raise DaysError(
            f"Tasks wait for each other: {', '.join(dict.fromkeys(error.args[1]))}.", "tasks"
        ) from error


def with_followers(tasks: Sequence[Task], some: Iterable[str]) -> frozenset[str]:
    """Return some tasks and all that follows them, directly or through others.

    Parameters
    ----------
    tasks : sequence of Task
    some : iterable of str

    Returns
    -------
    frozenset of str
    """
    found = set(some)
    for task in in_order(tasks):
        if any(one.task in found for one in task.after):
            found.add(task.id)
    return frozenset(found)


def in_shifts(tasks: Iterable[Task], longest_s: float) -> list[Task]:
    """Cut tasks that may be put down into parts that fit a shift.

    Parameters
    ----------
    tasks : iterable of Task
    longest_s : float
        The longest shift of anybody. [s]

    Returns
    -------
    list of Task
        The last part keeps the name, so that what follows it follows the whole.
    """
    parts: list[Task] = []
    for task in tasks:
        count = math.ceil(task.duration_s / longest_s) if task.hands and longest_s > 0 else 1
        if count <= 1 or not task.interruptible:
            parts.append(task)
            continue
        before: tuple[After, ...] = task.after
        for number in range(1, count + 1):
            is_last = number == count
            name = task.id if is_last else f"{task.id}, part {number}"
            parts.append(
                replace(
                    task,
                    id=name,
                    title=f"{task.title}, part {number} of {count}",
                    duration_s=task.duration_s / count,
                    after=before,
                    due=task.due if is_last else None,
                )
            )
            before = (After(name),)
    return parts
