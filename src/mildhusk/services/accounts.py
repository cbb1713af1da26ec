"""Who may come in: accounts, their roles, invitations by link, paired tablets."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from mildhusk.core.errors import ConditionError
from mildhusk.services.access import Visitor
from mildhusk.services.errors import ConflictError, NotFoundError
from mildhusk.services.secrets import hash_of, hash_password, is_password, new_token
from mildhusk.services.signing_in import Tokens, end_sign_ins, let_in, let_tablet_in
from mildhusk.services.trail import followed
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import locked_workshop
from mildhusk.store.access_tables import Account, Invitation, Role, SignedIn
from mildhusk.store.tables import Workshop

INVITED = timedelta(days=7)
_MOST_ACCOUNTS, _MOST_INVITATIONS = 200, 100


@dataclass(frozen=True, slots=True)
class Invited:
    """A link that lets somebody in once; its secret is told only now."""

    id: UUID
    secret: str
    ends_at: datetime


@dataclass(frozen=True, slots=True)
class Welcome:
    """What whoever opens an invitation sees: where it leads, as what, and for whom."""

    workshop: str
    role: Role
    name: str
    is_new: bool


def list_accounts(at: Transaction) -> tuple[Account, ...]:
    """Return the accounts of the workshop, by name."""
    mine = select(Account).where(Account.workshop_id == at.workshop_id)
    return tuple(at.session.scalars(mine.order_by(func.lower(Account.name))))


def list_signed_in(at: Transaction) -> tuple[SignedIn, ...]:
    """Return the browsers and tablets that are signed in, the one seen last first."""
    mine = select(SignedIn).where(SignedIn.workshop_id == at.workshop_id, SignedIn.ends_at > at.now)
    return tuple(at.session.scalars(mine.order_by(SignedIn.seen_at.desc(), SignedIn.id)))


def list_invitations(at: Transaction) -> tuple[Invitation, ...]:
    """Return the invitations that still hold, the newest first."""
    mine = select(Invitation).where(
        Invitation.workshop_id == at.workshop_id, Invitation.ends_at > at.now
    )
    return tuple(at.session.scalars(mine.order_by(Invitation.created_at.desc(), Invitation.id)))


def make_first_owner(at: Transaction, name: str, password: str) -> Tokens:
    """Give an open workshop its owner: from then on whoever comes has to sign in."""
    locked_workshop(at)
    if at.session.scalar(select(Account.id).limit(1)) is not None:
        raise ConflictError("This workshop has an owner already; sign in.")
    account = _new_account(at.session, at.now, at.workshop_id, Role.OWNER, name, password)
    return let_in(at.session, at.now, account)


def invite(at: Transaction, role: Role, name: str = "", account_id: UUID | None = None) -> Invited:
    """Make a link that lets somebody in once.

    Parameters
    ----------
    at : Transaction
    role : Role
        Of whoever it is for.
    name : str
        What a tablet is called; of somebody, what is suggested.
    account_id : UUID or None
        Whose password it makes anew; then the role is that one's.
    """
    if account_id is not None:
        account = at.find(Account, account_id, "account")
        role, name = Role(account.role), account.name
    elif role is not Role.OWNER and not _owners(at):
        raise ConflictError("Give the workshop an owner first: your own name and a password.")
    if role is Role.TABLET and not name:
        raise ConditionError("Name the tablet, so that you find it again.", "name")
    if at.count(Invitation, Invitation.ends_at > at.now) >= _MOST_INVITATIONS:
        raise ConflictError("Too many invitations are open; withdraw some first.")
    secret = new_token()
    row = Invitation(
        workshop_id=at.workshop_id,
        created_at=at.now,
        secret_hash=hash_of(secret),
        role=role,
        account_id=account_id,
        name=name,
        ends_at=at.now + INVITED,
    )
    at.session.add(row)
    at.session.flush()
    return Invited(row.id, secret, row.ends_at)


def take_back(at: Transaction, key: UUID) -> None:
    """End an invitation nobody has used yet."""
    at.session.delete(at.find(Invitation, key, "invitation"))


def take_all_back(at: Transaction) -> None:
    """End every invitation nobody has used yet."""
    for row in list_invitations(at):
        at.session.delete(row)
    at.session.flush()


def welcome(session: Session, now: datetime, secret: str) -> Welcome:
    """Return what an invitation is for."""
    row = _invitation(session, now, secret)
    workshop = session.get_one(Workshop, row.workshop_id)
    return Welcome(workshop.name, Role(row.role), row.name, row.account_id is None)


def accept(session: Session, now: datetime, secret: str, name: str, password: str) -> Tokens:
    """Come in by an invitation, which is used up with it.

    Parameters
    ----------
    session : Session
    now : datetime
    secret : str
        Of the link.
    name, password : str
        A tablet has neither; whose password is made anew has a name already.
    """
    row = _invitation(session, now, secret, lock=True)
    at = Transaction(session, row.workshop_id, now, by=row.name or name)
    with followed(at):
        return _let_in_by(session, now, row, name, password)


def _let_in_by(
    session: Session, now: datetime, row: Invitation, name: str, password: str
) -> Tokens:
    session.delete(row)
    if row.role == Role.TABLET:
        return let_tablet_in(session, now, row.workshop_id, row.name)
    if row.account_id is None:
        account = _new_account(session, now, row.workshop_id, Role(row.role), name, password)
    else:
        account = session.get_one(Account, row.account_id)
        account.password_hash = hash_password(password, account.name)
        end_sign_ins(session, account.id)
    return let_in(session, now, account)


def change_password(at: Transaction, visitor: Visitor, old: str, new: str) -> None:
    """Change one's own password; every other browser of this account is signed out."""
    if visitor.account_id is None:
        raise ConflictError("Only somebody with an account has a password.")
    account = at.find(Account, visitor.account_id, "account", lock=True)
    if not is_password(account.password_hash, old):
        raise ConditionError("That is not your password.", "old")
    account.password_hash = hash_password(new, account.name)
    end_sign_ins(at.session, account.id, but=visitor.signed_in_id)


def change_role(at: Transaction, key: UUID, role: Role) -> Account:
    """Give somebody another role; one owner stays."""
    if role is Role.TABLET:
        raise ConditionError("Somebody with an account is no tablet; choose a role.", "role")
    account = _changed(at, key, stays_owner=role is Role.OWNER)
    account.role = role
    at.session.flush()
    return account


def remove(at: Transaction, key: UUID) -> None:
    """Take somebody's account away, and sign all browsers of it out; one owner stays."""
    at.session.delete(_changed(at, key, stays_owner=False))


def end_sign_in(at: Transaction, key: UUID) -> None:
    """Sign a browser or a tablet out."""
    at.session.delete(at.find(SignedIn, key, "signed-in browser"))


def _changed(at: Transaction, key: UUID, *, stays_owner: bool) -> Account:
    # All owners are locked, so that two of them cannot take each other away at once.
    owners = _owners(at, lock=True)
    account = at.find(Account, key, "account", lock=True)
    if not stays_owner and [one.id for one in owners] == [account.id]:
        raise ConflictError("A workshop has an owner: make somebody else owner first.")
    return account


def _owners(at: Transaction, *, lock: bool = False) -> list[Account]:
    mine = select(Account).where(Account.workshop_id == at.workshop_id, Account.role == Role.OWNER)
    return list(at.session.scalars(mine.with_for_update() if lock else mine))


def _invitation(session: Session, now: datetime, secret: str, *, lock: bool = False) -> Invitation:
    asked = select(Invitation).where(Invitation.secret_hash == hash_of(secret))
    row = session.scalar(asked.with_for_update() if lock else asked)
    if row is None or row.ends_at <= now:
        raise NotFoundError(
            "This invitation was used, withdrawn, or is older than a week; ask for another one."
        )
    return row


def _new_account(
    session: Session, now: datetime, workshop_id: UUID, role: Role, name: str, password: str
) -> Account:
    name = " ".join(name.split())
    if not name:
        raise ConditionError("Give a name; you sign in with it.", "name")
    if session.scalar(select(Account.id).where(func.lower(Account.name) == name.lower())):
        raise ConditionError(f"There is a '{name}' already; choose another name.", "name")
    mine = select(func.count()).select_from(Account).where(Account.workshop_id == workshop_id)
    if (session.scalar(mine) or 0) >= _MOST_ACCOUNTS:
        raise ConflictError(f"A workshop has {_MOST_ACCOUNTS} accounts at most.")
    account = Account(
        workshop_id=workshop_id,
        created_at=now,
        name=name,
        role=role,
        password_hash=hash_password(password, name),
    )
    session.add(account)
    session.flush()
    return account


def find_account(at: Transaction, name: str) -> Account:
    """Return the account of a name."""
    mine = (Account.workshop_id == at.workshop_id) & (func.lower(Account.name) == name.lower())
    found = at.session.scalar(select(Account).where(mine))
    if found is None:
        raise NotFoundError(f"Nobody here is called '{name}'.")
    return found
