"""How soon a frame of the practice tray is there, with two trays rolled at ten frames a second.

Prints the 95th percentile of a frame beside what is wanted, and how much faster than life the coat
runs in the core, without the server.
"""

import http.client
import json
import sys
import threading
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.lookup import fetch, post  # noqa: E402 - the tests' words
from core.practice_shapes import helmet  # noqa: E402
from mildhusk.core.coating.exercises import Exercise  # noqa: E402
from mildhusk.core.coating.motion import up_of  # noqa: E402
from mildhusk.core.coating.tray import Tray, tray_setup  # noqa: E402
from mildhusk.core.materials.catalogue import shipped_resin  # noqa: E402
from served import demo_server  # noqa: E402

TRAYS, FRAMES, EVERY_S, WANTED_S = 2, 200, 0.1, 0.120


def main() -> None:
    """Measure and print."""
    with demo_server() as address:
        pieces = fetch(address, "/pieces")["pieces"]
        resin = next(
            one
            for one in fetch(address, "/materials")["materials"]
            if one["key"] == "pu-fast-rigid"
        )
        took: list[float] = []
        hands = [
            threading.Thread(target=_roll, args=(address, pieces[at]["id"], resin["id"], took))
            for at in range(TRAYS)
        ]
        for one in hands:
            one.start()
        for one in hands:
            one.join()
    median, high = np.quantile(took, [0.5, 0.95])
    print(
        f"a frame of {TRAYS} trays at {1.0 / EVERY_S:.0f} a second, {len(took)} frames: median "
        f"{median * 1e3:.0f} ms, 95th percentile {high * 1e3:.0f} ms of {WANTED_S * 1e3:.0f} ms, "
        f"ratio {high / WANTED_S:.2f}"
    )
    _in_the_core()


def _roll(address: str, piece: str, resin: str, took: list[float]) -> None:
    """Roll one tray over one connection, as a browser does."""
    tray = post(address, "/practice", {"piece_id": piece, "material_id": resin})
    host = address.split("//")[1].strip("/")
    line = http.client.HTTPConnection(host)
    begun = time.monotonic()
    for frame in range(1, FRAMES + 1):
        t_s = frame * EVERY_S
        time.sleep(max(0.0, begun + t_s - time.monotonic()))
        held = [
            {"t_s": t_s - 0.05, "tilt": 0.9, "side": t_s},
            {"t_s": t_s, "tilt": 0.9, "side": t_s + 0.05},
        ]
        asked = time.monotonic()
        line.request(
            "POST",
            f"/api/v1/practice/{tray['id']}/roll",
            json.dumps({"tilted": held}),
            {"Content-Type": "application/json", "X-Mild-Husk": "bench"},
        )
        answer = line.getresponse()
        answer.read()
        assert answer.status == 200
        took.append(time.monotonic() - asked)


def _in_the_core() -> None:
    setup = tray_setup(helmet(), shipped_resin("pu-fast-rigid"), Exercise.FREE)
    out = setup.mould.grid.out
    # What is compiled is loaded once by a server, and not by every tray.
    Tray(setup).roll(np.array([1.0]), out[None])
    tray = Tray(setup)
    moments = 0.1 * np.arange(1, 601)[:, None]
    held = [up_of(out, np.array([0.9]), at) for at in moments]
    begun = time.perf_counter()
    for at, up in zip(moments, held, strict=True):
        tray.roll(at, up)
    took = time.perf_counter() - begun
    print(
        f"60 s of a coat on {len(setup.mesh.faces)} faces, frame by frame, in the core: "
        f"{took:.2f} s, {60.0 / took:.0f} times faster than life"
    )


if __name__ == "__main__":
    main()
