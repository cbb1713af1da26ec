"""Casts as their coats landed, kept by what they were computed from"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "coat_run",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("figures", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("model", sa.LargeBinary(), nullable=False),
        sa.Column("films", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_coat_run_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_coat_run")),
        sa.UniqueConstraint("workshop_id", "key", name=op.f("uq_coat_run_workshop_id")),
    )
    op.create_index(op.f("ix_coat_run_workshop_id"), "coat_run", ["workshop_id"])


def downgrade() -> None:
    op.drop_table("coat_run")
