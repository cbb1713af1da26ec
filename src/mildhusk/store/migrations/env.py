"""Runs the migrations on the connection that `store.database` passes in."""

from alembic import context

from mildhusk.store import access_tables, tables
from mildhusk.store.base import Base
from mildhusk.store.database import is_ours

assert tables.Workshop.metadata is access_tables.Account.metadata is Base.metadata

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    include_object=is_ours,
)
with context.begin_transaction():
    context.run_migrations()
