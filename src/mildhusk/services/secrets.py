"""Secrets: passwords as argon2id, and tokens of which only a hash is kept.

References
----------
A. Biryukov, D. Dinu, D. Khovratovich, S. Josefsson, "Argon2 memory-hard function for password
hashing and proof-of-work applications", RFC 9106, 2021: its second recommended set of parameters.
"""

import hashlib
import secrets
import threading

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from argon2.profiles import RFC_9106_LOW_MEMORY

from mildhusk.core.errors import ConditionError

SHORTEST_PASSWORD, LONGEST_PASSWORD = 12, 128
_LONG_NAME, _FEWEST_GUESSES = 4, 10**8
"""A name of so many letters is no part of a password, which whoever knows the usual ones guesses
after so many tries (zxcvbn: USENIX Security 2016; its third of five grades ends there)."""
_hasher = PasswordHasher.from_parameters(RFC_9106_LOW_MEMORY)
# One at a time in a process: each takes 64 MB while it is worked out.
_one = threading.Lock()
_NOBODYS = _hasher.hash(secrets.token_urlsafe())
"""Of nobody: verified where there is no such name, so that this takes no less long."""


def new_token() -> str:
    """Return a secret that nobody guesses, as it is written in a link or a cookie."""
    return secrets.token_urlsafe(32)


def hash_of(token: str) -> str:
    """Return what is kept of a token, which is as random as its hash; a password's is slow."""
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


def hash_password(password: str, name: str) -> str:
    """Return what is kept of a new password.

    Raises
    ------
    ConditionError
        It is too short, too long, the name again, or known to whoever guesses.
    """
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        raise ConditionError(
            f"A password has {SHORTEST_PASSWORD} to {LONGEST_PASSWORD} characters; "
            "a few words in a row are easy to remember.",
            "password",
        )
    is_named = len(name) >= _LONG_NAME and name.lower() in password.lower()
    # With its lists it takes a moment to load, and only a new password needs it.
    from zxcvbn import zxcvbn

    guessed = zxcvbn(password, [name] if name else [], max_length=LONGEST_PASSWORD)
    if is_named or guessed["guesses"] < _FEWEST_GUESSES:
        raise ConditionError(
            "That password is easy to guess: leave out your name, what many others take, and "
            "repetitions. A few words that do not belong together are hard to guess.",
            "password",
        )
    return _hash(password)


def hash_again(password: str) -> str:
    """Return what is kept of a password that was kept in an older way."""
    return _hash(password)


def _hash(password: str) -> str:
    with _one:
        return _hasher.hash(password)


def is_password(kept: str | None, password: str) -> bool:
    """Return whether a password is the one that was kept; of nobody's, never."""
    with _one:
        try:
            _hasher.verify(kept or _NOBODYS, password)
        except (VerificationError, InvalidHashError):
            return False
    return kept is not None


def is_outdated(kept: str) -> bool:
    """Return whether it was kept in an older way than is usual now."""
    return _hasher.check_needs_rehash(kept)
