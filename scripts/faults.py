"""Breaks what runs, at random and under load, and counts whether anything was lost or doubled.

Hands at the bench weigh and tick, pour after pour, and some of what they send is cut off before it
is answered; a desk asks for walls. Meanwhile processes and the database are killed and frozen, all
connections to the database are ended, its disk runs full, the network between all of them is cut,
and the clock of the processes is put wrong by up to two hours, either way, and right again.
Afterwards all has to be back by itself, and what was acknowledged has to stand once: steps, grams,
jobs, and the archive of it all.

    scripts/faults.py [TIMES] [--within SECONDS] [--seed NUMBER] [--kinds KIND,KIND]

A full disk needs the right to mount a small one in memory, a cut a network of its own; without the
right to such a thing its kind is left out, which is said. The clock of the machine is left alone:
the database goes by it, the application by one that is wrong.
"""

import argparse
import io
import json
import os
import random
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from http import HTTPStatus
from pathlib import Path
from typing import Any

import psycopg

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from mildhusk.cluster import Cluster  # noqa: E402
from served import processes_below  # noqa: E402

_PARTS = ("husk-server", "husk-worker", "husk-keeper", "husk-devices", "postgres")
_FROZEN = ("husk-server", "husk-worker", "postgres")
_HANDS, _CUT_OFF = 3, 0.1
_DISK_MB, _BLOCK = 700, 1_000_000
_JOBS_END_S = 600.0
_APART = "MILDHUSK_FAULTS_APART"
_WRONG_S = 7_200.0
_STEPS = {"weigh": "weighed_at", "mix": "mixed_at", "pour": "poured_at", "gel": "gelled_at"}
_KG_A_COAT = 0.0038
_HEAD = {"Content-Type": "application/json", "X-Mild-Husk": "faults"}


@dataclass
class Site:
    """What runs, and what may be broken of it."""

    launch: int
    data: Path
    address: str
    dice: random.Random
    disk: Path | None
    """The small disk that the data is on, where there is one."""
    clock: Path
    """The file that says how wrong the clock of its processes is. [s]"""

    def processes(self, name: str) -> list[int]:
        """Return the processes of a name; of the database, the one that keeps the others."""
        if name != "postgres":
            return processes_below(self.launch, name)
        kept = self.data / "postmaster.pid"
        # It is gone, or half written, while the database begins.
        with suppress(OSError, IndexError, ValueError):
            return [int(kept.read_text("ascii").split()[0])]
        return []

    def answers(self) -> bool:
        """Whether something is answered that stands in the database."""
        try:
            ask(self.address, "/workshop", patience_s=5.0)
        except (OSError, ValueError):
            return False
        return True


def main() -> int:
    """Break so often, then count; returns the exit code."""
    given = _arguments()
    is_apart = "cut" not in given.kinds or _have_own_network()
    with _small_disk() as (folder, disk), tempfile.NamedTemporaryFile("w") as clock:
        may = {"full-disk": disk is not None, "cut": is_apart}
        kinds = [one for one in given.kinds if may.get(one, True)]
        for one in sorted(set(given.kinds) - set(kinds)):
            print(f"left out: {one}, as this machine lets nobody here do that")
        environment = {key: value for key, value in os.environ.items() if key != "DATABASE_URL"}
        if "clock" in kinds:
            environment["PYTHONPATH"] = str(ROOT / "scripts/wrong_clock")
            environment["MILDHUSK_WRONG_CLOCK"] = clock.name
        launch = subprocess.Popen(
            [sys.executable, "-m", "mildhusk.launch", "--demo", "--port", "0",
             "--data", str(folder / "data")],
            env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, cwd=ROOT,
        )  # fmt: skip
        try:
            assert launch.stdout is not None
            address = launch.stdout.readline().split(" at ")[1].strip()
            dice = random.Random(given.seed)
            site = Site(launch.pid, folder / "data", address, dice, disk, Path(clock.name))
            return _try(site, kinds, given)
        finally:
            launch.send_signal(signal.SIGINT)
            launch.wait(timeout=60)


def _have_own_network() -> bool:
    """Whether this runs in a network of its own; it begins again in one where it may."""
    if os.environ.get(_APART) is None:
        own = ["unshare", "--net", "--"]
        with suppress(OSError):
            if subprocess.run([*own, "true"], check=False, capture_output=True).returncode == 0:
                os.environ[_APART] = "yes"
                os.execvp(own[0], [*own, sys.executable, *sys.argv])
        return False
    _network("up")
    return True


def _network(how: str) -> None:
    subprocess.run(["ip", "link", "set", "lo", how], check=True)


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawTextHelpFormatter
    )
    parser.add_argument("times", type=int, nargs="?", default=200)
    parser.add_argument("--within", type=float, default=30.0, help="back after so long [s]")
    parser.add_argument("--seed", type=int, default=random.SystemRandom().randrange(10**6))
    parser.add_argument("--kinds", type=lambda text: text.split(","), default=list(_KINDS))
    return parser.parse_args()


@contextmanager
def _small_disk() -> Iterator[tuple[Path, Path | None]]:
    """A folder, on a small disk of its own in memory where that may be mounted."""
    folder = Path(tempfile.mkdtemp(prefix="mildhusk-faults-"))
    asked = ["mount", "-t", "tmpfs", "-o", f"size={_DISK_MB}m,mode=755", "tmpfs", str(folder)]
    mounted = subprocess.run(asked, capture_output=True, check=False).returncode == 0
    folder.chmod(0o755)
    try:
        yield folder, folder if mounted else None
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(folder)], check=False)
        shutil.rmtree(folder, ignore_errors=True)


def _try(site: Site, kinds: list[str], given: argparse.Namespace) -> int:
    print(f"seed {given.seed}: {given.times} faults of {', '.join(kinds)}", flush=True)
    before = _left_kg(site.address)
    hands = [_Hand(site.address, random.Random(given.seed + at)) for at in range(_HANDS)]
    desk = _Desk(site.address, random.Random(given.seed))
    for one in (*hands, desk):
        one.start()
    slowest: dict[str, float] = {}
    done: Counter[str] = Counter()
    for number in range(given.times):
        time.sleep(site.dice.uniform(0.05, 1.0))
        # Each kind in turn, so that few faults are not all of one.
        kind = kinds[number % len(kinds)]
        what = _KINDS[kind](site)
        if what is None:
            continue
        begun = time.monotonic()
        while not site.answers():
            time.sleep(0.05)
        back = time.monotonic() - begun
        done[kind] += 1
        slowest[kind] = max(slowest.get(kind, 0.0), back)
        print(f"{number + 1:3d} {kind} {what}: back after {back:.2f} s", flush=True)
    for one in (*hands, desk):
        one.ending.set()
    for one in (*hands, desk):
        one.join()
    wrong = [*_wrong_with_steps(site.address, hands, before), *desk.wrong(site)]
    wrong += _wrong_with_archive(site.address)
    wrong += [one for hand in hands for one in hand.refused]
    late = [kind for kind, back in slowest.items() if back > given.within]
    for line in wrong:
        print(f"WRONG: {line}")
    print(
        f"seed {given.seed}: {sum(done.values())} faults "
        f"({', '.join(f'{count} {kind}' for kind, count in sorted(done.items()))}); "
        f"{sum(len(one.acknowledged) for one in hands)} steps acknowledged, "
        f"{sum(one.cut_off for one in hands)} cut off, {len(desk.asked)} jobs asked for, "
        f"{desk.given_up} given up; "
        f"{len(wrong)} things wrong; slowest back after {max(slowest.values(), default=0.0):.1f} s "
        f"of {given.within:.0f} s"
    )
    return 1 if wrong or late else 0


# --- what is broken; each says what it broke, or None where there was nothing to break ---


def _kill(site: Site) -> str | None:
    name = site.dice.choice(_PARTS)
    victims = site.processes(name)
    if not victims:
        return None
    with suppress(ProcessLookupError):
        os.kill(site.dice.choice(victims), signal.SIGKILL)
    # What it kept goes on for a moment without it.
    time.sleep(0.3 if name == "husk-keeper" else 0.0)
    return name


def _freeze(site: Site) -> str | None:
    """Stop something for some seconds, as a machine does that sleeps or swaps."""
    name = site.dice.choice(_FROZEN)
    victims = site.processes(name)
    if not victims:
        return None
    if name == "postgres":
        victims += processes_below(victims[0], "postgres")
    else:
        victims = [site.dice.choice(victims)]
    _signal(victims, signal.SIGSTOP)
    time.sleep(site.dice.uniform(0.5, 3.0))
    _signal(victims, signal.SIGCONT)
    return name


def _signal(processes: list[int], how: signal.Signals) -> None:
    for one in processes:
        with suppress(ProcessLookupError):
            os.kill(one, how)


def _hang_up(site: Site) -> str | None:
    """End every connection to the database, as a network does that is gone for a moment."""
    try:
        with psycopg.connect(Cluster(site.data).url, autocommit=True, connect_timeout=5) as own:
            own.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                "WHERE pid <> pg_backend_pid() AND backend_type = 'client backend'"
            )
    except (psycopg.Error, OSError, IndexError, ValueError):
        return None
    return "connections"


def _fill_disk(site: Site) -> str | None:
    """Leave no byte on the disk of the data for some seconds."""
    assert site.disk is not None
    ballast = site.disk / "ballast"
    with suppress(OSError), ballast.open("wb", buffering=0) as file:
        while True:
            file.write(bytes(_BLOCK))
    time.sleep(site.dice.uniform(0.5, 3.0))
    ballast.unlink()
    return "disk"


def _cut(site: Site) -> str | None:
    """Cut the network under everything: nothing is refused, it just does not come."""
    lasts = site.dice.choice((site.dice.uniform(0.2, 2.0), site.dice.uniform(2.0, 14.0)))
    _network("down")
    try:
        time.sleep(lasts)
    finally:
        _network("up")
    return f"network for {lasts:.1f} s"


def _put_clock_wrong(site: Site) -> str | None:
    """Put the clock of all processes wrong for some seconds, as one does that was never set."""
    wrong_s = site.dice.uniform(-_WRONG_S, _WRONG_S)
    site.clock.write_text(f"{wrong_s:.3f}", "ascii")
    time.sleep(site.dice.uniform(1.0, 4.0))
    site.clock.write_text("0", "ascii")
    return f"clock, by {wrong_s / 60:.0f} min"


_KINDS: dict[str, Callable[[Site], str | None]] = {
    "kill": _kill,
    "freeze": _freeze,
    "hang-up": _hang_up,
    "full-disk": _fill_disk,
    "cut": _cut,
    "clock": _put_clock_wrong,
}


# --- what is done meanwhile, and what has to stand of it ---


@dataclass(frozen=True)
class _Step:
    pour: str
    coat: int
    step: str


class _Somebody(threading.Thread):
    def __init__(self, address: str, dice: random.Random) -> None:
        super().__init__(daemon=True)
        self.ending = threading.Event()
        self.address, self.dice = address, dice


class _Hand(_Somebody):
    """Somebody at the bench: weighs and ticks, pour after pour, and remembers what was said."""

    def __init__(self, address: str, dice: random.Random) -> None:
        super().__init__(address, dice)
        self.acknowledged: set[_Step] = set()
        self.sent: set[_Step] = set()
        self.cut_off = 0
        self.refused: list[str] = []

    def run(self) -> None:
        sheet = _sheet(self.address, "chorus")
        while not self.ending.is_set():
            try:
                pour = ask(self.address, "/pours", {"sheet_id": sheet["id"]})
            except (OSError, ValueError):
                time.sleep(0.05)
                continue
            for coat in pour["coats"]:
                for step in _STEPS:
                    self._tick(_Step(pour["id"], coat["number"], step))

    def _tick(self, step: _Step) -> None:
        body: dict[str, Any] = {"coat": step.coat, "step": step.step}
        if step.step == "weigh":
            body["parts"] = {"a": 0.002, "b": 0.0018}
        while not self.ending.is_set():
            self.sent.add(step)
            try:
                if self.dice.random() < _CUT_OFF:
                    self.cut_off += 1
                    _send_and_leave(self.address, f"/pours/{step.pour}/steps", body)
                ask(self.address, f"/pours/{step.pour}/steps", body)
            except urllib.error.HTTPError as error:
                # It was done before the answer got lost: the bench shows it as done.
                if error.code == HTTPStatus.CONFLICT:
                    return
                if error.code < HTTPStatus.INTERNAL_SERVER_ERROR:
                    self.refused.append(f"refused: {step}: {error.read().decode()}")
                    return
            except (OSError, ValueError):
                time.sleep(0.05)
            else:
                self.acknowledged.add(step)
                return


def _wrong_with_steps(address: str, hands: list[_Hand], before_kg: float) -> list[str]:
    """Steps that are gone or that nobody sent, coats half weighed, grams drawn more than once."""
    acknowledged = {step for one in hands for step in one.acknowledged}
    sent = {step for one in hands for step in one.sent}
    stands, wrong = set(), []
    for key in sorted({step.pour for step in sent}):
        for coat in ask(address, f"/pours/{key}")["coats"]:
            done = {name for name, at in _STEPS.items() if coat[at] is not None}
            stands |= {_Step(key, coat["number"], name) for name in done}
            weighed = [coat["a_kg"] is not None, coat["b_kg"] is not None]
            if any(weighed) != all(weighed) or any(weighed) != ("weigh" in done):
                wrong.append(f"half a weighing: {coat}")
    wrong += [f"lost: {one}" for one in acknowledged - stands]
    wrong += [f"nobody sent: {one}" for one in stands - sent]
    # A shelf that ran out draws no more.
    left, drawn = _left_kg(address), sum(1 for one in stands if one.step == "weigh")
    off = abs(before_kg - left - drawn * _KG_A_COAT)
    if left > 0.0 and off > 1e-6:
        wrong.append(f"{off * 1e3:.2f} g drawn more or less often than once")
    return wrong


class _Desk(_Somebody):
    """Somebody at a desk: asks for walls, one after the other, and waits for none."""

    def __init__(self, address: str, dice: random.Random) -> None:
        super().__init__(address, dice)
        self.asked: list[str] = []
        self.given_up = 0

    def run(self) -> None:
        sheet = _sheet(self.address, "stage break")
        while not self.ending.wait(3.0):
            wall_m = round(self.dice.uniform(0.0012, 0.0020), 5)
            wish = {**sheet["wish"], "motion": "machine", "lid": True, "wall_m": wall_m}
            body = {
                "piece_id": sheet["piece_id"],
                "material_id": sheet["material_id"],
                "wish": wish,
            }
            with suppress(OSError, ValueError):
                job = ask(self.address, "/sheets/settle", body)["job"]
                if job is not None:
                    self.asked.append(job["id"])
            # No more than are done in a while: the rest is for the faults.
            while not self.ending.wait(1.0) and self._is_open():
                pass

    def _is_open(self) -> bool:
        try:
            return bool(self.asked) and ask(self.address, f"/jobs/{self.asked[-1]}")["status"] in (
                "waiting",
                "running",
            )
        except (OSError, ValueError):
            return True

    def wrong(self, site: Site) -> list[str]:
        """Jobs that were taken on and are not done, or were done twice."""
        end, wrong = time.monotonic() + _JOBS_END_S, []
        for key in self.asked:
            while (job := ask(self.address, f"/jobs/{key}"))["status"] in ("waiting", "running"):
                if time.monotonic() > end:
                    break
                time.sleep(0.5)
            # What stopped three workers is given up, which is said.
            given_up = job["status"] == "refused" and "The worker was stopped" in job["said"]
            self.given_up += given_up
            if job["status"] != "done" and not given_up:
                wrong.append(f"a job is {job['status']}: {job.get('said', '')}")
        with psycopg.connect(Cluster(site.data).url) as connection:
            twice = connection.execute(
                "SELECT job_id, count(*) FROM procrastinate_events WHERE type = 'succeeded' "
                "GROUP BY job_id HAVING count(*) > 1"
            ).fetchall()
        return wrong + [f"job {number} was done {count} times" for number, count in twice]


def _wrong_with_archive(address: str) -> list[str]:
    """Whether all of it goes out whole."""
    with urllib.request.urlopen(f"{address}api/v1/archive.zip", timeout=120) as answer:
        content = answer.read()
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        damaged = archive.testzip()
        pours = archive.read("tables/pour.jsonl").count(b"\n")
    total = ask(address, "/pours")["total"]
    wrong = [] if damaged is None else [f"the archive is damaged at {damaged}"]
    return wrong if pours == total else [*wrong, f"{pours} pours of {total} in the archive"]


def _sheet(address: str, words: str) -> Any:
    found = next(one for one in ask(address, "/sheets")["sheets"] if words in one["name"])
    return ask(address, f"/sheets/{found['id']}")


def _left_kg(address: str) -> float:
    """What is left of the resin that is poured."""
    lots = ask(address, "/lots")["lots"]
    return float(
        sum(one["left_kg"] for one in lots
            if one["material_name"] == "Fast rigid urethane" and not one["past"])
    )  # fmt: skip


def ask(address: str, path: str, body: Any = None, patience_s: float = 20.0) -> Any:
    """Return what is answered."""
    content = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{address}api/v1{path}", content, _HEAD)
    with urllib.request.urlopen(request, timeout=patience_s) as answer:
        return json.load(answer)


def _send_and_leave(address: str, path: str, body: Any) -> None:
    """Send something and be gone before it is answered, as a tablet that leaves the network."""
    host, _, port = address.removeprefix("http://").rstrip("/").rpartition(":")
    content = json.dumps(body).encode()
    head = "".join(f"{name}: {value}\r\n" for name, value in _HEAD.items())
    with socket.create_connection((host, int(port)), timeout=5.0) as cut:
        cut.sendall(
            f"POST /api/v1{path} HTTP/1.1\r\nHost: {host}:{port}\r\n{head}"
            f"Content-Length: {len(content)}\r\nConnection: close\r\n\r\n".encode()
            + content
        )


if __name__ == "__main__":
    sys.exit(main())
