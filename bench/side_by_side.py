"""Many people at once: plans side by side, a light request beside heavy ones, long lists.

Starts the demo on a database of its own, or asks a server that runs already: `--address URL`. It
writes there, so the workshop had better be an invented one.
"""

import argparse
import http.client
import json
import sys
import threading
import time
from collections.abc import Callable
from contextlib import nullcontext
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from served import demo_server

_API = "/api/v1"
_SHEETS = 1_000
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
    parts = {"side": _side_by_side, "light": _light_beside_heavy, "list": _long_list}
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
