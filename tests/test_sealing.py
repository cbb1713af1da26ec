"""Encrypted backups: what they look like from outside, and who opens them."""

import base64
import os
import re
import stat
import subprocess
import sys

import pytest
from pyrage.x25519 import Identity

from mildhusk.sealing import SealError, opened, public_key, seal, write_key
from served import ROOT

STRETCH = 65_536


@pytest.fixture
def key(tmp_path):
    path = tmp_path / "key.txt"
    return path, public_key(write_key(path))


def sealed_of(tmp_path, content: bytes, to):
    plain, sealed = tmp_path / "plain", tmp_path / "sealed"
    plain.write_bytes(content)
    seal(plain, sealed, to)
    return sealed


@pytest.mark.parametrize("size", [0, 1, STRETCH - 1, STRETCH, STRETCH + 1, 5 * STRETCH + 17])
def test_it_is_a_file_of_the_published_form_and_as_it_was_when_opened(tmp_path, key, size):
    content = os.urandom(size)
    sealed = sealed_of(tmp_path, content, key[1])
    # age-encryption.org/v1 by the C2SP specification, from memory: a line with the version, a
    # stanza for each recipient with a share of 32 bytes, a MAC of 32 bytes, a nonce of 16, then
    # stretches of 64 KiB with 16 bytes each that authenticate them.
    head, mac, body = sealed.read_bytes().partition(b"\n--- ")
    assert mac
    lines = head.decode().split("\n")
    assert lines[0] == "age-encryption.org/v1"
    shares = [one.split()[2] for one in lines if one.startswith("-> X25519 ")]
    assert [len(base64.b64decode(one + "==")) for one in shares] == [32, 32]
    stretches = max(1, -(-size // STRETCH))
    assert len(body) - len(body.partition(b"\n")[0]) - 1 == 16 + size + 16 * stretches
    with opened(sealed, key[0]) as plain:
        assert plain.read_bytes() == content
    assert not plain.exists()


def test_nothing_of_it_can_be_read_and_no_two_are_alike(tmp_path, key):
    content = b"Lamplighter, chorus copy. " * 5_000
    one, other = (sealed_of(tmp_path, content, key[1]).read_bytes() for _ in range(2))
    assert one != other
    assert b"Lamplighter" not in one
    assert b"chorus" not in one


@pytest.mark.parametrize("share", [0.1, 0.4, 0.7, 0.999])
def test_what_was_changed_or_cut_off_is_not_opened(tmp_path, key, share):
    sealed = sealed_of(tmp_path, os.urandom(300_000), key[1])
    whole = sealed.read_bytes()
    at = int(share * len(whole))
    for spoilt in (whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :], whole[:at]):
        sealed.write_bytes(spoilt)
        with pytest.raises(SealError, match="of another key, or damaged"), opened(sealed, key[0]):
            pytest.fail("it was opened")


def test_whoever_has_another_key_or_none_is_told_so(tmp_path, key):
    sealed = sealed_of(tmp_path, b"grams", key[1])
    other = tmp_path / "other.txt"
    write_key(other)
    odd = tmp_path / "odd.txt"
    odd.write_text(str(Identity.generate().to_public()))
    for wrong, said in ((other, "another key"), (None, "--key"), (odd, "no private key")):
        with pytest.raises(SealError, match=said), opened(sealed, wrong):
            pytest.fail("it was opened")


def test_what_was_never_encrypted_is_given_as_it_is(tmp_path):
    plain = tmp_path / "workshop.zip"
    plain.write_bytes(b"PK")
    with opened(plain, None) as path:
        assert path == plain
    assert plain.exists()


def test_a_key_is_for_its_owner_alone_and_never_overwritten(tmp_path):
    path = tmp_path / "key.txt"
    public = write_key(path)
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    text = path.read_text()
    assert re.search(r"^AGE-SECRET-KEY-1[A-Z0-9]{58}$", text, re.MULTILINE)
    assert public in text
    with pytest.raises(SealError, match="there already"):
        write_key(path)
    assert path.read_text() == text


@pytest.mark.parametrize("text", ["", "age1...", "AGE-SECRET-KEY-1XX", "ssh-ed25519 AAAA"])
def test_what_is_no_public_key_is_refused_with_what_to_do(text):
    with pytest.raises(SealError, match="husk-web key FILE"):
        public_key(text)


def test_a_start_with_what_is_no_public_key_says_so_at_once():
    done = subprocess.run(
        [sys.executable, "-m", "mildhusk.web", "start", "--port", "0"],
        env={"PATH": os.environ["PATH"], "MILDHUSK_BACKUP_KEY": "age1xyz"},
        capture_output=True, text=True, check=False, cwd=ROOT, timeout=60,
    )  # fmt: skip
    assert (done.returncode, done.stderr.count("\n")) == (1, 1)
    assert "'age1xyz' is no public key" in done.stderr
