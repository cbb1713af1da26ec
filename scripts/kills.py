"""Kills server, workers, what keeps them and the database in the middle of ticks and draws.

Whatever was acknowledged has to stand afterwards, once; and all is back within ten seconds without
anybody's help. `scripts/kills.py [times [seconds]]`, fifty and ten unless told otherwise.
"""

import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from served import processes_below  # noqa: E402

_PARTS = ("husk-server", "husk-worker", "husk-keeper", "postgres")


def main() -> int:
    """Kill so often, then count; returns the exit code."""
    times = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    within_s = float(sys.argv[2]) if len(sys.argv) > 2 else 10.0
    folder = Path(tempfile.mkdtemp(prefix="mildhusk-kills-"))
    folder.chmod(0o755)
    environment = {key: value for key, value in os.environ.items() if key != "DATABASE_URL"}
    launch = subprocess.Popen(
        [sys.executable, "-m", "mildhusk.launch", "--demo", "--port", "0",
         "--data", str(folder / "data")],
        env=environment, stdout=subprocess.PIPE, text=True, cwd=ROOT,
    )  # fmt: skip
    try:
        assert launch.stdout is not None
        address = launch.stdout.readline().split(" at ")[1].strip()
        return _try(launch.pid, folder / "data" / "postmaster.pid", address, times, within_s)
    finally:
        launch.send_signal(signal.SIGINT)
        launch.wait(timeout=60)
        shutil.rmtree(folder, ignore_errors=True)


def _try(launch: int, postmaster: Path, address: str, times: int, within_s: float) -> int:
    dice = random.Random(times)
    before = _left(address)
    hand = _Hand(address)
    hand.start()
    slowest = 0.0
    for number in range(times):
        time.sleep(dice.uniform(0.05, 1.0))
        kind = _PARTS[number % len(_PARTS)]
        if kind == "postgres":
            # The database is no child of the start command; its own file tells its number.
            victims = [int(postmaster.read_text().split()[0])] if postmaster.exists() else []
        else:
            victims = processes_below(launch, kind)
        if not victims:
            continue
        os.kill(dice.choice(victims), signal.SIGKILL)
        begun = time.monotonic()
        # What it kept goes on for a moment without it.
        time.sleep(0.3 if kind == "husk-keeper" else 0.0)
        while not _answers(address):
            time.sleep(0.05)
        back = time.monotonic() - begun
        slowest = max(slowest, back)
        print(f"{number + 1:3d} {kind}: back after {back:.2f} s", flush=True)
    hand.ending.set()
    hand.join()
    lost, doubled = hand.compare(before)
    print(
        f"{times} kills, {hand.acknowledged} steps acknowledged: {lost} lost, {doubled} doubled, "
        f"slowest back after {slowest:.1f} s of {within_s:.0f} s"
    )
    return 1 if lost or doubled or slowest > within_s else 0


class _Hand(threading.Thread):
    """Somebody at the bench: weighs and ticks, pour after pour, and remembers what was said."""

    def __init__(self, address: str) -> None:
        super().__init__()
        self.ending = threading.Event()
        self.acknowledged = 0
        self._address = address
        self._pours: dict[str, set[tuple[int, str]]] = {}

    def run(self) -> None:
        sheet = next(
            one for one in _ask(self._address, "/sheets")["sheets"] if "chorus" in one["name"]
        )
        while not self.ending.is_set():
            try:
                pour = _ask(self._address, "/pours", {"sheet_id": sheet["id"]})
            except OSError:
                continue
            done = self._pours.setdefault(pour["id"], set())
            for coat in pour["coats"]:
                for step in ("weigh", "mix", "pour", "gel"):
                    self._tick(pour["id"], coat["number"], step, done)

    def _tick(self, pour: str, coat: int, step: str, done: set[tuple[int, str]]) -> None:
        body = {"coat": coat, "step": step}
        if step == "weigh":
            body["parts"] = {"a": 0.002, "b": 0.0018}
        while not self.ending.is_set():
            try:
                _ask(self._address, f"/pours/{pour}/steps", body)
            except urllib.error.HTTPError as error:
                # It was done before the answer got lost: the bench shows it as done.
                if error.code == 409:
                    return
            except OSError:
                time.sleep(0.05)
            else:
                done.add((coat, step))
                self.acknowledged += 1
                return

    def compare(self, before: float) -> tuple[int, int]:
        """Count acknowledged steps that are gone, and grams drawn more or less often than once."""
        lost, drawn = 0, 0
        for key, done in self._pours.items():
            pour = _ask(self._address, f"/pours/{key}")
            stands = {
                (coat["number"], step)
                for coat in pour["coats"]
                for step, field in (("weigh", "weighed_at"), ("mix", "mixed_at"),
                                    ("pour", "poured_at"), ("gel", "gelled_at"))
                if coat[field] is not None
            }  # fmt: skip
            lost += len(done - stands)
            drawn += sum(1 for _, step in stands if step == "weigh")
        # Each weighed coat drew 3.8 g, once; a shelf that ran out draws no more.
        left = _left(self._address)
        wrong = 0 if left == 0.0 else round(abs((before - left) / 0.0038 - drawn))
        return lost, wrong


def _left(address: str) -> float:
    """What is left of the resin that is poured. [kg]"""
    lots = _ask(address, "/lots")["lots"]
    return float(
        sum(one["left_kg"] for one in lots
            if one["material_name"] == "Fast rigid urethane" and not one["past"])
    )  # fmt: skip


def _ask(address: str, path: str, body: Any = None) -> Any:
    head = {"Content-Type": "application/json", "X-Mild-Husk": "kills"}
    content = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{address}api/v1{path}", content, head)
    with urllib.request.urlopen(request, timeout=20) as answer:
        return json.load(answer)


def _answers(address: str) -> bool:
    try:
        _ask(address, "/workshop")
    except OSError:
        return False
    return True


if __name__ == "__main__":
    sys.exit(main())
