"""What is cast from a lot has to be begun before the lot expires."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from mildhusk.core.days.tasks import Task


@dataclass(frozen=True, slots=True)
class StandingLot:
    """A lot on the shelf: what is left of it, and the end of its last good day there. [kg]"""

    label: str
    left_kg: float
    expires: datetime

    @property
    def last_day(self) -> str:
        """Return its last good day as it is told."""
        return f"{self.expires - timedelta(minutes=1):%d %b}"


def first_to_expire(
    needs_kg: Sequence[float], lots: Sequence[StandingLot]
) -> tuple[StandingLot | None, ...]:
    """Return the lot that expires first of those that each cast will be drawn from.

    Parameters
    ----------
    needs_kg : sequence of float
        What each cast takes, in the order of the casts. [kg]
    lots : sequence of StandingLot
        In the order in which they are drawn from.

    Returns
    -------
    tuple of StandingLot or None
        One for each cast; None of what is wholly to be bought.
    """
    left = [lot.left_kg for lot in lots]
    found = []
    for need_kg in needs_kg:
        missing_kg = need_kg
        drawn = []
        for at, lot in enumerate(lots):
            taken_kg = min(missing_kg, left[at])
            if taken_kg > 0.0:
                left[at] -= taken_kg
                missing_kg -= taken_kg
                drawn.append(lot)
        found.append(min(drawn, key=lambda lot: lot.expires, default=None))
    return tuple(found)


def begun_in_date(task: Task, lot: StandingLot) -> Task:
    """Return a task that is to be begun before a lot expires: when it is due, by what, a note."""
    due = lot.expires.astimezone(UTC) + timedelta(seconds=task.duration_s)
    said = f"its resin, lot {lot.label}, expires on {lot.last_day}"
    note = f"{task.note} I{said[1:]}.".strip()
    return replace(task, due=due, due_by=said, note=note)
