"""A day and a night of use in some minutes: whether what serves grows.

    bench/soak.py [SECONDS]

The clock of all processes runs 24 hours ahead meanwhile, while people read, begin pours and ask for
walls. Compared is the memory of each kind of process (what it has for itself, and its share of what
it has with others) in the last quarter with that in the second: by then all has been used once.
Wanted: at most a tenth more.
"""

import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections import defaultdict
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.lookup import fetch, sheet_named  # noqa: E402
from load import Somebody, walls_of  # noqa: E402
from served import fresh_database, processes_below, temporary_cluster  # noqa: E402

SECONDS, PEOPLE, DAY_S, MOST = 360.0, 16, 86_400.0, 1.1
NAMES = ("husk-server", "husk-worker", "husk-keeper", "husk-devices", "husk-standins")
_LOOK_S = 2.0


def memory_mb(process: int) -> float:
    """The proportional set size of a process. [MB]"""
    rollup = Path(f"/proc/{process}/smaps_rollup").read_text("ascii")
    return sum(int(one.split()[1]) for one in rollup.splitlines() if one.startswith("Pss:")) / 1e3


def main() -> None:
    """Let a day pass; print what each kind of process had in two quarters of it, and the ratio."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS
    with (
        tempfile.NamedTemporaryFile("w") as clock,
        temporary_cluster() as cluster,
        fresh_database(cluster) as url,
    ):
        launch = subprocess.Popen(
            [sys.executable, "-m", "mildhusk.launch", "--demo", "--port", "0"],
            env={**os.environ, "DATABASE_URL": url, "MILDHUSK_WRONG_CLOCK": clock.name,
                 "PYTHONPATH": str(ROOT / "scripts/wrong_clock")},
            stdout=subprocess.PIPE, text=True, cwd=ROOT,
        )  # fmt: skip
        try:
            assert launch.stdout is not None
            address = launch.stdout.readline().split(" at ")[1].strip()
            _soak(address, launch.pid, Path(clock.name), seconds)
        finally:
            launch.terminate()
            launch.wait(timeout=60)


def _soak(address: str, launch: int, clock: Path, seconds: float) -> None:
    first = fetch(address, "/now")["now"]
    sheets = fetch(address, "/sheets")["sheets"]
    paths = ["/days", "/days/board", "/sheets", "/pieces", "/moulds", "/pours", "/workshop",
             *(f"/sheets/{one['id']}" for one in sheets[:4])]  # fmt: skip
    sheet = sheet_named(address, "chorus")["id"]
    people = [Somebody(address, paths, sheet, number) for number in range(PEOPLE)]
    ending = threading.Event()
    asked: list[str] = []
    wallers = threading.Thread(target=lambda: asked.extend(walls_of(address, ending)))
    for one in (*people, wallers):
        one.start()
    seen: dict[str, list[float]] = defaultdict(list)
    began = time.monotonic()
    while (passed := time.monotonic() - began) < seconds:
        clock.write_text(f"{DAY_S * passed / seconds:.3f}", "ascii")
        for name in NAMES:
            seen[name].append(sum(memory_mb(one) for one in processes_below(launch, name)))
        time.sleep(_LOOK_S)
    last = fetch(address, "/now")["now"]
    ending.set()
    for person in people:
        person.ending.set()
    for one in (*people, wallers):
        one.join()
    failed = [what for person in people for what in person.failed]
    print(
        f"soak: from {first[:16]} to {last[:16]} in {seconds:.0f} s, {PEOPLE} people, "
        f"{sum(len(one.took) for one in people)} answers, {len(asked)} walls, {len(failed)} failed"
    )
    for what in failed[:3]:
        print(f"  failed: {what}")
    for name, told in seen.items():
        quarter = len(told) // 4
        then, now = statistics.mean(told[quarter : 2 * quarter]), statistics.mean(told[-quarter:])
        print(
            f"  {name}: {then:.0f} MB in the second quarter, {now:.0f} MB in the last; ratio "
            f"{now / then:.2f} (wanted: at most {MOST})"
        )


if __name__ == "__main__":
    main()
