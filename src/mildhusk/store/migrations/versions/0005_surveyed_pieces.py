"""Pieces keep what their survey found, and may come without a file

A piece measured by an earlier version keeps its measures; its survey is empty and its face too, and
it is surveyed again when it is next asked for.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    op.add_column(
        "piece", sa.Column("source", sa.String(10), nullable=False, server_default="file")
    )
    op.add_column("piece", sa.Column("asked", json, nullable=False, server_default="{}"))
    op.add_column("piece", sa.Column("survey", json, nullable=False, server_default="{}"))
    op.add_column("piece", sa.Column("face", sa.LargeBinary(), nullable=False, server_default=""))
    for column in ("source", "asked", "survey", "face"):
        op.alter_column("piece", column, server_default=None)
    op.alter_column("piece", "mesh_sha256", nullable=True)


def downgrade() -> None:
    op.execute("DELETE FROM piece WHERE mesh_sha256 IS NULL")
    op.alter_column("piece", "mesh_sha256", nullable=False)
    for column in ("face", "survey", "asked", "source"):
        op.drop_column("piece", column)
