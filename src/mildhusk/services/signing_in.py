"""Signing in and out, and who comes with a request.

Guessing is slowed down where it comes from. Failures in browsers that nobody signed in with before
count against the name and the address; so they hold up strangers, and never a browser that the
account knows, which has a count of its own (the "device cookie" of OWASP's advice on slowing down
online guessing).
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

from sqlalchemy import ColumnElement, delete, exists, func, select, text, update
from sqlalchemy.orm import Session

from mildhusk.services.access import Visitor
from mildhusk.services.errors import StrangerError, TooOftenError
from mildhusk.services.secrets import (
    hash_again,
    hash_of,
    is_outdated,
    is_password,
    new_token,
)
from mildhusk.store.access_tables import (
    Account,
    FailedSignIn,
    KnownBrowser,
    Role,
    SignedIn,
)

IDLE = {False: timedelta(hours=12), True: timedelta(days=60)}
LASTING = {False: timedelta(days=30), True: timedelta(days=400)}
"""A sign-in ends when it is not used for so long, and after so long anyway; of a tablet or not."""
_SEEN_EVERY = timedelta(minutes=5)
_WINDOW = timedelta(minutes=15)
_MOST_OF_NAME, _MOST_OF_ADDRESS = 10, 60
"""Failures within the window, after which a stranger has to wait."""


@dataclass(frozen=True, slots=True)
class Tokens:
    """What a browser keeps: that it is signed in, and that the account knows it."""

    signed_in: str
    known: str | None = None


@dataclass(frozen=True, slots=True)
class Tried:
    """What came of trying to sign in: tokens, or why not; kept either way."""

    tokens: Tokens | None = None
    refused: StrangerError | TooOftenError | None = None


def visitor(
    session: Session, now: datetime, token: str | None, home: UUID, *, must_sign_in: bool
) -> Visitor | None:
    """Return who comes with a token; None for a stranger where it is not open to anybody.

    Parameters
    ----------
    session : Session
    now : datetime
    token : str or None
        Of the browser's cookie.
    home : UUID
        The workshop that is open to anybody while there is no account.
    must_sign_in : bool
        Whether it is asked under other names than the machine's own: then it is open to nobody.
    """
    if token:
        found = _signed_in(session, now, token)
        if found is not None:
            return found
    is_open = not must_sign_in and not session.scalar(select(exists(select(Account.id))))
    return Visitor(home, Role.OWNER) if is_open else None


def _signed_in(session: Session, now: datetime, token: str) -> Visitor | None:
    asked = (
        select(SignedIn, Account.name, Account.role)
        .outerjoin(Account, SignedIn.account_id == Account.id)
        .where(SignedIn.token_hash == hash_of(token))
    )
    found = session.execute(asked).first()
    if found is None:
        return None
    row, name, role = found
    is_tablet = row.account_id is None
    if now >= row.ends_at or now - row.seen_at > IDLE[is_tablet]:
        return None
    if now - row.seen_at > _SEEN_EVERY:
        # By a statement of its own, that loses to nobody who ends it meanwhile.
        session.execute(update(SignedIn).where(SignedIn.id == row.id).values(seen_at=now))
    return Visitor(
        row.workshop_id,
        Role.TABLET if is_tablet else Role(role),
        name or row.tablet_name or "",
        row.account_id,
        row.id,
    )


def sign_in(
    session: Session, now: datetime, name: str, password: str, *, address: str, known: str | None
) -> Tried:
    """Sign in with a name and a password.

    Parameters
    ----------
    session : Session
        Committed whatever comes of it: a failure is counted.
    now : datetime
    name, password : str
    address : str
        From where it is tried.
    known : str or None
        What the browser has from having signed in before.
    """
    name = name.strip().lower()
    account = session.scalar(select(Account).where(func.lower(Account.name) == name))
    browser = None if account is None or known is None else _known(session, account, known)
    # Tries of one name in one kind of browser go one by one, so that none slips past the count.
    session.execute(
        text("SELECT pg_advisory_xact_lock(hashtext(:of))"), {"of": f"sign-in {name} {browser}"}
    )
    again_s = _must_wait_s(session, now, name, browser, address)
    if again_s > 0:
        minutes = max(1, round(again_s / 60))
        said = f"That was wrong too often. Try again in {minutes} min, or ask the owner for a link."
        return Tried(refused=TooOftenError(said, again_s))
    if not is_password(None if account is None else account.password_hash, password):
        session.execute(delete(FailedSignIn).where(FailedSignIn.at < now - _WINDOW))
        session.add(FailedSignIn(name=name, browser_id=browser, address=address, at=now))
        return Tried(refused=StrangerError("That name and password do not go together."))
    assert account is not None
    if is_outdated(account.password_hash):
        account.password_hash = hash_again(password)
    session.execute(delete(FailedSignIn).where(_failures_of(name, browser)))
    return Tried(tokens=let_in(session, now, account, known))


def let_in(session: Session, now: datetime, account: Account, known: str | None = None) -> Tokens:
    """Let a browser in as somebody; it is known from then on, by what it has already."""
    if known is None or _known_to_nobody(session, known):
        known = new_token()
    if _known(session, account, known) is None:
        session.add(KnownBrowser(account_id=account.id, token_hash=hash_of(known)))
    return Tokens(_keep(session, now, account.workshop_id, account.id, None), known)


def let_tablet_in(session: Session, now: datetime, workshop_id: UUID, name: str) -> Tokens:
    """Let a tablet in that is to stand at the bench."""
    return Tokens(_keep(session, now, workshop_id, None, name))


def _keep(
    session: Session, now: datetime, workshop_id: UUID, account_id: UUID | None, tablet: str | None
) -> str:
    session.execute(delete(SignedIn).where(SignedIn.ends_at <= now))
    token = new_token()
    session.add(
        SignedIn(
            workshop_id=workshop_id,
            created_at=now,
            token_hash=hash_of(token),
            account_id=account_id,
            tablet_name=tablet,
            seen_at=now,
            ends_at=now + LASTING[account_id is None],
        )
    )
    return token


def sign_out(session: Session, visitor: Visitor) -> None:
    """End the sign-in of whoever asks."""
    session.execute(delete(SignedIn).where(SignedIn.id == visitor.signed_in_id))


def end_sign_ins(session: Session, account_id: UUID, but: UUID | None = None) -> None:
    """End all sign-ins of an account, but for one."""
    ending = delete(SignedIn).where(SignedIn.account_id == account_id)
    session.execute(ending if but is None else ending.where(SignedIn.id != but))


def _known(session: Session, account: Account, known: str) -> UUID | None:
    return session.scalar(
        select(KnownBrowser.id).where(
            KnownBrowser.account_id == account.id, KnownBrowser.token_hash == hash_of(known)
        )
    )


def _known_to_nobody(session: Session, known: str) -> bool:
    """Whether it was made up, or is of accounts that are gone; then it is not taken on."""
    of_it = select(KnownBrowser.id).where(KnownBrowser.token_hash == hash_of(known)).limit(1)
    return session.scalar(of_it) is None


def _failures_of(name: str, browser: UUID | None) -> ColumnElement[bool]:
    if browser is not None:
        return FailedSignIn.browser_id == browser
    return (FailedSignIn.name == name) & FailedSignIn.browser_id.is_(None)


def _must_wait_s(
    session: Session, now: datetime, name: str, browser: UUID | None, address: str
) -> float:
    """Return for how long it may not be tried. [s]"""
    waits = [_wait_s(session, now, _failures_of(name, browser), _MOST_OF_NAME)]
    if browser is None:
        of_address = (FailedSignIn.address == address) & FailedSignIn.browser_id.is_(None)
        waits.append(_wait_s(session, now, of_address, _MOST_OF_ADDRESS))
    return max(waits)


def _wait_s(session: Session, now: datetime, of: ColumnElement[bool], most: int) -> float:
    """Return how long it takes until fewer failures than that lie within the window. [s]"""
    nth = (
        select(FailedSignIn.at)
        .where(of, FailedSignIn.at > now - _WINDOW)
        .order_by(FailedSignIn.at.desc())
        .offset(most - 1)
        .limit(1)
    )
    at = session.scalar(nth)
    return 0.0 if at is None else (at + _WINDOW - now).total_seconds()
