"""The workshop says what it works with; moulds have soft places

A workshop that has said nothing works with what is usual.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    op.add_column("workshop", sa.Column("bench", json, nullable=False, server_default="{}"))
    op.alter_column("workshop", "bench", server_default=None)
    op.create_table(
        "mould_patch",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("mould_id", sa.Uuid(), nullable=False),
        sa.Column("rubber_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("place", json, nullable=False),
        sa.ForeignKeyConstraint(
            ["mould_id"],
            ["mould.id"],
            name=op.f("fk_mould_patch_mould_id_mould"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["rubber_id"], ["material.id"], name=op.f("fk_mould_patch_rubber_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_mould_patch_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_mould_patch")),
    )
    for column in ("workshop_id", "mould_id", "rubber_id"):
        op.create_index(op.f(f"ix_mould_patch_{column}"), "mould_patch", [column])


def downgrade() -> None:
    op.drop_table("mould_patch")
    op.drop_column("workshop", "bench")
