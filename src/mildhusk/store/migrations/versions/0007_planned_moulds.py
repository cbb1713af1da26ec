"""Moulds keep how they are put on, what was found of their piece, and what happens to them

A mould of an earlier version is brushed, and has no study until one is asked for.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    for column in ("build", "study", "checks"):
        op.add_column("mould", sa.Column(column, json, nullable=False, server_default="{}"))
        op.alter_column("mould", column, server_default=None)
    op.add_column(
        "mould", sa.Column("study_model", sa.LargeBinary(), nullable=False, server_default="")
    )
    op.alter_column("mould", "study_model", server_default=None)
    op.add_column("mould", sa.Column("retired_at", sa.DateTime(timezone=True), nullable=True))
    op.create_table(
        "mould_event",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("mould_id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("note", sa.String(4000), nullable=False),
        sa.ForeignKeyConstraint(
            ["mould_id"],
            ["mould.id"],
            name=op.f("fk_mould_event_mould_id_mould"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_mould_event_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_mould_event")),
    )
    op.create_index(op.f("ix_mould_event_workshop_id"), "mould_event", ["workshop_id"])
    op.create_index(op.f("ix_mould_event_mould_id"), "mould_event", ["mould_id"])


def downgrade() -> None:
    op.drop_table("mould_event")
    for column in ("retired_at", "checks", "study_model", "study", "build"):
        op.drop_column("mould", column)
