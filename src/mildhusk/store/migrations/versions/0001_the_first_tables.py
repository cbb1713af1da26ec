"""The first tables"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "workshop",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("currency", sa.String(length=3), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_workshop")),
    )
    op.create_table(
        "material",
        sa.Column("kind", sa.String(length=40), nullable=False),
        sa.Column("key", sa.String(length=80), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("sheet", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_material_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_material")),
        sa.UniqueConstraint("workshop_id", "key", name=op.f("uq_material_workshop_id")),
    )
    op.create_index(op.f("ix_material_kind"), "material", ["kind"], unique=False)
    op.create_index(op.f("ix_material_workshop_id"), "material", ["workshop_id"], unique=False)
    op.create_table(
        "mesh_file",
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("file_name", sa.String(length=255), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("faces", sa.Integer(), nullable=False),
        sa.Column("extents", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("guessed_unit", sa.String(length=2), nullable=False),
        sa.Column("guess_is_sure", sa.Boolean(), nullable=False),
        sa.Column("uploaded_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_mesh_file_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("workshop_id", "sha256", name=op.f("pk_mesh_file")),
    )
    op.create_table(
        "piece",
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("mesh_sha256", sa.String(length=64), nullable=False),
        sa.Column("units", sa.String(length=2), nullable=False),
        sa.Column("measures", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id", "mesh_sha256"],
            ["mesh_file.workshop_id", "mesh_file.sha256"],
            name=op.f("fk_piece_workshop_id_mesh_file"),
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_piece_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_piece")),
    )
    op.create_index(op.f("ix_piece_mesh_sha256"), "piece", ["mesh_sha256"], unique=False)
    op.create_index(op.f("ix_piece_workshop_id"), "piece", ["workshop_id"], unique=False)
    op.create_table(
        "cast_sheet",
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("piece_id", sa.Uuid(), nullable=False),
        sa.Column("material_id", sa.Uuid(), nullable=False),
        sa.Column("wish", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["material_id"], ["material.id"], name=op.f("fk_cast_sheet_material_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["piece_id"], ["piece.id"], name=op.f("fk_cast_sheet_piece_id_piece")
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_cast_sheet_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_cast_sheet")),
    )
    op.create_index(op.f("ix_cast_sheet_material_id"), "cast_sheet", ["material_id"], unique=False)
    op.create_index(op.f("ix_cast_sheet_piece_id"), "cast_sheet", ["piece_id"], unique=False)
    op.create_index(op.f("ix_cast_sheet_workshop_id"), "cast_sheet", ["workshop_id"], unique=False)
    op.create_table(
        "pour",
        sa.Column("sheet_id", sa.Uuid(), nullable=False),
        sa.Column("sheet_name", sa.String(length=120), nullable=False),
        sa.Column("piece_name", sa.String(length=120), nullable=False),
        sa.Column("resin_name", sa.String(length=120), nullable=False),
        sa.Column("plan", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("densities_kg_m3", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("status", sa.String(length=10), nullable=False),
        sa.Column("closed_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("cast_g", sa.Numeric(precision=9, scale=2), nullable=True),
        sa.Column("note", sa.String(length=4000), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint(
            "(status = 'open') = (closed_at IS NULL)", name=op.f("ck_pour_closed_when_not_open")
        ),
        sa.ForeignKeyConstraint(
            ["sheet_id"], ["cast_sheet.id"], name=op.f("fk_pour_sheet_id_cast_sheet")
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_pour_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pour")),
    )
    op.create_index(op.f("ix_pour_sheet_id"), "pour", ["sheet_id"], unique=False)
    op.create_index(op.f("ix_pour_workshop_id"), "pour", ["workshop_id"], unique=False)
    op.create_table(
        "poured_coat",
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("a_g", sa.Numeric(precision=9, scale=2), nullable=True),
        sa.Column("b_g", sa.Numeric(precision=9, scale=2), nullable=True),
        sa.Column("weighed_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("mixed_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("poured_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("gelled_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["pour_id"], ["pour.id"], name=op.f("fk_poured_coat_pour_id_pour")),
        sa.PrimaryKeyConstraint("pour_id", "number", name=op.f("pk_poured_coat")),
    )


def downgrade() -> None:
    op.drop_table("poured_coat")
    op.drop_index(op.f("ix_pour_workshop_id"), table_name="pour")
    op.drop_index(op.f("ix_pour_sheet_id"), table_name="pour")
    op.drop_table("pour")
    op.drop_index(op.f("ix_cast_sheet_workshop_id"), table_name="cast_sheet")
    op.drop_index(op.f("ix_cast_sheet_piece_id"), table_name="cast_sheet")
    op.drop_index(op.f("ix_cast_sheet_material_id"), table_name="cast_sheet")
    op.drop_table("cast_sheet")
    op.drop_index(op.f("ix_piece_workshop_id"), table_name="piece")
    op.drop_index(op.f("ix_piece_mesh_sha256"), table_name="piece")
    op.drop_table("piece")
    op.drop_table("mesh_file")
    op.drop_index(op.f("ix_material_workshop_id"), table_name="material")
    op.drop_index(op.f("ix_material_kind"), table_name="material")
    op.drop_table("material")
    op.drop_table("workshop")
