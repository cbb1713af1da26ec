"""Draws what the coating core computes beside its references: docs/coating.md and its pictures."""

import io
import math
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests"))

import matplotlib as mpl  # noqa: E402

mpl.use("Agg")
import matplotlib.pyplot as plt  # noqa: E402
import trimesh  # noqa: E402
from matplotlib.axes import Axes  # noqa: E402
from scipy.optimize import brentq  # noqa: E402

from core.shapes import sphere, turned  # noqa: E402 - the tests' words for shapes
from core.soft_shapes import bust_stl, half_mask_stl, helmet_stl  # noqa: E402
from core.test_coating import (  # noqa: E402
    G,
    coated,
    drawn_out,
    evenly_turned,
    level_in,
    moved_by_levelling,
    resin_liquid,
    ripple_left,
    rows_of,
    steady,
    strip,
)
from mildhusk.core.coating.answer import landed_wall  # noqa: E402
from mildhusk.core.coating.coats import Coated  # noqa: E402
from mildhusk.core.coating.figures import wall_figures  # noqa: E402
from mildhusk.core.coating.grid import coat_grid, even_mesh  # noqa: E402
from mildhusk.core.coating.landing import add_coat, run_film  # noqa: E402
from mildhusk.core.coating.liquid import Liquid  # noqa: E402
from mildhusk.core.coating.motion import BY_EYE, machine, motion_named  # noqa: E402
from mildhusk.core.coating.turning import Pour  # noqa: E402
from mildhusk.core.geometry.mesh import Mesh, face_frames  # noqa: E402

DOCS = ROOT / "docs"


def main() -> None:
    """Compute, draw, and write the page with what each is off by."""
    figure, axes = plt.subplots(2, 3, figsize=(13, 7.4))
    drawn = (draining, curing, cylinder, level, meshes, charges)
    rows = [draw(place) for draw, place in zip(drawn, axes.flat, strict=True)]
    figure.tight_layout()
    figure.savefig(DOCS / "coating.png", dpi=90)
    rows += [withdrawn(), levelling(), evenness(), *with_lids(), *by_hand()]
    table = "\n".join(f"| {' | '.join(row)} |" for row in rows)
    (DOCS / "coating.md").write_text(PAGE.format(table=table), "utf-8")
    print(table)


PAGE = """# How a coat lands: computed beside its references

`scripts/coating_checks.py` computes, draws and writes this page; the same checks stand as tests in
`tests/core/test_coating.py`. References are from memory where they say so there.

![Computed and reference, six checks](coating.png)

| case | reference | off by | wanted |
| --- | --- | --- | --- |
{table}

Mass is kept to 1e-9 of each coat (a test). A film is thin and slow; surface tension is felt where
a wall comes out of a pool, and not on the film itself: no drips hang, no edge beads, and it does
not level. That moves thin places by less than a hundredth (above: from when the film has one edge
left to run). What each assumed constant is worth: [constants.md](constants.md). A pool is
level at every moment. What is rolled is one liquid of one age; a puddle that stays where it is
cures by its own, faster clock (decision 0019). One charge beside four shows why one does not do: it
gels before it is spread.

By hand the liquid is led by eye: hands try their next moves on a coarser mould that is turned
alike, and do the best one that does not run over (decision 0021). A pattern is only kept from
running over, and leaves in the deepest hollow what a maker would lead out of it.

What a lid keeps is chaotic: the last of a pool spreads over it and stays, or just does not. Times
and heats of a resin stand beside their references in `tests/core/test_cure.py`, areas and volumes
beside closed forms in `tests/core/test_survey.py`.
"""


def draining(axes: Axes) -> tuple[str, str, str, str]:
    """Draw an upright plate that drains."""
    height, viscosity, seconds = 0.3, 0.5, 120.0
    grid = coat_grid(strip(0.02, height, 8, 240))
    ups = np.tile([0.0, 0.0, 1.0], (1200, 1))
    film, _ = run_film(grid, np.full(len(grid.area), 0.002), steady(viscosity), ups)
    below, mean = rows_of(grid, film, height, 30)
    exact = np.sqrt(viscosity * below / (1000.0 * G * seconds))
    _both(axes, below, mean, exact, "plate, 120 s", "below the top, m", "film, m")
    off = float(np.abs(mean[6:] / exact[6:] - 1.0).max())
    return ("upright plate draining", "Jeffreys 1930", f"{100 * off:.1f} %", "2 %")


def curing(axes: Axes) -> tuple[str, str, str, str]:
    """Draw the same with a viscosity that grows."""
    height, viscosity, scale, seconds = 0.3, 0.5, 40.0, 100.0
    t = np.linspace(0.0, seconds, 2001)
    mu = viscosity * np.exp(t / scale)
    grid = coat_grid(strip(0.02, height, 8, 240))
    ups = np.tile([0.0, 0.0, 1.0], (1000, 1))
    film, _ = run_film(grid, np.full(len(grid.area), 0.002), Liquid.alike(1000.0, t, mu), ups)
    own = scale * (1.0 - math.exp(-seconds / scale))
    below, mean = rows_of(grid, film, height, 30)
    exact = np.minimum(np.sqrt(viscosity * below / (1000.0 * G * own)), 0.002)
    _both(axes, below, mean, exact, "plate that cures, 100 s", "below the top, m", "film, m")
    front = (mean < 0.00195) & (np.arange(30) >= 6)
    off = float(np.abs(mean[front] / exact[front] - 1.0).max())
    return ("the same, curing", "Jeffreys in its own time", f"{100 * off:.1f} %", "2 %")


def cylinder(axes: Axes) -> tuple[str, str, str, str]:
    """Draw the film in a turning cylinder after five turns."""
    radius, viscosity, density, flow = 0.1, 1.0, 1000.0, 0.6
    omega = 2.0 * math.pi * 10.0 / 60.0
    unit = math.sqrt(viscosity * omega * radius / (density * G))
    pipe = turned([(radius, z) for z in np.linspace(0.0, 0.02, 5)], 240)
    grid = coat_grid(Mesh(pipe.vertices[:, [0, 2, 1]], pipe.faces[:, ::-1].copy()))
    step = 0.05
    at = (np.arange(int(10.0 * math.pi / omega / step)) + 0.5) * step
    ups = np.stack([np.sin(omega * at), np.zeros_like(at), np.cos(omega * at)], axis=1)

    def cosine(time: float) -> np.ndarray:
        up = np.array([math.sin(omega * time), 0.0, math.cos(omega * time)])
        side = np.array([math.cos(omega * time), 0.0, -math.sin(omega * time)])
        return np.asarray((grid.centre @ side) / np.hypot(grid.centre @ side, grid.centre @ up))

    def profile(values: np.ndarray) -> np.ndarray:
        root: Callable[[float], float] = lambda c: brentq(  # noqa: E731
            lambda e: e - e**3 / 3.0 * c - flow, 0.0, 1.0
        )
        return unit * np.array([root(c) for c in values])

    film, _ = run_film(grid, profile(cosine(0.0)), steady(viscosity, density), ups, step)
    across = cosine(len(at) * step)
    exact = profile(across)
    order = np.argsort(across)
    _both(axes, across[order], film[order], exact[order], "turning cylinder", "cos", "film, m")
    off = math.sqrt(float(((film - exact) ** 2).mean())) / float(exact.mean())
    return ("film in a turning cylinder", "Moffatt 1977", f"{100 * off:.1f} % rms", "3 % rms")


def level(axes: Axes) -> tuple[str, str, str, str]:
    """Draw the level of what stands in a sphere."""
    radius = 0.1
    ball = sphere(radius, 120)
    low = int(np.argmin(face_frames(ball)[0][:, 2]))
    depths = np.linspace(0.01, 0.19, 19)
    exact = math.pi * depths**2 * (3.0 * radius - depths) / 3.0
    found = np.array([level_in(ball, [v], [low])[2][0] + radius for v in exact])
    holds = math.pi * found**2 * (3.0 * radius - found) / 3.0
    _both(axes, exact * 1e6, found, depths, "level in a sphere", "ml", "depth, m")
    off = float(np.abs(holds / exact - 1.0).max())
    return ("level of a sphere", "spherical cap", f"{100 * off:.2f} %", "0.5 %")


def meshes(axes: Axes) -> tuple[str, str, str, str]:
    """Draw what edges of 8 to 3 mm give."""
    ball = sphere(0.115, 72)
    egg = Mesh(ball.vertices * [0.8, 1.0, 1.3], ball.faces)
    edges = [0.008, 0.006, 0.004, 0.003]
    found = []
    for edge in edges:
        mould = coated(coat_grid(even_mesh(egg, edge)), 0.18)
        figures = wall_figures(mould.grid, mould.wall_m, 0.0, 1050.0)
        found.append((figures.mean_m, figures.p05_m, figures.p95_m))
    values = np.array(found)
    axes.plot(np.array(edges) * 1e3, values * 1e3, "o-")
    axes.set(title="a coat of 180 g, by edge", xlabel="edge, mm", ylabel="mm: mean, 5 %, 95 %")
    axes.set_ylim(0.0)
    apart = float((np.ptp(values[1:], axis=0) / values[1:].mean(axis=0)).max())
    return ("edges of 6, 4 and 3 mm", "each other", f"{100 * apart:.1f} % apart", "3 %")


def charges(axes: Axes) -> tuple[str, str, str, str]:
    """Draw the wall of one charge beside that of four."""
    grid = coat_grid(even_mesh(sphere(math.sqrt(0.23 / (4.0 * math.pi)), 48), 0.01))
    thin = []
    for name, parts in (("one of 960 g", [0.96]), ("four of 240 g", [0.24] * 4)):
        wall = coated(grid, *parts).wall_m
        axes.hist(
            wall * 1e3,
            48,
            range=(0.0, 12.0),
            weights=grid.area / grid.area.sum(),
            alpha=0.6,
            label=name,
        )
        thin.append(wall_figures(grid, wall, 0.0, 1050.0).p05_m)
    axes.set(title="0.23 m2, a fast resin", xlabel="wall, mm", ylabel="share of the face")
    axes.legend()
    said = f"{thin[0] * 1e3:.1f} mm against {thin[1] * 1e3:.1f} mm"
    return ("all at once against four coats", "common practice", said, "thinner, uneven")


def withdrawn() -> tuple[str, str, str, str]:
    """Draw an upright wall out of a bath."""
    off = max(abs(found / exact - 1.0) for found, exact in map(drawn_out, (1.0, 3.0)))
    return (
        "plate drawn out of a bath", "White and Tallmadge 1965", f"{100 * off:.1f} %", "5 %"
    )  # fmt: skip


def levelling() -> tuple[str, str, str, str]:
    """Let a ripple level, and a coat that stands."""
    off = max(abs(-math.log(ripple_left(one)) - 1.0) for one in (0.03, 0.04))
    moved = abs(moved_by_levelling(0.005)).max()
    said = f"ripple {100 * off:.1f} %; a helmet's thin places move by {100 * moved:.1f} %"
    return ("levelling, left out", "Orchard 1962", said, "6 %; 1 %")


def by_hand() -> list[tuple[str, str, str, str]]:
    """Roll the demo's pieces by hand, open, one coat: led by eye, and by a pattern."""
    rows = []
    for name, stl, kg in (
        ("helmet", helmet_stl, 0.178),
        ("half mask", half_mask_stl, 0.04),
        ("bust", bust_stl, 0.051),
    ):
        model = trimesh.load(io.BytesIO(stl()), file_type="stl")
        face = Mesh(np.asarray(model.vertices) * 1e-3, np.asarray(model.faces))
        grid = coat_grid(even_mesh(face, 0.006))
        liquid, said = resin_liquid(kg, float(grid.area.sum())), []
        for motion, pour in (
            (BY_EYE, Pour.RIM), ("rim-first-roll", Pour.RIM), ("rim-first-roll", Pour.LOW_PLACE)
        ):  # fmt: skip
            mould = Coated.bare(grid)
            run = add_coat(mould, liquid, kg, motion_named(motion), pour=pour).coats[0]
            never = float(grid.area[~run.wet].sum() / grid.area.sum())
            said.append(
                f"{100 * never:.0f} % never wet, {100 * run.pool_kg / kg:.0f} % in puddles, "
                f"{100 * run.spilt_kg / kg:.0f} % spilt"
            )
        text = f"by eye {said[0]}; by a pattern {said[1]}; poured at the low place {said[2]}"
        rows.append((f"{name} by hand, one coat", "common practice", text, "0, 8 (20), 2 %"))
    return rows


def evenness() -> tuple[str, str, str, str]:
    """Turn an ellipsoid evenly about all directions."""
    film = evenly_turned()
    off = max(film.mean_m - film.p05_m, film.p95_m - film.mean_m) / film.mean_m
    return ("ellipsoid turned evenly, 5 % and 95 %", "uniform", f"{100 * off:.1f} %", "5 %")


def with_lids() -> list[tuple[str, str, str, str]]:
    """Close the demo's helmet and half mask by a lid; how far edges and steps are apart."""
    rows = []
    for name, stl, kg in (("helmet", helmet_stl, 0.2), ("half mask", half_mask_stl, 0.043)):
        model = trimesh.load(io.BytesIO(stl()), file_type="stl")
        face = Mesh(np.asarray(model.vertices) * 1e-3, np.asarray(model.faces))
        figures, lid = [], []
        for edge, step in ((0.006, 0.1), (0.005, 0.1), (0.005, 0.09), (0.005, 0.05), (0.004, 0.1)):
            grid = coat_grid(even_mesh(face, edge), capped=True)
            liquid = resin_liquid(kg, float(grid.area.sum()))
            mould = add_coat(Coated.bare(grid), liquid, kg, machine(8.0, 3.1), step_s=step)
            wall = wall_figures(grid, mould.wall_m, 0.0, 1050.0)
            figures.append((wall.mean_m, wall.p05_m, wall.p95_m))
            lid.append(landed_wall(mould, 1050.0, 0.001).lid_kg / kg)
        apart = (np.ptp(figures, axis=0) / np.mean(figures, axis=0)).max()
        share = f"{100 * min(lid):.0f} to {100 * max(lid):.0f} % on the lid"
        said = f"{100 * apart:.1f} % apart, {share}"
        rows.append((f"{name} with a lid, edges and steps", "each other", said, "told beside it"))
    return rows


def _both(
    axes: Axes, x: np.ndarray, found: np.ndarray, exact: np.ndarray, title: str, *labels: str
) -> None:
    axes.plot(x, exact, "k-", linewidth=1, label="reference")
    axes.plot(x, found, "o", markersize=3, label="computed")
    axes.set(title=title, xlabel=labels[0], ylabel=labels[1])
    axes.legend()


if __name__ == "__main__":
    main()
