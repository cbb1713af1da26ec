"""Fifty people at once, for a minute, while nothing is simulated and while walls are.

Each reads for a moment, then asks for the next thing: lists, a sheet, the days, a pour; at times
somebody begins a pour. Wanted: with walls running, 99 of 100 answers within 500 ms on two cores.
What takes longer by it is told as a ratio to the minute before, in the same run. The people take
their share of the machine, too.
"""

import itertools
import random
import statistics
import sys
import threading
import time
import urllib.error
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.lookup import fetch, fetch_bytes, post, sheet_named  # noqa: E402
from served import demo_server  # noqa: E402

PEOPLE, SECONDS, WANTED_MS = 50, 60.0, 500.0
READS_S = (1.0, 5.0)
"""How long somebody looks at an answer, at least and at most. [s]"""
TICKS = 0.05
"""Share of what is asked that changes something."""
_EVERY_WALL_S, _WAITING = 0.5, 4
"""A wall is asked for so often, while fewer than so many wait or run."""


class Somebody(threading.Thread):
    """Asks for one thing after another, and notes how long each took. [ms]"""

    def __init__(self, address: str, paths: list[str], sheet: str, number: int) -> None:
        super().__init__(daemon=True)
        self.address, self.paths, self.sheet = address, paths, sheet
        self.dice = random.Random(number)
        self.ending = threading.Event()
        self.took: list[tuple[float, str, float]] = []
        self.failed: list[str] = []

    def run(self) -> None:
        """Ask until told to end."""
        while not self.ending.wait(self.dice.uniform(*READS_S)):
            is_tick = self.dice.random() < TICKS
            path = "/pours" if is_tick else self.dice.choice(self.paths)
            began = time.perf_counter()
            try:
                if is_tick:
                    post(self.address, path, {"sheet_id": self.sheet})
                else:
                    fetch_bytes(self.address, path)
            except (OSError, urllib.error.HTTPError) as error:
                self.failed.append(f"{path}: {error}")
            what = "a pour begun" if is_tick else path.split("/")[1].split("?")[0]
            self.took.append((began, what, 1e3 * (time.perf_counter() - began)))


def walls_of(address: str, ending: threading.Event) -> list[str]:
    """Ask for walls, none like another, so that every worker has one more to do."""
    sheet = sheet_named(address, "chorus")
    asked: list[str] = []
    for number in itertools.count():
        if ending.wait(_EVERY_WALL_S):
            break
        last = [fetch(address, f"/jobs/{one}")["status"] for one in asked[-_WAITING:]]
        if last.count("waiting") + last.count("running") == _WAITING:
            continue
        body = {"motion": f"machine:{4 + number % 40 / 10:.1f},{3 + number / 100:.2f}",
                "capped": True, "edge_m": 0.005}  # fmt: skip
        job = post(address, f"/sheets/{sheet['id']}/wall", body)["job"]
        if job:
            asked.append(job["id"])
    return asked


def told(took: list[float]) -> tuple[float, float, float]:
    """The median, and what 95 and 99 of 100 are within. [ms]"""
    parts = statistics.quantiles(took, n=100)
    return parts[49], parts[94], parts[98]


def main() -> int:
    """Let them ask, first alone, then with walls running; print both, and what came of it."""
    with demo_server() as address:
        sheets = fetch(address, "/sheets")["sheets"]
        moulds = fetch(address, "/moulds")["moulds"]
        pieces = fetch(address, "/pieces")["pieces"]
        pours = fetch(address, "/pours")["pours"]
        paths = [
            "/days", "/days/board", "/sheets", "/pieces", "/moulds", "/materials", "/pours",
            "/workshop", "/lots",
            *(f"/sheets/{one['id']}" for one in sheets[:4]),
            *(f"/pieces/{one['id']}" for one in pieces[:3]),
            *(f"/moulds/{one['id']}" for one in moulds[:3]),
            *(f"/pours/{one['id']}" for one in pours[:3]),
        ]  # fmt: skip
        sheet = sheet_named(address, "chorus")["id"]
        people = [Somebody(address, paths, sheet, number) for number in range(PEOPLE)]
        for one in people:
            one.start()
        time.sleep(READS_S[1])
        alone_from = time.perf_counter()
        time.sleep(SECONDS)
        walls_from = time.perf_counter()
        ending = threading.Event()
        asked: list[str] = []
        wallers = threading.Thread(target=lambda: asked.extend(walls_of(address, ending)))
        wallers.start()
        time.sleep(SECONDS)
        ends = time.perf_counter()
        ending.set()
        wallers.join()
        done = sum(fetch(address, f"/jobs/{one}")["status"] == "done" for one in asked)
        for one in people:
            one.ending.set()
        for one in people:
            one.join()
    failed = [what for one in people for what in one.failed]
    both = []
    for name, since, until in (("alone", alone_from, walls_from), ("walls", walls_from, ends)):
        took = [(what, ms) for one in people for at, what, ms in one.took if since <= at < until]
        both.append(told([ms for _, ms in took]))
        print(
            f"load: {PEOPLE} people for {until - since:.0f} s, {name}: {len(took)} answers, median "
            f"{both[-1][0]:.0f} ms, 95th percentile {both[-1][1]:.0f} ms, 99th {both[-1][2]:.0f} ms"
        )
        by_kind: dict[str, list[float]] = {}
        for what, ms in took:
            by_kind.setdefault(what, []).append(ms)
        for what, those in sorted(by_kind.items(), key=lambda one: -max(one[1]))[:4]:
            middle, most = statistics.median(those), max(those)
            print(f"  {what}: {len(those)}, median {middle:.0f} ms, at most {most:.0f} ms")
    ratio = both[1][2] / both[0][2]
    print(
        f"  {len(asked)} walls asked for, {done} done meanwhile; {len(failed)} requests failed; "
        f"99th percentile {ratio:.1f} times that without walls (wanted: under {WANTED_MS:.0f} ms)"
    )
    for one in failed[:5]:
        print(f"  failed: {one}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
