"""Girths in and out as CSV."""

import csv
import io
from collections.abc import Sequence

from mildhusk.core.errors import TapeError
from mildhusk.core.geometry.byhand import Station
from mildhusk.core.geometry.sections import Girth

_COLUMNS = ("height_mm", "girth_mm", "width_mm")


def girths_csv(girths: Sequence[Girth]) -> bytes:
    """Return heights and girths as CSV, in millimetres; widths are for who tapes to fill in."""
    text = io.StringIO()
    table = csv.writer(text)
    table.writerow(_COLUMNS)
    for one in girths:
        table.writerow([f"{one.height_m * 1e3:.1f}", f"{one.girth_m * 1e3:.1f}", ""])
    return text.getvalue().encode("utf-8-sig")


def read_girths_csv(content: bytes) -> tuple[Station, ...]:
    """Read heights, girths and, where they are known, widths from a CSV in millimetres.

    Raises
    ------
    TapeError
        Not UTF-8, other columns, or a cell that is no number; it names the row.
    """
    try:
        table = csv.DictReader(io.StringIO(content.decode("utf-8-sig")))
        columns = tuple(table.fieldnames or ())
    except UnicodeDecodeError as error:
        raise TapeError("The file is not in UTF-8; save it as UTF-8.", "file") from error
    if not set(_COLUMNS[:2]) <= set(columns):
        raise TapeError(
            f"The columns are {', '.join(columns)[:100]}; height_mm and girth_mm must be among "
            "them, width_mm may be.",
            "file",
        )
    stations = []
    for number, row in enumerate(table, start=2):
        try:
            width = (row.get("width_mm") or "").strip()
            stations.append(
                Station(
                    float(row["height_mm"]) / 1e3,
                    float(row["girth_mm"]) / 1e3,
                    float(width) / 1e3 if width else None,
                )
            )
        except (ValueError, TypeError) as error:
            raise TapeError(f"Row {number} has a cell that is no number.", "file") from error
    return tuple(stations)
