"""First come, first served: how makers plan by hand, and the first guess of the solver."""

import math
from bisect import insort
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from itertools import islice

from mildhusk.core.days.days import Days, Plan, Planned, PlanStatus, cost_of, whole_steps
from mildhusk.core.days.shifts import Shift
from mildhusk.core.days.tasks import Task, in_order, with_followers

_MOST_TRIES = 4000


def first_come(days: Days) -> Plan:
    """Plan job after job in the order they came, each task as soon as hands and place are free.

    Parameters
    ----------
    days : Days

    Returns
    -------
    Plan
        With `PlanStatus.NONE` where a job finds no room.

    Notes
    -----
    Tasks that a window ties to the one before are placed together: where a window would close,
    all of them begin later. Nobody gives up an evening.
    """
    days = days.cut()
    board = _Board(days)
    jobs = list(dict.fromkeys(task.job for task in days.tasks))
    waiting = _tied(in_order(days.tasks, days.held))
    waiting.sort(key=lambda group: jobs.index(group[0].job))
    while waiting:
        ready = next((one for one in waiting if board.is_ready(one)), None)
        if ready is None or not board.put_together(ready):
            return Plan(PlanStatus.NONE, tasks=days.tasks)
        waiting.remove(ready)
    if board.held_beyond_room():
        return Plan(PlanStatus.NONE, tasks=days.tasks)
    planned = tuple(sorted(board.placed.values(), key=lambda one: one.starts))
    return Plan(PlanStatus.GOOD, planned, cost_of(days, planned), 0.0, days.tasks)


def repaired(
    days: Days,
    before: Mapping[str, Planned],
    done: Mapping[str, Planned],
    now: datetime,
    *,
    evenings: bool = True,
    first: str = "",
    stays: frozenset[str] = frozenset(),
    leads: frozenset[str] = frozenset(),
    soonest: frozenset[str] = frozenset(),
) -> Plan:
    """Put a plan right after something happened: each task in turn as soon as it can follow.

    Parameters
    ----------
    days : Days
        With long tasks cut.
    before : mapping of str to Planned
        Where tasks stood; they stay there where they can.
    done : mapping of str to Planned
    now : datetime
    evenings : bool
        They may be given up.
    first : str
        Of two tasks that stood at one time, this one stays.
    stays : frozenset of str
        Tasks that stay where they stood; the others go round them.
    leads : frozenset of str
        Tasks that go before those that stay: what is in their way goes round it, too.
    soonest : frozenset of str
        Tasks that begin as soon as can be, also before they stood.

    Returns
    -------
    Plan
        Windows may be missed. `PlanStatus.NONE` where something finds no room;
        then with what found some.
    """
    wanted = _Wanted(before, done, now, evenings, first, leads, soonest)
    while True:
        board, rest = _laid(days, wanted, stays)
        # Who stays in a mould that is held longer now does not stay.
        crowded = with_followers(days.tasks, board.held_beyond_room()) & stays
        if rest or not crowded:
            break
        stays -= crowded
    planned = tuple(sorted(board.placed.values(), key=lambda one: one.starts))
    if rest or board.held_beyond_room():
        return Plan(PlanStatus.NONE, planned, tasks=days.tasks)
    cost, missed = cost_of(days, planned), missed_windows(days, board.placed, done)
    return Plan(PlanStatus.GOOD, planned, cost, 0.0, days.tasks, missed)


@dataclass(frozen=True, slots=True)
class _Wanted:
    """What a plan is put right to, but for what stays; see `repaired`."""

    before: Mapping[str, Planned]
    done: Mapping[str, Planned]
    now: datetime
    evenings: bool
    first: str
    leads: frozenset[str]
    soonest: frozenset[str]


def _laid(
    days: Days, wanted: _Wanted, stays: frozenset[str]
) -> tuple["_Board", Sequence[Sequence[Task]]]:
    """Return a board with all that finds room, and what finds none."""
    before, done = wanted.before, wanted.done
    board = _Board(days, evenings=wanted.evenings)
    board.floor = board.first(wanted.now)
    board.placed.update(done)
    for task in days.tasks:
        one = done.get(task.id)
        if one is not None and one.ends > wanted.now:
            board.take(task, board.floor, board.first(one.ends), one.people)
    order = in_order(days.tasks)
    for task in order:
        if task.id in wanted.leads and task.id not in done and board.is_ready([task]):
            board.put_near(task, before.get(task.id))
    for task in order:
        if task.id in stays and task.id not in board.placed:
            board.leave(task, before[task.id])
    # What is new comes job by job: of two casts one leaves the mould before the other goes in.
    far = days.ends
    jobs = {job: at for at, job in enumerate(dict.fromkeys(task.job for task in days.tasks))}
    waiting = _tied([task for task in order if task.id not in board.placed])
    waiting.sort(
        key=lambda group: (
            before[group[0].id].starts if group[0].id in before else far,
            all(task.id != wanted.first for task in group),
            jobs[group[0].job],
        )
    )
    stood = {key: one for key, one in before.items() if key not in wanted.soonest}
    while waiting:
        ready = next((one for one in waiting if board.is_ready(one)), None)
        if ready is None and len(waiting) < sum(map(len, waiting)):
            # Groups that wait for each other go task by task.
            waiting = [[task] for group in waiting for task in group]
            continue
        if ready is None or not board.put_tied(ready, stood):
            break
        waiting.remove(ready)
    return board, waiting


def missed_windows(
    days: Days, placed: Mapping[str, Planned], done: Mapping[str, Planned]
) -> tuple[str, ...]:
    """Return the tasks that begin after their window has closed.

    Parameters
    ----------
    days : Days
    placed, done : mapping of str to Planned

    Returns
    -------
    tuple of str
        What was done already is not among them.
    """
    return tuple(
        task.id
        for task in days.tasks
        if task.id not in done
        and any(
            (placed[task.id].starts - placed[one.task].ends).total_seconds() > one.until_s
            for one in task.after
        )
    )


def _tied(tasks: Sequence[Task]) -> list[list[Task]]:
    """Return tasks in groups that windows tie together."""
    groups: list[list[Task]] = []
    group_of: dict[str, list[Task]] = {}
    for task in tasks:
        ties = [one.task for one in task.after if one.until_s < math.inf and one.task in group_of]
        if ties:
            group = group_of[ties[0]]
        else:
            group = []
            groups.append(group)
        group.append(task)
        group_of[task.id] = group
    return groups


@dataclass(slots=True, eq=False)
class _Board:
    """What is taken when: by people and at places, as sorted stretches of steps."""

    days: Days
    evenings: bool = False
    floor: int = 0
    """Nothing begins before it. [steps]"""
    placed: dict[str, Planned] = field(default_factory=dict)
    taken: dict[str, list[tuple[int, int]]] = field(default_factory=dict)
    shifts: dict[str, tuple[Shift, ...]] = field(init=False)
    hours: dict[str, list[tuple[int, int]]] = field(init=False)
    """When people are there, with their evenings where those may be given up. [steps]"""

    def __post_init__(self) -> None:
        self.shifts = self.days.shifts()
        self.hours = {
            name: [
                (self.first(one.starts), self._last(one.ends if self.evenings else one.closes))
                for one in there
            ]
            for name, there in self.shifts.items()
        }

    def is_ready(self, group: Sequence[Task]) -> bool:
        """Whether all is placed that a group follows."""
        names = {task.id for task in group}
        before = {after.task for task in group for after in task.after} - names
        return before <= self.placed.keys()

    def held_beyond_room(self) -> set[str]:
        """Return the tasks that begin to hold a mould, or what else, when it is held already."""
        held = [
            (one, self.placed[one.first].starts, self.placed[one.last].ends)
            for one in self.days.held
            if one.first in self.placed and one.last in self.placed
        ]
        return {
            one.first
            for one, at, _ in held
            if sum(one.place == other.place and start <= at < end for other, start, end in held)
            > self.days.place(one.place).capacity
        }

    def put_together(self, group: Sequence[Task], *, late: bool = False) -> bool:
        """Place tasks that windows tie together; nothing is placed where it cannot be done.

        Where the first is late in any case, its own window is not looked at.
        """
        later = 0
        for _ in range(_MOST_TRIES):
            kept = self._as_it_is()
            missed = self._try(group, later, late=late)
            if missed is None:
                return True
            self.placed, self.taken = kept
            if missed < 0:
                return False
            later += max(math.ceil(missed), 1)
        return False

    def put_tied(self, group: Sequence[Task], before: Mapping[str, Planned]) -> bool:
        """Place tasks that windows tie together where they stood, or together as soon as can be.

        Where neither can be, each goes as soon as it can, and windows are missed.
        """
        kept = self._as_it_is()
        if self._put_each(group, before) and all(self._is_in_time(task) for task in group):
            return True
        self.placed, self.taken = kept
        if len(group) > 1 and (self.put_together(group) or self.put_together(group, late=True)):
            return True
        return self._put_each(group, before)

    def _put_each(self, group: Sequence[Task], before: Mapping[str, Planned]) -> bool:
        return all(self.put_near(task, before.get(task.id)) for task in group)

    def _is_in_time(self, task: Task) -> bool:
        return self.first(self.placed[task.id].starts) <= self._window(task)[1]

    def _as_it_is(self) -> tuple[dict[str, Planned], dict[str, list[tuple[int, int]]]]:
        return dict(self.placed), {key: list(one) for key, one in self.taken.items()}

    def put_near(self, task: Task, before: Planned | None) -> bool:
        """Place a task where it stood, by whom it was to be done, or as soon after as can be."""
        earliest, _ = self._window(task)
        earliest = max(earliest, self._first_free([task]))
        people: tuple[str, ...] = ()
        if before is not None:
            stood = self.first(before.starts)
            earliest = max(earliest, stood)
            people = before.people
        found = self._fits(task, earliest, people)
        if found is None:
            return False
        self._put(task, *found)
        return True

    def leave(self, task: Task, stood: Planned) -> None:
        """Place a task where it stood; where that cannot be any more, it is not placed."""
        if not self.is_ready([task]):
            return
        earliest, latest = self._window(task)
        start, end = self.first(stood.starts), self.first(stood.ends)
        taken = any(
            one < end and start < other
            for name in stood.people
            for one, other in self.taken.get(name, [])
        )
        full = any(self._place_free(one, start, end - start) > start for one in task.places)
        if earliest <= start <= latest and not taken and not full:
            self.placed[task.id] = stood
            self.take(task, start, end, stood.people)

    def _try(self, group: Sequence[Task], later: int, *, late: bool) -> float | None:
        """Return by how many steps a window was missed; None where all fit, -1 where none can."""
        for number, task in enumerate(group):
            earliest, latest = self._window(task)
            if number == 0:
                earliest = max(earliest, self._first_free(group)) + later
                latest = math.inf if late else latest
            found = self._fits(task, earliest)
            if found is None:
                return -1
            start, people = found
            if start > latest:
                return start - latest
            self._put(task, start, people)
        return None

    def _first_free(self, group: Sequence[Task]) -> int:
        """Return from when the moulds that a group begins to hold are free."""
        names = {task.id for task in group}
        held = [one for one in self.days.held if one.first in names]
        ends = [
            self.first(self.placed[other.last].ends)
            for one in held
            for other in self.days.held
            if other.place == one.place and other.last in self.placed
        ]
        return max(ends, default=0)

    def _window(self, task: Task) -> tuple[int, float]:
        earliest, latest = self.floor, math.inf
        if task.not_before is not None:
            earliest = max(earliest, self.first(task.not_before))
        for after in task.after:
            ended = (self.placed[after.task].ends - self.days.begins).total_seconds()
            earliest = max(earliest, whole_steps(ended + after.from_s, self.days.step_s))
            until = (ended + after.until_s) / self.days.step_s
            latest = min(latest, until if until == math.inf else math.floor(until + 1e-9))
        return earliest, latest

    def _fits(
        self, task: Task, earliest: int, rather: tuple[str, ...] = ()
    ) -> tuple[int, tuple[str, ...]] | None:
        """Return the first step from which hands and places are free, and whose hands."""
        length, at = whole_steps(task.duration_s, self.days.step_s), earliest
        horizon = self.first(self.days.ends)
        able = [one.name for one in self.days.able(task)]
        if task.hands > len(able):
            return None
        while at + length <= horizon:
            free = max((self._place_free(one, at, length) for one in task.places), default=at)
            if task.hands == 0 and not task.left_alone:
                free = max(free, self._somebody_there(at, length))
            when = sorted((self._person_free(name, at, length), name) for name in able)
            if task.hands:
                free = max(free, when[task.hands - 1][0])
            if free <= at:
                there = [name for free_from, name in when if free_from <= at]
                # Whoever was to do it does it, where there is a choice.
                there.sort(key=lambda name: name not in rather)
                return at, tuple(there[: task.hands])
            at = free
        return None

    def _place_free(self, place: str, at: int, length: int) -> int:
        """Return from when on, not before `at`, a place takes one task more."""
        taken = self.taken.get(f"at {place}", [])
        capacity = self.days.place(place).capacity
        while True:
            there = [one for one in taken if one[0] < at + length and one[1] > at]
            if len(there) < capacity:
                return at
            at = min(end for _, end in there)

    def _person_free(self, name: str, at: int, length: int) -> int:
        taken, past = self.taken.get(name, []), 0
        for opens, closes in self.hours[name]:
            at = max(at, opens)
            while past < len(taken) and taken[past][1] <= at:
                past += 1
            for start, end in islice(taken, past, None):
                if start >= at + length or at + length > closes:
                    break
                at = max(at, end)
            if at + length <= closes:
                return at
        return self.first(self.days.ends)

    def _somebody_there(self, at: int, length: int) -> int:
        """Return from when on somebody is there for so long."""
        starts = [
            max(at, self.first(one.starts))
            for there in self.shifts.values()
            for one in there
            if max(at, self.first(one.starts)) + length <= self._last(one.closes)
        ]
        return min(starts, default=self.first(self.days.ends))

    def _put(self, task: Task, start: int, people: tuple[str, ...]) -> None:
        starts = self.days.begins + timedelta(seconds=start * self.days.step_s)
        ends = starts + timedelta(seconds=task.duration_s)
        self.placed[task.id] = Planned(task.id, starts, ends, people)
        length = whole_steps(task.duration_s, self.days.step_s)
        self.take(task, start, start + length, people)

    def take(self, task: Task, start: int, end: int, people: tuple[str, ...]) -> None:
        """Take people and places up for a stretch of steps."""
        for name in (*people, *(f"at {place}" for place in task.places)):
            insort(self.taken.setdefault(name, []), (start, end))

    def first(self, at: datetime) -> int:
        """Return the first step not before a time."""
        return whole_steps((at - self.days.begins).total_seconds(), self.days.step_s)

    def _last(self, at: datetime) -> int:
        return math.floor((at - self.days.begins).total_seconds() / self.days.step_s + 1e-9)
