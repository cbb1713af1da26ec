"""The album of a mould: its casts with what was read, what was wrong, and pictures."""

from collections import defaultdict
from typing import Any
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.pouring.faults import fault_of
from mildhusk.documents.album import Album, AlbumCast, AlbumPicture
from mildhusk.services.casts import CastSummary, list_casts
from mildhusk.services.transaction import Page, Transaction
from mildhusk.store.tables import MouldRow, Pour, PourFault, PourPicture, WallReadingRow

_MOST_CASTS, _MOST_PICTURES = 60, 4
"""The newest so many casts, and of each so many pictures."""


def album_of(transaction: Transaction, mould_id: UUID) -> Album:
    """Return the album of a mould, the first of its newest casts first."""
    mould = transaction.find(MouldRow, mould_id, "mould")
    listed = list_casts(transaction, mould_id, Page(limit=_MOST_CASTS))
    keys = [one.pour_id for one in listed.rows]
    notes = dict(_by_pour(transaction, keys, Pour.id, Pour.note))
    faults = _grouped(
        _by_pour(transaction, keys, PourFault.pour_id, PourFault.kind, PourFault.place)
    )
    walls = _grouped(
        _by_pour(
            transaction, keys, WallReadingRow.pour_id, WallReadingRow.place, WallReadingRow.wall_m
        )
    )
    pictures = _grouped(
        _by_pour(transaction, keys, PourPicture.pour_id, PourPicture.caption, PourPicture.content)
    )

    def told(one: CastSummary) -> AlbumCast:
        return AlbumCast(
            number=one.number,
            poured_at=one.poured_at,
            sheet=one.sheet_name,
            resin=one.resin_name,
            cast_kg=one.cast_kg,
            planned_kg=one.planned_kg,
            state=str(one.state).replace("-", " ").replace("out", "out of the mould"),
            for_whom=one.for_whom,
            place=one.place,
            note=notes.get(one.pour_id, ""),
            faults=tuple(
                f"{fault_of(kind).title}{f', {place}' if place else ''}"
                for kind, place in faults[one.pour_id]
            ),
            walls=tuple((place, wall) for place, wall in walls[one.pour_id] if wall is not None),
            pictures=tuple(
                AlbumPicture(caption, content)
                for caption, content in pictures[one.pour_id][:_MOST_PICTURES]
            ),
        )

    casts = tuple(told(one) for one in reversed(listed.rows))
    return Album(mould.name, mould.piece.name, casts, listed.total)


def _by_pour(transaction: Transaction, keys: list[UUID], *columns: Any) -> list[tuple[Any, ...]]:
    rows = transaction.session.execute(
        select(*columns).where(columns[0].in_(keys)).order_by(columns[0].class_.created_at)
    )
    return [tuple(row) for row in rows]


def _grouped(rows: list[tuple[Any, ...]]) -> dict[UUID, list[tuple[Any, ...]]]:
    found: dict[UUID, list[tuple[Any, ...]]] = defaultdict(list)
    for key, *rest in rows:
        found[key].append(tuple(rest))
    return found
