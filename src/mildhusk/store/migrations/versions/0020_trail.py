"""Who did what, and what it was before; who asked for a job

Nothing is known of what was done before.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "trail_entry",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workshop_id", sa.Uuid(), sa.ForeignKey("workshop.id"), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("number", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("by", sa.String(120), nullable=False),
        sa.Column("action", sa.String(10), nullable=False),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("thing_id", sa.Uuid(), nullable=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("changes", JSONB(), nullable=False),
    )
    op.create_index("ix_trail_entry_workshop_id", "trail_entry", ["workshop_id"])
    op.create_index("ix_trail_newest", "trail_entry", ["workshop_id", "number"])
    op.add_column("job", sa.Column("asked_by", sa.String(120), nullable=False, server_default=""))
    op.alter_column("job", "asked_by", server_default=None)


def downgrade() -> None:
    op.drop_column("job", "asked_by")
    op.drop_table("trail_entry")
