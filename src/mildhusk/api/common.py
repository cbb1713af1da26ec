"""What the stations' routes share: a transaction, pages of lists, shapes that occur everywhere."""

import os
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, nullcontext
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from functools import wraps
from http import HTTPStatus
from typing import Annotated, Any, ParamSpec, TypeVar
from uuid import UUID

from flask import Response, copy_current_request_context, current_app, request
from flask_openapi3 import FileStorage
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, RootModel, StringConstraints

from mildhusk.services.access import Visitor
from mildhusk.services.errors import StrangerError
from mildhusk.services.trail import followed
from mildhusk.services.transaction import ListOrder, Page, Queue, Transaction
from mildhusk.store.database import Sessions
from mildhusk.store.scratch import Scratch
from mildhusk.store.tables import NAME_LENGTH, NOTE_LENGTH

PREFIX = "/api/v1"
SAFE = ("GET", "HEAD", "OPTIONS")
"""What changes nothing (RFC 9110, 9.2.1)."""
_EXTENSION = "mildhusk"
VISITOR = "mildhusk.visitor"
"""Of a request's environment, where no header can come: who asks."""
P = ParamSpec("P")
R = TypeVar("R")
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Backstage:
    """What the routes work with, handed to `create_app`."""

    sessions: Sessions
    workshop_id: UUID
    """Of whoever comes while there is no account."""
    clock: Callable[[], datetime]
    queue: Queue
    scratch: Scratch
    must_sign_in: bool = False
    """It is asked under other names than the machine's own: then it is open to nobody."""


def set_backstage(app: Any, backstage: Backstage) -> None:
    """Give an application its sessions, its workshop and its clock."""
    app.extensions[_EXTENSION] = backstage


def backstage() -> Backstage:
    """Return what the application at hand works with."""
    at: Backstage = current_app.extensions[_EXTENSION]
    return at


def set_visitor(visitor: Visitor | None) -> None:
    """Note who asks, with the request; None is a stranger."""
    request.environ[VISITOR] = visitor


def visitor_here() -> Visitor:
    """Return who asks.

    Raises
    ------
    StrangerError
        Nobody is signed in there.
    """
    found: Visitor | None = request.environ.get(VISITOR)
    if found is None:
        raise StrangerError("Sign in to this workshop first.")
    return found


@contextmanager
def transaction(workshop_id: UUID | None = None) -> Iterator[Transaction]:
    """One transaction: committed as a whole at the end, or not at all; none waits for another.

    In the workshop of whoever asks, unless the address itself says in which.
    """
    at, asks = backstage(), None if workshop_id else visitor_here()
    here, by = (asks.workshop_id, asks.name) if asks else (workshop_id, "")
    assert here is not None
    with at.sessions.begin() as session:
        begun = Transaction(session, here, at.clock(), at.queue, by)
        with nullcontext() if request.method in SAFE else followed(begun):
            yield begun


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
ShortText = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=NAME_LENGTH), _Printable
]
Note = Annotated[str, StringConstraints(max_length=NOTE_LENGTH), _Printable]
Word = Annotated[str, StringConstraints(max_length=80), _Printable]
"""A key or the name of a kind."""
Number = Annotated[float, Field(allow_inf_nan=False)]
Whole = Annotated[int, Field(ge=-(2**31), lt=2**31)]
"""What a column of whole numbers holds."""
Price = Annotated[Decimal, Field(allow_inf_nan=False, max_digits=9, decimal_places=2)]


_Responses = dict[str | int | HTTPStatus, type[BaseModel] | dict[Any, Any] | None]


def calmly(view: Callable[P, R]) -> Callable[P, R]:
    """Answer in a thread that steps back for whoever answers something quick.

    The operating system's own priorities: what is at a plan waits for what fetches a name, not the
    other way round, and goes before the workers' long jobs.
    """

    @wraps(view)
    def answer(*words: P.args, **named: P.kwargs) -> R:
        return _calm.submit(copy_current_request_context(view), *words, **named).result()

    return answer


def _step_back() -> None:
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _CALM_NICE)


def _anew() -> None:
    """Begin with threads of its own: a process that is a copy of another has none of its."""
    global _calm
    _calm = ThreadPoolExecutor(initializer=_step_back)


_CALM_NICE = 10
_calm = ThreadPoolExecutor(initializer=_step_back)
os.register_at_fork(after_in_child=_anew)


class Answer(RootModel[T]):
    """A value of the core as an answer: its own fields, and nothing written a second time."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)

    def told(self) -> dict[str, object]:
        """Return it as JSON."""
        return dict(self.model_dump(mode="json"))


class Shape(BaseModel):
    """An answer that says of a row what the core does not know of: its key, its names."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)


class Body(BaseModel):
    """A request body: nothing unknown is let in, and no number that is none."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class ListQuery(BaseModel):
    """Which part of a list: those with some words in their name, how many, from which one on."""

    search: Annotated[str, StringConstraints(max_length=NAME_LENGTH), _Printable] = ""
    limit: Annotated[int, Field(ge=1, le=500)] = 50
    offset: Annotated[int, Field(ge=0, le=1_000_000)] = 0

    def page(self) -> Page:
        """Return it as the services take it."""
        return Page(self.search, self.limit, self.offset)


class NamedListQuery(ListQuery):
    """Which part of a list of things with names, and what stands first in it."""

    order: ListOrder = ListOrder.NEWEST

    def page(self) -> Page:
        """Return it as the services take it."""
        return Page(self.search, self.limit, self.offset, self.order)


class IdPath(BaseModel):
    """The key of a row, in the address."""

    id: UUID


class UploadForm(BaseModel):
    """A multipart form with one file."""

    model_config = ConfigDict(arbitrary_types_allowed=True)
    file: FileStorage


class TakenOver(Shape):
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


def file_of(*kinds: str) -> _Responses:
    """Return how an address is documented that answers with a file of one of these media types."""
    binary = {"type": "string", "format": "binary"}
    content = {kind: {"schema": {} if kind == "application/json" else binary} for kind in kinds}
    return {200: {"description": "A file", "content": content}}


def read_upload(file: FileStorage) -> bytes:
    """Return what was uploaded; a large upload's temporary file is closed at once."""
    try:
        return file.stream.read()
    finally:
        file.close()


class Deleted(Shape):
    """The answer to a deletion; where `undo` is told, it brings it back within thirty days."""

    deleted: bool = True
    undo: UUID | None = None


class FieldError(Shape):
    """What is wrong with one field."""

    field: str
    message: str


class Problem(Shape):
    """RFC 9457 problem details; `errors` names the fields."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    errors: list[FieldError] = []
