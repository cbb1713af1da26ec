"""The tables. Lengths, weights and times in SI unless the name says otherwise."""

from datetime import date, datetime
from decimal import Decimal
from enum import StrEnum
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ForeignKey,
    ForeignKeyConstraint,
    LargeBinary,
    Numeric,
    String,
    UniqueConstraint,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from mildhusk.store.base import Base, Owned, Versioned

Grams = Numeric(9, 2)
NAME_LENGTH = 120
NOTE_LENGTH = 4000


class Workshop(Base):
    """Whose rows they are; there is one for now. `equipment` is what it works with, if said."""

    __tablename__ = "workshop"

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    currency: Mapped[str] = mapped_column(String(3))
    hour_rate: Mapped[Decimal | None] = mapped_column(Numeric(7, 2))
    equipment: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)


class MeshFile(Base):
    """An uploaded file, untouched, under the hash of its content.

    What a worker read of it (faces to guess_is_sure) is None until then. `size` is in bytes,
    `extents` in the unit of the file.
    """

    __tablename__ = "mesh_file"

    workshop_id: Mapped[UUID] = mapped_column(ForeignKey("workshop.id"), primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    file_name: Mapped[str] = mapped_column(String(255))
    size: Mapped[int] = mapped_column(BigInteger)
    faces: Mapped[int | None]
    extents: Mapped[list[float] | None] = mapped_column(JSONB(none_as_null=True))
    guessed_unit: Mapped[str | None] = mapped_column(String(2))
    guess_is_sure: Mapped[bool | None]
    uploaded_at: Mapped[datetime]


class MeshChunk(Base):
    """A stretch of an uploaded file; kept in stretches, so that nobody has to hold all of it."""

    __tablename__ = "mesh_chunk"
    __table_args__ = (
        ForeignKeyConstraint(
            ["workshop_id", "sha256"],
            ["mesh_file.workshop_id", "mesh_file.sha256"],
            ondelete="CASCADE",
        ),
    )

    workshop_id: Mapped[UUID] = mapped_column(primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)


class JobKind(StrEnum):
    """What a worker is asked to do."""

    FILE = "file"
    SURVEY = "survey"
    MOULD = "mould"
    COAT = "coat"
    SETTLE = "settle"


SHORT_JOBS = (JobKind.FILE, JobKind.SURVEY, JobKind.MOULD)
"""Seconds each: somebody waits for them, and they wait for no simulation."""


class JobStatus(StrEnum):
    """Where a job stands, as its queue has it."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    REFUSED = "refused"
    """It ended with a sentence that says what was wrong."""
    CANCELLED = "cancelled"


class Job(Owned):
    """Something long that a worker does: what was asked, how far it is, what came of it.

    `queue_id` names it in the queue, whose state, retries, locks and cancelling hold. `key` is
    what it was asked for, where the same is not asked twice. `said` is what is being done, or why
    it was refused, about `field`; `result` names the rows it wrote.
    """

    __tablename__ = "job"
    __table_args__ = (CheckConstraint("share BETWEEN 0 AND 1", name="share_of_one"),)

    kind: Mapped[JobKind] = mapped_column(String(20))
    key: Mapped[str] = mapped_column(String(80), index=True)
    title: Mapped[str] = mapped_column(String(NAME_LENGTH))
    asked: Mapped[dict[str, Any]] = mapped_column(JSONB)
    queue_id: Mapped[int] = mapped_column(BigInteger, index=True)
    share: Mapped[float]
    said: Mapped[str] = mapped_column(String(500))
    field: Mapped[str | None] = mapped_column(String(40))
    result: Mapped[dict[str, Any]] = mapped_column(JSONB)


class PieceSource(StrEnum):
    """Where a piece's measures come from."""

    FILE = "file"
    TAPE = "tape"
    FILLING = "filling"
    CLAY = "clay"
    CAST = "cast"
    """A weighed cast and readings of its wall."""


class Piece(Versioned):
    """A thing to copy: where its measures come from, what was asked, what it measures.

    `face` holds the casting face and what was left out of it, as arrays.
    """

    __tablename__ = "piece"
    __table_args__ = (
        ForeignKeyConstraint(
            ["workshop_id", "mesh_sha256"], ["mesh_file.workshop_id", "mesh_file.sha256"]
        ),
    )

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    source: Mapped[PieceSource] = mapped_column(String(10))
    mesh_sha256: Mapped[str | None] = mapped_column(String(64), index=True)
    units: Mapped[str] = mapped_column(String(2))
    asked: Mapped[dict[str, Any]] = mapped_column(JSONB)
    measures: Mapped[dict[str, Any]] = mapped_column(JSONB)
    survey: Mapped[dict[str, Any]] = mapped_column(JSONB)
    face: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)

    mesh_file: Mapped[MeshFile | None] = relationship()


class Material(Versioned):
    """A material on the shelf; `sheet` holds the values of its kind's data sheet."""

    __tablename__ = "material"
    __table_args__ = (UniqueConstraint("workshop_id", "key"),)

    kind: Mapped[str] = mapped_column(String(40), index=True)
    key: Mapped[str] = mapped_column(String(80))
    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    sheet: Mapped[dict[str, Any]] = mapped_column(JSONB)


class KitOffer(Owned):
    """A kit that a material can be bought in."""

    __tablename__ = "kit_offer"

    material_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    mass_kg: Mapped[float]
    price: Mapped[Decimal] = mapped_column(Numeric(9, 2))
    shelf_life_days: Mapped[int]


class LotRow(Owned):
    """A lot of a material in the workshop; pours draw it down, never below zero."""

    __tablename__ = "lot"
    __table_args__ = (CheckConstraint("left_g >= 0", name="not_below_zero"),)

    material_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    label: Mapped[str] = mapped_column(String(NAME_LENGTH))
    bought_g: Mapped[Decimal] = mapped_column(Grams)
    left_g: Mapped[Decimal] = mapped_column(Grams)
    opened_on: Mapped[date | None]
    expires_on: Mapped[date]
    price: Mapped[Decimal | None] = mapped_column(Numeric(9, 2))

    material: Mapped[Material] = relationship()


class LotDraw(Base):
    """What one coat of a pour took from a lot."""

    __tablename__ = "lot_draw"

    lot_id: Mapped[UUID] = mapped_column(ForeignKey("lot.id"), primary_key=True)
    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), primary_key=True)
    coat: Mapped[int] = mapped_column(primary_key=True)
    grams: Mapped[Decimal] = mapped_column(Grams)


class DabTestRow(Owned):
    """A dab of one material on another, its clock and its result."""

    __tablename__ = "dab_test"

    first_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    second_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    result: Mapped[str | None] = mapped_column(String(10))
    judged_at: Mapped[datetime | None]
    note: Mapped[str] = mapped_column(String(NOTE_LENGTH))
    photo: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    photo_kind: Mapped[str | None] = mapped_column(String(20))

    first: Mapped[Material] = relationship(foreign_keys=first_id)
    second: Mapped[Material] = relationship(foreign_keys=second_id)


class MouldEventKind(StrEnum):
    """What happens to a mould."""

    CAST = "cast"
    TEAR = "tear"
    REPAIR = "repair"


class MouldEvent(Owned):
    """Something that happened to a mould."""

    __tablename__ = "mould_event"

    mould_id: Mapped[UUID] = mapped_column(ForeignKey("mould.id", ondelete="CASCADE"), index=True)
    kind: Mapped[MouldEventKind] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(String(NOTE_LENGTH))


class MouldPatch(Owned):
    """A soft place of a mould, of a rubber of its own; `place` is its middle and radius."""

    __tablename__ = "mould_patch"

    mould_id: Mapped[UUID] = mapped_column(ForeignKey("mould.id", ondelete="CASCADE"), index=True)
    rubber_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    number: Mapped[int]
    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    place: Mapped[dict[str, Any]] = mapped_column(JSONB)

    rubber: Mapped[Material] = relationship()


class MouldRow(Versioned):
    """A mould of a piece: how it is built, how many casts are expected of it, what became of it.

    `study` and `study_model` hold what was found of the piece for it; `checks` what is ticked off
    before the next cast, by when. `takes` is what it takes, and `takes_of` what that was made from.
    """

    __tablename__ = "mould"

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    piece_id: Mapped[UUID] = mapped_column(ForeignKey("piece.id"), index=True)
    rubber_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    shell_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    rubber_wall_m: Mapped[float]
    life_casts: Mapped[int]
    build: Mapped[dict[str, Any]] = mapped_column(JSONB)
    study: Mapped[dict[str, Any]] = mapped_column(JSONB, deferred=True)
    study_model: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    checks: Mapped[dict[str, str]] = mapped_column(JSONB)
    takes: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    takes_of: Mapped[str] = mapped_column(String(64), default="")
    retired_at: Mapped[datetime | None]

    piece: Mapped[Piece] = relationship()
    events: Mapped[list[MouldEvent]] = relationship(
        order_by="MouldEvent.created_at", cascade="all, delete-orphan", passive_deletes=True
    )
    patches: Mapped[list[MouldPatch]] = relationship(
        order_by="MouldPatch.number", cascade="all, delete-orphan", passive_deletes=True
    )
    rubber: Mapped[Material] = relationship(foreign_keys=rubber_id)
    shell: Mapped[Material] = relationship(foreign_keys=shell_id)


class CoatRunRow(Owned):
    """A cast as its coats landed, under the hash of all it was computed from.

    `figures` is what it came to; `model` the faces and each coat's wall on them, `films` what each
    looked like on its way, both as arrays.
    """

    __tablename__ = "coat_run"
    __table_args__ = (UniqueConstraint("workshop_id", "key"),)

    key: Mapped[str] = mapped_column(String(64))
    figures: Mapped[dict[str, Any]] = mapped_column(JSONB)
    model: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    films: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)


class CastSheetRow(Versioned):
    """A saved cast sheet: what was wished; the plan is computed from it.

    `summary` is what a list tells of the plan, and `summary_of` what that was made from.
    """

    __tablename__ = "cast_sheet"

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    piece_id: Mapped[UUID] = mapped_column(ForeignKey("piece.id"), index=True)
    material_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    wish: Mapped[dict[str, Any]] = mapped_column(JSONB)
    summary: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    summary_of: Mapped[str] = mapped_column(String(64), default="")

    piece: Mapped[Piece] = relationship()
    material: Mapped[Material] = relationship()


class PourStatus(StrEnum):
    """Where a pour stands."""

    OPEN = "open"
    CAST = "cast"
    """Closed: a husk came out."""
    SPOILT = "spoilt"
    """Closed: nothing usable came out."""


class Pour(Owned):
    """One cast as it was poured, beside the plan it followed, frozen at its start."""

    __tablename__ = "pour"
    __table_args__ = (
        CheckConstraint("(status = 'open') = (closed_at IS NULL)", name="closed_when_not_open"),
    )

    sheet_id: Mapped[UUID] = mapped_column(ForeignKey("cast_sheet.id"), index=True)
    material_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    sheet_name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    piece_name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    resin_name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    plan: Mapped[dict[str, Any]] = mapped_column(JSONB)
    status: Mapped[PourStatus] = mapped_column(String(10))
    closed_at: Mapped[datetime | None]
    cast_g: Mapped[Decimal | None] = mapped_column(Grams)
    note: Mapped[str] = mapped_column(String(NOTE_LENGTH))

    coats: Mapped[list["PouredCoat"]] = relationship(
        order_by="PouredCoat.number", cascade="all, delete-orphan"
    )
    material: Mapped[Material] = relationship()


class PouredCoat(Base):
    """What was really weighed for a coat, and when each step was done."""

    __tablename__ = "poured_coat"

    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    a_g: Mapped[Decimal | None] = mapped_column(Grams)
    b_g: Mapped[Decimal | None] = mapped_column(Grams)
    weighed_at: Mapped[datetime | None]
    mixed_at: Mapped[datetime | None]
    poured_at: Mapped[datetime | None]
    gelled_at: Mapped[datetime | None]
