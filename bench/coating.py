"""How long a coat takes to simulate, beside the same film with an array library only.

A closed shape of 0.23 m2 with 20,000 faces on one core: one coat of 240 s in at most 3 s, four in
at most 10 s. The array version solves the same steps of the film (what runs down within a step,
all at once) by repeating them over all faces until nothing changes; it has no pool. With --plot
the cost by faces and by time is drawn to docs/.
"""

import math
import sys
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from core.shapes import sphere  # noqa: E402 - the tests' words for shapes
from mildhusk.core.coating.coats import Coated  # noqa: E402
from mildhusk.core.coating.grid import CoatGrid, coat_grid, even_mesh  # noqa: E402
from mildhusk.core.coating.landing import add_coat, run_film  # noqa: E402
from mildhusk.core.coating.liquid import Liquid  # noqa: E402
from mildhusk.core.coating.motion import machine  # noqa: E402
from mildhusk.core.constants import GRAVITY_M_S2  # noqa: E402
from mildhusk.core.geometry.mesh import Floats, Mesh  # noqa: E402

COAT_S, ONE_S, FOUR_S, TIMES = 240.0, 3.0, 10.0, 8.0
TRIES = 3
"""The machine may have other things to do meanwhile."""
DENSITY, CHARGE_KG = 1050.0, 0.24


def main() -> None:
    """Run, print figures and ratios; draw them where that is asked."""
    grid = grid_of(0.00525)
    coats(grid, 1, 5.0)
    print(f"coating: {len(grid.area):,} faces, coats of {COAT_S:.0f} s, one core, best of {TRIES}")
    for many, said, limit in ((1, "one coat", ONE_S), (4, "four coats", FOUR_S)):
        took = sorted(coats(grid, many, COAT_S) for _ in range(TRIES))
        print(
            f"  {said} {took[0]:.2f} s (slowest {took[-1]:.2f} s); / limit = {took[0] / limit:.2f} "
            "(wanted: at most 1)"
        )
    ours, plain, apart = beside_arrays(grid)
    print(
        f"  film of 2 s: {ours:.3f} s, by the array library {plain:.2f} s; {plain / ours:.0f} "
        f"times as long (wanted: at least {TIMES:.0f}); the films differ by {apart:.1e} of their "
        "mean"
    )
    if "--plot" in sys.argv:
        draw()


def grid_of(edge_m: float) -> CoatGrid:
    """Return a closed shape about as large as a full-head covering."""
    ball = sphere(math.sqrt(0.23 / (4.0 * math.pi)), 96)
    return coat_grid(even_mesh(Mesh(ball.vertices * [0.85, 1.0, 1.2], ball.faces), edge_m))


def liquid(seconds: float) -> Liquid:
    """Return a resin of 80 mPa s that thickens tenfold and sets after so long."""
    t = np.linspace(0.0, seconds, 200)
    mu = 0.08 * np.exp(np.log(10.0) * t / seconds)
    mu[-1] = np.inf
    return Liquid.alike(DENSITY, t, mu)


def coats(grid: CoatGrid, count: int, seconds: float) -> float:
    """Return how long coats in a row take. [s]"""
    began = time.perf_counter()
    mould = Coated.bare(grid)
    for _ in range(count):
        mould = add_coat(mould, liquid(seconds), CHARGE_KG, machine(8.0, 3.1))
    return time.perf_counter() - began


def beside_arrays(grid: CoatGrid) -> tuple[float, float, float]:
    """Return our time, that of the array version, and how far their films are apart."""
    step, resin = 0.1, liquid(COAT_S)
    at = (np.arange(20) + 0.5) * step
    ups = machine(8.0, 3.1).ups(grid.out, at)
    film = np.full(len(grid.area), 0.0004)
    run_film(grid, film, resin, ups, step)
    began = time.perf_counter()
    ours, _ = run_film(grid, film, resin, ups, step)
    took = time.perf_counter() - began
    began = time.perf_counter()
    plain = by_arrays(grid, film, resin, ups, step)
    plain_took = time.perf_counter() - began
    apart = float(np.sqrt(((ours - plain) ** 2).mean()) / plain.mean())
    return took, plain_took, apart


def by_arrays(grid: CoatGrid, film: Floats, resin: Liquid, ups: Floats, step_s: float) -> Floats:
    """Let a film run, every step solved by repetition over whole arrays."""
    fluidity = resin.fluidity((np.arange(len(ups)) + 0.5) * step_s)
    inner = grid.neighbour >= 0
    other = np.where(inner, grid.neighbour, 0)
    h = film.copy()
    for up, flow in zip(ups, fluidity, strict=True):
        through = np.maximum(-(grid.along @ up) * grid.edge_m, 0.0)
        conduct = step_s * flow * DENSITY * GRAVITY_M_S2 / 3.0
        through *= _thicker(
            h, np.where(inner, h[other], h[:, None]), conduct * through / grid.area[:, None]
        )
        leaves = through.sum(axis=1)
        c = conduct * leaves / grid.area
        share = np.divide(
            through, leaves[:, None], out=np.zeros_like(through), where=leaves[:, None] > 0.0
        )
        new = h
        for _ in range(200):
            much = c * new**2
            late = np.maximum(0.5, 1.0 - 1.0 / np.maximum(much, 1e-12))
            middle = late * new + (1.0 - late) * h
            x = late * c * middle**2
            u = (1.0 + 2.0 * x) / (1.0 + 3.0 * x)
            for _ in range(4):
                u -= (u + x * u**3 - 1.0) / (1.0 + 3.0 * x * u**2)
            gone = np.minimum((1.0 - u) * middle / late, new) * grid.area
            into = np.bincount(other[inner], (gone[:, None] * share)[inner], minlength=len(h))
            again = h + into / grid.area
            if np.abs(again - new).max() < 1e-9 * h.mean():
                break
            new = again
        h = new - gone / grid.area
    return h


def _thicker(h: Floats, beyond: Floats, fits: Floats) -> Floats:
    """Return the cube of the film at each edge over that in its face, as the flow has it."""
    on = beyond / h[:, None] - 1.0
    rise = np.minimum(on - on.sum(axis=1, keepdims=True) * 2.0 / 3.0, 1.0)
    both = np.maximum(rise * on, 0.0)
    much = fits.sum(axis=1, keepdims=True) * h[:, None] ** 2
    part = np.minimum(1.0 / np.maximum(much, 1e-12), 1.0)
    return np.asarray((1.0 + part * both * (rise + on) / ((rise + on) ** 2 + 1e-12)) ** 3)


def draw() -> None:
    """Draw what a coat costs by faces and by its length."""
    import matplotlib as mpl

    mpl.use("Agg")
    import matplotlib.pyplot as plt

    sizes = [(len(grid.area), coats(grid, 1, 60.0)) for grid in map(grid_of, EDGES_M)]
    grid = grid_of(0.008)
    lengths = [(seconds, coats(grid, 1, seconds)) for seconds in (30.0, 60.0, 120.0, 240.0)]
    figure, (left, right) = plt.subplots(1, 2, figsize=(9, 3.6))
    left.loglog(*zip(*sizes, strict=True), "o-")
    left.set(xlabel="faces", ylabel="seconds for a coat of 60 s")
    right.plot(*zip(*lengths, strict=True), "o-")
    right.set(xlabel="length of the coat, s", ylabel=f"seconds on {len(grid.area):,} faces")
    figure.tight_layout()
    figure.savefig(ROOT / "docs" / "coat-cost.png", dpi=110)


EDGES_M = (0.012, 0.008, 0.006, 0.004)

if __name__ == "__main__":
    main()
