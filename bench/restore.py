"""How long it takes to have a workshop again on another machine, from a backup alone.

What docs/running.md says is done word by word, on a log of ten thousand pours: back up, encrypted;
then on an empty folder, with nothing but that file and its key, restore and start until it answers.
Wanted: under five minutes.
"""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.lookup import fetch  # noqa: E402
from log_list import fill_log  # noqa: E402
from mildhusk.api.app import utc_now  # noqa: E402
from mildhusk.cluster import Cluster  # noqa: E402
from mildhusk.demo.scenario import fill  # noqa: E402
from mildhusk.store.database import migrate, open_engine, open_sessions  # noqa: E402

WANTED_S = 300.0


def main() -> None:
    """Make a workshop, back it up, have it again elsewhere; print how long each took."""
    folder = Path(tempfile.mkdtemp(prefix="mildhusk-restore-"))
    # Open to the postgres account.
    folder.chmod(0o755)
    try:
        _main(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _main(folder: Path) -> None:
    key, disk = folder / "husk-backup.key", folder / "disk"
    with Cluster(folder / "here").running() as url:
        engine = open_engine(url)
        migrate(engine)
        fill(open_sessions(engine), utc_now())
        with engine.begin() as connection:
            pours = fill_log(connection)
        engine.dispose()
        public = _husk_web("key", key)[0].split()[-1]
        _, backed_up_s = _husk_web("backup", disk, DATABASE_URL=url, MILDHUSK_BACKUP_KEY=public)
    [backup] = disk.iterdir()
    there = ["--data", folder / "there"]
    _, restored_s = _husk_web("restore", backup, "--key", key, *there)
    began = time.perf_counter()
    process = subprocess.Popen(
        [sys.executable, "-m", "mildhusk.web", "start", "--port", "0", *map(str, there)],
        env=_environment(), stdout=subprocess.PIPE, text=True, cwd=ROOT,
    )  # fmt: skip
    assert process.stdout is not None
    address = process.stdout.readline().split(" at ")[1].strip()
    total = fetch(address, "/pours")["total"]
    started_s = time.perf_counter() - began
    process.send_signal(signal.SIGINT)
    process.wait(timeout=60)
    assert total == pours, (total, pours)
    whole = restored_s + started_s
    print(
        f"restore: {pours:,} pours, {backup.stat().st_size / 1e6:.0f} MB, encrypted; backed up and "
        f"read back in {backed_up_s:.1f} s; elsewhere restored in {restored_s:.1f} s, answered "
        f"after {started_s:.1f} s more; {whole:.1f} s together, {whole / backed_up_s:.1f} times "
        f"the backup (wanted: under {WANTED_S:.0f} s)"
    )


def _environment(**more: str) -> dict[str, str]:
    return {**{key: value for key, value in os.environ.items() if key != "DATABASE_URL"}, **more}


def _husk_web(*words: Any, **more: str) -> tuple[str, float]:
    """Do a command, and return what it said and how long it took. [s]"""
    began = time.perf_counter()
    done = subprocess.run(
        [sys.executable, "-m", "mildhusk.web", *map(str, words)],
        env=_environment(**more), capture_output=True, text=True, check=True, cwd=ROOT,
    )  # fmt: skip
    return done.stdout, time.perf_counter() - began


if __name__ == "__main__":
    main()
