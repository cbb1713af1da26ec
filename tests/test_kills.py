"""Killed in the middle of ticks and draws: `scripts/kills.py`, for a few kills."""

import subprocess
import sys

from served import ROOT


def test_what_was_acknowledged_stands_once_whatever_is_killed():
    """Server, worker, what keeps them and the database, once each; fifty are for the script."""
    # How soon it is back is for the script on a quiet machine: here others compute beside it.
    words = [sys.executable, "scripts/kills.py", "4", "60"]
    done = subprocess.run(words, capture_output=True, text=True, cwd=ROOT, check=False, timeout=500)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "0 lost, 0 doubled" in done.stdout
