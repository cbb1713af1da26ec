"""How long the start command takes: on an empty folder with the demo, and on it again."""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parents[1]


def main() -> None:
    """Start it twice; print seconds and their ratio."""
    folder = Path(tempfile.mkdtemp(prefix="mildhusk-start-"))
    # Open to the postgres account.
    folder.chmod(0o755)
    try:
        first, again = _started(folder), _started(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    print(
        f"start: on an empty folder with the demo {first:.1f} s, on it again {again:.1f} s; "
        f"ratio {again / first:.2f}"
    )


def _started(folder: Path) -> float:
    environment = {key: value for key, value in os.environ.items() if key != "DATABASE_URL"}
    words = ["mildhusk.launch", "--demo", "--port", "0", "--data", str(folder / "data")]
    begun = time.perf_counter()
    process = subprocess.Popen(
        [sys.executable, "-m", *words],
        env=environment, stdout=subprocess.PIPE, text=True, cwd=ROOT,
    )  # fmt: skip
    assert process.stdout is not None
    process.stdout.readline()
    took = time.perf_counter() - begun
    process.send_signal(signal.SIGINT)
    process.wait(timeout=60)
    return took


if __name__ == "__main__":
    main()
