"""Presses at the bench, each taken once; devices, and what is weighed on them"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pour_press",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["pour_id"], ["pour.id"], name=op.f("fk_pour_press_pour_id_pour")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pour_press")),
    )
    op.create_index(op.f("ix_pour_press_pour_id"), "pour_press", ["pour_id"])
    op.add_column("poured_coat", sa.Column("room_k", sa.Float(), nullable=True))
    op.create_table(
        "device",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("address", sa.String(200), nullable=False),
        sa.Column("is_standin", sa.Boolean(), nullable=False),
        sa.Column("room_k", sa.Float(), nullable=True),
        sa.Column("told_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["workshop_id"], ["workshop.id"], name=op.f("fk_device_workshop_id_workshop")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_device")),
    )
    op.create_index(op.f("ix_device_workshop_id"), "device", ["workshop_id"])
    op.create_table(
        "live_weighing",
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.Column("device_id", sa.Uuid(), nullable=False),
        sa.Column("coat", sa.Integer(), nullable=False),
        sa.Column("state", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(
            ["pour_id"], ["pour.id"], name=op.f("fk_live_weighing_pour_id_pour")
        ),
        sa.ForeignKeyConstraint(
            ["device_id"],
            ["device.id"],
            name=op.f("fk_live_weighing_device_id_device"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("pour_id", name=op.f("pk_live_weighing")),
    )
    op.create_index(op.f("ix_live_weighing_device_id"), "live_weighing", ["device_id"])
    op.create_table(
        "recorded_turning",
        sa.Column("pour_id", sa.Uuid(), nullable=False),
        sa.Column("coat", sa.Integer(), nullable=False),
        sa.Column("lasted_s", sa.Float(), nullable=False),
        sa.Column("readings", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["pour_id"], ["pour.id"], name=op.f("fk_recorded_turning_pour_id_pour")
        ),
        sa.PrimaryKeyConstraint("pour_id", "coat", name=op.f("pk_recorded_turning")),
    )


def downgrade() -> None:
    op.drop_table("recorded_turning")
    op.drop_table("live_weighing")
    op.drop_table("device")
    op.drop_column("poured_coat", "room_k")
    op.drop_table("pour_press")
