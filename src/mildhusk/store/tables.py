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
    Identity,
    Index,
    LargeBinary,
    Numeric,
    String,
    UniqueConstraint,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from mildhusk.core.patterns.flat import PatternKind
from mildhusk.store.base import Base, OfPour, Owned, Versioned

Grams = Numeric(9, 2)
NAME_LENGTH = 120
NOTE_LENGTH = 4000


class Workshop(Base):
    """Whose rows they are; there is one for now.

    `equipment` is what it works with, if said; `day_places` of which places there are several;
    `calendar_secret` in the address at which a calendar program reads the days; `backed_up_at` is
    when the last good backup was made, `backup_said` why the last try failed.
    """

    __tablename__ = "workshop"

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    currency: Mapped[str] = mapped_column(String(3))
    hour_rate: Mapped[Decimal | None] = mapped_column(Numeric(7, 2))
    equipment: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    day_places: Mapped[dict[str, int]] = mapped_column(JSONB, default=dict)
    calendar_secret: Mapped[str | None] = mapped_column(String(64))
    backed_up_at: Mapped[datetime | None]
    backup_said: Mapped[str] = mapped_column(String(300), default="")


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
    POURED = "poured"
    FIT = "fit"
    LEARN = "learn"
    DAYS = "days"
    DRAW = "draw"


SHORT_JOBS = (
    JobKind.FILE, JobKind.SURVEY, JobKind.MOULD, JobKind.LEARN, JobKind.DAYS, JobKind.DRAW,
)  # fmt: skip
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

    `asked_by` is the name of whoever asked, empty where anybody may.
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
    asked_by: Mapped[str] = mapped_column(String(NAME_LENGTH), default="")
    queue_id: Mapped[int] = mapped_column(BigInteger, index=True)
    share: Mapped[float]
    said: Mapped[str] = mapped_column(String(500))
    field: Mapped[str | None] = mapped_column(String(40))
    result: Mapped[dict[str, Any]] = mapped_column(JSONB)


class Drawing(Base):
    """A small picture of a piece, a mould or a wall, under the hash of what it shows."""

    __tablename__ = "drawing"

    workshop_id: Mapped[UUID] = mapped_column(ForeignKey("workshop.id"), primary_key=True)
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)


class DeletedThing(Owned):
    """Something that was deleted and may come back; `rows` are it and what hung on it, in order."""

    __tablename__ = "deleted_thing"

    what: Mapped[str] = mapped_column(String(40))
    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    rows: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)


class TrailAction(StrEnum):
    """What became of a thing."""

    ADDED = "added"
    CHANGED = "changed"
    DELETED = "deleted"
    RESTORED = "restored"
    IMPORTED = "imported"


class TrailEntry(Owned):
    """What somebody did: to what of which table, and what it was before.

    `by` is their name, empty where anybody may come in; `name` that of the thing as it was then.
    `changes` are facts: a field each, before and after.
    """

    __tablename__ = "trail_entry"
    __table_args__ = (Index("ix_trail_newest", "workshop_id", "number"),)

    number: Mapped[int] = mapped_column(BigInteger, Identity())
    by: Mapped[str] = mapped_column(String(NAME_LENGTH))
    action: Mapped[TrailAction] = mapped_column(String(10))
    what: Mapped[str] = mapped_column(String(40))
    thing_id: Mapped[UUID | None]
    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    changes: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)


class Pictured(Versioned):
    """A row that lists show a drawing of: its key, and what that was made from."""

    __abstract__ = True

    picture: Mapped[str] = mapped_column(String(64), default="")
    picture_of: Mapped[str] = mapped_column(String(64), default="")


class PieceSource(StrEnum):
    """Where a piece's measures come from."""

    FILE = "file"
    TAPE = "tape"
    FILLING = "filling"
    CLAY = "clay"
    CAST = "cast"
    """A weighed cast and readings of its wall."""


class Piece(Pictured):
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


class LotDraw(OfPour):
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
    HAZE = "haze"
    """Its surface has gone dull."""
    SWELL = "swell"
    """It has grown, or what comes out of it has."""


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


class MouldRow(Pictured):
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
    # As many as there are casts: what is told of them is asked for.
    events: Mapped[list[MouldEvent]] = relationship(
        lazy="raise", cascade="all, delete-orphan", passive_deletes=True
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


class CastSheetRow(Pictured):
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
    """One cast as it was poured, beside the plan it followed, frozen at its start.

    `offcuts_g` was cut away before the cast was weighed; `trimmed_g` is what it weighs when its
    openings are cut. `lesson` is what it teaches, None until
    that is asked for after a change; `viscosity` what its readings were fitted by.
    """

    __tablename__ = "pour"
    __table_args__ = (
        CheckConstraint("(status = 'open') = (closed_at IS NULL)", name="closed_when_not_open"),
        Index("ix_pour_newest", "workshop_id", "created_at"),
        Index("ix_pour_material_newest", "material_id", "created_at"),
        Index("ix_pour_mould_newest", "mould_id", "created_at"),
        Index("ix_pour_untold", "workshop_id", postgresql_where=text("lesson IS NULL")),
    )

    sheet_id: Mapped[UUID] = mapped_column(ForeignKey("cast_sheet.id"), index=True)
    piece_id: Mapped[UUID] = mapped_column(ForeignKey("piece.id"), index=True)
    mould_id: Mapped[UUID | None] = mapped_column(ForeignKey("mould.id"), index=True)
    material_id: Mapped[UUID] = mapped_column(ForeignKey("material.id"), index=True)
    sheet_name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    piece_name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    resin_name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    plan: Mapped[dict[str, Any]] = mapped_column(JSONB)
    status: Mapped[PourStatus] = mapped_column(String(10))
    closed_at: Mapped[datetime | None]
    cast_g: Mapped[Decimal | None] = mapped_column(Grams)
    offcuts_g: Mapped[Decimal | None] = mapped_column(Grams)
    trimmed_g: Mapped[Decimal | None] = mapped_column(Grams)
    note: Mapped[str] = mapped_column(String(NOTE_LENGTH))
    lesson: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    viscosity: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))

    coats: Mapped[list["PouredCoat"]] = relationship(
        order_by="PouredCoat.number", cascade="all, delete-orphan"
    )
    material: Mapped[Material] = relationship()
    mould: Mapped[MouldRow | None] = relationship()
    cast: Mapped["NumberedCast | None"] = relationship(cascade="all, delete-orphan")


class CastState(StrEnum):
    """What became of a cast."""

    OUT = "out"
    """Out of its mould."""
    TRIMMED = "trimmed"
    PAINTED = "painted"
    GIVEN_AWAY = "given-away"
    BROKEN = "broken"


class KeptPattern(Owned):
    """What is wanted of a pattern to cut, of a piece or of a mould; one of each kind."""

    __tablename__ = "kept_pattern"
    __table_args__ = (
        CheckConstraint("(piece_id IS NULL) <> (mould_id IS NULL)", name="of_one"),
        UniqueConstraint("piece_id", "kind"),
        UniqueConstraint("mould_id", "kind"),
    )

    piece_id: Mapped[UUID | None] = mapped_column(ForeignKey("piece.id", ondelete="CASCADE"))
    mould_id: Mapped[UUID | None] = mapped_column(ForeignKey("mould.id", ondelete="CASCADE"))
    kind: Mapped[PatternKind] = mapped_column(String(20))
    asked: Mapped[dict[str, Any]] = mapped_column(JSONB)


class NumberedCast(Owned):
    """A cast that came out of a mould, by its number of that mould, and what became of it."""

    __tablename__ = "numbered_cast"
    __table_args__ = (UniqueConstraint("mould_id", "number"),)

    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), unique=True)
    mould_id: Mapped[UUID] = mapped_column(ForeignKey("mould.id"))
    number: Mapped[int]
    state: Mapped[CastState] = mapped_column(String(20))
    for_whom: Mapped[str] = mapped_column(String(NAME_LENGTH))
    place: Mapped[str] = mapped_column(String(NAME_LENGTH))


class PourFault(Owned):
    """A fault of what came of a pour, where it is, what its maker knows of it, and the verdict.

    `told` is by sign whether it was there; `verdict` the cause it was found to be, or empty.
    """

    __tablename__ = "pour_fault"

    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), index=True)
    kind: Mapped[str] = mapped_column(String(20))
    place: Mapped[str] = mapped_column(String(NAME_LENGTH))
    told: Mapped[dict[str, bool]] = mapped_column(JSONB)
    verdict: Mapped[str] = mapped_column(String(40))

    pour: Mapped[Pour] = relationship()


class WallReadingRow(Owned):
    """A reading of the wall of a cast; where on the piece [m], and what the place is called.

    What the simulation of this pour has there, and what the whole cast weighs in it; None until it
    was simulated, and where the shape of the piece is not known.
    """

    __tablename__ = "wall_reading"

    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), index=True)
    by: Mapped[str] = mapped_column(String(10))
    wall_m: Mapped[float | None]
    light: Mapped[bool | None]
    x_m: Mapped[float | None]
    y_m: Mapped[float | None]
    z_m: Mapped[float | None]
    simulated_m: Mapped[float | None]
    simulated_kg: Mapped[float | None]
    place: Mapped[str] = mapped_column(String(NAME_LENGTH))


class PourPicture(Owned):
    """A picture of what came of a pour, or of one of its faults: small, and of nothing but light.

    `content` is a JPEG made anew, so that nothing of camera and place is left in it.
    """

    __tablename__ = "pour_picture"

    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), index=True)
    fault_id: Mapped[UUID | None] = mapped_column(
        ForeignKey("pour_fault.id", ondelete="CASCADE"), index=True
    )
    caption: Mapped[str] = mapped_column(String(NAME_LENGTH))
    width: Mapped[int]
    height: Mapped[int]
    content: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)


class CastRun(Owned):
    """So many casts by a sheet from some moulds, by a day."""

    __tablename__ = "cast_run"
    __table_args__ = (CheckConstraint("wanted > 0", name="some_wanted"),)

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    sheet_id: Mapped[UUID] = mapped_column(ForeignKey("cast_sheet.id"), index=True)
    mould_ids: Mapped[list[str]] = mapped_column(JSONB)
    wanted: Mapped[int]
    due_on: Mapped[date]
    ended_at: Mapped[datetime | None]

    sheet: Mapped[CastSheetRow] = relationship()


class DayJobKind(StrEnum):
    """What is put into the days."""

    CAST = "cast"
    MOULD = "mould"
    OWN = "own"
    FINISH = "finish"
    """Of a cast that is out already."""


class PersonRow(Owned):
    """Who works here: hours by weekday, what they can do, the days they are away."""

    __tablename__ = "person"
    __table_args__ = (UniqueConstraint("workshop_id", "name"),)

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    zone: Mapped[str] = mapped_column(String(60))
    week: Mapped[dict[str, Any]] = mapped_column(JSONB)
    skills: Mapped[list[str]] = mapped_column(JSONB)
    days_off: Mapped[list[str]] = mapped_column(JSONB)
    extra: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)


class DayJob(Owned):
    """A cast, a mould, a finish or a task of one's own that is to be done; `asked` is how.

    A cast is tied to its pour when that begins; `spoilt` counts those that came to nothing.
    """

    __tablename__ = "day_job"

    kind: Mapped[str] = mapped_column(String(10))
    title: Mapped[str] = mapped_column(String(NAME_LENGTH))
    sheet_id: Mapped[UUID | None] = mapped_column(ForeignKey("cast_sheet.id"), index=True)
    mould_id: Mapped[UUID | None] = mapped_column(ForeignKey("mould.id"), index=True)
    asked: Mapped[dict[str, Any]] = mapped_column(JSONB)
    due: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    pour_id: Mapped[UUID | None] = mapped_column(ForeignKey("pour.id"), index=True)
    run_id: Mapped[UUID | None] = mapped_column(ForeignKey("cast_run.id"), index=True)
    spoilt: Mapped[int] = mapped_column(default=0)


class DayPlan(Base):
    """The plan of the days of a workshop: what was planned, and when everything is done."""

    __tablename__ = "day_plan"

    workshop_id: Mapped[UUID] = mapped_column(ForeignKey("workshop.id"), primary_key=True)
    made_at: Mapped[datetime]
    days: Mapped[dict[str, Any]] = mapped_column(JSONB)
    plan: Mapped[dict[str, Any]] = mapped_column(JSONB)


class DayTick(Owned):
    """A task of the days that was begun, and when it was done or is expected to be."""

    __tablename__ = "day_tick"
    __table_args__ = (UniqueConstraint("workshop_id", "task"),)

    task: Mapped[str] = mapped_column(String(200))
    starts: Mapped[datetime]
    ends: Mapped[datetime | None]
    expected: Mapped[datetime | None]
    people: Mapped[list[str]] = mapped_column(JSONB)


class KeptDayPlanRow(Owned):
    """A plan of the days as it stood once, to be compared with how they went."""

    __tablename__ = "kept_day_plan"

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    tasks: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)


class DayOffer(Owned):
    """So many casts by a day, as it was asked, and what was answered."""

    __tablename__ = "day_offer"

    sheet_id: Mapped[UUID] = mapped_column(ForeignKey("cast_sheet.id"), index=True)
    title: Mapped[str] = mapped_column(String(NAME_LENGTH))
    asked: Mapped[dict[str, Any]] = mapped_column(JSONB)
    answer: Mapped[dict[str, Any]] = mapped_column(JSONB)
    taken_at: Mapped[datetime | None]


class PouredCoat(OfPour):
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
    room_k: Mapped[float | None]
    """The room as a probe last told it while the coat was liquid."""


class PourPress(OfPour):
    """A press at the bench that was taken, by the key the browser gave it: so it counts once."""

    __tablename__ = "pour_press"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), index=True)
    taken_at: Mapped[datetime]


class Device(Owned):
    """A scale, probe, machine or turn sensor of the workshop, and where it is reached."""

    __tablename__ = "device"

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    kind: Mapped[str] = mapped_column(String(10))
    address: Mapped[str] = mapped_column(String(200))
    is_standin: Mapped[bool] = mapped_column(default=False)
    """It ships with the demo, and is reached wherever it was started."""
    room_k: Mapped[float | None]
    """Of a probe: the room as it was last told, and when."""
    told_at: Mapped[datetime | None]


class LiveWeighing(OfPour):
    """A pour that is weighed on a live scale, and where the coat at hand stands."""

    __tablename__ = "live_weighing"

    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), primary_key=True)
    device_id: Mapped[UUID] = mapped_column(ForeignKey("device.id", ondelete="CASCADE"), index=True)
    coat: Mapped[int]
    state: Mapped[dict[str, Any]] = mapped_column(JSONB)


class RecordedTurning(OfPour):
    """How the mould was really turned while a coat was liquid: a sensor's readings.

    `readings` are of 32-bit floats: the moment from the pour on [s], and where up was.
    """

    __tablename__ = "recorded_turning"

    pour_id: Mapped[UUID] = mapped_column(ForeignKey("pour.id"), primary_key=True)
    coat: Mapped[int] = mapped_column(primary_key=True)
    lasted_s: Mapped[float]
    by_tablet: Mapped[bool] = mapped_column(default=False)
    """Strapped on by hand, so it goes before a sensor that is only there."""
    readings: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
