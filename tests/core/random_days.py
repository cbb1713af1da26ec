"""Days made by chance: small ones that can be searched whole, and larger ones to the minute."""

from datetime import UTC, date, datetime, timedelta

import numpy as np

from mildhusk.core.days.days import Days
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.tasks import After, Held, Place, Task

MONDAY = datetime(2026, 3, 2, tzinfo=UTC)
H = 3600.0


def small(rng):
    """Two to four tasks of whole hours, one or two people, one or two short days."""
    count = int(rng.integers(2, 5))
    tasks = []
    for number in range(count):
        hands = int(rng.choice([0, 1, 1, 1, 2]))
        after = ()
        if number and rng.random() < 0.6:
            from_h = float(rng.integers(0, 3))
            until = from_h + float(rng.integers(0, 3)) if rng.random() < 0.5 else np.inf
            after = (After(f"t{rng.integers(number)}", from_h * H, until * H),)
        begins = MONDAY + timedelta(hours=8)
        tasks.append(
            Task(
                f"t{number}", f"Task {number}", f"job {number % 2}",
                float(rng.integers(1, 4)) * H,
                hands=hands,
                places=("bench",) if rng.random() < 0.5 else (),
                skill="spray" if hands == 1 and rng.random() < 0.2 else "",
                after=after,
                not_before=begins + timedelta(hours=2) if rng.random() < 0.2 else None,
                due=begins + timedelta(hours=int(rng.integers(3, 30)))
                if rng.random() < 0.4
                else None,
                left_alone=rng.random() < 0.8,
            )
        )  # fmt: skip
    people = [
        Person("Ada", {d: Hours(8.0, 12.0, 15.0 if rng.random() < 0.5 else 0.0) for d in range(2)})
    ]
    if rng.random() < 0.6:
        people.append(
            Person("Bo", {d: Hours(9.0, 13.0) for d in range(2)}, skills=frozenset({"spray"}))
        )
    held = (Held("mould", "t0", f"t{count - 1}"),) if rng.random() < 0.2 else ()
    places = (Place("bench", 2),) if rng.random() < 0.3 else ()
    return Days(tuple(tasks), tuple(people), MONDAY + timedelta(hours=8), places, held, 2, step_s=H)


def larger(rng):
    """Up to a dozen tasks to the minute, chains with windows, a mould, people in two zones."""
    tasks, held = [], []
    for job in range(int(rng.integers(1, 4))):
        before = None
        length = int(rng.integers(2, 5))
        for number in range(length):
            hands = int(rng.choice([0, 1, 1, 1]))
            after = ()
            if before is not None:
                from_s = 60.0 * float(rng.integers(0, 90))
                room = 60.0 * float(rng.integers(20, 200)) if rng.random() < 0.5 else np.inf
                after = (After(before, from_s, from_s + room),)
            before = f"{job}.{number}"
            tasks.append(
                Task(
                    before, f"Step {number}", f"job {job}",
                    60.0 * float(rng.integers(7, 200)) + float(rng.integers(0, 60)),
                    hands=hands,
                    places=tuple(p for p in ("bench", "booth") if rng.random() < 0.3),
                    skill="spray" if hands and rng.random() < 0.2 else "",
                    after=after,
                    due=MONDAY + timedelta(hours=int(rng.integers(10, 80)))
                    if rng.random() < 0.3
                    else None,
                    left_alone=rng.random() < 0.8,
                )
            )  # fmt: skip
        if rng.random() < 0.5:
            held.append(Held("mould", f"{job}.0", f"{job}.{length - 1}"))
    zones = ("Europe/Berlin", "America/St_Johns")
    people = [
        Person(
            f"person {n}",
            {d: Hours(7.5 + n, 16.25, 20.0 if rng.random() < 0.4 else 0.0) for d in range(6)},
            zone=zones[n % 2],
            skills=frozenset({"spray"}) if n == 0 else frozenset(),
            days_off=frozenset({date(2026, 3, 3)}) if rng.random() < 0.3 else frozenset(),
        )
        for n in range(int(rng.integers(1, 3)))
    ]
    return Days(tuple(tasks), tuple(people), MONDAY, held=tuple(held), days=5)
