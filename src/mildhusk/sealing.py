"""Backups that only the holder of a private key can open.

The file format is age, version 1 (C2SP, age-encryption.org/v1): X25519, HKDF-SHA-256 and
ChaCha20-Poly1305 in stretches of 64 KiB. Other programs open it, too. The machine that makes
backups knows the public key alone: whoever takes the folder, or the machine, opens none of them.
"""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from hashlib import file_digest
from pathlib import Path
from tempfile import TemporaryDirectory

from pyrage import DecryptError, IdentityError, RecipientError, decrypt_io, encrypt_io
from pyrage.x25519 import Identity, Recipient

from mildhusk.core.errors import InputError

KEY = "MILDHUSK_BACKUP_KEY"
"""The setting with the public key that backups are encrypted to; without it they are not."""
SUFFIX = ".age"
_BEGINS = b"age-encryption.org/v1"


class SealError(InputError):
    """A key that is none, or a file that it does not open."""

    def __init__(self, message: str, field: str = "key") -> None:
        super().__init__(message, field)


def write_key(path: Path) -> str:
    """Write a new private key into a file that is not there yet; return its public key.

    Raises
    ------
    SealError
        There is such a file already: what it opens would be lost.
    """
    key = Identity.generate()
    try:
        # Nobody else reads it, not even for a moment.
        number = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError as error:
        raise SealError(f"{path} is there already, and may open backups; name another.") from error
    with os.fdopen(number, "w", encoding="utf-8") as file:
        file.write(f"# public key: {key.to_public()}\n{key}\n")
    return str(key.to_public())


def public_key(text: str) -> Recipient:
    """Return the public key that a text is.

    Raises
    ------
    SealError
        It is none.
    """
    try:
        return Recipient.from_str(text.strip())
    except RecipientError as error:
        raise SealError(
            f"'{text.strip()[:20]}' is no public key for backups; `husk-web key FILE` makes a pair "
            "and prints the public one, which begins with 'age1'."
        ) from error


def seal(plain: Path, sealed: Path, to: Recipient) -> None:
    """Write a file so that one key opens it, and read back what was written.

    A second key, which is thrown away at once, opens it for that reading.

    Raises
    ------
    SealError
        What is read back is not what was sealed.
    """
    ours = Identity.generate()
    with plain.open("rb") as given, sealed.open("wb") as taking:
        encrypt_io(given, taking, [to, ours.to_public()])
        taking.flush()
        os.fsync(taking.fileno())
    with TemporaryDirectory(prefix="mildhusk-seal-", dir=plain.parent) as folder:
        again = Path(folder) / "again"
        _open(sealed, again, ours)
        if _sum(again) != _sum(plain):
            raise SealError(f"{sealed} does not hold what was written; look at its disk.", "file")


def is_sealed(path: Path) -> bool:
    """Whether a file was sealed."""
    with path.open("rb") as file:
        return file.read(len(_BEGINS)) == _BEGINS


@contextmanager
def opened(path: Path, key: Path | None) -> Iterator[Path]:
    """Give the file as it was before it was sealed, for a while; one that was not, as it is.

    Raises
    ------
    SealError
        No key was given, it is none, or it does not open the file.
    OSError
        The file or the key cannot be read.
    """
    if not is_sealed(path):
        yield path
        return
    if key is None:
        raise SealError(f"{path} is encrypted; name the file of its private key with --key.")
    identity = _private_key(key)
    with TemporaryDirectory(prefix="mildhusk-open-") as folder:
        plain = Path(folder) / "opened"
        try:
            _open(path, plain, identity)
        except (DecryptError, OSError) as error:
            # A disk that is full has a number; what does not open has none.
            if isinstance(error, OSError) and error.errno is not None:
                raise
            raise SealError(
                f"{path} is not opened by the key in {key}; it is of another key, or damaged."
            ) from error
        yield plain


def _private_key(path: Path) -> Identity:
    try:
        lines = path.read_text("utf-8").split()
        [text] = [one for one in lines if one.startswith("AGE-SECRET-KEY-")]
        return Identity.from_str(text)
    except (UnicodeError, ValueError, IdentityError) as error:
        raise SealError(
            f"{path} holds no private key; `husk-web key` makes such a file."
        ) from error


def _open(sealed: Path, plain: Path, key: Identity) -> None:
    with sealed.open("rb") as given, plain.open("wb") as taking:
        decrypt_io(given, taking, [key])


def _sum(path: Path) -> bytes:
    with path.open("rb") as file:
        return file_digest(file, "sha256").digest()
