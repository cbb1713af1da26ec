"""Plans of days checked, and small ones searched whole, by code that shares nothing with ours."""

from datetime import UTC, datetime, time, timedelta
from itertools import combinations
from math import inf
from zoneinfo import ZoneInfo

HOUR = timedelta(hours=1)


def faults_of(days, planned):
    """What a plan does that it may not, in words; empty of a plan that holds."""
    at = {one.id: one for one in planned}
    tasks = {one.id: one for one in days.tasks}
    people = {one.name: one for one in days.people}
    found = [] if set(at) == set(tasks) else ["other tasks than were asked for"]
    for key, one in at.items():
        task = tasks[key]
        if one.ends - one.starts != timedelta(seconds=task.duration_s):
            found.append(f"{key} takes {one.ends - one.starts}")
        if one.starts < days.begins or (task.not_before and one.starts < task.not_before):
            found.append(f"{key} begins too soon")
        if len(set(one.people)) != task.hands:
            found.append(f"{key} is done by {one.people}")
        for name in one.people:
            if task.skill and task.skill not in people[name].skills:
                found.append(f"{name} cannot do {key}")
            if not is_there(people[name], one.starts, one.ends):
                found.append(f"{name} is not there for {key}")
        if task.hands == 0 and not task.left_alone and not _watched(days, one.starts, one.ends):
            found.append(f"{key} is left alone")
        for after in task.after:
            gap = (one.starts - at[after.task].ends).total_seconds()
            if not after.from_s <= gap <= after.until_s:
                found.append(f"{key} follows {after.task} after {gap} s")
    for a, b in combinations(at.values(), 2):
        if a.starts < b.ends and b.starts < a.ends and set(a.people) & set(b.people):
            found.append(f"{a.id} and {b.id} at once by one person")
    return found + _crowded(days, at)


def _crowded(days, at):
    taken = [
        (place, one.starts, one.ends)
        for task in days.tasks
        for place in task.places
        for one in [at[task.id]]
    ]
    taken += [(one.place, at[one.first].starts, at[one.last].ends) for one in days.held]
    capacity = {one.name: one.capacity for one in days.places}
    found = []
    for place, moment in {(place, starts) for place, starts, _ in taken}:
        there = sum(p == place and s <= moment < e for p, s, e in taken)
        if there > capacity.get(place, 1):
            found.append(f"{there} at once at {place}")
    return found


def is_there(person, starts, ends):
    """Whether a stretch lies in one day's hours, on the clock on the person's wall."""
    zone = ZoneInfo(person.zone)
    for back in (0, 1):
        day = starts.astimezone(zone).date() - timedelta(days=back)
        hours = person.extra.get(day)
        if hours is None and day not in person.days_off:
            hours = person.week.get(day.weekday())
        if hours is None:
            continue
        midnight = datetime.combine(day, time())
        opens, closes = (
            (midnight + h * HOUR).replace(tzinfo=zone).astimezone(UTC)
            for h in (hours.opens_h, max(hours.closes_h, hours.evening_h))
        )
        if opens <= starts and ends <= closes:
            return True
    return False


def _watched(days, starts, ends):
    """Whether somebody is there at every minute of a stretch."""
    minute = timedelta(minutes=1)
    while starts < ends:
        if not any(is_there(p, starts, min(starts + minute, ends)) for p in days.people):
            return False
        starts += minute
    return True


def least_cost(days, late=10.0, evening_s=7200.0):
    """The least that any plan costs, by trying all; None where there is none. [s]

    For few tasks on few steps. A cost is ten times what is late, two hours for each evening that a
    person gives up, and what the whole takes.
    """
    order, step = _ordered(days.tasks), timedelta(seconds=days.step_s)
    steps = round((days.ends - days.begins) / step)
    best = [inf]
    placed = {}

    def cost():
        lasts = max(one[1] for one in placed.values()) - days.begins
        over = sum(max(0.0, (placed[t.id][1] - t.due).total_seconds()) for t in days.tasks if t.due)
        given = {
            (name, _day_of(person, starts))
            for starts, ends, names in placed.values()
            for name in names
            for person in [next(p for p in days.people if p.name == name)]
            if ends > _closes(person, starts)
        }
        return late * over + evening_s * len(given) + lasts.total_seconds()

    def place(number):
        if number == len(order):
            if not _crowded_so(days, placed):
                best[0] = min(best[0], cost())
            return
        task = order[number]
        length = timedelta(seconds=task.duration_s)
        able = [p for p in days.people if not task.skill or task.skill in p.skills]
        for at in range(steps):
            starts = days.begins + at * step
            ends = starts + length
            if ends > days.ends or (ends - days.begins).total_seconds() >= best[0]:
                break
            if task.not_before and starts < task.not_before:
                continue
            if not all(
                a.from_s <= (starts - placed[a.task][1]).total_seconds() <= a.until_s
                for a in task.after
            ):
                continue
            if task.hands == 0 and not task.left_alone and not _watched(days, starts, ends):
                continue
            for hands in combinations(able, task.hands):
                if all(_free(p, starts, ends, placed) for p in hands):
                    placed[task.id] = (starts, ends, tuple(p.name for p in hands))
                    place(number + 1)
                    del placed[task.id]

    place(0)
    return None if best[0] == inf else best[0]


def _free(person, starts, ends, placed):
    return is_there(person, starts, ends) and not any(
        person.name in names and starts < e and s < ends for s, e, names in placed.values()
    )


def _crowded_so(days, placed):
    class At:
        def __init__(self, one):
            self.starts, self.ends, self.people = one

    return _crowded(days, {key: At(one) for key, one in placed.items()})


def _ordered(tasks):
    done, order = set(), []
    while len(order) < len(tasks):
        for task in tasks:
            if task.id not in done and all(a.task in done for a in task.after):
                order.append(task)
                done.add(task.id)
    return order


def _day_of(person, starts):
    return starts.astimezone(ZoneInfo(person.zone)).date()


def _closes(person, starts):
    zone, day = ZoneInfo(person.zone), _day_of(person, starts)
    hours = person.extra.get(day) or person.week.get(day.weekday())
    midnight = datetime.combine(day, time())
    return (midnight + hours.closes_h * HOUR).replace(tzinfo=zone).astimezone(UTC)


def collides(days, wishes, without):
    """The size of a smallest set of wishes that cannot be kept, by trying all; None of none."""

    def kept(some):
        freed = without(days, [one for one in wishes if one not in some])
        return least_cost(freed) is not None and _on_time(freed)

    for size in range(len(wishes) + 1):
        for some in combinations(wishes, size):
            if not kept(some):
                return size
    return None


def _on_time(days):
    """Whether all can be done with nothing late: lateness made dearer than everything else."""
    return least_cost(days, late=1e9) < 1e9
