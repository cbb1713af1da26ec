"""The tasks of a mould and of a cast: from the build clock, the cast sheet and the finish."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.constants import CAST_FINISH_H, CAST_SETUP_H
from mildhusk.core.days.days import whole_steps
from mildhusk.core.days.tasks import After, Held, Task
from mildhusk.core.finishing.finish import FinishStep
from mildhusk.core.mould import clock

MACHINE, BENCH = "machine", "bench"


@dataclass(frozen=True, slots=True)
class CastTimes:
    """How long a cast takes, from the first contact of its first coat.

    Parameters
    ----------
    rolled_s : float
        Until its last coat has gelled. [s]
    last_coat_s : float
        First contact of the last coat. [s]
    out_s : float
        When it may leave the mould. [s]
    hands : int
        Pairs of hands that roll it.
    on_machine : bool
    """

    rolled_s: float
    last_coat_s: float
    out_s: float
    hands: int = 1
    on_machine: bool = False

    @classmethod
    def of(cls, sheet: CastSheet, *, on_machine: bool, hands: int) -> "CastTimes":
        """Return the times of a cast sheet."""
        last = sheet.coats[-1]
        rolled = max(one.starts_s + one.clock.roll_until_s for one in sheet.coats)
        return cls(rolled, last.starts_s, max(sheet.out_after_s, rolled + 60.0), hands, on_machine)


def cast_tasks(
    job: str,
    mould: str,
    times: CastTimes,
    finish: Sequence[FinishStep] = (),
    *,
    due: datetime | None = None,
    not_before: datetime | None = None,
) -> tuple[tuple[Task, ...], Held]:
    """Return the tasks of one cast, and what it holds of its mould.

    Parameters
    ----------
    job : str
    mould : str
        Held from the first weighing until the cast is out.
    times : CastTimes
    finish : sequence of FinishStep
    due, not_before : datetime or None
        For the whole of it.

    Returns
    -------
    tasks : tuple of Task
    held : Held
    """
    rolled_s = _whole_minutes(CAST_SETUP_H * 3600.0 + times.rolled_s)
    roll = Task(
        f"{job}: roll",
        "Seat the mould, weigh, roll all coats",
        job,
        rolled_s,
        hands=times.hands,
        places=(MACHINE,) if times.on_machine else (),
        not_before=not_before,
        note="Nothing else fits between its coats.",
    )
    cure = Task(
        f"{job}: cure",
        "It cures in the mould",
        job,
        _whole_minutes(CAST_SETUP_H * 3600.0 + times.out_s - rolled_s),
        hands=0,
        after=(After(roll.id, 0.0, 0.0),),
    )
    out = Task(
        f"{job}: out", "Take it out, trim the rim, clean the mould", job, CAST_FINISH_H * 3600.0,
        after=(After(cure.id),),
    )  # fmt: skip
    tasks = [roll, cure, out]
    stood_s = 0.0
    for step in finish:
        tasks.append(_finish_task(job, step, tasks[-1], roll, times, stood_s))
        tasks += _standing(job, step, tasks[-1])
        stood_s = step.stands_s
    if due is not None:
        tasks[-1] = replace(tasks[-1], due=due)
    return tuple(tasks), Held(mould, roll.id, out.id)


def _whole_minutes(seconds: float) -> float:
    """Return a time as whole minutes, rounded up; so a cure begins when rolling ends."""
    return 60.0 * whole_steps(seconds, 60.0)


def _finish_task(
    job: str, step: FinishStep, before: Task, roll: Task, times: CastTimes, stood_s: float
) -> Task:
    after = [After(before.id, *_window(step, stood_s))]
    # Its cure is counted from the last coat's first contact, before the rolling ended.
    cured_s = step.not_before_s - (times.rolled_s - times.last_coat_s)
    if cured_s > 0.0:
        after.append(After(roll.id, cured_s))
    return _step_task(job, step, tuple(after))


def _window(step: FinishStep, stood_s: float) -> tuple[float, float]:
    """Return when a step may begin after what stood so long before it. [s]"""
    until_s = math.inf if step.until_s is None else step.until_s
    return max(0.0, step.from_s - stood_s), max(0.0, until_s - stood_s)


def _standing(job: str, step: FinishStep, put: Task) -> Iterator[Task]:
    """Return what takes up the place of a step after its hands have left it, if anything does."""
    if step.stands_s > 0.0:
        yield Task(
            f"{job}: {step.id}, standing",
            f"{step.title}: it stands there",
            job,
            _whole_minutes(step.stands_s),
            hands=0,
            places=put.places,
            after=(After(put.id, 0.0, 0.0),),
            temperature_k=step.stands_k,
        )


def _step_task(job: str, step: FinishStep, after: tuple[After, ...]) -> Task:
    return Task(
        f"{job}: {step.id}",
        step.title,
        job,
        step.hands_s,
        places=(step.place,) if step.place else (),
        after=after,
        interruptible=step.interruptible,
        note=" ".join(one for one in (step.note, step.why) if one),
    )


def finish_tasks(
    job: str,
    finish: Sequence[FinishStep],
    last_contact: datetime,
    *,
    due: datetime | None = None,
) -> tuple[Task, ...]:
    """Return the tasks of the finish of a husk that is out already.

    Parameters
    ----------
    job : str
    finish : sequence of FinishStep
    last_contact : datetime
        First contact of its last coat, from which its cure is counted.
    due : datetime or None
        For the whole of it.

    Returns
    -------
    tuple of Task
    """
    tasks: list[Task] = []
    stood_s = 0.0
    for step in finish:
        after = (After(tasks[-1].id, *_window(step, stood_s)),) if tasks else ()
        cured = last_contact + timedelta(seconds=step.not_before_s)
        tasks.append(replace(_step_task(job, step, after), not_before=cured))
        tasks += _standing(job, step, tasks[-1])
        stood_s = step.stands_s
    if tasks and due is not None:
        tasks[-1] = replace(tasks[-1], due=due)
    return tuple(tasks)


def mould_tasks(
    job: str,
    steps: Sequence[clock.Task],
    *,
    due: datetime | None = None,
    not_before: datetime | None = None,
) -> tuple[Task, ...]:
    """Return the tasks of building a mould.

    Parameters
    ----------
    job : str
    steps : sequence of mould.clock.Task
        Of its build clock, in their order.
    due, not_before : datetime or None
        For the whole of it.

    Returns
    -------
    tuple of Task
    """
    tasks: list[Task] = []
    wait_s, until_s = 0.0, math.inf
    for step in steps:
        wait_s, until_s = wait_s + step.from_s, min(until_s, step.until_s)
        if step.hands_s <= 0.0:
            continue
        after: tuple[After, ...] = ()
        if tasks and step.after:
            # It follows both: the one before at once, the other one in its window.
            own = After(f"{job}: {step.after}", step.from_s, step.until_s)
            after = (After(tasks[-1].id), own)
        elif tasks:
            after = (After(tasks[-1].id, wait_s, max(wait_s, until_s)),)
        tasks.append(
            Task(
                f"{job}: {step.id}",
                step.title,
                job,
                step.hands_s,
                places=(BENCH,) if step.until_s < math.inf else (),
                after=after,
                not_before=None if tasks else not_before,
                interruptible=step.until_s == math.inf,
                note=step.meanwhile and f"Meanwhile: {step.meanwhile}.",
            )
        )
        wait_s, until_s = 0.0, math.inf
    if tasks and due is not None:
        tasks[-1] = replace(tasks[-1], due=due)
    return tuple(tasks)
