"""Who is there when: working hours in local time, as stretches of absolute time."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

from mildhusk.core.errors import DaysError

_WEEK = range(7)
_LATEST_H = 36.0


@dataclass(frozen=True, slots=True)
class Hours:
    """Working hours of a day, from its midnight; a night shift ends after 24. [h]

    Parameters
    ----------
    opens_h, closes_h : float
    evening_h : float
        Until when one would go on if need be; `closes_h` where one would not.
    """

    opens_h: float
    closes_h: float
    evening_h: float = 0.0

    def __post_init__(self) -> None:
        if not 0.0 <= self.opens_h < self.closes_h <= _LATEST_H:
            raise DaysError("Working hours have to begin before they end, by 36:00.", "hours")
        if self.evening_h and not self.closes_h <= self.evening_h <= _LATEST_H:
            raise DaysError("An evening ends after the working hours do, by 36:00.", "hours")

    @property
    def ends_h(self) -> float:
        """When the last stretch of it ends. [h]"""
        return max(self.closes_h, self.evening_h)


@dataclass(frozen=True, slots=True)
class Person:
    """A pair of hands.

    Parameters
    ----------
    name : str
    week : mapping of int to Hours
        By weekday, Monday is 0; a day that is left out is free.
    zone : str
        In which the hours are told.
    skills : frozenset of str
    days_off : frozenset of date
    extra : mapping of date to Hours
        Hours of one day, instead of its weekday's.
    """

    name: str
    week: Mapping[int, Hours]
    zone: str = "UTC"
    skills: frozenset[str] = frozenset()
    days_off: frozenset[date] = frozenset()
    extra: Mapping[date, Hours] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if any(day not in _WEEK for day in self.week):
            raise DaysError("Weekdays are 0, Monday, to 6, Sunday.", "week")
        try:
            ZoneInfo(self.zone)
        except (KeyError, ValueError, OSError) as error:
            raise DaysError(f"'{self.zone}' is no time zone.", "zone") from error

    def can(self, skill: str) -> bool:
        """Whether this person may do what needs a skill."""
        return not skill or skill in self.skills


@dataclass(frozen=True, slots=True)
class Shift:
    """A stretch in which somebody is there; after `closes` it is an evening given up. UTC."""

    day: date
    starts: datetime
    closes: datetime
    ends: datetime


def shifts_of(person: Person, begins: datetime, ends: datetime) -> tuple[Shift, ...]:
    """Return when a person is there.

    Parameters
    ----------
    person : Person
    begins, ends : datetime
        With their zones.

    Returns
    -------
    tuple of Shift
        Cut at both ends. Hours are told on the clock on the wall: on the day that a zone leaves
        summer time, 0 to 24 are 25 hours.
    """
    zone = ZoneInfo(person.zone)
    day = begins.astimezone(zone).date() - timedelta(days=2)
    last = ends.astimezone(zone).date()
    found = []
    while day <= last:
        hours = person.extra.get(day, person.week.get(day.weekday()))
        if hours is not None and (day not in person.days_off or day in person.extra):
            starts, closes, until = (
                _at(day, hour, zone) for hour in (hours.opens_h, hours.closes_h, hours.ends_h)
            )
            starts, until = max(starts, begins), min(until, ends)
            if starts < until:
                found.append(Shift(day, starts, min(max(closes, starts), until), until))
        day += timedelta(days=1)
    return tuple(found)


def _at(day: date, hour: float, zone: ZoneInfo) -> datetime:
    on_the_wall = datetime(day.year, day.month, day.day) + timedelta(hours=hour)
    return on_the_wall.replace(tzinfo=zone).astimezone(UTC)


def longest_shift_s(people: tuple[Person, ...], begins: datetime, ends: datetime) -> float:
    """Return the longest stretch in which anybody is there.

    Parameters
    ----------
    people : tuple of Person
    begins, ends : datetime

    Returns
    -------
    float
        Evenings left out. [s]
    """
    return max(
        (
            (shift.closes - shift.starts).total_seconds()
            for person in people
            for shift in shifts_of(person, begins, ends)
        ),
        default=0.0,
    )
