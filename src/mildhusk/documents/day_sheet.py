"""The day sheet: what is to be done on a day, to be ticked with a pencil."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from mildhusk.core.wording import in_minutes
from mildhusk.documents.pages import page_pdf


@dataclass(frozen=True, slots=True)
class DaySheetTask:
    """A task as the day sheet shows it; `closes` where a window does, no hands where it sets."""

    title: str
    job_title: str
    starts: datetime
    ends: datetime
    closes: datetime | None
    people: tuple[str, ...]
    hands: int


def day_sheet_pdf(tasks: Sequence[DaySheetTask], day: date, zone: str) -> bytes:
    """Return the tasks of a day as PDF, in the order of the clock.

    Parameters
    ----------
    tasks : sequence of DaySheetTask
    day : date
    zone : str
        In which the times are told, and the day begins.
    """
    local = ZoneInfo(zone)
    today = [
        one
        for one in sorted(tasks, key=lambda one: one.starts)
        if one.starts.astimezone(local).date() == day
        or (one.hands == 0 and one.starts.astimezone(local).date() <= day < _day(one.ends, local))
    ]
    return page_pdf(
        "day_sheet",
        day=f"{day:%A}, {day.day} {day:%B %Y}",
        tasks=[one for one in today if one.hands],
        setting=[one for one in today if not one.hands],
        clock=lambda at: f"{at.astimezone(local):%H:%M}",
        day_of=lambda at: "" if _day(at, local) == day else f"{at.astimezone(local):%a} ",
        minutes=lambda one: in_minutes((one.ends - one.starts).total_seconds()),
        zone=zone,
    )


def _day(at: datetime, zone: ZoneInfo) -> date:
    return at.astimezone(zone).date()
