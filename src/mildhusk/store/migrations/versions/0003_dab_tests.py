"""Dab tests"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "dab_test",
        sa.Column("first_id", sa.Uuid(), nullable=False),
        sa.Column("second_id", sa.Uuid(), nullable=False),
        sa.Column("result", sa.String(length=10), nullable=True),
        sa.Column("judged_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("note", sa.String(length=4000), nullable=False),
        sa.Column("photo", sa.LargeBinary(), nullable=True),
        sa.Column("photo_kind", sa.String(length=20), nullable=True),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["first_id"], ["material.id"], name=op.f("fk_dab_test_first_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["second_id"], ["material.id"], name=op.f("fk_dab_test_second_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_dab_test_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_dab_test")),
    )
    op.create_index(op.f("ix_dab_test_first_id"), "dab_test", ["first_id"], unique=False)
    op.create_index(op.f("ix_dab_test_second_id"), "dab_test", ["second_id"], unique=False)
    op.create_index(op.f("ix_dab_test_workshop_id"), "dab_test", ["workshop_id"], unique=False)


def downgrade() -> None:
    op.drop_index(op.f("ix_dab_test_workshop_id"), table_name="dab_test")
    op.drop_index(op.f("ix_dab_test_second_id"), table_name="dab_test")
    op.drop_index(op.f("ix_dab_test_first_id"), table_name="dab_test")
    op.drop_table("dab_test")
