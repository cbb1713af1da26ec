"""A private PostgreSQL cluster on loopback, from the server that Debian ships.

PostgreSQL refuses to run as root; then the postgres account that Debian's package makes runs it.
"""

import os
import shutil
import socket
import subprocess
from contextlib import suppress
from pathlib import Path

_BINARIES = Path("/usr/lib/postgresql")
_USER = "husk"
_DATABASE = "husk"
_PID_FILE_PORT_LINE = 3
# For tests only: what a power cut may lose there, nobody misses.
_CARELESS = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")


class ClusterError(RuntimeError):
    """The private cluster cannot be made or started; the message says what to install or mend."""


class Cluster:
    """A PostgreSQL data folder and the server on it."""

    def __init__(self, folder: Path, *, careless: bool = False) -> None:
        self.folder = folder.resolve()
        self.careless = careless
        self._binaries = _newest_binaries()

    @property
    def url(self) -> str:
        """The address of its database, while it runs."""
        return f"postgresql://{_USER}@127.0.0.1:{self._port()}/{_DATABASE}"

    def start(self) -> None:
        """Make the cluster when there is none, start it when it does not run."""
        fresh = not (self.folder / "PG_VERSION").exists()
        if fresh:
            self._make()
        if not self._runs():
            settings = [
                "listen_addresses=127.0.0.1",
                f"port={_free_port()}",
                "unix_socket_directories=",
                *(_CARELESS if self.careless else ()),
            ]
            options = " ".join(f"-c {setting}" for setting in settings)
            log = self.folder / "server.log"
            self._run("pg_ctl", "-D", self.folder, "-l", log, "-s", "-w", "-o", options, "start")
        if fresh:
            self._run("createdb", "-h", "127.0.0.1", "-p", self._port(), "-U", _USER, _DATABASE)

    def stop(self) -> None:
        """Stop the server; connections that are still open are ended."""
        if self._runs():
            self._run("pg_ctl", "-D", self.folder, "-s", "-w", "-m", "fast", "stop")

    def _make(self) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        if os.geteuid() == 0:
            shutil.chown(self.folder, "postgres", "postgres")
        self._run(
            "initdb", "-D", self.folder, "-U", _USER, "-A", "trust", "-E", "UTF8",
            "--locale=C.UTF-8", "--no-sync",
        )  # fmt: skip

    def _runs(self) -> bool:
        pid_file = self.folder / "postmaster.pid"
        if not pid_file.exists():
            return False
        lines = pid_file.read_text("utf-8").splitlines()
        with suppress(OSError, IndexError, ValueError):
            port = int(lines[_PID_FILE_PORT_LINE])
            with socket.create_connection(("127.0.0.1", port), timeout=1.0):
                return True
        return False

    def _port(self) -> int:
        lines = (self.folder / "postmaster.pid").read_text("utf-8").splitlines()
        return int(lines[_PID_FILE_PORT_LINE])

    def _run(self, program: str, *words: object) -> None:
        command = [str(self._binaries / program), *map(str, words)]
        if os.geteuid() == 0:
            command = ["runuser", "-u", "postgres", "--", *command]
        # pg_ctl's server keeps inherited pipes open, so the output goes to a file and not a pipe.
        done = subprocess.run(command, cwd="/", capture_output=program != "pg_ctl", check=False)
        if done.returncode != 0:
            said = (done.stderr or b"").decode(errors="replace").strip()
            raise ClusterError(
                f"{program} failed for {self.folder}. {said} The folder and those above it must be "
                "open to the postgres account; see also server.log there."
            )


def _newest_binaries() -> Path:
    versions = [path for path in _BINARIES.glob("*/bin") if (path / "initdb").exists()]
    if not versions:
        raise ClusterError(
            "No PostgreSQL server here; install Debian's package postgresql, or set DATABASE_URL."
        )
    return max(versions, key=lambda path: int(path.parent.name))


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port
