"""Days to be planned as JSON (docs/days.md), read and written."""

import math
from datetime import UTC, date, datetime
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from mildhusk.core.constants import ZERO_CELSIUS_K
from mildhusk.core.days.days import Days
from mildhusk.core.days.shifts import Hours, Person
from mildhusk.core.days.tasks import After, Held, Place, Task
from mildhusk.core.errors import DaysError

_WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_MOST = 1000

Word = Annotated[str, Field(min_length=1, max_length=200)]
HoursOfDay = Annotated[list[float], Field(min_length=2, max_length=3)]


class _Shape(BaseModel):
    model_config = ConfigDict(extra="forbid")


class AfterShape(_Shape):
    """What a task follows, with its window in minutes."""

    task: Word
    from_min: float = 0.0
    until_min: float | None = None


class TaskShape(_Shape):
    """A task; times in minutes, temperature in degrees Celsius."""

    id: Word
    minutes: float
    title: str = ""
    job: str = ""
    hands: int = 1
    places: list[Word] = Field(default_factory=list, max_length=10)
    skill: str = ""
    after: list[AfterShape] = Field(default_factory=list, max_length=50)
    not_before: datetime | None = None
    due: datetime | None = None
    left_alone: bool = True
    temperature_c: float | None = None
    interruptible: bool = False
    note: str = ""
    due_by: str = ""

    def told(self) -> Task:
        """Return it as the core's value."""
        return Task(
            self.id,
            self.title or self.id,
            self.job or self.id,
            self.minutes * 60.0,
            hands=self.hands,
            places=tuple(self.places),
            skill=self.skill,
            after=tuple(
                After(
                    one.task,
                    one.from_min * 60.0,
                    math.inf if one.until_min is None else one.until_min * 60.0,
                )
                for one in self.after
            ),
            not_before=_zoned(self.not_before),
            due=_zoned(self.due),
            left_alone=self.left_alone,
            temperature_k=None
            if self.temperature_c is None
            else self.temperature_c + ZERO_CELSIUS_K,
            interruptible=self.interruptible,
            note=self.note,
            due_by=self.due_by,
        )


class PersonShape(_Shape):
    """A person: hours by weekday as [opens, closes] or [opens, closes, evening], in hours."""

    name: Word
    week: dict[str, HoursOfDay]
    zone: str = "UTC"
    skills: list[Word] = Field(default_factory=list, max_length=50)
    days_off: list[date] = Field(default_factory=list, max_length=400)
    extra: dict[date, HoursOfDay] = Field(default_factory=dict)

    def told(self) -> Person:
        """Return it as the core's value."""
        unknown = [day for day in self.week if day not in _WEEKDAYS]
        if unknown:
            raise DaysError(f"'{unknown[0]}' is no weekday; write {', '.join(_WEEKDAYS)}.", "week")
        return Person(
            self.name,
            {_WEEKDAYS.index(day): Hours(*hours) for day, hours in self.week.items()},
            self.zone,
            frozenset(self.skills),
            frozenset(self.days_off),
            {day: Hours(*hours) for day, hours in self.extra.items()},
        )


class PlaceShape(_Shape):
    """A place: how many tasks at once, how warm it is."""

    name: Word
    capacity: Annotated[int, Field(ge=1, le=100)] = 1
    temperature_c: float | None = None


class HeldShape(_Shape):
    """A place that is held from the start of one task to the end of another."""

    place: Word
    first: Word
    last: Word


class DaysShape(_Shape):
    """Days to be planned."""

    begins: datetime
    days: int = 28
    people: Annotated[list[PersonShape], Field(max_length=50)]
    tasks: Annotated[list[TaskShape], Field(max_length=_MOST)]
    places: Annotated[list[PlaceShape], Field(max_length=100)] = []
    held: Annotated[list[HeldShape], Field(max_length=_MOST)] = []

    def told(self) -> Days:
        """Return it as the core's value."""
        return Days(
            tuple(one.told() for one in self.tasks),
            tuple(one.told() for one in self.people),
            _zoned(self.begins) or self.begins,
            tuple(Place(one.name, one.capacity, _kelvin(one.temperature_c)) for one in self.places),
            tuple(Held(one.place, one.first, one.last) for one in self.held),
            self.days,
        )


def read_days_json(kept: dict[str, Any]) -> Days:
    """Return days as they were kept."""
    return DaysShape.model_validate(kept).told()


def days_json(days: Days) -> dict[str, Any]:
    """Return days as they are kept and as a file has them; `read_days` undoes it."""
    shape = DaysShape(
        begins=days.begins,
        days=days.days,
        people=[
            PersonShape(
                name=one.name,
                week={_WEEKDAYS[day]: _hours(hours) for day, hours in one.week.items()},
                zone=one.zone,
                skills=sorted(one.skills),
                days_off=sorted(one.days_off),
                extra={day: _hours(hours) for day, hours in one.extra.items()},
            )
            for one in days.people
        ],
        tasks=[_task_shape(one) for one in days.tasks],
        places=[
            PlaceShape(
                name=one.name, capacity=one.capacity, temperature_c=_celsius(one.temperature_k)
            )
            for one in days.places
        ],
        held=[HeldShape(place=one.place, first=one.first, last=one.last) for one in days.held],
    )
    return shape.model_dump(mode="json")


def _task_shape(task: Task) -> TaskShape:
    return TaskShape(
        id=task.id,
        minutes=task.duration_s / 60.0,
        title=task.title,
        job=task.job,
        hands=task.hands,
        places=list(task.places),
        skill=task.skill,
        after=[
            AfterShape(
                task=one.task,
                from_min=one.from_s / 60.0,
                until_min=None if one.until_s == math.inf else one.until_s / 60.0,
            )
            for one in task.after
        ],
        not_before=task.not_before,
        due=task.due,
        left_alone=task.left_alone,
        temperature_c=_celsius(task.temperature_k),
        interruptible=task.interruptible,
        note=task.note,
        due_by=task.due_by,
    )


def _hours(hours: Hours) -> list[float]:
    return [hours.opens_h, hours.closes_h, *([hours.evening_h] if hours.evening_h else [])]


def read_days(content: bytes) -> Days:
    """Return days from a file.

    Raises
    ------
    DaysError
        What is wrong in it, and where.
    """
    try:
        return DaysShape.model_validate_json(content).told()
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"])) or "file"
        raise DaysError(f"{where}: {first['msg']}.", where) from error


def _celsius(kelvin: float | None) -> float | None:
    return None if kelvin is None else kelvin - ZERO_CELSIUS_K


def _kelvin(celsius: float | None) -> float | None:
    return None if celsius is None else celsius + ZERO_CELSIUS_K


def _zoned(at: datetime | None) -> datetime | None:
    """Return a time with a zone; one without is taken as UTC."""
    return at.replace(tzinfo=UTC) if at is not None and at.tzinfo is None else at
