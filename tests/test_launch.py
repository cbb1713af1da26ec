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
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path

import psycopg
import pytest
from prometheus_client.parser import text_string_to_metric_families
from prometheus_client.samples import Sample
from sqlalchemy import make_url

from browser.lookup import post
from mildhusk import cluster as cluster_module
from mildhusk.cluster import Cluster, ClusterError
from served import ROOT


@contextmanager
def open_folder() -> Iterator[Path]:
    """Open to the postgres account, as pytest's own folders are not when root runs them."""
    made = Path(tempfile.mkdtemp(prefix="mildhusk-launch-"))
    made.chmod(0o755)
    try:
        yield made
    finally:
        shutil.rmtree(made)


@pytest.fixture
def folder() -> Iterator[Path]:
    with open_folder() as made:
        yield made


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
        assert process.wait(timeout=60) == 0
        process.stdout.close()


def names(address: str) -> list[str]:
    with urllib.request.urlopen(f"{address}api/v1/pieces", timeout=20) as answer:
        return [one["name"] for one in json.load(answer)["pieces"]]


def answers(address: str) -> bool:
    port = int(address.rstrip("/").rsplit(":", 1)[1])
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


def test_ctrl_c_ends_every_part_and_a_second_start_keeps_the_data(folder):
    with launched(folder, "--port", "0") as (address, _):
        post(address, "/pieces/clay", {"name": "Ear", "volume_m3": 1e-4, "thickness_m": 0.005})
        assert names(address) == ["Ear"]
    assert not answers(address)
    assert not (folder / "data" / "postmaster.pid").exists()
    with launched(folder, "--port", "0") as (address, _):
        assert names(address) == ["Ear"]


@dataclass(frozen=True)
class Running:
    """A start that several tests look at; its port was taken."""

    folder: Path
    address: str
    taken: int

    @property
    def port(self) -> int:
        return int(self.address.rstrip("/").rsplit(":", 1)[1])


@pytest.fixture(scope="module")
def running() -> Iterator[Running]:
    with open_folder() as made, socket.socket() as owner:
        owner.bind(("127.0.0.1", 0))
        owner.listen()
        taken = owner.getsockname()[1]
        with launched(made, "--port", str(taken)) as (address, _):
            yield Running(made, address, taken)


def test_a_taken_port_is_left_to_its_owner(running):
    assert running.port != running.taken
    assert names(running.address) == []


def test_the_server_listens_on_loopback_alone(running):
    listening = Path("/proc/net/tcp").read_text("utf-8").splitlines()[1:]
    local = [line.split()[1] for line in listening if line.split()[3] == "0A"]
    assert f"0100007F:{running.port:04X}" in local
    assert f"00000000:{running.port:04X}" not in local


def test_a_second_start_on_the_same_data_says_so_in_one_line_and_the_first_goes_on(running):
    second = _ended(running.folder)
    assert second.returncode == 1
    assert second.stderr.count("\n") == 1
    assert f"already, at {running.address}" in second.stderr
    assert names(running.address) == []


def test_what_connects_and_says_nothing_stops_nobody(running):
    """Sixty half-open connections, more than there are threads; the next one is answered."""
    with ExitStack() as silent:
        for number in range(60):
            one = silent.enter_context(socket.create_connection(("127.0.0.1", running.port)))
            one.sendall(b"POST /api/v1/pieces HTTP/1.1\r\nHost: x" if number % 2 else b"")
        begun = time.monotonic()
        assert names(running.address) == []
        assert time.monotonic() - begun < 5.0


@pytest.mark.parametrize("path", ["/api/v1/sheets", "/api/v1/mesh-files"])
def test_a_body_too_large_is_refused_before_it_is_read(running, path):
    """By the length it announces: none of it is sent."""
    with socket.create_connection(("127.0.0.1", running.port), timeout=10) as line:
        head = f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Mild-Husk: test\r\n"
        line.sendall(f"{head}Content-Length: 9000000000\r\n\r\n".encode())
        answer = line.recv(65_536).decode()
    assert answer.startswith("HTTP/1.1 413")
    assert "application/problem+json" in answer


def test_the_private_database_asks_for_its_password(running):
    url = make_url(Cluster(running.folder / "data").url)
    assert url.password
    wrong = url.set(drivername="postgresql", password="guessed")
    with pytest.raises(psycopg.OperationalError, match="password"):
        psycopg.connect(wrong.render_as_string(hide_password=False), connect_timeout=5)


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
        timeout=60,
    )


def test_without_a_postgresql_server_it_says_what_to_install(folder, monkeypatch):
    monkeypatch.setattr(cluster_module, "_BINARIES", folder / "nowhere")
    with pytest.raises(ClusterError, match="install Debian's package postgresql"):
        Cluster(folder / "data")


def test_a_folder_that_cannot_be_used_is_named(folder):
    (folder / "data").mkdir()
    (folder / "data" / "something").write_text("in the way")
    with pytest.raises(ClusterError, match=str(folder / "data")):
        Cluster(folder / "data").start()


def _web(folder: Path, *words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "mildhusk.web", *words, "--data", str(folder / "data")],
        capture_output=True, text=True, cwd=ROOT, timeout=120, check=False,
    )  # fmt: skip


def _status(address: str, path: str, body: dict[str, str] | None = None) -> int:
    sent = None if body is None else json.dumps(body).encode()
    headers = {"Content-Type": "application/json", "X-Mild-Husk": "test"}
    try:
        with urllib.request.urlopen(
            urllib.request.Request(f"{address}api/v1{path}", sent, headers), timeout=60
        ) as answer:
            return int(answer.status)
    except urllib.error.HTTPError as refused:
        return refused.code


def test_under_another_name_the_owner_begins_by_a_link(folder, monkeypatch):
    """Who is asked from elsewhere is open to nobody, and the command line lets the owner in."""
    monkeypatch.setenv("MILDHUSK_HOSTS", "husk.example")
    with launched(folder) as (address, _):
        assert _status(address, "/pieces") == 401
        assert _status(address, "/ready") == 200
        first = {"name": "Mallory", "password": "somebody from elsewhere"}
        assert _status(address, "/accounts/first", first) == 401
        refused = _web(folder, "invite", "Piet", "--role", "maker")
        assert refused.returncode == 1
        assert refused.stderr.strip().endswith("your own name and a password.")
        link, words = _web(folder, "invite", "Ilse").stdout.splitlines()
        assert link.startswith(f"{address}join#")
        assert words.startswith("For a new owner; good once, until ")
        who = {"secret": link.partition("#")[2], "name": "Ilse", "password": "the first of many"}
        assert _status(address, "/invitations/accept", who) == 200
        assert _status(address, "/invitations/accept", who) == 404
        # Whoever lost a password gets a new one where the machine stands.
        link, words = _web(folder, "invite", "ilse").stdout.splitlines()
        assert words.startswith("For a new password")
        again = {"secret": link.partition("#")[2], "password": "another one of many"}
        assert _status(address, "/invitations/accept", again) == 200
        old = {"name": "Ilse", "password": who["password"]}
        assert _status(address, "/sign-in", old) == 401
        assert _status(address, "/sign-in", {**old, "password": again["password"]}) == 200


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def test_how_it_goes_is_told_as_text_that_monitoring_reads(folder, monkeypatch):
    """Read back by the parser of the format's own reference library; sums of all processes."""
    port = _free_port()
    monkeypatch.setenv("MILDHUSK_METRICS", str(port))
    with launched(folder) as (address, _):
        for _ in range(40):
            assert _status(address, "/workshop") == 200
        assert _status(address, "/pieces/00000000-0000-4000-8000-000000000000") == 404

        def told() -> dict[str, list[Sample]]:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/metrics", timeout=20) as answer:
                families = text_string_to_metric_families(answer.read().decode())
                return {family.name: family.samples for family in families}

        def counted(kept: dict[str, list[Sample]], address: str, status: str) -> float:
            return sum(
                one.value
                for one in kept["mildhusk_answer_seconds"]
                if one.name.endswith("_count")
                and one.labels == {"method": "GET", "address": address, "status": status}
            )

        first = told()
        assert counted(first, "/api/v1/workshop", "200") >= 40
        assert counted(first, "/api/v1/pieces/<uuid:id>", "404") == 1
        assert [one.value for one in first["mildhusk_database_up"]] == [1.0]
        assert first["mildhusk_jobs"] == []
        # Ten processes answer; what one of them counted stays when it is gone.
        assert _status(address, "/workshop") == 200
        assert counted(told(), "/api/v1/workshop", "200") == 1 + counted(
            first, "/api/v1/workshop", "200"
        )
        names = {label for those in first.values() for one in those for label in one.labels}
        assert names <= {"method", "address", "status", "le", "kind", "state"}


@pytest.mark.parametrize("place", ["here", "0", "70000", "127.0.0.1:", "127.0.0.1:http"])
def test_a_place_for_metrics_that_is_none_is_told_in_one_line(folder, place):
    done = subprocess.run(
        [sys.executable, "-m", "mildhusk.launch", "--data", str(folder / "data"), "--port", "0"],
        env={**os.environ, "MILDHUSK_METRICS": place, "DATABASE_URL": ""},
        capture_output=True, text=True, cwd=ROOT, timeout=60, check=False,
    )  # fmt: skip
    assert done.returncode == 1
    assert f"MILDHUSK_METRICS is '{place}': give a port" in done.stderr
    assert len(done.stderr.splitlines()) == 1
