"""Jobs for workers, and the tables of the queue they wait in

The queue's own tables are its package's; this revision takes them as the locked version ships them.
"""

from typing import Any, cast

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from psycopg import Connection
from sqlalchemy.dialects import postgresql

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    json = postgresql.JSONB(astext_type=sa.Text())
    op.create_table(
        "job",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("asked", json, nullable=False),
        sa.Column("status", sa.String(10), nullable=False),
        sa.Column("share", sa.Float(), nullable=False),
        sa.Column("said", sa.String(500), nullable=False),
        sa.Column("field", sa.String(40), nullable=True),
        sa.Column("result", json, nullable=False),
        sa.Column("cancel_wanted", sa.Boolean(), nullable=False),
        sa.Column("attempt", sa.Integer(), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("share BETWEEN 0 AND 1", name=op.f("ck_job_share_of_one")),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_job_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_job")),
    )
    op.create_index(op.f("ix_job_workshop_id"), "job", ["workshop_id"])
    op.create_index(op.f("ix_job_status"), "job", ["status"])
    # Many statements at once, which only the driver itself takes.
    driver = cast(Connection[Any], op.get_bind().connection.driver_connection)
    driver.execute(SchemaManager.get_schema())


def downgrade() -> None:
    for table in ("events", "periodic_defers", "jobs", "workers"):
        op.execute(f"DROP TABLE procrastinate_{table} CASCADE")
    op.execute(
        "DO $$ DECLARE one record; BEGIN "
        "FOR one IN SELECT oid::regprocedure AS name FROM pg_proc "
        "WHERE proname LIKE 'procrastinate\\_%' AND pronamespace = 'public'::regnamespace "
        "LOOP EXECUTE 'DROP FUNCTION ' || one.name || ' CASCADE'; END LOOP; END $$"
    )
    for kind in ("job_to_defer_v1", "job_status", "job_event_type"):
        op.execute(f"DROP TYPE procrastinate_{kind}")
    op.drop_table("job")
