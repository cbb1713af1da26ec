"""The log of pours as JSON and as CSV."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass, fields
from datetime import datetime

from pydantic import TypeAdapter, ValidationError

from mildhusk.core.errors import InputError
from mildhusk.core.learning.lesson import Lesson
from mildhusk.documents.spreadsheet import harmless


@dataclass(frozen=True, slots=True)
class LoggedCoat:
    """A coat as it was weighed, and when its steps were done. [g], [K]"""

    number: int
    a_g: float | None
    b_g: float | None
    weighed_at: datetime | None
    mixed_at: datetime | None
    poured_at: datetime | None
    gelled_at: datetime | None
    room_k: float | None


@dataclass(frozen=True, slots=True)
class LoggedReading:
    """A reading of the wall of a cast. [mm]"""

    by: str
    place: str
    wall_mm: float | None
    light: bool | None
    simulated_mm: float | None


@dataclass(frozen=True, slots=True)
class LoggedPour:
    """A pour as it leaves: its names, what was planned and weighed, what became of it. [g]

    `lesson` is what it teaches, of the resin in its `lot`.
    """

    started_at: datetime
    closed_at: datetime | None
    sheet: str
    piece: str
    resin: str
    status: str
    mould: str
    cast_number: int | None
    state: str
    for_whom: str
    place: str
    planned_g: float
    poured_g: float
    planned_cast_g: float
    cast_g: float | None
    faults: tuple[str, ...]
    note: str
    coats: tuple[LoggedCoat, ...]
    offcuts_g: float | None = None
    lot: str = ""
    lesson: Lesson | None = None
    readings: tuple[LoggedReading, ...] = ()


_LOG = TypeAdapter(list[LoggedPour])
_OF_SEVERAL = ("coats", "lesson", "readings")
_COLUMNS = tuple(one.name for one in fields(LoggedPour) if one.name not in _OF_SEVERAL)


def log_json(pours: Iterable[LoggedPour]) -> bytes:
    """Return the log as indented JSON, coat by coat."""
    return _LOG.dump_json(list(pours), indent=2)


def read_log(content: bytes) -> list[LoggedPour]:
    """Undo `log_json`.

    Raises
    ------
    InputError
        It is no log.
    """
    try:
        return _LOG.validate_json(content)
    except ValidationError as error:
        first = error.errors()[0]
        where = ", ".join(str(one) for one in first["loc"])
        raise InputError(
            f"This is no log as it is exported: {where or 'the file'}: {first['msg']}.", "file"
        ) from error


def log_csv(pours: Iterable[LoggedPour]) -> bytes:
    """Return the log as CSV, a row a pour; the unit of each weight is in its column's name."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow([*_COLUMNS, "coats", "readings", "mean_wall_mm"])
    for pour in pours:
        walls = [one.wall_mm for one in pour.readings if one.wall_mm is not None]
        mean = sum(walls) / len(walls) if walls else None
        told = (_cell(getattr(pour, name)) for name in _COLUMNS)
        rows.writerow([*told, len(pour.coats), len(pour.readings), _cell(mean)])
    # The mark lets spreadsheets see that it is UTF-8.
    return text.getvalue().encode("utf-8-sig")


def _cell(value: object) -> str:
    match value:
        case None:
            return ""
        case float():
            return f"{value:.2f}"
        case datetime():
            return value.isoformat()
        case tuple():
            return harmless("; ".join(map(str, value)))
        case _:
            return harmless(str(value))
