"""Writes docs/constants.md: what halving and doubling each assumed constant does to a coat.

The demo's helmet on a machine with a lid, and the demo's bust led by eye, one coat each of the fast
resin. Each variant is a process of its own; compiled code is compiled anew where a constant is in
it. Takes a quarter of an hour on two cores.
"""

import importlib
import json
import os
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parents[1]
PAGE = ROOT / "docs/constants.md"
sys.path.insert(0, str(ROOT / "tests"))
FACTORS = (0.5, 1.0, 2.0)
COATING = "mildhusk.core.coating"
MACHINE, BY_EYE = "helmet, machine, lid", "bust, by eye"
CONSTANTS = (
    # What it is, module, name, case, whether compiled code holds it.
    ("film that drains into a pool, over its least depth", "flow", "_DRAIN_RATIO", MACHINE, True),
    ("time within which what runs down is at its low place", "flow", "_RUNS_ON_S", BY_EYE, True),
    ("flattest slope that a wall comes out of a pool at", "flow", "_LEAST_SLOPE", MACHINE, True),
    ("most that a wall takes along out of a pool", "flow", "_MOST_LEFT_M", MACHINE, True),
    ("time after which a pool that stays is a puddle", "flow", "_STANDS_S", MACHINE, True),
    ("depth from which a hollow in a ceiling holds air", "pools", "_POCKET_M", MACHINE, True),
    ("least depth of a pool", "rolling", "_LEAST_POOL_M", MACHINE, False),
    ("way after which a film forgets how it lay", "rolling", "_FORGETS", MACHINE, False),
    ("band along the rim that is poured on", "rolling", "RIM_BAND_M", BY_EYE, False),
    ("film that stays on that band at first", "rolling", "RIM_FILM_M", BY_EYE, False),
    ("weight of what spills", "by_eye", "_SPILL", BY_EYE, False),
    ("weight of what lies thick", "by_eye", "_EXCESS", BY_EYE, False),
    ("weight of what was never wet", "by_eye", "_DRY", BY_EYE, False),
    ("fastest roll", "by_eye", "_ROUND", BY_EYE, False),
    ("fastest tilt", "by_eye", "_FASTEST_TILT", BY_EYE, False),
    ("share of the time that is only rolled", "by_eye", "_EASY", BY_EYE, False),
    ("faces that hands look ahead on", "by_eye", "_FACES", BY_EYE, False),
    ("moves that hands try", "by_eye", "_CHOICES", BY_EYE, False),
)  # fmt: skip
HEAD = """# What the assumed constants are worth

`scripts/constants_matter.py` writes this page: a coat with each constant that has no source as it
is, halved and doubled. Mean and thin place (5 % of the face are thinner) in mm, puddles and what
ran over the rim as shares of the charge.

| constant | as it is | coat | halved: mean, thin, puddles, spilt | as it is | doubled |
| --- | --- | --- | --- | --- | --- |
"""


def main() -> None:
    """Run every variant, two at once, and write the page."""
    asked = [(one, factor) for one in CONSTANTS for factor in FACTORS]
    with ThreadPoolExecutor(2) as pool:
        found = dict(zip(asked, pool.map(_in_a_process, asked), strict=True))
    rows = []
    for one in CONSTANTS:
        words, module, name, case, _ = one
        told = [found[one, factor] for factor in FACTORS]
        value = getattr(importlib.import_module(f"{COATING}.{module}"), name)
        rows.append(f"| {words} | {value:.3g} | {case} | {' | '.join(told)} |")
        print(rows[-1], flush=True)
    PAGE.write_text(HEAD + "\n".join(rows) + "\n", "utf-8")


def _in_a_process(asked: tuple[tuple[str, str, str, str, bool], float]) -> str:
    (_, module, name, case, compiled), factor = asked
    with tempfile.TemporaryDirectory() as fresh:
        # Kept machine code does not notice that a constant has changed.
        own = {"NUMBA_CACHE_DIR": fresh} if compiled and factor != 1.0 else {}
        done = subprocess.run(
            [sys.executable, __file__, module, name, str(factor), case],
            env={**os.environ, **own}, capture_output=True, text=True, check=True,
        )  # fmt: skip
    mean, thin, puddles, spilt = json.loads(done.stdout)
    return f"{mean:.2f}, {thin:.2f}, {puddles:.1%}, {spilt:.1%}"


def one_variant(module: str, name: str, factor: float, case: str) -> None:
    """Print mean and thin place [mm], puddles and spill [1] of a coat with a constant changed."""
    from core.practice_shapes import bust, helmet
    from core.test_coating import resin_liquid
    from mildhusk.core.coating.coats import Coated
    from mildhusk.core.coating.figures import wall_figures
    from mildhusk.core.coating.grid import coat_grid, even_mesh

    held = importlib.import_module(f"{COATING}.{module}")
    value = getattr(held, name)
    setattr(held, name, type(value)(value * factor))
    from mildhusk.core.coating.landing import add_coat
    from mildhusk.core.coating.motion import machine, motion_named

    on_machine = case == MACHINE
    face, kg = (helmet(), 0.178) if on_machine else (bust(), 0.051)
    motion = machine(8.0, 3.1) if on_machine else motion_named("by-eye")
    grid = coat_grid(even_mesh(face, 0.0075 if on_machine else 0.006), capped=on_machine)
    mould = add_coat(Coated.bare(grid), resin_liquid(kg, float(grid.area.sum())), kg, motion)
    (run,), wall = mould.coats, wall_figures(grid, mould.wall_m, 0.0, 1050.0)
    print(json.dumps([wall.mean_m * 1e3, wall.p05_m * 1e3, run.pool_kg / kg, run.spilt_kg / kg]))


if __name__ == "__main__":
    if len(sys.argv) > 1:
        one_variant(sys.argv[1], sys.argv[2], float(sys.argv[3]), sys.argv[4])
    else:
        main()
