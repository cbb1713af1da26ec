"""Moulds, what a lot cost, what an hour of work costs"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("workshop", sa.Column("hour_rate", sa.Numeric(7, 2), nullable=True))
    op.add_column("lot", sa.Column("price", sa.Numeric(9, 2), nullable=True))
    op.create_table(
        "mould",
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("piece_id", sa.Uuid(), nullable=False),
        sa.Column("rubber_id", sa.Uuid(), nullable=False),
        sa.Column("shell_id", sa.Uuid(), nullable=False),
        sa.Column("rubber_wall_m", sa.Float(), nullable=False),
        sa.Column("life_casts", sa.Integer(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["piece_id"], ["piece.id"], name=op.f("fk_mould_piece_id_piece")),
        sa.ForeignKeyConstraint(
            ["rubber_id"], ["material.id"], name=op.f("fk_mould_rubber_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["shell_id"], ["material.id"], name=op.f("fk_mould_shell_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_mould_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_mould")),
    )
    for column in ("piece_id", "rubber_id", "shell_id", "workshop_id"):
        op.create_index(op.f(f"ix_mould_{column}"), "mould", [column], unique=False)


def downgrade() -> None:
    for column in ("workshop_id", "shell_id", "rubber_id", "piece_id"):
        op.drop_index(op.f(f"ix_mould_{column}"), table_name="mould")
    op.drop_table("mould")
    op.drop_column("lot", "price")
    op.drop_column("workshop", "hour_rate")
