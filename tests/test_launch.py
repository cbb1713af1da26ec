"""The start command: a private cluster of its own, ended whole, its data kept."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

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


def test_without_a_postgresql_server_it_says_what_to_install(folder, monkeypatch):
    monkeypatch.setattr(cluster_module, "_BINARIES", folder / "nowhere")
    with pytest.raises(ClusterError, match="install Debian's package postgresql"):
        Cluster(folder / "data")


def test_a_folder_that_cannot_be_used_is_named(folder):
    (folder / "data").mkdir()
    (folder / "data" / "something").write_text("in the way")
    with pytest.raises(ClusterError, match=str(folder / "data")):
        Cluster(folder / "data").start()
