"""What the stations' routes share: the desk, and the shapes that occur everywhere."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Annotated, Any
from uuid import UUID

from flask import Response, current_app
from flask_openapi3 import FileStorage
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

from mildhusk.services.desk import Desk, Queue
from mildhusk.services.workshop import found_workshop
from mildhusk.store.database import Sessions
from mildhusk.store.tables import NAME_LENGTH, NOTE_LENGTH

PREFIX = "/api/v1"
_EXTENSION = "mildhusk"


@dataclass(frozen=True, slots=True)
class Backstage:
    """What the routes work with, handed to `create_app`."""

    sessions: Sessions
    clock: Callable[[], datetime]
    queue: Queue


def set_backstage(app: Any, backstage: Backstage) -> None:
    """Give an application its sessions and its clock."""
    app.extensions[_EXTENSION] = backstage


@contextmanager
def desk() -> Iterator[Desk]:
    """One transaction: committed as a whole at the end, or not at all."""
    backstage: Backstage = current_app.extensions[_EXTENSION]
    with backstage.sessions.begin() as session:
        now = backstage.clock()
        yield Desk(session, found_workshop(session, now), now, backstage.queue)


def _without_control_characters(text: str) -> str:
    if any(ord(letter) < 32 and letter not in "\n\t" for letter in text):
        raise ValueError("has characters that cannot be printed")
    return text


_Printable = AfterValidator(_without_control_characters)
Name = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=NAME_LENGTH),
    _Printable,
]
Note = Annotated[str, StringConstraints(max_length=NOTE_LENGTH), _Printable]
Number = Annotated[float, Field(allow_inf_nan=False)]


Price = Annotated[Decimal, Field(allow_inf_nan=False, max_digits=9, decimal_places=2)]


class ListQuery(BaseModel):
    """What to look for, and how many to return at most."""

    search: Annotated[str, StringConstraints(max_length=NAME_LENGTH), _Printable] = ""
    limit: Annotated[int, Field(ge=1, le=500)] = 100


class Body(BaseModel):
    """A request body: nothing unknown is let in."""

    model_config = ConfigDict(extra="forbid")


class IdPath(BaseModel):
    """The key of a row, in the address."""

    id: UUID


class UploadForm(BaseModel):
    """A multipart form with one file."""

    model_config = ConfigDict(arbitrary_types_allowed=True)
    file: FileStorage


class TakenOver(BaseModel):
    """How many rows of a file were taken over."""

    taken: int


def download(content: bytes, kind: str, name: str, *, shown_at_once: bool = False) -> Response:
    """Return a file, to be kept or to be shown in the browser; its name is made harmless."""
    stem, _, ending = name.rpartition(".")
    safe = "".join(c if c.isascii() and c.isalnum() else "-" for c in stem).strip("-") or "sheet"
    how = "inline" if shown_at_once else "attachment"
    response = Response(content, content_type=kind)
    response.headers["Content-Disposition"] = f'{how}; filename="{safe}.{ending}"'
    return response


def read_upload(file: FileStorage) -> bytes:
    """Return what was uploaded; a large upload's temporary file is closed at once."""
    try:
        return file.stream.read()
    finally:
        file.close()


class QuantityShape(BaseModel):
    """A value in SI and its unit."""

    value: float
    unit: str


class SentenceShape(BaseModel):
    """Words with quantities in braces."""

    template: str
    values: dict[str, QuantityShape]


class ActionShape(BaseModel):
    """A change of the wish that mends a finding."""

    label: SentenceShape
    field: str
    value: float | str


class FindingShape(BaseModel):
    """A finding; `text` is its sentence in metric."""

    id: str
    severity: str
    text: str
    sentence: SentenceShape
    action: ActionShape | None


class Deleted(BaseModel):
    """The answer to a deletion."""

    deleted: bool = True


class Problem(BaseModel):
    """RFC 9457 problem details; `errors` names the fields."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    errors: list["FieldError"] = []


class FieldError(BaseModel):
    """What is wrong with one field."""

    field: str
    message: str
