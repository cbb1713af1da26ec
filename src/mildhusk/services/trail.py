"""The trail: who did what, when, and what it was before.

What a person does is read off the session as it is written, so no use case tells it a second time;
what is written past the session is not told. Facts are kept; words are made where they are shown.
"""

import json
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from enum import Enum
from typing import Any
from uuid import UUID

from sqlalchemy import LargeBinary, event, func, inspect, or_, select
from sqlalchemy.orm import Session

from mildhusk.services.transaction import Listed, Page, Transaction
from mildhusk.store.access_tables import Account, Invitation
from mildhusk.store.base import Base
from mildhusk.store.tables import (
    NAME_LENGTH,
    CastRun,
    CastSheetRow,
    DabTestRow,
    DayJob,
    DayOffer,
    DeletedThing,
    Device,
    KeptPattern,
    KitOffer,
    LotRow,
    Material,
    MouldEvent,
    MouldPatch,
    MouldRow,
    NumberedCast,
    PersonRow,
    Piece,
    Pour,
    PouredCoat,
    PourFault,
    PourPicture,
    TrailAction,
    TrailEntry,
    WallReadingRow,
    Workshop,
)

_TOLD: tuple[type[Base], ...] = (
    Account, CastRun, CastSheetRow, DabTestRow, DayJob, DayOffer, DeletedThing, Device, Invitation,
    KeptPattern, KitOffer, LotRow, Material, MouldEvent, MouldPatch, MouldRow, NumberedCast,
    PersonRow, Piece, Pour, PouredCoat, PourFault, PourPicture, WallReadingRow, Workshop,
)  # fmt: skip
_UNTOLD = frozenset(
    (
        "id", "workshop_id", "created_at", "version", "key", "picture", "picture_of", "summary",
        "summary_of", "takes", "takes_of", "study", "measures", "survey", "lesson", "viscosity",
        "plan", "password_hash", "secret_hash", "calendar_secret", "rows", "what", "pour_id",
        "simulated_m", "simulated_kg",
    )
)  # fmt: skip
"""Keys, secrets, and what is worked out of the rest."""
_NAMES = ("name", "label", "title", "sheet_name", "caption", "place", "kind")
"""What a thing is called by, the first that it has."""
_MOST_CHANGES, _MOST_ENTRIES, _LONGEST = 24, 40, 200
Json = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Change:
    """A field of a thing, as it was and as it is; None is nothing, or too long to be told."""

    field: str
    before: Any
    after: Any


@dataclass(frozen=True, slots=True)
class TrailLine:
    """What somebody did."""

    id: UUID
    at: datetime
    by: str
    action: TrailAction
    what: str
    thing_id: UUID | None
    name: str
    changes: tuple[Change, ...]


@contextmanager
def followed(at: Transaction) -> Iterator[None]:
    """Keep what is written meanwhile, as done by whoever the transaction is of."""
    seen = _Seen()
    event.listen(at.session, "before_flush", seen.take)
    yield
    at.session.flush()
    at.session.add_all(seen.entries(at))


def note(at: Transaction, action: TrailAction, what: str, name: str) -> None:
    """Keep what no single row tells, such as an archive that was imported."""
    at.session.add(_entry(at, action, what, None, name, []))


def list_trail(at: Transaction, page: Page) -> Listed[TrailLine]:
    """Return a page of the trail, the newest first; searched by who did it and to what."""
    mine = select(TrailEntry).where(TrailEntry.workshop_id == at.workshop_id)
    for word in page.search.split():
        mine = mine.where(
            or_(*(one.icontains(word, autoescape=True) for one in (TrailEntry.by, TrailEntry.name)))
        )
    total = at.session.scalar(select(func.count()).select_from(mine.subquery())) or 0
    newest = mine.order_by(TrailEntry.number.desc())
    rows = at.session.scalars(newest.limit(page.limit).offset(page.offset))
    return Listed(tuple(_line(row) for row in rows), total)


def _line(row: TrailEntry) -> TrailLine:
    return TrailLine(
        row.id,
        row.created_at,
        row.by,
        TrailAction(row.action),
        row.what,
        row.thing_id,
        row.name,
        tuple(Change(one["field"], one["before"], one["after"]) for one in row.changes),
    )


@dataclass(slots=True)
class _Thing:
    """A thing of which something was written, and what of it was before."""

    action: TrailAction
    what: str
    row: Base
    name: str
    before: Json
    after: Json

    @property
    def key(self) -> UUID | None:
        """Its key, which a new one has once it is written."""
        is_put_away = isinstance(self.row, DeletedThing)
        return None if is_put_away else getattr(self.row, "id", None)


class _Seen:
    """What a session wrote: of each thing what it was first, and what it is last."""

    def __init__(self) -> None:
        self._things: dict[int, _Thing] = {}

    def take(self, session: Session, *_: object) -> None:
        """Look at what is about to be written."""
        with session.no_autoflush:
            for row in session.new:
                self._note(session, row, TrailAction.ADDED)
            for row in session.dirty:
                if session.is_modified(row):
                    self._note(session, row, TrailAction.CHANGED)
            for row in session.deleted:
                self._note(session, row, TrailAction.DELETED)

    def _note(self, session: Session, row: object, action: TrailAction) -> None:
        # A coat comes with its pour, which is told.
        is_part = isinstance(row, PouredCoat) and action is not TrailAction.CHANGED
        if is_part or not isinstance(row, _TOLD):
            return
        before, after = _written(session, row, action)
        if action is TrailAction.CHANGED and not before:
            return
        what, name = type(row).__tablename__, _name_of(session, row)
        if isinstance(row, DeletedThing):
            # What was put away is what was deleted, and what is taken out of there comes back.
            what, before, after = row.what, {}, {}
            added = action is TrailAction.ADDED
            action = TrailAction.DELETED if added else TrailAction.RESTORED
        known = self._things.setdefault(id(row), _Thing(action, what, row, name, before, after))
        if known.action is TrailAction.CHANGED and action is TrailAction.DELETED:
            known.action = action
        known.before = before | known.before
        known.after |= after
        known.name = name

    def entries(self, at: Transaction) -> list[TrailEntry]:
        """Return what is kept of it; a thing that was put away is told once."""
        things = _replaced(list(self._things.values()))
        put_away = {
            one.what for one in things if one.action is TrailAction.DELETED and not one.before
        }
        return [
            _entry(at, one.action, one.what, one.key, one.name, _changes(one))
            for one in things[:_MOST_ENTRIES]
            if not (one.action is TrailAction.DELETED and one.before and one.what in put_away)
        ]


def _replaced(things: list[_Thing]) -> list[_Thing]:
    """Return things, of which one that was taken away and put back by its name is a change."""
    gone = {
        (one.what, one.name): one
        for one in things
        if one.action is TrailAction.DELETED and one.before
    }
    kept = {id(one): one for one in things}
    for one in things:
        before = gone.get((one.what, one.name)) if one.action is TrailAction.ADDED else None
        if before is None:
            continue
        del kept[id(before)]
        one.action, one.before = TrailAction.CHANGED, before.before
        if not _changes(one):
            del kept[id(one)]
    return list(kept.values())


def _entry(
    at: Transaction,
    action: TrailAction,
    what: str,
    key: UUID | None,
    name: str,
    changes: list[Json],
) -> TrailEntry:
    return TrailEntry(
        workshop_id=at.workshop_id,
        created_at=at.now,
        by=at.by,
        action=action,
        what=what,
        thing_id=key,
        name=name[:NAME_LENGTH],
        changes=changes,
    )


def _changes(thing: _Thing) -> list[Json]:
    if thing.action is TrailAction.ADDED:
        # What a new thing is stands in itself.
        return []
    fields = thing.before if thing.action is TrailAction.DELETED else thing.after
    told = [
        {"field": one, "before": thing.before.get(one), "after": thing.after.get(one)}
        for one in fields
        if thing.before.get(one) != thing.after.get(one)
    ]
    return told[:_MOST_CHANGES]


def _written(session: Session, row: Base, action: TrailAction) -> tuple[Json, Json]:
    """Return the fields of a row that are written, as they were and as they are."""
    before: Json = {}
    after: Json = {}
    state = inspect(row)
    for column in state.mapper.columns:
        name = state.mapper.get_property_by_column(column).key
        if name in _UNTOLD or isinstance(column.type, LargeBinary) or name in state.unloaded:
            continue
        history = state.attrs[name].history
        if action is TrailAction.CHANGED and not history.has_changes():
            continue
        was = history.deleted[0] if history.deleted else None
        now = getattr(row, name)
        if action is TrailAction.DELETED:
            was, now = now, None
        target = next((key.column.table.name for key in column.foreign_keys), None)
        _tell(before, name, _plain(session, was, target))
        _tell(after, name, _plain(session, now, target))
    return before, after


def _tell(told: Json, name: str, value: Any) -> None:
    """Tell a value; of a value with fields each of them."""
    if isinstance(value, dict):
        for key, one in value.items():
            told[f"{name}.{key}"] = _short(one)
    else:
        told[name] = _short(value)


def _short(value: Any) -> Any:
    return value if len(json.dumps(value)) <= _LONGEST else None


def _plain(session: Session, value: Any, target: str | None) -> Any:
    """Return a value as JSON has it; another row by its name."""
    if isinstance(value, UUID):
        return _named(session, value, target)
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, Decimal):
        return float(value)
    if isinstance(value, datetime | date):
        return value.isoformat()
    return value


def _named(session: Session, key: UUID, target: str | None) -> str:
    kind = _BY_TABLE.get(target or "")
    row = None if kind is None else session.get(kind, key)
    return str(key) if row is None else _name_of(session, row)


_BY_TABLE: Mapping[str, type[Base]] = {one.__tablename__: one for one in _TOLD}


def _name_of(session: Session, row: Base) -> str:
    if isinstance(row, PouredCoat):
        pour = session.get(Pour, row.pour_id)
        return f"{pour.sheet_name if pour else ''}, coat {row.number}"
    if isinstance(row, KitOffer):
        material = session.get(Material, row.material_id)
        return f"{material.name if material else ''}, {row.name}"
    found = next((getattr(row, one) for one in _NAMES if getattr(row, one, None)), "")
    return str(_plain(session, found, None))
