"""Casts of the days tied to pours, places, a calendar's address, kept plans, offers, trimmed weight

What an earlier release planned stays as it is: no cast of it is tied to a pour.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None

_JSON = postgresql.JSONB(astext_type=sa.Text())
_EMPTY = sa.text("'{}'::jsonb")


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
    op.add_column("workshop", sa.Column("day_places", _JSON, nullable=False, server_default=_EMPTY))
    op.alter_column("workshop", "day_places", server_default=None)
    op.add_column("workshop", sa.Column("calendar_secret", sa.String(64), nullable=True))
    op.add_column("person", sa.Column("extra", _JSON, nullable=False, server_default=_EMPTY))
    op.alter_column("person", "extra", server_default=None)
    op.add_column("pour", sa.Column("trimmed_g", sa.Numeric(9, 2), nullable=True))
    op.add_column("day_tick", sa.Column("expected", sa.DateTime(timezone=True), nullable=True))
    for column, table in (("pour_id", "pour"), ("run_id", "cast_run")):
        op.add_column("day_job", sa.Column(column, sa.Uuid(), nullable=True))
        op.create_index(op.f(f"ix_day_job_{column}"), "day_job", [column])
        op.create_foreign_key(
            op.f(f"fk_day_job_{column}_{table}"), "day_job", table, [column], ["id"]
        )
    op.add_column(
        "day_job", sa.Column("spoilt", sa.Integer(), nullable=False, server_default=sa.text("0"))
    )
    op.alter_column("day_job", "spoilt", server_default=None)
    op.create_table(
        "kept_day_plan",
        *_owned("kept_day_plan"),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("tasks", _JSON, nullable=False),
    )
    op.create_table(
        "day_offer",
        *_owned("day_offer"),
        sa.Column("sheet_id", sa.Uuid(), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("asked", _JSON, nullable=False),
        sa.Column("answer", _JSON, nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["sheet_id"], ["cast_sheet.id"], name=op.f("fk_day_offer_sheet_id_cast_sheet")
        ),
    )
    op.create_index(op.f("ix_day_offer_sheet_id"), "day_offer", ["sheet_id"])
    for table in ("kept_day_plan", "day_offer"):
        op.create_index(op.f(f"ix_{table}_workshop_id"), table, ["workshop_id"])


def downgrade() -> None:
    op.drop_table("day_offer")
    op.drop_table("kept_day_plan")
    # A finish of its own is known to no earlier release.
    op.execute("DELETE FROM day_job WHERE kind = 'finish'")
    for column in ("spoilt", "run_id", "pour_id"):
        op.drop_column("day_job", column)
    op.drop_column("day_tick", "expected")
    op.drop_column("pour", "trimmed_g")
    op.drop_column("person", "extra")
    for column in ("calendar_secret", "day_places"):
        op.drop_column("workshop", column)
