"""Files in stretches, jobs by their queue's state, lists with their figures, melted clay a material

Kept plans carry their densities; sheets of melted clay are of that material.
"""

import json
from datetime import UTC, datetime
from uuid import uuid4

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

_JSON = postgresql.JSONB(astext_type=sa.Text())
_CLAY = {
    "density_kg_m3": 1750.0,
    "heat_capacity_j_kg_k": 1500.0,
    "melt_k": 348.15,
    "pour_k": 335.15,
    "thick_k": 327.15,
    "set_k": 315.15,
    "cool_k": 301.15,
    "coat_wall_m": 0.0025,
    "shrinkage": 0.005,
    "kit_mass_kg": 5.0,
    "kit_price": "38.00",
    "origin": "typical",
    "traits": ["oil-clay", "petroleum", "carvable", "melts"],
    "hazards": [
        "Hot clay burns skin and sticks: gloves, sleeves, face shield; cold water beside the pot.",
        "Melt it over water or in a pot with a thermostat, never over a flame, and never leave it "
        "alone.",
    ],
}


def upgrade() -> None:
    op.alter_column("workshop", "bench", new_column_name="equipment")
    _files_in_stretches()
    _jobs_by_their_queue()
    for table, figures, made_of in (
        ("cast_sheet", "summary", "summary_of"),
        ("mould", "takes", "takes_of"),
    ):
        op.add_column(table, sa.Column(figures, _JSON, nullable=False, server_default="{}"))
        op.add_column(table, sa.Column(made_of, sa.String(64), nullable=False, server_default=""))
        op.alter_column(table, figures, server_default=None)
        op.alter_column(table, made_of, server_default=None)
    op.execute(
        "UPDATE pour SET plan = plan || jsonb_build_object('densities_kg_m3', densities_kg_m3)"
    )
    op.drop_column("pour", "densities_kg_m3")
    _clay_as_a_material()


def _files_in_stretches() -> None:
    op.create_table(
        "mesh_chunk",
        sa.Column("workshop_id", sa.Uuid(), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["workshop_id", "sha256"],
            ["mesh_file.workshop_id", "mesh_file.sha256"],
            name=op.f("fk_mesh_chunk_workshop_id_mesh_file"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("workshop_id", "sha256", "number", name=op.f("pk_mesh_chunk")),
    )
    op.execute(
        "INSERT INTO mesh_chunk (workshop_id, sha256, number, content) "
        "SELECT workshop_id, sha256, 0, content FROM mesh_file"
    )
    op.add_column("mesh_file", sa.Column("size", sa.BigInteger(), nullable=True))
    op.execute("UPDATE mesh_file SET size = length(content)")
    op.alter_column("mesh_file", "size", nullable=False)
    op.drop_column("mesh_file", "content")
    for column in ("faces", "extents", "guessed_unit", "guess_is_sure"):
        op.alter_column("mesh_file", column, nullable=True)


def _jobs_by_their_queue() -> None:
    # What was asked before is asked again by whoever still wants it; its results stand.
    op.execute("DELETE FROM job")
    op.execute("DELETE FROM procrastinate_jobs")
    op.drop_index(op.f("ix_job_status"), table_name="job")
    for column in ("status", "cancel_wanted", "attempt", "ended_at"):
        op.drop_column("job", column)
    op.add_column("job", sa.Column("key", sa.String(80), nullable=False))
    op.add_column("job", sa.Column("queue_id", sa.BigInteger(), nullable=False))
    op.create_index(op.f("ix_job_key"), "job", ["key"])
    op.create_index(op.f("ix_job_queue_id"), "job", ["queue_id"])


def _clay_as_a_material() -> None:
    connection = op.get_bind()
    now = datetime.now(UTC)
    for (workshop_id,) in connection.execute(sa.text("SELECT id FROM workshop")).all():
        material_id = uuid4()
        connection.execute(
            sa.text(
                "INSERT INTO material (id, workshop_id, created_at, version, kind, key, name, "
                "sheet) VALUES (:id, :workshop, :now, 1, 'melted-clay', 'clay-melted', "
                "'Melted clay', CAST(:sheet AS jsonb))"
            ),
            {"id": material_id, "workshop": workshop_id, "now": now, "sheet": json.dumps(_CLAY)},
        )
        connection.execute(
            sa.text(
                "UPDATE cast_sheet SET material_id = :id WHERE workshop_id = :workshop AND "
                "wish->>'school' = 'clay'"
            ),
            {"id": material_id, "workshop": workshop_id},
        )


def downgrade() -> None:
    raise NotImplementedError("Sheets of melted clay cannot go back to being of a resin.")
