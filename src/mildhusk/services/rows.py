"""Files of rows, JSON or CSV, taken over as a whole or not at all."""

import csv
import io
import json
from collections.abc import Callable
from typing import Any, TypeVar

from mildhusk.core.errors import InputError
from mildhusk.services.errors import RefusedRowsError

Read = TypeVar("Read")
Row = dict[str, Any]

MOST_ROWS = 20_000
_MOST_REFUSALS_TOLD = 50


def read_rows(
    content: bytes, listed_as: str, needed: tuple[str, ...], read: Callable[[Row], Read]
) -> list[Read]:
    """Read every row of a file.

    Parameters
    ----------
    content : bytes
        JSON `{listed_as: [...]}`, or CSV with a header, in UTF-8.
    listed_as : str
        What the rows are.
    needed : tuple of str
        Columns a CSV must have.
    read : callable
        Makes a value of a row, or raises InputError.

    Raises
    ------
    InputError
        The file cannot be read, or has too many rows.
    RefusedRowsError
        Some row was refused; every refusal is told with the number a person would count.
    """
    rows = _rows(_decoded(content), listed_as, needed)
    if len(rows) > MOST_ROWS:
        raise InputError(
            f"The file has {len(rows):,} rows; up to {MOST_ROWS:,} are imported at once.", "file"
        )
    made, refused = [], []
    for number, row in rows:
        try:
            made.append(read(row))
        except (InputError, KeyError, TypeError, AttributeError) as error:
            reason = str(error) if isinstance(error, InputError) else "It cannot be read."
            refused.append(f"Row {number}: {reason}")
    if refused:
        raise RefusedRowsError(len(rows), len(refused), refused[:_MOST_REFUSALS_TOLD])
    return made


def is_text(written: str) -> bool:
    """Whether the database can hold it: no NUL, no half of a pair."""
    try:
        written.encode("utf-8")
    except UnicodeEncodeError:
        return False
    return "\0" not in written and "\\u0000" not in written


def _decoded(content: bytes) -> str:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(
            "The file is not in UTF-8; save it as UTF-8 and try again.", "file"
        ) from error
    if not text.strip():
        raise InputError("The file is empty.", "file")
    if "\0" in text:
        raise InputError("The file is no text; give JSON or CSV.", "file")
    return text


def _rows(text: str, listed_as: str, needed: tuple[str, ...]) -> list[tuple[int, Row]]:
    """Return the rows with the numbers a person would count: a CSV's first row is its header."""
    if text.lstrip().startswith(("{", "[")):
        try:
            listed = json.loads(text)[listed_as]
        except (ValueError, KeyError, TypeError) as error:
            raise InputError(
                f"The JSON cannot be read as a list of {listed_as}.", "file"
            ) from error
        if not isinstance(listed, list):
            raise InputError(f"The JSON cannot be read as a list of {listed_as}.", "file")
        return list(enumerate(listed, start=1))
    table = csv.DictReader(io.StringIO(text))
    columns = table.fieldnames or []
    if not set(needed) <= set(columns):
        raise InputError(
            f"The columns are {', '.join(columns)[:200]}; {_quoted(needed)} must be among them. "
            "Export what there is to see how it is written.",
            "file",
        )
    return list(enumerate(table, start=2))


def _quoted(names: tuple[str, ...]) -> str:
    *most, last = (f"'{name}'" for name in names)
    return f"{', '.join(most)} and {last}" if most else last
