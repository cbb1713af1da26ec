"""People, what is to be done, the plan of the days and what was done of it"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

_JSON = postgresql.JSONB(astext_type=sa.Text())


def _owned(table: str) -> list[sa.schema.SchemaItem]:
    return [
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f(f"fk_{table}_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{table}")),
    ]


def upgrade() -> None:
    op.create_table(
        "person",
        *_owned("person"),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("zone", sa.String(60), nullable=False),
        sa.Column("week", _JSON, nullable=False),
        sa.Column("skills", _JSON, nullable=False),
        sa.Column("days_off", _JSON, nullable=False),
        sa.UniqueConstraint("workshop_id", "name", name=op.f("uq_person_workshop_id")),
    )
    op.create_table(
        "day_job",
        *_owned("day_job"),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("sheet_id", sa.Uuid(), nullable=True),
        sa.Column("mould_id", sa.Uuid(), nullable=True),
        sa.Column("asked", _JSON, nullable=False),
        sa.Column("due", sa.DateTime(timezone=True), nullable=True),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["sheet_id"], ["cast_sheet.id"], name=op.f("fk_day_job_sheet_id_cast_sheet")
        ),
        sa.ForeignKeyConstraint(["mould_id"], ["mould.id"], name=op.f("fk_day_job_mould_id_mould")),
    )
    op.create_table(
        "day_plan",
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("days", _JSON, nullable=False),
        sa.Column("plan", _JSON, nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_day_plan_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("workshop_id", name=op.f("pk_day_plan")),
    )
    op.create_table(
        "day_tick",
        *_owned("day_tick"),
        sa.Column("task", sa.String(200), nullable=False),
        sa.Column("starts", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ends", sa.DateTime(timezone=True), nullable=True),
        sa.Column("people", _JSON, nullable=False),
        sa.UniqueConstraint("workshop_id", "task", name=op.f("uq_day_tick_workshop_id")),
    )
    for table in ("person", "day_job", "day_tick"):
        op.create_index(op.f(f"ix_{table}_workshop_id"), table, ["workshop_id"])
    for column in ("sheet_id", "mould_id"):
        op.create_index(op.f(f"ix_day_job_{column}"), "day_job", [column])


def downgrade() -> None:
    for table in ("day_tick", "day_plan", "day_job", "person"):
        op.drop_table(table)
