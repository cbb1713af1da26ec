"""Weighing with help beside the same hand without, and how fresh what a screen shows is.

The first in simulated time; the second through the demo's server, with five devices and three
screens.
"""

import json
import socket
import statistics
import sys
import threading
import time
import urllib.request
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from browser.lookup import fetch, post
from devices.weighed import Faults, new_scale, unaided, weigh
from served import demo_server

_CUPS, _POURS = 200, 200
_SCREENS, _SECONDS = 3, 20.0


def main() -> None:
    """Print both."""
    _overshoot()
    _faults()
    _freshness()


def _overshoot() -> None:
    helped, alone = [], []
    for seed in range(_CUPS):
        done = weigh(new_scale(seed))
        wanted_b = 83.9 * max(1.0, done.logged_g["A"] / 93.2)
        helped += [done.truth_g["A"] - 93.2, done.truth_g["B"] - wanted_b]
        by_itself = unaided(new_scale(seed))
        alone += [by_itself["A"] - 93.2, by_itself["B"] - 83.9]
    for name, over in (("told when to stop", helped), ("by the scale's number alone", alone)):
        low, middle, high = np.percentile(over, [5, 50, 95])
        print(f"{name}: over by {middle:.2f} g (median), 5 to 95 % {low:.2f} to {high:.2f} g")
    print(
        f"ratio of the 95th percentiles: {np.percentile(helped, 95) / np.percentile(alone, 95):.2f}"
    )


def _faults() -> None:
    worst, times = 0.0, []
    for seed in range(1000, 1000 + _POURS):
        done = weigh(new_scale(seed), faults=Faults(seed, lost=0.04, reboots=0.015, restarts=0.03))
        worst = max(worst, *(abs(done.logged_g[one] - done.truth_g[one]) for one in ("A", "B")))
        times.append(done.took_s)
    print(
        f"{_POURS} pours with drop-outs, reboots, restarts: all finished, in the log at most "
        f"{worst:.2f} g from the truth at 0.1 g steps; {statistics.median(times):.0f} s each"
    )


def _freshness() -> None:
    with demo_server() as address:
        while len(fetch(address, "/devices")["devices"]) < 4:
            time.sleep(0.2)
        devices = {one["kind"]: one for one in fetch(address, "/devices")["devices"]}
        at = devices["turn"]["address"]
        post(address, "/devices", {"name": "second", "kind": "turn", "address": at})
        time.sleep(2.0)
        left: dict[float, float] = {}
        late: list[float] = []
        ends = time.monotonic() + _SECONDS
        screens = [
            threading.Thread(target=_look, args=(address, devices["turn"]["id"], left, late, ends))
            for _ in range(_SCREENS)
        ]
        source = threading.Thread(target=_source, args=(at, left, ends))
        for one in (source, *screens):
            one.start()
        for one in (source, *screens):
            one.join()
    p50, p95 = np.percentile(late, [50, 95]) * 1e3
    print(
        f"a reading from stand-in to {_SCREENS} screens, five devices, {len(late)} readings: "
        f"{p50:.0f} ms (median), {p95:.0f} ms (95 %) of 150 ms"
    )


def _source(address: str, left: dict[float, float], ends: float) -> None:
    """Note when each reading leaves the stand-in."""
    host, _, port = address.removeprefix("socket://").partition(":")
    with socket.create_connection((host, int(port))) as line, line.makefile() as said:
        for one in said:
            if one.startswith("turn "):
                left[float(one.split("x=")[1].split()[0])] = time.monotonic()
            if time.monotonic() > ends:
                return


def _look(
    address: str, device: str, left: dict[float, float], late: list[float], ends: float
) -> None:
    """Note how late each reading is on a screen; those that come again were told before."""
    seen = set()
    with urllib.request.urlopen(f"{address}api/v1/live", timeout=20) as answer:
        for one in answer:
            if time.monotonic() > ends:
                return
            told = json.loads(one[6:]) if one.startswith(b"data: ") else {}
            x = told.get("x")
            if told.get("id") == device and x in left and x not in seen:
                seen.add(x)
                late.append(time.monotonic() - left[x])


if __name__ == "__main__":
    main()
