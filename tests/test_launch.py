"""The start command: a private cluster of its own, ended whole, its data kept."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

import psycopg
import pytest
from sqlalchemy import make_url

from mildhusk import cluster as cluster_module
from mildhusk.cluster import Cluster, ClusterError
from served import ROOT


@pytest.fixture
def folder() -> Iterator[Path]:
    """Open to the postgres account, as pytest's own folders are not when root runs them."""
    made = Path(tempfile.mkdtemp(prefix="mildhusk-launch-"))
    made.chmod(0o755)
    yield made
    shutil.rmtree(made)


@contextmanager
def launched(folder: Path, *words: str) -> Iterator[tuple[str, subprocess.Popen[str]]]:
    environment = {key: value for key, value in os.environ.items() if key != "DATABASE_URL"}
    process = subprocess.Popen(
        [sys.executable, "-m", "mildhusk.launch", "--data", str(folder / "data"), *words],
        env=environment,
        stdout=subprocess.PIPE,
        text=True,
        cwd=ROOT,
    )
    assert process.stdout is not None
    try:
        yield process.stdout.readline().split(" at ")[1].strip(), process
    finally:
        process.send_signal(signal.SIGINT)
        assert process.wait(timeout=30) == 0
        process.stdout.close()


def names(address: str) -> list[str]:
    with urllib.request.urlopen(f"{address}api/v1/pieces", timeout=20) as answer:
        return [one["name"] for one in json.load(answer)["pieces"]]


def answers(address: str) -> bool:
    port = int(address.rstrip("/").rsplit(":", 1)[1])
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


def test_ctrl_c_ends_every_part_and_a_second_start_keeps_the_data(folder):
    with launched(folder, "--demo", "--port", "0") as (address, _):
        first = names(address)
        assert len(first) >= 3
    assert not answers(address)
    assert not (folder / "data" / "postmaster.pid").exists()
    with launched(folder, "--demo", "--port", "0") as (address, _):
        assert names(address) == first


def test_a_taken_port_is_left_to_its_owner(folder):
    with socket.socket() as owner:
        owner.bind(("127.0.0.1", 0))
        owner.listen()
        taken = owner.getsockname()[1]
        with launched(folder, "--port", str(taken)) as (address, _):
            assert not address.endswith(f":{taken}/")
            assert names(address) == []


def test_the_server_listens_on_loopback_alone(folder):
    with launched(folder, "--port", "0") as (address, _):
        port = int(address.rstrip("/").rsplit(":", 1)[1])
        listening = Path("/proc/net/tcp").read_text("utf-8").splitlines()[1:]
        local = [line.split()[1] for line in listening if line.split()[3] == "0A"]
        assert f"0100007F:{port:04X}" in local
        assert f"00000000:{port:04X}" not in local


def test_a_second_start_on_the_same_data_says_so_in_one_line_and_the_first_goes_on(folder):
    with launched(folder, "--port", "0") as (address, _):
        second = _ended(folder)
        assert second.returncode == 1
        assert second.stderr.count("\n") == 1
        assert f"already, at {address}" in second.stderr
        assert names(address) == []
    # The lock went with its process; the next start finds the data free.
    with launched(folder, "--port", "0") as (address, _):
        assert names(address) == []


@pytest.mark.parametrize(
    ("address", "said"),
    [
        ("postgresql://nobody@127.0.0.1:1/nothing", "does not answer"),
        ("postgresql://nobody@192.0.2.1/nothing", "does not answer"),
        ("mysql://root@localhost/x", "PostgreSQL is needed"),
        ("no address", "is no address"),
    ],
)
def test_a_database_that_is_not_there_is_told_in_one_line_and_soon(folder, address, said):
    """192.0.2.0/24 leads nowhere (RFC 5737)."""
    begun = time.monotonic()
    ended = _ended(folder, DATABASE_URL=address)
    assert time.monotonic() - begun < 10.0
    assert ended.returncode == 1
    assert ended.stderr.count("\n") == 1
    assert said in ended.stderr


def _ended(folder: Path, **environment: str) -> subprocess.CompletedProcess[str]:
    words = [sys.executable, "-m", "mildhusk.launch", "--data", str(folder / "data"), "--port", "0"]
    usual = {key: value for key, value in os.environ.items() if key != "DATABASE_URL"}
    return subprocess.run(
        words,
        env={**usual, **environment},
        capture_output=True,
        text=True,
        cwd=ROOT,
        check=False,
        timeout=30,
    )


def test_what_connects_and_says_nothing_stops_nobody(folder):
    """Sixty half-open connections, more than there are threads; the next one is answered."""
    with launched(folder, "--port", "0") as (address, _), ExitStack() as silent:
        port = int(address.rstrip("/").rsplit(":", 1)[1])
        for number in range(60):
            one = silent.enter_context(socket.create_connection(("127.0.0.1", port)))
            one.sendall(b"POST /api/v1/pieces HTTP/1.1\r\nHost: x" if number % 2 else b"")
        begun = time.monotonic()
        assert names(address) == []
        assert time.monotonic() - begun < 5.0


def test_the_private_database_asks_for_its_password(folder):
    with launched(folder, "--port", "0"):
        cluster = Cluster(folder / "data")
        url = make_url(cluster.url)
        assert url.password
        wrong = url.set(drivername="postgresql", password="guessed")
        with pytest.raises(psycopg.OperationalError, match="password"):
            psycopg.connect(wrong.render_as_string(hide_password=False), connect_timeout=5)


def test_without_a_postgresql_server_it_says_what_to_install(folder, monkeypatch):
    monkeypatch.setattr(cluster_module, "_BINARIES", folder / "nowhere")
    with pytest.raises(ClusterError, match="install Debian's package postgresql"):
        Cluster(folder / "data")


def test_a_folder_that_cannot_be_used_is_named(folder):
    (folder / "data").mkdir()
    (folder / "data" / "something").write_text("in the way")
    with pytest.raises(ClusterError, match=str(folder / "data")):
        Cluster(folder / "data").start()
