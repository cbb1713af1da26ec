"""Stock"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "kit_offer",
        sa.Column("material_id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("mass_kg", sa.Double(), nullable=False),
        sa.Column("price", sa.Numeric(precision=9, scale=2), nullable=False),
        sa.Column("shelf_life_days", sa.Integer(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["material_id"], ["material.id"], name=op.f("fk_kit_offer_material_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_kit_offer_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_kit_offer")),
    )
    op.create_index(op.f("ix_kit_offer_material_id"), "kit_offer", ["material_id"], unique=False)
    op.create_index(op.f("ix_kit_offer_workshop_id"), "kit_offer", ["workshop_id"], unique=False)
    op.create_table(
        "lot",
        sa.Column("material_id", sa.Uuid(), nullable=False),
        sa.Column("label", sa.String(length=120), nullable=False),
        sa.Column("bought_g", sa.Numeric(precision=9, scale=2), nullable=False),
        sa.Column("left_g", sa.Numeric(precision=9, scale=2), nullable=False),
        sa.Column("opened_on", sa.Date(), nullable=True),
        sa.Column("expires_on", sa.Date(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("left_g >= 0", name=op.f("ck_lot_not_below_zero")),
        sa.ForeignKeyConstraint(
            ["material_id"], ["material.id"], name=op.f("fk_lot_material_id_material")
        ),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_lot_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lot")),
    )
    op.create_index(op.f("ix_lot_material_id"), "lot", ["material_id"], unique=False)
    op.create_index(op.f("ix_lot_workshop_id"), "lot", ["workshop_id"], unique=False)
    op.create_table(
        "lot_draw",
        sa.Column("lot_id", sa.Uuid(), nullable=False),
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.Column("coat", sa.Integer(), nullable=False),
        sa.Column("grams", sa.Numeric(precision=9, scale=2), nullable=False),
        sa.ForeignKeyConstraint(["lot_id"], ["lot.id"], name=op.f("fk_lot_draw_lot_id_lot")),
        sa.ForeignKeyConstraint(["pour_id"], ["pour.id"], name=op.f("fk_lot_draw_pour_id_pour")),
        sa.PrimaryKeyConstraint("lot_id", "pour_id", "coat", name=op.f("pk_lot_draw")),
    )
    # Pours of before know their resin by their sheet.
    op.add_column("pour", sa.Column("material_id", sa.Uuid(), nullable=True))
    op.execute(
        "UPDATE pour SET material_id = cast_sheet.material_id FROM cast_sheet "
        "WHERE cast_sheet.id = pour.sheet_id"
    )
    op.alter_column("pour", "material_id", nullable=False)
    op.create_index(op.f("ix_pour_material_id"), "pour", ["material_id"], unique=False)
    op.create_foreign_key(
        op.f("fk_pour_material_id_material"), "pour", "material", ["material_id"], ["id"]
    )


def downgrade() -> None:
    op.drop_constraint(op.f("fk_pour_material_id_material"), "pour", type_="foreignkey")
    op.drop_index(op.f("ix_pour_material_id"), table_name="pour")
    op.drop_column("pour", "material_id")
    op.drop_table("lot_draw")
    op.drop_index(op.f("ix_lot_workshop_id"), table_name="lot")
    op.drop_index(op.f("ix_lot_material_id"), table_name="lot")
    op.drop_table("lot")
    op.drop_index(op.f("ix_kit_offer_workshop_id"), table_name="kit_offer")
    op.drop_index(op.f("ix_kit_offer_material_id"), table_name="kit_offer")
    op.drop_table("kit_offer")
