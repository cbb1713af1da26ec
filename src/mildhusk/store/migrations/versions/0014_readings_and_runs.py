"""Readings of the wall, pictures, what a pour teaches, and runs of casts"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0014"
down_revision = "0013"
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


def _of_a_pour(table: str) -> list[sa.schema.SchemaItem]:
    return [
        *_owned(table),
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["pour_id"], ["pour.id"], name=op.f(f"fk_{table}_pour_id_pour")),
    ]


def upgrade() -> None:
    op.add_column("pour", sa.Column("offcuts_g", sa.Numeric(9, 2), nullable=True))
    # What a pour teaches is told when somebody asks; of earlier ones too.
    op.add_column("pour", sa.Column("lesson", _JSON, nullable=True))
    op.add_column("pour", sa.Column("viscosity", _JSON, nullable=True))
    # The newest ones are learned from, of a material or a mould.
    op.create_index("ix_pour_material_newest", "pour", ["material_id", "created_at"])
    op.create_index("ix_pour_mould_newest", "pour", ["mould_id", "created_at"])
    op.create_index("ix_pour_newest", "pour", ["workshop_id", "created_at"])
    op.create_index(
        "ix_pour_untold", "pour", ["workshop_id"], postgresql_where=sa.text("lesson IS NULL")
    )
    op.create_table(
        "wall_reading",
        *_of_a_pour("wall_reading"),
        sa.Column("by", sa.String(10), nullable=False),
        sa.Column("wall_m", sa.Float(), nullable=True),
        sa.Column("light", sa.Boolean(), nullable=True),
        *(
            sa.Column(name, sa.Float(), nullable=True)
            for name in ("x_m", "y_m", "z_m", "simulated_m", "simulated_kg")
        ),
        sa.Column("place", sa.String(120), nullable=False),
    )
    op.create_table(
        "pour_picture",
        *_of_a_pour("pour_picture"),
        sa.Column("fault_id", sa.Uuid(), nullable=True),
        sa.Column("caption", sa.String(120), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["fault_id"],
            ["pour_fault.id"],
            name=op.f("fk_pour_picture_fault_id_pour_fault"),
            ondelete="CASCADE",
        ),
    )
    op.create_index(op.f("ix_pour_picture_fault_id"), "pour_picture", ["fault_id"])
    op.create_table(
        "cast_run",
        *_owned("cast_run"),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("sheet_id", sa.Uuid(), nullable=False),
        sa.Column("mould_ids", _JSON, nullable=False),
        sa.Column("wanted", sa.Integer(), nullable=False),
        sa.Column("due_on", sa.Date(), nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("wanted > 0", name=op.f("ck_cast_run_some_wanted")),
        sa.ForeignKeyConstraint(
            ["sheet_id"], ["cast_sheet.id"], name=op.f("fk_cast_run_sheet_id_cast_sheet")
        ),
    )
    op.create_index(op.f("ix_cast_run_sheet_id"), "cast_run", ["sheet_id"])
    for table in ("wall_reading", "pour_picture", "cast_run"):
        op.create_index(op.f(f"ix_{table}_workshop_id"), table, ["workshop_id"])
    for table in ("wall_reading", "pour_picture"):
        op.create_index(op.f(f"ix_{table}_pour_id"), table, ["pour_id"])


def downgrade() -> None:
    for table in ("cast_run", "pour_picture", "wall_reading"):
        op.drop_table(table)
    for index in ("untold", "newest", "mould_newest", "material_newest"):
        op.drop_index(f"ix_pour_{index}", "pour")
    for column in ("viscosity", "lesson", "offcuts_g"):
        op.drop_column("pour", column)
