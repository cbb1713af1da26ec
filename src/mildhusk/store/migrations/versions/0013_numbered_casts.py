"""A pour belongs to a mould, what comes out of it is numbered, and may have faults"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # In which mould an earlier pour was cast nobody wrote down; its entry in the log asks.
    op.add_column("pour", sa.Column("mould_id", sa.Uuid(), nullable=True))
    op.create_foreign_key(op.f("fk_pour_mould_id_mould"), "pour", "mould", ["mould_id"], ["id"])
    op.create_index(op.f("ix_pour_mould_id"), "pour", ["mould_id"])
    op.create_table(
        "numbered_cast",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.Column("mould_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(20), nullable=False),
        sa.Column("for_whom", sa.String(120), nullable=False),
        sa.Column("place", sa.String(120), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_numbered_cast_workshop_id_workshop")
        ),
        sa.ForeignKeyConstraint(
            ["pour_id"], ["pour.id"], name=op.f("fk_numbered_cast_pour_id_pour")
        ),
        sa.ForeignKeyConstraint(
            ["mould_id"], ["mould.id"], name=op.f("fk_numbered_cast_mould_id_mould")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_numbered_cast")),
        sa.UniqueConstraint("pour_id", name=op.f("uq_numbered_cast_pour_id")),
        sa.UniqueConstraint("mould_id", "number", name=op.f("uq_numbered_cast_mould_id")),
    )
    op.create_index(op.f("ix_numbered_cast_workshop_id"), "numbered_cast", ["workshop_id"])
    op.create_table(
        "pour_fault",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("place", sa.String(120), nullable=False),
        sa.Column("told", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("verdict", sa.String(40), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_pour_fault_workshop_id_workshop")
        ),
        sa.ForeignKeyConstraint(["pour_id"], ["pour.id"], name=op.f("fk_pour_fault_pour_id_pour")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pour_fault")),
    )
    op.create_index(op.f("ix_pour_fault_workshop_id"), "pour_fault", ["workshop_id"])
    op.create_index(op.f("ix_pour_fault_pour_id"), "pour_fault", ["pour_id"])


def downgrade() -> None:
    op.drop_table("pour_fault")
    op.drop_table("numbered_cast")
    op.drop_column("pour", "mould_id")
