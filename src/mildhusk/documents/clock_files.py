"""The clock of a cast as iCalendar (RFC 5545)."""

from datetime import UTC, datetime, timedelta

from icalendar import Alarm, Calendar, Event

from mildhusk.core.casting.plan import CastPlan
from mildhusk.core.casting.timeline import Stretch, StretchKind

_WORDS = {
    StretchKind.WEIGH: "weigh the next cup",
    StretchKind.CUP: "mix and pour",
    StretchKind.ROLL: "keep it turning",
    StretchKind.SET: "hands free",
    StretchKind.TACK: "the next coat may go on",
    StretchKind.CURE: "leave it in the mould",
}


def clock_ics(name: str, plan: CastPlan, begins: datetime, made_at: datetime, uid: str) -> bytes:
    """Return the ribbon of a cast as iCalendar.

    Parameters
    ----------
    name : str
        Of the sheet.
    plan : CastPlan
    begins : datetime
        When A meets B of coat 1; with its time zone.
    made_at : datetime
    uid : str
        What stays the same when it is exported again.

    Returns
    -------
    bytes
        One event a stretch; those with busy hands take up time, the others are free; each cup and
        the demoulding ring.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Mild Husk//cast clock//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    start = begins.astimezone(UTC)
    for stretch in plan.ribbon:
        event = _event(name, stretch, start)
        event.add("uid", f"{uid}-{stretch.coat}-{stretch.kind}@mildhusk")
        event.add("dtstamp", made_at.astimezone(UTC))
        if stretch.kind in (StretchKind.CUP, StretchKind.WEIGH):
            event.add_component(_alarm(-timedelta(minutes=2)))
        calendar.add_component(event)
    out = Event()
    out.add("summary", f"{name}: take it out of the mould")
    out.add("dtstart", start + timedelta(seconds=round(plan.out_after_s)))
    out.add("dtend", start + timedelta(seconds=round(plan.out_after_s) + 900))
    out.add("uid", f"{uid}-out@mildhusk")
    out.add("dtstamp", made_at.astimezone(UTC))
    out.add_component(_alarm(timedelta(0)))
    calendar.add_component(out)
    content: bytes = calendar.to_ical()
    return content


def _event(name: str, stretch: Stretch, start: datetime) -> Event:
    event = Event()
    event.add("summary", f"{name}: coat {stretch.coat}, {_WORDS[stretch.kind]}")
    event.add("dtstart", start + timedelta(seconds=round(stretch.from_s)))
    event.add("dtend", start + timedelta(seconds=round(stretch.until_s)))
    event.add("transp", "OPAQUE" if stretch.hands_busy else "TRANSPARENT")
    return event


def _alarm(trigger: timedelta) -> Alarm:
    alarm = Alarm()
    alarm.add("action", "AUDIO")
    alarm.add("trigger", trigger)
    return alarm
