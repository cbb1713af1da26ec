"""Drawings of pieces, moulds and walls, what each row's was made from; what was deleted

What an earlier release kept has none yet: the first list that shows it asks for them.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

_DRAWN = ("piece", "mould", "cast_sheet")


def upgrade() -> None:
    op.create_table(
        "drawing",
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_drawing_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("workshop_id", "key", name=op.f("pk_drawing")),
    )
    op.create_table(
        "deleted_thing",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("rows", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_deleted_thing_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_deleted_thing")),
    )
    op.create_index(op.f("ix_deleted_thing_workshop_id"), "deleted_thing", ["workshop_id"])
    for table in _DRAWN:
        for column in ("picture", "picture_of"):
            op.add_column(
                table, sa.Column(column, sa.String(64), nullable=False, server_default="")
            )
            op.alter_column(table, column, server_default=None)


def downgrade() -> None:
    for table in _DRAWN:
        for column in ("picture_of", "picture"):
            op.drop_column(table, column)
    op.drop_table("deleted_thing")
    op.drop_table("drawing")
