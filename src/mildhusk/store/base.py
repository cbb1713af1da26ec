"""The declarative base: names of constraints, UTC times, keys."""

from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import DateTime, ForeignKey, MetaData, text
from sqlalchemy.orm import DeclarativeBase, Mapped, declared_attr, mapped_column

# Constraint names that migrations can rely on.
_NAMES = {
    "ix": "ix_%(table_name)s_%(column_0_name)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


class Base(DeclarativeBase):
    """Root of every table."""

    metadata = MetaData(naming_convention=_NAMES)
    type_annotation_map = {datetime: DateTime(timezone=True)}  # noqa: RUF012 - SQLAlchemy's form


class Owned(Base):
    """A row with a key of its own that belongs to a workshop."""

    __abstract__ = True

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    workshop_id: Mapped[UUID] = mapped_column(ForeignKey("workshop.id"), index=True)
    created_at: Mapped[datetime]


class OfPour(Base):
    """A row of a pour, of the workshop in which it was written: the database fills that in.

    So its walls need no look at the pour for each row.
    """

    __abstract__ = True

    workshop_id: Mapped[UUID] = mapped_column(
        ForeignKey("workshop.id"),
        server_default=text("NULLIF(current_setting('husk.workshop', true), '')::uuid"),
        info={"is_filled_in": True},
    )


class Versioned(Owned):
    """A row that may be edited: a second editor of the same version is refused, not overwritten."""

    __abstract__ = True

    version: Mapped[int] = mapped_column()

    @declared_attr.directive
    def __mapper_args__(cls) -> dict[str, Any]:  # noqa: N805 - a class, as SQLAlchemy calls it
        return {"version_id_col": cls.version}
