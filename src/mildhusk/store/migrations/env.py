"""Runs the migrations on the connection that `store.database` passes in."""

from alembic import context

from mildhusk.store import tables
from mildhusk.store.base import Base

assert tables.Workshop.metadata is Base.metadata

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
