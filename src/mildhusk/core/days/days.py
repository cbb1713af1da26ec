"""The days to be planned, and a plan of them."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from enum import StrEnum

from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.days.shifts import Person, Shift, longest_shift_s, shifts_of
from mildhusk.core.days.tasks import Held, Place, Task, in_order, in_shifts
from mildhusk.core.errors import DaysError

MOST_TASKS, MOST_DAYS = 1000, 120
LATE, EVENING_S = 10.0, 7200.0
"""A second late costs as much as so many seconds of a longer plan, an evening given up as much as
two hours of one (assumed)."""


@dataclass(frozen=True, slots=True)
class Days:
    """What is to be planned.

    Parameters
    ----------
    tasks : tuple of Task
    people : tuple of Person
    places : tuple of Place
        Those that tasks name and that are not here take one task at a time.
    held : tuple of Held
    begins : datetime
    days : int
        How far the plan may reach.
    step_s : float
        Times are whole steps from the beginning. [s]

    Raises
    ------
    DaysError
        Tasks that wait for each other, a place that is too cold for its task, too many tasks.
    """

    tasks: tuple[Task, ...]
    people: tuple[Person, ...]
    begins: datetime
    places: tuple[Place, ...] = ()
    held: tuple[Held, ...] = ()
    days: int = 28
    step_s: float = 60.0

    def __post_init__(self) -> None:
        if self.begins.tzinfo is None:
            raise DaysError("Say in which zone the plan begins.", "begins")
        if len(self.tasks) > MOST_TASKS:
            raise DaysError(f"Up to {MOST_TASKS:,} tasks are planned at once.", "tasks")
        if not 1 <= self.days <= MOST_DAYS:
            raise DaysError(f"A plan reaches 1 to {MOST_DAYS} days.", "days")
        if len({one.name for one in self.people}) < len(self.people):
            raise DaysError("Two people have one name.", "people")
        in_order(self.tasks, self.held)
        for task in self.tasks:
            self._check_places(task)

    def _check_places(self, task: Task) -> None:
        if task.temperature_k is None or not task.places:
            return
        warmest = max((self.place(one).temperature_k or 0.0 for one in task.places), default=0.0)
        if warmest and warmest < task.temperature_k:
            raise DaysError(
                f"'{task.title}' needs {task.temperature_k - ZERO_CELSIUS_K:.0f} °C, and where it "
                f"is to be done it is {warmest - ZERO_CELSIUS_K:.0f} °C.",
                "places",
            )

    @property
    def ends(self) -> datetime:
        """The end of the days that are planned."""
        return self.begins + timedelta(days=self.days)

    def place(self, name: str) -> Place:
        """Return a place by its name."""
        return next((one for one in self.places if one.name == name), Place(name))

    def shifts(self) -> dict[str, tuple[Shift, ...]]:
        """Return when each person is there."""
        return {one.name: shifts_of(one, self.begins, self.ends) for one in self.people}

    def able(self, task: Task) -> tuple[Person, ...]:
        """Return who may do a task."""
        return tuple(one for one in self.people if one.can(task.skill))

    def cut(self) -> "Days":
        """Return the same with long tasks cut into parts that fit a shift."""
        longest = longest_shift_s(self.people, self.begins, self.ends)
        return replace(self, tasks=tuple(in_shifts(self.tasks, longest)))


@dataclass(frozen=True, slots=True)
class Planned:
    """When a task is done, and by whom."""

    id: str
    starts: datetime
    ends: datetime
    people: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Cost:
    """What a plan comes to.

    Parameters
    ----------
    late_s : float
        Summed over the tasks that are due. [s]
    evenings : int
        That somebody gives up.
    lasts_s : float
        From its beginning to the end of its last task. [s]
    """

    late_s: float
    evenings: int
    lasts_s: float

    @property
    def whole_s(self) -> float:
        """All of it in one number, as plans are compared by. [s]"""
        return LATE * self.late_s + EVENING_S * self.evenings + self.lasts_s


class PlanStatus(StrEnum):
    """How much is known of a plan."""

    BEST = "best"
    """None is better."""
    GOOD = "good"
    """None was found that is better, in the time there was."""
    NONE = "none"
    """Nothing can be planned so."""


@dataclass(frozen=True, slots=True)
class Plan:
    """When everything is done.

    Parameters
    ----------
    standing : PlanStatus
    planned : tuple of Planned
        In the order of their beginnings.
    cost : Cost or None
    bound_s : float
        No plan costs less. [s]
    tasks : tuple of Task
        As they were planned, long ones in parts.
    missed : tuple of str
        Tasks whose window what happened has closed: a coat that finds the last one cured.
    """

    standing: PlanStatus
    planned: tuple[Planned, ...] = ()
    cost: Cost | None = None
    bound_s: float = 0.0
    tasks: tuple[Task, ...] = field(default=(), repr=False)
    missed: tuple[str, ...] = ()

    @property
    def gap(self) -> float:
        """How far its cost may be above the best plan's. [1]"""
        if self.cost is None or self.cost.whole_s <= 0.0:
            return 0.0
        return max(0.0, 1.0 - self.bound_s / self.cost.whole_s)

    def by_id(self) -> dict[str, Planned]:
        """Return what is planned by the name of its task."""
        return {one.id: one for one in self.planned}


class Why(StrEnum):
    """Why a task moves."""

    LATE = "it should have begun"
    AFTER = "what it follows ends later"
    SOONER = "what it follows ended sooner, and its window would close"
    HANDS = "the hands are needed elsewhere"
    PLACE = "its place is taken"
    ROOM = "to make room"


@dataclass(frozen=True, slots=True)
class Move:
    """A task that is done at another time, or by somebody else, than it was planned.

    Parameters
    ----------
    id : str
    before, now : Planned
    why : Why
    by : str
        The task that is in the way; empty where it is nobody's.
    """

    id: str
    before: Planned
    now: Planned
    why: Why
    by: str = ""


def cost_of(days: Days, planned: Sequence[Planned]) -> Cost:
    """Return what a plan comes to.

    Parameters
    ----------
    days : Days
        Its tasks are those that are planned.
    planned : sequence of Planned

    Returns
    -------
    Cost
    """
    tasks: Mapping[str, Task] = {one.id: one for one in days.tasks}
    late, last = 0.0, days.begins
    evenings = set()
    shifts = days.shifts()
    for one in planned:
        task = tasks[one.id]
        last = max(last, one.ends)
        if task.due is not None:
            late += max(0.0, (one.ends - task.due).total_seconds())
        for name in one.people:
            # Whoever did it may work here no longer.
            for shift in shifts.get(name, ()):
                if shift.starts <= one.starts < shift.ends and one.ends > shift.closes:
                    evenings.add((name, shift.day))
    return Cost(late, len(evenings), (last - days.begins).total_seconds())


def whole_steps(seconds: float, step_s: float) -> int:
    """Return so many steps as seconds take, rounded up."""
    return math.ceil(seconds / step_s - 1e-9)
