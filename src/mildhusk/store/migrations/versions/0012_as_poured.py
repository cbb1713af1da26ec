"""A pour keeps its piece, for its wall; a tablet may record how its mould is turned"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("pour", sa.Column("piece_id", sa.Uuid(), nullable=True))
    op.execute(
        "UPDATE pour SET piece_id = cast_sheet.piece_id FROM cast_sheet "
        "WHERE cast_sheet.id = pour.sheet_id"
    )
    op.alter_column("pour", "piece_id", nullable=False)
    op.create_foreign_key(op.f("fk_pour_piece_id_piece"), "pour", "piece", ["piece_id"], ["id"])
    op.create_index(op.f("ix_pour_piece_id"), "pour", ["piece_id"])
    op.add_column(
        "recorded_turning",
        sa.Column("by_tablet", sa.Boolean(), nullable=False, server_default=sa.false()),
    )
    op.alter_column("recorded_turning", "by_tablet", server_default=None)


def downgrade() -> None:
    op.drop_column("recorded_turning", "by_tablet")
    op.drop_column("pour", "piece_id")
