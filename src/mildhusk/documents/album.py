"""The album of a mould: its casts, each with its figures, faults and pictures."""

import base64
from dataclasses import dataclass, field
from datetime import datetime

from mildhusk.core.wording import Quantity, Unit, in_metric
from mildhusk.documents.pages import page_pdf


@dataclass(frozen=True, slots=True)
class AlbumPicture:
    """A picture, and what it shows."""

    caption: str
    content: bytes = field(repr=False)


@dataclass(frozen=True, slots=True)
class AlbumCast:
    """A cast as the album tells it. [kg], [m]"""

    number: int
    poured_at: datetime
    sheet: str
    resin: str
    cast_kg: float | None
    planned_kg: float
    state: str
    for_whom: str
    place: str
    note: str
    faults: tuple[str, ...]
    walls: tuple[tuple[str, float], ...]
    pictures: tuple[AlbumPicture, ...]


@dataclass(frozen=True, slots=True)
class Album:
    """A mould and its casts, the first first; `casts_in_all` where the album holds the newest."""

    mould: str
    piece: str
    casts: tuple[AlbumCast, ...]
    casts_in_all: int


def album_pdf(album: Album) -> bytes:
    """Return the album as PDF."""
    return page_pdf(
        "album",
        album=album,
        grams=lambda kg: in_metric(Quantity(kg, Unit.MASS)),
        millimetres=lambda m: in_metric(Quantity(m, Unit.LENGTH)),
        shown=lambda one: "data:image/jpeg;base64," + base64.b64encode(one.content).decode(),
    )
