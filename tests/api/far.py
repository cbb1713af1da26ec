"""Machines of their own: network namespaces, each on a cable of its own that can be pulled."""

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from sqlalchemy import make_url

from mildhusk.cluster import Cluster
from served import ROOT

_NET = "10.213"


def _ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True, text=True)


class Machine:
    """One machine, reached by a cable; the database is at the other end."""

    def __init__(self, number: int) -> None:
        self.name, self._cable = f"husk{os.getpid()}-{number}", f"hk{os.getpid()}-{number}"[:15]
        self.database_at, self.address = f"{_NET}.{number}.1", f"{_NET}.{number}.2"

    def plug_in(self) -> None:
        """Make it, and its cable."""
        _ip("netns", "add", self.name)
        _ip("link", "add", self._cable, "type", "veth", "peer", "eth0", "netns", self.name)
        _ip("addr", "add", f"{self.database_at}/30", "dev", self._cable)
        _ip("-n", self.name, "addr", "add", f"{self.address}/30", "dev", "eth0")
        _ip("-n", self.name, "link", "set", "eth0", "up")
        self.mend()

    def cut(self) -> None:
        """Pull the cable."""
        _ip("link", "set", self._cable, "down")

    def mend(self) -> None:
        """Plug the cable in again."""
        _ip("link", "set", self._cable, "up")

    def throw_away(self) -> None:
        """End it."""
        # The cable goes with it.
        subprocess.run(["ip", "netns", "delete", self.name], check=False, capture_output=True)

    @contextmanager
    def works_for(self, url: str, *words: str) -> Iterator[subprocess.Popen[str]]:
        """Have `husk-web work` run there, for the database at the other end of its cable."""
        there = make_url(url).set(host=self.database_at).render_as_string(hide_password=False)
        process = subprocess.Popen(
            [
                "ip",
                "netns",
                "exec",
                self.name,
                sys.executable,
                "-m",
                "mildhusk.web",
                "work",
                *words,
            ],
            env={**os.environ, "DATABASE_URL": there},
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            cwd=ROOT,
        )
        try:
            yield process
        finally:
            process.terminate()
            process.communicate(timeout=30)


@contextmanager
def machines(count: int) -> Iterator[list[Machine]]:
    """So many of them; the test is left out where nobody may make any."""
    made = [Machine(number + 1) for number in range(count)]
    try:
        for one in made:
            one.plug_in()
    except (OSError, subprocess.CalledProcessError) as error:
        for one in made:
            one.throw_away()
        pytest.skip(f"no network namespaces here: {error}")
    try:
        yield made
    finally:
        for one in made:
            one.throw_away()


def open_to_them(cluster: Cluster) -> None:
    """Start a cluster again so that it hears what comes from the machines, by its password."""
    port = str(make_url(cluster.url).port)
    cluster.stop()
    with (cluster.folder / "pg_hba.conf").open("a", encoding="utf-8") as rules:
        rules.write(f"host all all {_NET}.0.0/16 scram-sha-256\n")
    options = f"-c listen_addresses=* -c port={port} -c unix_socket_directories="
    cluster._run("pg_ctl", "-D", cluster.folder, "-l", cluster.folder / "server.log", "-s", "-w",
                 "-o", options, "start")  # fmt: skip
