"""When the last good backup was made, and why the last one failed

Nobody knows of an earlier release's.
"""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("workshop", sa.Column("backed_up_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column(
        "workshop", sa.Column("backup_said", sa.String(300), nullable=False, server_default="")
    )
    op.alter_column("workshop", "backup_said", server_default=None)


def downgrade() -> None:
    op.drop_column("workshop", "backup_said")
    op.drop_column("workshop", "backed_up_at")
