"""The tables of who may come in: accounts, browsers that are signed in, invitations, failures.

Of a secret only its hash is kept, so whoever reads the tables cannot come in with what is there.
"""

from datetime import datetime
from enum import StrEnum
from uuid import UUID, uuid4

from sqlalchemy import ForeignKey, Index, String, UniqueConstraint, func
from sqlalchemy.orm import Mapped, mapped_column

from mildhusk.store.base import Base, Owned
from mildhusk.store.tables import NAME_LENGTH

_HASH_LENGTH = 64
"""Of SHA-256, in hexadecimal digits."""


class Role(StrEnum):
    """What somebody is in a workshop; what each may do stands in `services.access`."""

    OWNER = "owner"
    MAKER = "maker"
    APPRENTICE = "apprentice"
    GUEST = "guest"
    TABLET = "tablet"
    """No person, but a paired tablet at the bench."""


class Account(Owned):
    """Somebody who signs in with a name and a password."""

    __tablename__ = "account"

    name: Mapped[str] = mapped_column(String(NAME_LENGTH))
    role: Mapped[Role] = mapped_column(String(12))
    password_hash: Mapped[str] = mapped_column(String(200))


Index("uq_account_name", func.lower(Account.name), unique=True)


class SignedIn(Owned):
    """A browser that is signed in: an account's, or a paired tablet, which has a name itself."""

    __tablename__ = "signed_in"

    token_hash: Mapped[str] = mapped_column(String(_HASH_LENGTH), unique=True)
    account_id: Mapped[UUID | None] = mapped_column(
        ForeignKey("account.id", ondelete="CASCADE"), index=True
    )
    tablet_name: Mapped[str | None] = mapped_column(String(NAME_LENGTH))
    seen_at: Mapped[datetime]
    ends_at: Mapped[datetime]


class Invitation(Owned):
    """A link that lets somebody in once: a new account, a new password for one, or a tablet."""

    __tablename__ = "invitation"

    secret_hash: Mapped[str] = mapped_column(String(_HASH_LENGTH), unique=True)
    role: Mapped[Role] = mapped_column(String(12))
    account_id: Mapped[UUID | None] = mapped_column(
        ForeignKey("account.id", ondelete="CASCADE"), index=True
    )
    name: Mapped[str] = mapped_column(String(NAME_LENGTH), default="")
    ends_at: Mapped[datetime]


class KnownBrowser(Base):
    """A browser in which somebody signed in before: strangers' failures do not lock it out.

    At a desk of several it is one browser, known to each of them.
    """

    __tablename__ = "known_browser"
    __table_args__ = (UniqueConstraint("account_id", "token_hash"),)

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    account_id: Mapped[UUID] = mapped_column(
        ForeignKey("account.id", ondelete="CASCADE"), index=True
    )
    token_hash: Mapped[str] = mapped_column(String(_HASH_LENGTH))


class FailedSignIn(Base):
    """A name and a password that did not go together; `browser_id` where the browser is known."""

    __tablename__ = "failed_sign_in"

    id: Mapped[UUID] = mapped_column(primary_key=True, default=uuid4)
    name: Mapped[str] = mapped_column(String(NAME_LENGTH), index=True)
    browser_id: Mapped[UUID | None]
    address: Mapped[str] = mapped_column(String(64), index=True)
    at: Mapped[datetime] = mapped_column(index=True)


WHO_COMES_IN = frozenset(
    one.__tablename__ for one in (Account, SignedIn, Invitation, KnownBrowser, FailedSignIn)
)
"""Of this machine, and in no archive: another one lets in whom its owner says."""
