"""The database itself keeps workshops apart

Whoever works in a workshop takes on a role that sees its rows and no others; see `store.database`.
"""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

_HERE = "NULLIF(current_setting('husk.workshop', true), '')::uuid"
_OWNED = (
    "account", "cast_run", "cast_sheet", "coat_run", "dab_test", "day_job", "day_offer", "day_plan",
    "day_tick", "deleted_thing", "device", "drawing", "invitation", "job", "kept_day_plan",
    "kit_offer", "lot", "material", "mesh_chunk", "mesh_file", "mould", "mould_event",
    "mould_patch", "numbered_cast", "person", "piece", "pour", "pour_fault", "pour_picture",
    "signed_in", "trail_entry", "wall_reading",
)  # fmt: skip
_OF_POUR = ("live_weighing", "lot_draw", "pour_press", "poured_coat", "recorded_turning")
"""Their rows had no workshop but by the pour, which is too slow to look up for each."""
_BY_ACCOUNT = "EXISTS (SELECT FROM account WHERE account.id = known_browser.account_id)"

# A role is of the whole server: another database of it, or another start, may have made it.
_ROLE = """
DO $$ BEGIN
  IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'husk_rows') THEN
    CREATE ROLE husk_rows NOLOGIN;
  END IF;
EXCEPTION
  WHEN duplicate_object OR unique_violation THEN NULL;
  WHEN insufficient_privilege THEN
    RAISE insufficient_privilege USING MESSAGE = format(
      'The database has no role husk_rows yet; let its administrator run: '
      'CREATE ROLE husk_rows NOLOGIN; GRANT husk_rows TO %I;', current_user);
END $$;
DO $$ BEGIN
  IF NOT pg_has_role(current_user, 'husk_rows', 'MEMBER') THEN
    EXECUTE format('GRANT husk_rows TO %I', current_user);
  END IF;
END $$;
"""
_GRANTS = """
GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO husk_rows;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO husk_rows;
ALTER DEFAULT PRIVILEGES IN SCHEMA public
  GRANT SELECT, INSERT, UPDATE, DELETE ON TABLES TO husk_rows;
ALTER DEFAULT PRIVILEGES IN SCHEMA public GRANT USAGE ON SEQUENCES TO husk_rows;
REVOKE ALL ON alembic_version, failed_sign_in FROM husk_rows;
"""


def upgrade() -> None:
    op.execute(_ROLE)
    op.execute(_GRANTS)
    # As a query of its own it is asked once for a statement, not for every row.
    here = f"(SELECT {_HERE})"
    _wall("workshop", f"id = {here}")
    _wall("known_browser", _BY_ACCOUNT)
    for table in _OF_POUR:
        _tell_its_workshop(table)
    for table in (*_OWNED, *_OF_POUR):
        _wall(table, f"workshop_id = {here}")


def downgrade() -> None:
    for table in ("workshop", "known_browser", *_OWNED, *_OF_POUR):
        op.execute(f"DROP POLICY own_workshop ON {table}")
        op.execute(f"ALTER TABLE {table} DISABLE ROW LEVEL SECURITY")
    for table in _OF_POUR:
        op.drop_column(table, "workshop_id")
    op.execute("REVOKE ALL ON ALL TABLES IN SCHEMA public FROM husk_rows")
    op.execute("REVOKE ALL ON ALL SEQUENCES IN SCHEMA public FROM husk_rows")
    op.execute("ALTER DEFAULT PRIVILEGES IN SCHEMA public REVOKE ALL ON TABLES FROM husk_rows")
    op.execute("ALTER DEFAULT PRIVILEGES IN SCHEMA public REVOKE ALL ON SEQUENCES FROM husk_rows")


def _tell_its_workshop(table: str) -> None:
    key = sa.ForeignKey("workshop.id", name=f"fk_{table}_workshop_id_workshop")
    op.add_column(table, sa.Column("workshop_id", sa.Uuid(), key))
    op.execute(
        f"UPDATE {table} SET workshop_id = pour.workshop_id FROM pour WHERE pour.id = pour_id"
    )
    op.alter_column(table, "workshop_id", nullable=False, server_default=sa.text(_HERE))


def _wall(table: str, is_here: str) -> None:
    op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
    op.execute(f"CREATE POLICY own_workshop ON {table} USING ({is_here})")
