"""The clock of a build: what is done when, across nights, and what can be done meanwhile."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import MouldError
from mildhusk.core.mould.brushing import RubberCoat

_LONG_WAIT = timedelta(minutes=20)
_MOST_DAYS = 60


@dataclass(frozen=True, slots=True)
class Task:
    """One step of a build.

    Parameters
    ----------
    id, title : str
    hands_s : float
        Somebody works on it for so long. [s]
    from_s, until_s : float
        It may begin so long after the end of the one before, at the earliest and at the latest;
        `until_s` may be infinite. [s]
    meanwhile : str
        What may be done while it is waited for.
    after : str
        The earlier task from whose end its times run, where that is not the one before; it still
        follows that one too.
    """

    id: str
    title: str
    hands_s: float
    from_s: float = 0.0
    until_s: float = float("inf")
    meanwhile: str = ""
    after: str = ""


@dataclass(frozen=True, slots=True)
class Step:
    """A task with its times.

    Parameters
    ----------
    task : Task
    starts, ends : datetime
    latest : datetime or None
        The latest it may start; None when it may wait.
    late : bool
        Its window closes before hands are there.
    """

    task: Task
    starts: datetime
    ends: datetime
    latest: datetime | None
    late: bool


def schedule(tasks: tuple[Task, ...], begins: datetime, equipment: Equipment) -> tuple[Step, ...]:
    """Put the tasks of a build on the clock, one after another, within working hours.

    Parameters
    ----------
    tasks : tuple of Task
    begins : datetime
        Not before this.
    equipment : Equipment
        Its working hours.

    Returns
    -------
    tuple of Step
        Tasks that have to follow in a window are kept together: if the window would close before
        the workshop opens again, all of them begin the next morning instead. What cannot be kept
        even so is marked late.

    Raises
    ------
    MouldError
        A task that is longer than a working day.
    """
    day = _length_of(equipment)
    for task in tasks:
        if task.hands_s > day:
            raise MouldError(
                f"'{task.title}' takes {task.hands_s / 3600:.1f} h at a stretch, the workshop is "
                f"open {day / 3600:.1f} h; open it longer, or take smaller steps.",
                "hours",
            )
    done: list[Step] = []
    free = begins
    for group in _groups(tasks):
        ended = {step.task.id: step.ends for step in done}
        placed = _place(group, free, ended, equipment)
        if any(step.late for step in placed):
            # A fresh morning gives the whole group the most room.
            fresh = _place(group, _next_morning(free, equipment), ended, equipment)
            if sum(step.late for step in fresh) < sum(step.late for step in placed):
                placed = fresh
        done += placed
        free = placed[-1].ends
    return tuple(done)


def length_of(steps: tuple[Step, ...]) -> float:
    """Return how long a build takes from its first step to its last. [s]"""
    return (steps[-1].ends - steps[0].starts).total_seconds() if steps else 0.0


def _groups(tasks: tuple[Task, ...]) -> list[list[Task]]:
    """Return runs of tasks that a window ties to the one before."""
    groups: list[list[Task]] = []
    for task in tasks:
        if groups and task.until_s != float("inf"):
            groups[-1].append(task)
        else:
            groups.append([task])
    return groups


def _place(
    group: list[Task], free: datetime, ended: dict[str, datetime], equipment: Equipment
) -> list[Step]:
    placed = []
    for task in group:
        begins = ended[task.after] if task.after else free
        earliest = max(begins + timedelta(seconds=task.from_s), free)
        starts = _fits(earliest, task.hands_s, equipment)
        latest = None
        if task.until_s != float("inf"):
            latest = begins + timedelta(seconds=task.until_s)
        late = latest is not None and starts > latest
        free = starts + timedelta(seconds=task.hands_s)
        placed.append(Step(task, starts, free, latest, late))
    return placed


def _fits(earliest: datetime, hands_s: float, equipment: Equipment) -> datetime:
    """Return the first time from which hands are there long enough."""
    if hands_s <= 0.0:
        return earliest
    at = earliest
    for _ in range(_MOST_DAYS):
        opens, closes = _midnight(at) + equipment.opens, _midnight(at) + equipment.closes
        start = max(at, opens)
        if start + timedelta(seconds=hands_s) <= closes:
            return start
        at = opens + timedelta(days=1)
    raise MouldError("The build does not fit into the working hours.", "hours")


def _next_morning(at: datetime, equipment: Equipment) -> datetime:
    opens = _midnight(at) + equipment.opens
    return opens if at < opens else opens + timedelta(days=1)


def _length_of(equipment: Equipment) -> float:
    return (equipment.closes - equipment.opens).total_seconds()


def _midnight(at: datetime) -> datetime:
    return at.replace(hour=0, minute=0, second=0, microsecond=0)


def is_long_wait(before: Step, after: Step) -> bool:
    """Whether something else can be done between two steps."""
    return after.starts - before.ends >= _LONG_WAIT


def brushing_tasks(coats: tuple[RubberCoat, ...]) -> tuple[Task, ...]:
    """Return the tasks of brushed coats; windows run from the first contact of A and B."""
    tasks = []
    before: RubberCoat | None = None
    for coat in coats:
        title = "Print coat" if coat.number == 1 else f"Coat {coat.number} of rubber"
        if before is None:
            tasks.append(Task("coat-1", title, coat.hands_s))
        else:
            # The window runs from mixing, the clock here from when the brush is put down.
            spent = before.hands_s
            tasks.append(
                Task(
                    f"coat-{coat.number}",
                    title,
                    coat.hands_s,
                    max(0.0, before.next_from_s - spent),
                    max(0.0, before.next_until_s - spent),
                    "cut gauze, weigh the next coat, keep the witness cup in sight"
                    if coat.gauze_m2
                    else "weigh the next coat, keep the witness cup in sight",
                )
            )
        before = coat
    return tuple(tasks)
