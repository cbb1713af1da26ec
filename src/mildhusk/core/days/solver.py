"""The plan of days by a constraint solver: nothing late, few evenings given up, soonest done."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from ortools.sat.python import cp_model

from mildhusk.core.days.bounds import work_bound_s
from mildhusk.core.days.days import (
    EVENING_S,
    LATE,
    Days,
    Plan,
    Planned,
    PlanStatus,
    cost_of,
    whole_steps,
)
from mildhusk.core.days.first_come import first_come, repaired
from mildhusk.core.days.shifts import Shift
from mildhusk.core.days.tasks import Task, in_order
from mildhusk.core.errors import DaysError

_SEED = 11
_WORKERS, _FEW = 8, 30
"""Ways of searching at once, also on two cores: each finds what others do not. Of few tasks one."""
_SOONEST = 0.2
"""Of the time to look goes into ending each task soon, at the same cost (assumed). [1]"""
MOVED_S, MISSED_S = 4 * 3600.0, 30 * 86_400.0
"""A task that moves, and a window that is missed, cost as much as a plan that is so much longer
(assumed). [s]"""
_CALM, RESTLESS_S = 0.1, 5 * 86_400.0
"""So many move at most of the tasks that what happened does not touch [1]; each more costs as much
as a plan that is so much longer (assumed). [s]"""


@dataclass(frozen=True, slots=True)
class Kept:
    """What holds already when days are planned anew.

    Parameters
    ----------
    done : mapping of str to Planned
        What was done, or is being done: as it was, whatever the hours say.
    before : mapping of str to Planned
        Where the others stood; they stay there as far as can be.
    now : datetime
        Nothing else begins before it.
    fixed : frozenset of str
        Of those before, what stays in any case.
    calm : frozenset of str
        Of those before, what is not touched by what happened: few of it move.
    """

    done: Mapping[str, Planned]
    before: Mapping[str, Planned]
    now: datetime
    fixed: frozenset[str] = frozenset()
    calm: frozenset[str] = frozenset()


def most_restless(calm: frozenset[str]) -> int:
    """Return how many move at most of the tasks that what happened does not touch."""
    return math.floor(_CALM * len(calm))


def plan_days(
    days: Days,
    *,
    seconds: float = 2.0,
    kept: Kept | None = None,
    near: Mapping[str, Planned] | None = None,
) -> Plan:
    """Plan the days.

    Parameters
    ----------
    days : Days
    seconds : float
        How long to look; a plan that is proved the best comes sooner. [s]
    kept : Kept or None
        What holds already.
    near : mapping of str to Planned, or None
        A plan that keeps it, to begin the search at.

    Returns
    -------
    Plan
        With `PlanStatus.NONE` where nothing can be planned so.

    Notes
    -----
    Each task is an interval on whole steps, with an optional copy for every person that may do it;
    people, places and held moulds are disjunctive or cumulative resources, closed hours intervals
    of their own. The cost is that of `Cost.whole_s`, and where days are planned anew that of every
    task that moves. First come, first served is the first guess.

    References
    ----------
    P. Baptiste, C. Le Pape, W. Nuijten, Constraint-Based Scheduling (2001), ch. 2-5. From memory.
    """
    days = days.cut()
    guess = first_come(days) if kept is None else None
    model, used_s = _Model(days, kept), 0.0
    if guess is not None and guess.planned:
        model.hint({one.id: one for one in guess.planned})
        used_s = model.complete_hint(seconds)
    elif kept is not None and near is not None:
        model.hint(near)
    elif kept is not None:
        model.hint(repaired(days, kept.before, kept.done, kept.now).by_id())
        used_s = model.complete_hint(seconds)
    found = model.solve(max(0.2, seconds - used_s))
    if found.standing is PlanStatus.NONE and guess is not None and guess.planned:
        return guess
    return found


def _solver(seconds: float, tasks: int) -> cp_model.CpSolver:
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = _WORKERS if tasks > _FEW else 1
    # Hours and windows say nothing to a relaxation that may split tasks.
    solver.parameters.linearization_level = 0
    solver.parameters.random_seed = _SEED
    # Probing each value of so many times takes longer than the plan.
    solver.parameters.cp_model_probing_level = 0
    return solver


def _union(stretches: Iterable[tuple[int, int]]) -> list[list[int]]:
    """Return stretches that touch as one."""
    found: list[list[int]] = []
    for first, last in sorted(stretches):
        if found and first <= found[-1][1]:
            found[-1][1] = max(found[-1][1], last)
        else:
            found.append([first, last])
    return found


def can_be_planned(days: Days, *, strict: bool, seconds: float = 2.0) -> bool | None:
    """Return whether days can be planned at all, with no due date passed where that is strict.

    Parameters
    ----------
    days : Days
    strict : bool
    seconds : float
        [s]

    Returns
    -------
    bool or None
        None where it was not found out in time.
    """
    return _Model(days.cut(), None, strict=strict).is_feasible(seconds)


@dataclass(slots=True, eq=False)
class _Model:
    """The model of the days, and its variables."""

    days: Days
    kept: Kept | None
    strict: bool = False
    model: cp_model.CpModel = field(default_factory=cp_model.CpModel)
    starts: dict[str, cp_model.IntVar] = field(default_factory=dict)
    done_by: dict[tuple[str, str], cp_model.IntVar] = field(default_factory=dict)
    open: dict[str, list[tuple[int, int, int]]] = field(default_factory=dict)
    evenings: dict[tuple[str, int], cp_model.IntVar] = field(default_factory=dict)
    moved: dict[str, cp_model.IntVar] = field(default_factory=dict)
    restless: cp_model.IntVar | None = None
    missed: dict[str, cp_model.IntVar] = field(default_factory=dict)
    late: list[cp_model.IntVar] = field(default_factory=list)
    intervals: dict[str, cp_model.IntervalVar] = field(default_factory=dict)
    cost: cp_model.LinearExprT = 0

    def __post_init__(self) -> None:
        self._lay_tasks()
        self._lay_order()
        self._lay_people()
        self._lay_places()
        self._lay_cost()

    # -- times ------------------------------------------------------------------------------------

    def _step(self, at: datetime) -> float:
        return (at - self.days.begins).total_seconds() / self.days.step_s

    def _first(self, at: datetime) -> int:
        return math.ceil(self._step(at) - 1e-9)

    def _last(self, at: datetime) -> int:
        return math.floor(self._step(at) + 1e-9)

    def _length(self, task: Task) -> int:
        done = self._done(task.id)
        if done is not None:
            return max(1, self._first(done.ends) - self._last(done.starts))
        return whole_steps(task.duration_s, self.days.step_s)

    def _done(self, key: str) -> Planned | None:
        return None if self.kept is None else self.kept.done.get(key)

    def _fixed(self, key: str) -> Planned | None:
        """Return where a task stays in any case."""
        if self.kept is None or key not in self.kept.fixed:
            return None
        return self.kept.before[key]

    def _goes_on(self, done: Planned) -> bool:
        """Whether what was begun is not over yet."""
        return self.kept is not None and done.ends > self.kept.now

    @property
    def _horizon(self) -> int:
        return self._last(self.days.ends)

    # -- constraints ------------------------------------------------------------------------------

    def _lay_tasks(self) -> None:
        now = 0 if self.kept is None else self._first(self.kept.now)
        for task in self.days.tasks:
            done, length = self._done(task.id), self._length(task)
            fixed = done or self._fixed(task.id)
            if fixed is not None:
                at = self._last(fixed.starts)
                start = self.model.new_int_var(at, at, task.id)
            else:
                first = max(now, 0)
                if task.not_before is not None:
                    first = max(first, self._first(task.not_before))
                last = self._horizon - length
                if first > last:
                    # It fits into none of these days: no value is left.
                    self.model.add_bool_or([])
                    last = first
                start = self.model.new_int_var(first, last, task.id)
            self.starts[task.id] = start
            self.intervals[task.id] = self.model.new_fixed_size_interval_var(start, length, task.id)

    def _lay_order(self) -> None:
        step = self.days.step_s
        tasks = {one.id: one for one in self.days.tasks}
        for task in self.days.tasks:
            if self._done(task.id) is not None:
                continue
            for after in task.after:
                before = tasks[after.task]
                length = self._length(before)
                # Its last step may be longer than it: windows run from when it has really ended.
                spare = max(0.0, length * step - before.duration_s)
                if self._done(before.id) is not None:
                    spare = 0.0
                ended = self.starts[before.id] + length
                self.model.add(
                    self.starts[task.id] >= ended + max(0, whole_steps(after.from_s - spare, step))
                )
                if after.until_s < math.inf:
                    most = math.floor((after.until_s - spare) / step + 1e-9)
                    if most < 0:
                        raise DaysError(
                            f"The window of '{task.title}' is shorter than a step of the plan.",
                            "step_s",
                        )
                    window = self.model.add(self.starts[task.id] <= ended + most)
                    if self.kept is not None:
                        # What happened may have closed it: then it is told, and the rest goes on.
                        missed = self.model.new_bool_var(f"missed {task.id}")
                        window.only_enforce_if(missed.negated())
                        self.missed[task.id] = missed

    def _lay_people(self) -> None:
        shifts = self.days.shifts()
        self.open = {
            name: [
                (self._first(one.starts), self._last(one.closes), self._last(one.ends))
                for one in there
            ]
            for name, there in shifts.items()
        }
        alone = {name: self._closed(there) for name, there in shifts.items()}
        of_person: dict[str, list[cp_model.IntervalVar]] = {name: [] for name in shifts}
        busy: dict[str, list[cp_model.IntervalVar]] = {}
        demands: list[tuple[cp_model.IntervalVar, int]] = []
        for task in self.days.tasks:
            done = self._done(task.id)
            if done is not None:
                for name in done.people if self._goes_on(done) else ():
                    busy.setdefault(name, []).append(self.intervals[task.id])
                continue
            fixed = self._fixed(task.id)
            if fixed is not None:
                for name in fixed.people:
                    of_person[name].append(self.intervals[task.id])
                continue
            if task.hands == 0:
                if not task.left_alone:
                    self._stay_near(task, shifts)
                continue
            demands.append((self.intervals[task.id], task.hands))
            takes = []
            for person in self.days.able(task):
                done_by = self.model.new_bool_var(f"{task.id} by {person.name}")
                self.done_by[task.id, person.name] = done_by
                takes.append(done_by)
                length = self._length(task)
                of_person[person.name].append(
                    self.model.new_optional_fixed_size_interval_var(
                        self.starts[task.id], length, done_by, f"{task.id} by {person.name}"
                    )
                )
                self._within(task, person.name, done_by)
            self.model.add(sum(takes) == task.hands)
        for name, intervals in of_person.items():
            self.model.add_no_overlap([*intervals, *alone[name]])
            # What goes on may go on beyond anybody's hours.
            if name in busy:
                self.model.add_no_overlap([*intervals, *busy[name]])
        # Follows from the rest, and tells the solver how many hands there are at any time.
        there = [one for closed in alone.values() for one in closed]
        self.model.add_cumulative(
            [*there, *(one for one, _ in demands)],
            [*(1 for _ in there), *(hands for _, hands in demands)],
            len(shifts),
        )

    def _closed(self, shifts: Sequence[Shift]) -> list[cp_model.IntervalVar]:
        """Return the stretches in which a person is not there, from now on."""
        closed, free_from = [], 0 if self.kept is None else max(0, self._first(self.kept.now))
        for shift in shifts:
            starts, ends = self._first(shift.starts), self._last(shift.ends)
            if starts > free_from:
                closed.append(
                    self.model.new_fixed_size_interval_var(free_from, starts - free_from, "closed")
                )
            free_from = max(free_from, ends)
        if free_from < self._horizon:
            length = self._horizon - free_from
            closed.append(self.model.new_fixed_size_interval_var(free_from, length, "closed"))
        return closed

    def _within(self, task: Task, name: str, done_by: cp_model.IntVar) -> None:
        """Let a person do a task within one shift; its end in an evening gives that one up."""
        length = self._length(task)
        allowed = [
            [starts, ends - length]
            for starts, _, ends in self.open[name]
            if ends - length >= starts
        ]
        start = self.starts[task.id]
        self.model.add_linear_expression_in_domain(
            start, cp_model.Domain.from_intervals(allowed)
        ).only_enforce_if(done_by)
        for number, (_, closes, ends) in enumerate(self.open[name]):
            first, last = closes - length + 1, ends - length
            if ends <= closes or last < first:
                continue
            if (name, number) not in self.evenings:
                title = f"evening {number} of {name}"
                self.evenings[name, number] = self.model.new_bool_var(title)
            given = self.evenings[name, number]
            outside = cp_model.Domain.from_intervals([[first, last]]).complement()
            self.model.add_linear_expression_in_domain(start, outside).only_enforce_if(
                [done_by, given.negated()]
            )

    def _stay_near(self, task: Task, shifts: Mapping[str, Sequence[Shift]]) -> None:
        """Let what cannot be left alone go on while somebody is there."""
        length = self._length(task)
        union = _union(
            (self._first(one.starts), self._last(one.ends))
            for there in shifts.values()
            for one in there
        )
        allowed = [[first, last - length] for first, last in union if last - length >= first]
        self.model.add_linear_expression_in_domain(
            self.starts[task.id], cp_model.Domain.from_intervals(allowed)
        )

    def _lay_places(self) -> None:
        takes: dict[str, list[cp_model.IntervalVar]] = {}
        for task in self.days.tasks:
            done = self._done(task.id)
            for place in task.places if done is None or self._goes_on(done) else ():
                takes.setdefault(place, []).append(self.intervals[task.id])
        lengths = {one.id: self._length(one) for one in self.days.tasks}
        for number, one in enumerate(self.days.held):
            start: cp_model.LinearExprT = self.starts[one.first]
            end = self.starts[one.last] + lengths[one.last]
            if self.kept is not None and one.first in self.kept.done:
                if one.last in self.kept.done:
                    continue
                start = max(0, self._first(self.kept.now))
            length = self.model.new_int_var(0, 2 * self._horizon, f"held {number}")
            held = self.model.new_interval_var(start, length, end, f"held {number}")
            takes.setdefault(one.place, []).append(held)
        for name, intervals in takes.items():
            capacity = self.days.place(name).capacity
            if capacity == 1:
                self.model.add_no_overlap(intervals)
            else:
                self.model.add_cumulative(intervals, [1] * len(intervals), capacity)

    def _lay_cost(self) -> None:
        step = self.days.step_s
        lasts = self.model.new_int_var(0, 2 * self._horizon + 1, "lasts")
        for task in self.days.tasks:
            end = self.starts[task.id] + self._length(task)
            self.model.add(lasts >= end)
            if task.due is not None and self._done(task.id) is None:
                self._be_due(task, end)
        terms = [lasts, *(round(LATE) * one for one in self.late)]
        terms += [round(EVENING_S / step) * one for one in self.evenings.values()]
        if self.kept is not None:
            self._lay_moves(self.kept)
            terms += [round(MOVED_S / step) * one for one in self.moved.values()]
            if self.restless is not None:
                terms.append(round(RESTLESS_S / step) * self.restless)
            terms += [round(MISSED_S / step) * one for one in self.missed.values()]
        self.cost = sum(terms)
        self.model.minimize(self.cost)

    def _be_due(self, task: Task, end: cp_model.LinearExpr) -> None:
        assert task.due is not None
        due = self._last(task.due)
        if self.strict:
            self.model.add(end <= due)
            return
        late = self.model.new_int_var(0, 2 * self._horizon, f"late {task.id}")
        self.model.add(late >= end - due)
        self.late.append(late)

    def _lay_moves(self, kept: Kept) -> None:
        """Tell whether each task is anywhere but where it stood, and whether too many are."""
        for task in self.days.tasks:
            before = kept.before.get(task.id)
            if before is None or self._done(task.id) is not None:
                continue
            if task.id in kept.fixed:
                continue
            at = self._last(before.starts)
            moved = self.model.new_bool_var(f"moved {task.id}")
            self.model.add(self.starts[task.id] == at).only_enforce_if(moved.negated())
            for name in before.people:
                if (task.id, name) in self.done_by:
                    self.model.add_implication(moved.negated(), self.done_by[task.id, name])
            self.moved[task.id] = moved
        calm = [one for key, one in self.moved.items() if key in kept.calm]
        few = most_restless(kept.calm)
        if len(calm) > few:
            self.restless = self.model.new_int_var(0, len(calm), "restless")
            self.model.add(self.restless >= sum(calm) - few)

    # -- solving ----------------------------------------------------------------------------------

    def hint(self, planned: Mapping[str, Planned]) -> None:
        """Begin the search at a plan."""
        for key, one in planned.items():
            if key in self.starts:
                self.model.add_hint(self.starts[key], self._last(one.starts))
        for (key, name), done_by in self.done_by.items():
            if key in planned:
                self.model.add_hint(done_by, name in planned[key].people)

    def _solver(self, seconds: float) -> cp_model.CpSolver:
        return _solver(seconds, len(self.days.tasks))

    def complete_hint(self, seconds: float) -> float:
        """Give every variable the value that the hinted ones leave it; a half hint helps little.

        Returns how long that took. [s]
        """
        solver = self._solver(seconds)
        solver.parameters.fix_variables_to_their_hinted_value = True
        status = solver.solve(self.model)
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            hint = self.model.proto.solution_hint
            values = list(solver.response_proto.solution)
            hint.vars.clear()
            hint.values.clear()
            hint.vars.extend(range(len(values)))
            hint.values.extend(values)
        return float(solver.wall_time)

    def is_feasible(self, seconds: float) -> bool | None:
        self.model.minimize(0)
        status = self._solver(seconds).solve(self.model)
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return True
        return False if status == cp_model.INFEASIBLE else None

    def solve(self, seconds: float) -> Plan:
        solver = self._solver(seconds if self.kept else (1.0 - _SOONEST) * seconds)
        step = self.days.step_s
        status = solver.solve(self.model)
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return Plan(PlanStatus.NONE, tasks=self.days.tasks)
        left_s = max(0.1, seconds - solver.wall_time)
        planned = self._planned(self._soonest(solver, min(_SOONEST * seconds, left_s)))
        standing = PlanStatus.BEST if status == cp_model.OPTIMAL else PlanStatus.GOOD
        moves = sum(solver.value(one) for one in self.moved.values()) * MOVED_S
        if self.restless is not None:
            moves += solver.value(self.restless) * RESTLESS_S
        missed = tuple(key for key, one in self.missed.items() if solver.value(one))
        moves += len(missed) * MISSED_S
        bound_s = solver.best_objective_bound * step - moves - self._rounded_s()
        bound_s = max(bound_s, work_bound_s(self.days))
        cost = cost_of(self.days, planned)
        return Plan(standing, planned, cost, bound_s, self.days.tasks, missed)

    def _rounded_s(self) -> float:
        """Return by how much whole steps may have made a plan dearer than it is. [s]"""
        if all(whole_steps(one.duration_s, 1.0) % self.days.step_s == 0 for one in self.days.tasks):
            return 0.0
        return self.days.step_s * (1.0 + LATE * len(self.late))

    def _soonest(self, found: cp_model.CpSolver, seconds: float) -> cp_model.CpSolver:
        """Return the plan that costs as much, each task in it as soon as can be, by whom it was."""
        if self.kept is not None:
            return found
        model = self.model.clone()
        values = list(found.response_proto.solution)
        model.proto.solution_hint.vars.clear()
        model.proto.solution_hint.values.clear()
        model.proto.solution_hint.vars.extend(range(len(values)))
        model.proto.solution_hint.values.extend(values)
        for done_by in self.done_by.values():
            model.add(done_by == found.value(done_by))
        model.add(self.cost <= round(found.objective_value))
        model.minimize(sum(self.starts.values()))
        solver = self._solver(seconds)
        status = solver.solve(model)
        return solver if status in (cp_model.OPTIMAL, cp_model.FEASIBLE) else found

    def _planned(self, solver: cp_model.CpSolver) -> tuple[Planned, ...]:
        found = []
        for task in self.days.tasks:
            fixed = self._done(task.id) or self._fixed(task.id)
            if fixed is not None:
                found.append(fixed)
                continue
            starts = self.days.begins + timedelta(
                seconds=solver.value(self.starts[task.id]) * self.days.step_s
            )
            people = tuple(
                one.name
                for one in self.days.people
                if (task.id, one.name) in self.done_by
                and solver.value(self.done_by[task.id, one.name])
            )
            ends = starts + timedelta(seconds=task.duration_s)
            found.append(Planned(task.id, starts, ends, people))
        order = {one.id: at for at, one in enumerate(in_order(self.days.tasks))}
        return tuple(sorted(found, key=lambda one: (one.starts, order[one.id])))
