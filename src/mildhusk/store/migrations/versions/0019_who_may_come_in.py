"""Who may come in: accounts, signed-in browsers, invitations, known browsers, failures

A workshop without accounts stays open to whoever reaches it, as before.
"""

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None

TIME = sa.DateTime(timezone=True)


def _owned(name: str, *columns: sa.Column[Any]) -> None:
    op.create_table(
        name,
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("workshop_id", sa.Uuid(), sa.ForeignKey("workshop.id"), nullable=False),
        sa.Column("created_at", TIME, nullable=False),
        *columns,
    )
    op.create_index(f"ix_{name}_workshop_id", name, ["workshop_id"])


def _of_account(*, nullable: bool) -> sa.Column[Any]:
    return sa.Column(
        "account_id", sa.Uuid(), sa.ForeignKey("account.id", ondelete="CASCADE"), nullable=nullable
    )


def upgrade() -> None:
    _owned(
        "account",
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("role", sa.String(12), nullable=False),
        sa.Column("password_hash", sa.String(200), nullable=False),
    )
    op.create_index("uq_account_name", "account", [sa.text("lower(name)")], unique=True)
    _owned(
        "signed_in",
        sa.Column("token_hash", sa.String(64), nullable=False, unique=True),
        _of_account(nullable=True),
        sa.Column("tablet_name", sa.String(120), nullable=True),
        sa.Column("seen_at", TIME, nullable=False),
        sa.Column("ends_at", TIME, nullable=False),
    )
    _owned(
        "invitation",
        sa.Column("secret_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("role", sa.String(12), nullable=False),
        _of_account(nullable=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("ends_at", TIME, nullable=False),
    )
    op.create_table(
        "known_browser",
        sa.Column("id", sa.Uuid(), primary_key=True),
        _of_account(nullable=False),
        sa.Column("token_hash", sa.String(64), nullable=False),
        sa.UniqueConstraint("account_id", "token_hash", name="uq_known_browser_account_id"),
    )
    for name in ("signed_in", "invitation", "known_browser"):
        op.create_index(f"ix_{name}_account_id", name, ["account_id"])
    op.create_table(
        "failed_sign_in",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("browser_id", sa.Uuid(), nullable=True),
        sa.Column("address", sa.String(64), nullable=False),
        sa.Column("at", TIME, nullable=False),
    )
    for column in ("name", "address", "at"):
        op.create_index(f"ix_failed_sign_in_{column}", "failed_sign_in", [column])


def downgrade() -> None:
    for name in ("failed_sign_in", "known_browser", "invitation", "signed_in", "account"):
        op.drop_table(name)
