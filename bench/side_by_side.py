"""Many people at once: plans side by side, a light request beside heavy ones, long lists, a crowd.

Starts the demo on a database of its own, or asks a server that runs already: `--address URL`. It
writes there, so the workshop had better be an invented one.
"""

import argparse
import http.client
import json
import random
import sys
import threading
import time
from collections.abc import Callable
from contextlib import nullcontext
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from served import demo_server

_API = "/api/v1"
_SHEETS = 1_000
_CLIENTS, _SECONDS = 50, 60.0
_AT_ONCE, _HEAVY = 16, 8


class Client:
    """One person's browser: a connection that stays."""

    def __init__(self, address: str) -> None:
        self._at = urlsplit(address).netloc
        self._line = http.client.HTTPConnection(self._at, timeout=120)

    def ask(self, method: str, path: str, body: Any = None) -> bytes:
        """Return what is answered.

        Raises
        ------
        OSError
            A status of 400 or more.
        """
        head = {"Content-Type": "application/json", "X-Mild-Husk": "bench"}
        content = None if body is None else json.dumps(body)
        try:
            self._line.request(method, _API + path, content, head)
            answer = self._line.getresponse()
            said = answer.read()
        except http.client.HTTPException as error:
            self._line.close()
            raise OSError(str(error)) from error
        if answer.status >= 400:
            raise OSError(f"{method} {path}: {answer.status} {said[:200]!r}")
        return said

    def get(self, path: str) -> Any:
        """Return what stands at a path."""
        return json.loads(self.ask("GET", path))


def main() -> None:
    """Print every figure with its ratio."""
    parts = {
        "side": _side_by_side, "light": _light_beside_heavy, "list": _long_list, "crowd": _crowd,
    }  # fmt: skip
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--address", help="of a server that runs already")
    parser.add_argument("--parts", nargs="+", choices=parts, default=list(parts))
    given = parser.parse_args()
    with nullcontext(given.address) if given.address else demo_server() as at:
        assert at is not None
        for part in given.parts:
            parts[part](at)


def _question(client: Client) -> dict[str, Any]:
    row = client.get("/sheets")["sheets"][-1]
    sheet = client.get(f"/sheets/{row['id']}")
    return {key: sheet[key] for key in ("piece_id", "material_id", "wish")}


def _side_by_side(address: str) -> None:
    client = Client(address)
    question = _question(client)

    def one() -> None:
        Client(address).ask("POST", "/sheets/preview", question)

    def all_of_them() -> None:
        for _ in range(_AT_ONCE):
            one()

    one()
    alone, together = [], []
    for _ in range(5):
        alone.append(_timed(all_of_them))
        together.append(_timed(lambda: _threads([one] * _AT_ONCE)))
    by_one, at_once = min(alone), min(together)
    print(
        f"{_AT_ONCE} plans at once {at_once * 1e3:.0f} ms, one by one {by_one * 1e3:.0f} ms: "
        f"ratio {at_once / by_one:.2f}"
    )


def _light_beside_heavy(address: str) -> None:
    client = Client(address)
    question = _question(client)
    quiet = _spread(lambda: client.ask("GET", "/workshop"), 200)
    ended = threading.Event()

    def heavy() -> None:
        mine = Client(address)
        while not ended.is_set():
            mine.ask("POST", "/sheets/schools", question)

    several = [threading.Thread(target=heavy) for _ in range(_HEAVY)]
    for one in several:
        one.start()
    time.sleep(0.5)
    busy = _spread(lambda: client.ask("GET", "/workshop"), 100)
    ended.set()
    for one in several:
        one.join()
    print(
        f"a light request, 95th percentile: quiet {_at(quiet, 0.95) * 1e3:.1f} ms, beside {_HEAVY} "
        f"heavy ones {_at(busy, 0.95) * 1e3:.1f} ms: ratio {_at(busy, 0.95) / _at(quiet, 0.95):.1f}"
    )


def _long_list(address: str) -> None:
    client = Client(address)
    question = _question(client)
    small = _spread(lambda: client.ask("GET", "/sheets"), 50)
    for number in range(_SHEETS):
        client.ask("POST", "/sheets", {**question, "name": f"Copy {number}"})
    size = len(client.ask("GET", "/sheets"))
    large = _spread(lambda: client.ask("GET", "/sheets"), 100)
    print(
        f"the list of {_SHEETS} sheets: {size / 1e3:.0f} kB, 95th percentile "
        f"{_at(large, 0.95) * 1e3:.0f} ms; before they were there {_at(small, 0.95) * 1e3:.0f} ms: "
        f"ratio {_at(large, 0.95) / _at(small, 0.95):.2f}"
    )


def _crowd(address: str) -> None:
    """Fifty people for a minute, reading and writing, while a wall is computed."""
    client = Client(address)
    question = _question(client)
    sheet = client.get("/sheets")["sheets"][0]["id"]
    wall = {"motion": "machine", "capped": True, "edge_m": 0.004}
    client.ask("POST", f"/sheets/{sheet}/wall", wall)
    took: list[float] = []
    wrong: list[str] = []
    end = time.monotonic() + _SECONDS

    def person(number: int) -> None:
        mine, dice = Client(address), random.Random(number)
        pour = json.loads(mine.ask("POST", "/pours", {"sheet_id": sheet}))
        todo = [(coat["number"], step) for coat in pour["coats"]
                for step in ("weigh", "mix", "pour", "gel")]  # fmt: skip

        def tick() -> None:
            if todo:
                coat, step = todo.pop(0)
                parts = {"parts": {"a": 0.02, "b": 0.018}} if step == "weigh" else {}
                body = {"coat": coat, "step": step, **parts}
                mine.ask("POST", f"/pours/{pour['id']}/steps", body)

        deeds: list[tuple[float, Callable[[], object]]] = [
            (0.3, lambda: mine.ask("GET", "/workshop")),
            (0.2, lambda: mine.ask("GET", "/sheets")),
            (0.1, lambda: mine.ask("GET", f"/pours/{pour['id']}")),
            (0.1, tick),
            (0.15, lambda: mine.ask("GET", f"/sheets/{sheet}")),
            (0.1, lambda: mine.ask("POST", "/sheets/preview", question)),
            (0.05, lambda: mine.ask("POST", "/sheets", {**question, "name": f"Of {number}"})),
        ]
        while time.monotonic() < end:
            (deed,) = dice.choices([one for _, one in deeds], [share for share, _ in deeds])
            begun = time.monotonic()
            try:
                deed()
            except OSError as error:
                wrong.append(str(error))
            took.append(time.monotonic() - begun)
            # People look at what they see.
            time.sleep(dice.uniform(0.5, 1.5))

    _threads([partial(person, number) for number in range(_CLIENTS)])
    print(
        f"{_CLIENTS} clients, {_SECONDS:.0f} s, a wall being computed: {len(took)} requests, "
        f"{len(wrong)} errors, median {_at(took, 0.5) * 1e3:.0f} ms, 99th percentile "
        f"{_at(took, 0.99) * 1e3:.0f} ms"
    )
    for one in sorted(set(wrong))[:3]:
        print(f"  {one}")


def _threads(deeds: list[Callable[[], object]]) -> None:
    several = [threading.Thread(target=one) for one in deeds]
    for one in several:
        one.start()
    for one in several:
        one.join()


def _timed(deed: Callable[[], object]) -> float:
    begun = time.perf_counter()
    deed()
    return time.perf_counter() - begun


def _spread(deed: Callable[[], object], times: int) -> list[float]:
    return [_timed(deed) for _ in range(times)]


def _at(several: list[float], share: float) -> float:
    return sorted(several)[min(int(share * len(several)), len(several) - 1)]


if __name__ == "__main__":
    main()
