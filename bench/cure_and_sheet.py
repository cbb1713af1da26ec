"""How long one cure takes to solve, and a whole sheet on the server.

Every resin that ships in rooms of 10 to 35 degrees, every cure solved once (nothing is remembered
between them): wanted at most 5 ms at the 95th percentile. Then 300 sheets asked of a served demo,
each of another wall and room, by every school, that fit and that do not: at most 40 ms.
"""

import json
import statistics
import sys
import time
from pathlib import Path
from urllib.request import Request, urlopen

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from browser.lookup import fetch  # noqa: E402 - the tests' words for the served demo
from mildhusk.core.cure.model import CureSetup, cure, cure_model  # noqa: E402
from mildhusk.core.materials.casting_resin import CastingResin  # noqa: E402
from mildhusk.core.materials.catalogue import shipped_materials  # noqa: E402
from served import demo_server  # noqa: E402

CURE_MS, SHEET_MS = 5.0, 40.0
SHEETS = 300


def main() -> None:
    """Solve, ask, print percentiles and their ratios to the limits."""
    print("cure_and_sheet:")
    _told("one cure", _cures(), CURE_MS)
    with demo_server() as address:
        _told(f"{SHEETS} sheets on the server", _sheets(address), SHEET_MS)


def _told(what: str, took_ms: list[float], limit_ms: float) -> None:
    late = statistics.quantiles(took_ms, n=100)[94]
    print(
        f"  {what}: median {statistics.median(took_ms):.1f} ms, 95th percentile {late:.1f} ms, "
        f"longest {max(took_ms):.1f} ms; 95th / limit = {late / limit_ms:.2f} (wanted: at most 1)"
    )


def _cures() -> list[float]:
    resins = [one for one in shipped_materials() if isinstance(one, CastingResin)]
    for resin in resins:
        cure_model(resin)
        cure(resin, CureSetup(0.1, 296.15, 296.15, 296.15))
    took = []
    for step in range(40):
        room = 283.15 + 0.625 * step
        for resin in resins:
            asked = CureSetup(0.05 + 0.02 * step, room, room - 1.0, room, 0.0005 + 5e-5 * step)
            began = time.perf_counter()
            cure(resin, asked)
            took.append(1e3 * (time.perf_counter() - began))
    return took


def _sheets(address: str) -> list[float]:
    pieces = [one["id"] for one in fetch(address, "/pieces")["pieces"]]
    resins = [one["id"] for one in fetch(address, "/materials")["materials"]]
    workshop = fetch(address, "/workshop")
    # No resin is poured by the school of melted clay.
    schools = [one["key"] for one in workshop["coat_schools"] if one["key"] != "clay"]
    took = []
    for number in range(SHEETS + 20):
        wish = {
            **workshop["first_wish"],
            "wall_m": 0.002 + 1e-5 * (number % 150),
            "room_temperature_k": 285.15 + 0.1 * (number * 7 % 200),
            "school": schools[number % len(schools)],
        }
        body = {
            "piece_id": pieces[number % len(pieces)],
            "material_id": resins[number // 3 % len(resins)],
            "wish": wish,
        }
        request = Request(
            f"{address.rstrip('/')}/api/v1/sheets/preview",
            json.dumps(body).encode(),
            {"Content-Type": "application/json", "X-Mild-Husk": "bench"},
        )
        began = time.perf_counter()
        urlopen(request).read()
        took.append(1e3 * (time.perf_counter() - began))
    # The first ones warm the server up.
    return took[20:]


if __name__ == "__main__":
    main()
