"""What is wanted of patterns to cut, kept with their piece or mould

Nothing is kept of what was cut before.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None

_HERE = "(SELECT NULLIF(current_setting('husk.workshop', true), '')::uuid)"


def upgrade() -> None:
    op.create_table(
        "kept_pattern",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workshop_id", sa.Uuid(), sa.ForeignKey("workshop.id"), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("piece_id", sa.Uuid(), sa.ForeignKey("piece.id", ondelete="CASCADE")),
        sa.Column("mould_id", sa.Uuid(), sa.ForeignKey("mould.id", ondelete="CASCADE")),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("asked", JSONB(), nullable=False),
        sa.CheckConstraint(
            "(piece_id IS NULL) <> (mould_id IS NULL)", name=op.f("ck_kept_pattern_of_one")
        ),
        sa.UniqueConstraint("piece_id", "kind", name=op.f("uq_kept_pattern_piece_id")),
        sa.UniqueConstraint("mould_id", "kind", name=op.f("uq_kept_pattern_mould_id")),
    )
    op.create_index("ix_kept_pattern_workshop_id", "kept_pattern", ["workshop_id"])
    op.execute("ALTER TABLE kept_pattern ENABLE ROW LEVEL SECURITY")
    op.execute(f"CREATE POLICY own_workshop ON kept_pattern USING (workshop_id = {_HERE})")


def downgrade() -> None:
    op.drop_table("kept_pattern")
