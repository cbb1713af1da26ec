"""Starts cluster, server and workers, brings back whatever is killed; Ctrl-C ends all."""

import argparse
import fcntl
import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path
from types import FrameType

from mildhusk.cluster import Cluster, ClusterError
from mildhusk.sealing import KEY, SealError, public_key
from mildhusk.settings import Settings, SettingsError, settings_of

_AGAIN_S, _SELDOM_S = 0.2, 5.0
_MOST_FAILURES = 2
_LOOK_S = 0.5
_PATIENCE_S = 8.0
_CONNECT_S = 5
_LAST_PORT = 65_535


class LaunchError(RuntimeError):
    """It cannot be started; the message is one line that says why."""


def main() -> int:
    """Run until interrupted; returns the exit code."""
    try:
        settings = settings_of(sys.argv[1:])
    except SettingsError as error:
        print(f"mildhusk: {error}", file=sys.stderr)
        return 1
    settings.take_effect()
    parser = argparse.ArgumentParser(prog="mildhusk.launch", description=__doc__)
    add_arguments(parser, settings)
    return start(parser.parse_args())


def start(given: argparse.Namespace) -> int:
    """Run as asked until interrupted; returns the exit code."""
    told = _Signals()
    try:
        with ExitStack() as kept:
            _run(given, kept, told)
    except (ClusterError, LaunchError, SealError) as error:
        print(f"mildhusk: {error}", file=sys.stderr)
        return 1
    return 0


class _Signals:
    """Whether a signal said to end: only noted, so that nothing is left half done."""

    def __init__(self) -> None:
        self.to_end = False
        # Also for Ctrl-C: a shell that starts it in the background has it ignored otherwise.
        for ending in (signal.SIGTERM, signal.SIGINT):
            signal.signal(ending, self._note)

    def _note(self, _signal: int, _frame: FrameType | None) -> None:
        self.to_end = True


def add_arguments(parser: argparse.ArgumentParser, settings: Settings) -> None:
    """Add what a start may be told; what it is not told is as the settings say."""
    parser.add_argument("--demo", action="store_true", help="fill an empty workshop with the demo")
    parser.add_argument("--port", type=int, default=settings.port, help="0 takes any free one")
    add_data(parser, settings)
    parser.add_argument(
        "--workers", type=int, default=settings.workers, help="processes for long work"
    )
    parser.add_argument("--frontend", type=Path, default=_front_end(), help="the built front end")


def add_data(parser: argparse.ArgumentParser, settings: Settings) -> None:
    """Add where the data is, unless DATABASE_URL says otherwise, and where that may stand."""
    parser.add_argument("--data", type=Path, default=settings.data, help="folder of the database")
    # Read before everything else, by `settings_of`.
    parser.add_argument("--settings", type=Path, help="a file (TOML) that sets what is not said")


def _front_end() -> Path:
    """Return where the built front end is: in the installed package, or where it was built."""
    packed = Path(__file__).parent / "frontend"
    return packed if packed.is_dir() else Path("frontend/dist")


def _run(given: argparse.Namespace, kept: ExitStack, told: _Signals) -> None:
    if os.environ.get(KEY):
        # A backup that fails at night is seen too late.
        public_key(os.environ[KEY])
    outside = os.environ.get("DATABASE_URL")
    lock = None
    if outside:
        _check_reaches(outside)
        address = outside
    else:
        lock = kept.enter_context(_alone_on(given.data))
        address = kept.enter_context(_kept_cluster(Cluster(given.data)))
    listener = kept.enter_context(_listen(given.port))
    at = f"http://127.0.0.1:{listener.getsockname()[1]}/"
    if lock is not None:
        lock.write_text(at, "utf-8")
    module = [sys.executable, "-m"]
    words = ["mildhusk.serve", "--socket", str(listener.fileno())]
    words += ["--workers", str(given.workers), "--frontend", str(given.frontend.resolve())]
    words += ["--demo"] if given.demo else []
    environment = {**os.environ, "DATABASE_URL": address}
    watched = os.environ.get("MILDHUSK_METRICS")
    if watched:
        words += ["--metrics", _place_of(watched)]
        # The package that counts takes it from there before anything else of it is loaded.
        counted_in = kept.enter_context(tempfile.TemporaryDirectory(prefix="mildhusk-metrics-"))
        environment["PROMETHEUS_MULTIPROC_DIR"] = counted_in
    served = _Kept([*module, *words], environment, listener.fileno())
    kept.enter_context(served.running())
    while not (served.ready(_AGAIN_S) or told.to_end):
        pass
    if not told.to_end:
        print(f"Mild Husk is at {at}", flush=True)
        print("Ctrl-C ends it.", flush=True)
    # Not pause(): a signal that comes just before it would go unheard.
    while not told.to_end:
        time.sleep(_AGAIN_S)


def _place_of(text: str) -> str:
    """Return the address and the port of `9102` or `127.0.0.1:9102`."""
    address, _, port = text.strip().rpartition(":")
    if not port.isdecimal() or not 0 < int(port) <= _LAST_PORT:
        raise LaunchError(
            f"MILDHUSK_METRICS is '{text}': give a port, as 9102, or an address and a port, as "
            "127.0.0.1:9102."
        )
    return f"{address or '127.0.0.1'}:{port}"


class _Kept:
    """What serves, started again whenever it ends, until it is told to stop."""

    def __init__(self, command: list[str], environment: dict[str, str], listening: int) -> None:
        self._command, self._environment, self._listening = command, environment, listening
        self._ending, self._told = threading.Event(), threading.Event()
        self._process: subprocess.Popen[bytes] | None = None
        self._failed = 0

    @contextmanager
    def running(self) -> Iterator[None]:
        """Keep it running meanwhile."""
        keeper = threading.Thread(target=self._keep, daemon=True)
        keeper.start()
        try:
            yield
        finally:
            self._ending.set()
            if self._process is not None:
                self._process.terminate()
            keeper.join(timeout=_PATIENCE_S)
            if self._process is not None:
                self._process.kill()

    def ready(self, within_s: float) -> bool:
        """Whether it says within a time that it is ready.

        Raises
        ------
        LaunchError
            It ended before that, again and again.
        """
        if self._failed > _MOST_FAILURES:
            raise LaunchError("The server does not start; what it said stands above.")
        return self._told.wait(within_s)

    def _keep(self) -> None:
        while not self._ending.is_set():
            self._process = subprocess.Popen(
                self._command,
                # It ends when this pipe does, however this process ends.
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env=self._environment,
                pass_fds=(self._listening,),
                # Ctrl-C is for this process, which then ends it.
                start_new_session=True,
            )
            if self._ending.is_set():
                # It was told to while this one was being started.
                self._process.terminate()
            assert self._process.stdout is not None
            self._failed += 1
            for _ in self._process.stdout:
                self._told.set()
                self._failed = 0
            self._process.wait()
            # What fails again and again is tried more and more seldom.
            self._ending.wait(min(_AGAIN_S * 2**self._failed, _SELDOM_S))


@contextmanager
def _alone_on(data: Path) -> Iterator[Path]:
    """Hold the data folder for this start; the address it is served at is written beside it.

    Raises
    ------
    LaunchError
        Another start holds it.
    """
    data.parent.mkdir(parents=True, exist_ok=True)
    place = data.with_name(f"{data.name}.address")
    with data.with_name(f"{data.name}.lock").open("w") as held:
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            at = place.read_text("utf-8").strip() if place.exists() else "an address it tells soon"
            raise LaunchError(
                f"It runs on {data} already, at {at}; open that, or end it first."
            ) from None
        try:
            yield place
        finally:
            place.unlink(missing_ok=True)


@contextmanager
def _kept_cluster(cluster: Cluster) -> Iterator[str]:
    """Keep a cluster running meanwhile, also where it is killed."""
    ending = threading.Event()

    def keep() -> None:
        while not ending.wait(_LOOK_S):
            if not cluster.runs():
                # What it left behind is cleared away by its own processes within a moment.
                with suppress(ClusterError):
                    cluster.start()

    with cluster.running() as address:
        keeper = threading.Thread(target=keep, daemon=True)
        keeper.start()
        try:
            yield address
        finally:
            ending.set()
            keeper.join()


def _check_reaches(address: str) -> None:
    """Refuse a database that cannot be reached, in one line and soon."""
    import psycopg
    from sqlalchemy import make_url
    from sqlalchemy.exc import ArgumentError

    try:
        url = make_url(address)
    except ArgumentError as error:
        raise LaunchError(
            "DATABASE_URL is no address; write postgresql://user@host/name."
        ) from error
    if not url.drivername.startswith("postgres"):
        raise LaunchError(f"DATABASE_URL is of '{url.drivername}'; PostgreSQL is needed.")
    plain = url.set(drivername="postgresql").render_as_string(hide_password=False)
    try:
        psycopg.connect(plain, connect_timeout=_CONNECT_S).close()
    except (psycopg.Error, UnicodeError, ValueError) as error:
        said = str(error).partition("\n")[0].strip().removesuffix(".")
        raise LaunchError(f"The database at DATABASE_URL does not answer: {said}.") from error


@contextmanager
def _listen(port: int) -> Iterator[socket.socket]:
    """Listen on loopback, at another port when the wanted one is taken."""
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as listener:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", port))
        except OSError:
            listener.bind(("127.0.0.1", 0))
        # Whoever asks while the server comes back waits here.
        listener.listen(1024)
        yield listener


if __name__ == "__main__":
    sys.exit(main())
