"""The days as iCalendar (RFC 5545)."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from icalendar import Alarm, Calendar, Event


@dataclass(frozen=True, slots=True)
class CalendarTask:
    """A task as a calendar shows it; one without hands takes up no time."""

    uid: str
    title: str
    starts: datetime
    ends: datetime
    needs_hands: bool
    note: str = ""


def days_ics(tasks: Iterable[CalendarTask], made_at: datetime) -> bytes:
    """Return tasks as iCalendar; what needs hands takes up time and rings.

    Parameters
    ----------
    tasks : iterable of CalendarTask
    made_at : datetime

    Returns
    -------
    bytes
        One event a task, in UTC.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Mild Husk//days//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Mild Husk: the days")
    for one in tasks:
        event = Event()
        event.add("uid", f"{one.uid}@mildhusk")
        event.add("dtstamp", made_at.astimezone(UTC))
        event.add("summary", one.title)
        event.add("dtstart", one.starts.astimezone(UTC))
        event.add("dtend", one.ends.astimezone(UTC))
        event.add("transp", "OPAQUE" if one.needs_hands else "TRANSPARENT")
        if one.note:
            event.add("description", one.note)
        if one.needs_hands:
            alarm = Alarm()
            alarm.add("action", "AUDIO")
            alarm.add("trigger", timedelta(0))
            event.add_component(alarm)
        calendar.add_component(event)
    content: bytes = calendar.to_ical()
    return content
