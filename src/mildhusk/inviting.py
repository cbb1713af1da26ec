"""Links for whoever may come in, made on the machine itself: no password is needed for them."""

import sys
from datetime import UTC, datetime
from pathlib import Path

from mildhusk.reach import database, transaction
from mildhusk.services.accounts import find_account, invite, list_accounts, take_all_back
from mildhusk.services.transaction import Transaction
from mildhusk.store.access_tables import Role


def print_invitation(data: Path, name: str, role: Role) -> None:
    """Print a link for a new account; for a new password where somebody has that name already."""
    with database(data) as address, transaction(address, datetime.now(UTC)) as at:
        known = {one.name.lower() for one in list_accounts(at)}
        if name.lower() in known:
            made, words = invite(at, role, account_id=find_account(at, name).id), "a new password"
        else:
            made, words = invite(at, role, name), f"a new {role}"
    place = data.with_name(f"{data.name}.address")
    start = place.read_text("utf-8").strip() if place.exists() else "http://127.0.0.1:8410/"
    print(f"{start}join#{made.secret}")
    print(f"For {words}; good once, until {made.ends_at:%Y-%m-%d %H:%M} UTC.")


def say_who_is_let_in(at: Transaction, start: str) -> None:
    """Say how the owner comes in, where nobody may without an account and there is none."""
    if not list_accounts(at):
        # Each start says another one; those before are of no use any more.
        take_all_back(at)
        secret = invite(at, Role.OWNER).secret
        print(f"Its owner begins at {start}join#{secret}", file=sys.stderr, flush=True)
