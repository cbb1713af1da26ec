"""What measuring a real file costs, as ratios in one run.

One million faces measured with girths and openings beside only loading them (wanted: at most three
times); V(t) of a 250 mm helmet with 100,000 faces on one core (wanted: at most 6 s and 1.5 GB); a
tilted level of 20,000 faces (wanted: under 5 ms). With --plot the cost against face count and
resolution goes to docs/field-cost.png.
"""

import os

# One core: set before the numerical libraries start their threads.
for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "NUMBA_NUM_THREADS"):
    os.environ[name] = "1"

import io  # noqa: E402
import resource  # noqa: E402
import statistics  # noqa: E402
import sys  # noqa: E402
import time  # noqa: E402
from collections.abc import Callable  # noqa: E402
from pathlib import Path  # noqa: E402

import numpy as np  # noqa: E402
import trimesh  # noqa: E402

from mildhusk.core.geometry.distance_field import volume_curve  # noqa: E402
from mildhusk.core.geometry.level import Vessel  # noqa: E402
from mildhusk.core.geometry.measure import measure_face  # noqa: E402
from mildhusk.core.geometry.mesh import Mesh  # noqa: E402
from mildhusk.core.geometry.openings import lids, rims  # noqa: E402
from mildhusk.core.geometry.reading import read_stl  # noqa: E402
from mildhusk.core.geometry.sections import girths  # noqa: E402
from mildhusk.demo.shapes import helmet_stl  # noqa: E402

UP = np.array([0.0, 0.0, 1.0])
FOLDER = Path(__file__).parents[1] / "docs"


def main() -> None:
    """Time everything, print figures and ratios."""
    helmet = _helmet(90_000)
    openings = rims(helmet)
    volume_curve(helmet, lids(helmet, openings))  # compiled and cached once
    took = _seconds(lambda: volume_curve(helmet, lids(helmet, openings)), 3)
    curve = volume_curve(helmet, lids(helmet, openings))
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(
        f"survey_cost: V(t) of {len(helmet.faces):,} faces, one core: {took:.1f} s, "
        f"ratio to 6 s {took / 6:.2f}; band {curve.relative_error * 100:.2f} %; "
        f"peak of the process {peak:.2f} GB"
    )
    ball = trimesh.creation.uv_sphere(radius=0.1, count=[100, 51])
    mesh = Mesh(np.asarray(ball.vertices), np.asarray(ball.faces, dtype=np.int64))
    vessel = Vessel.of(mesh, UP)
    level = _seconds(lambda: vessel.volume_below(0.03), 50)
    print(
        f"survey_cost: volume under a level, {len(mesh.faces):,} faces: {level * 1e3:.2f} ms, "
        f"ratio to 5 ms {level / 0.005:.2f}"
    )
    _million()
    if "--plot" in sys.argv:
        _plot()


def _million() -> None:
    ball = trimesh.creation.uv_sphere(radius=100.0, count=[500, 501])
    content = ball.export(file_type="stl")
    load = _seconds(lambda: trimesh.load_mesh(io.BytesIO(content), file_type="stl"), 3)

    def measure() -> None:
        mesh = read_stl(content).scaled(1e-3)
        measure_face(mesh)
        rims(mesh)
        girths(mesh, UP)

    took = _seconds(measure, 3)
    print(
        f"survey_cost: {len(ball.faces):,} faces read and measured with girths and openings "
        f"{took:.2f} s, only loaded with the mesh library {load:.2f} s"
    )
    print(f"  ratio {took / load:.2f} (wanted: at most 3)")


def _helmet(faces: int) -> Mesh:
    """The demo's helmet with about so many faces."""
    mesh = read_stl(helmet_stl()).scaled(1e-3)
    model = trimesh.Trimesh(mesh.vertices, np.asarray(mesh.faces), process=False)
    while len(model.faces) < faces:
        model = model.subdivide()
    return Mesh(np.asarray(model.vertices), np.asarray(model.faces, dtype=np.int64))


def _seconds(run: Callable[[], object], rounds: int) -> float:
    taken = []
    for _ in range(rounds):
        start = time.perf_counter()
        run()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def _plot() -> None:
    import matplotlib

    matplotlib.use("Agg")
    from matplotlib import pyplot

    figure, (by_faces, by_cells) = pyplot.subplots(1, 2, figsize=(9, 3.4), layout="constrained")
    counts, seconds = [], []
    for wanted in (20_000, 90_000, 380_000):
        mesh = _helmet(wanted)
        closing = lids(mesh, rims(mesh))
        counts.append(len(mesh.faces))
        seconds.append(_seconds(lambda m=mesh, c=closing: volume_curve(m, c), 2))
    by_faces.plot(counts, seconds, "o-", color="#1f4a47")
    by_faces.set(xlabel="faces", ylabel="seconds, one core", ylim=0)
    mesh = _helmet(90_000)
    closing = lids(mesh, rims(mesh))
    cells, seconds, errors = (30_000, 120_000, 500_000, 2_000_000), [], []
    for count in cells:
        seconds.append(_seconds(lambda n=count: volume_curve(mesh, closing, n), 1))
        errors.append(volume_curve(mesh, closing, count).relative_error * 100)
    by_cells.plot(cells, seconds, "o-", color="#1f4a47")
    by_cells.set(xscale="log", xlabel="cells of the grid", ylabel="seconds, one core", ylim=0)
    for x, y, error in zip(cells, seconds, errors, strict=True):
        by_cells.annotate(f"{error:.2f} %", (x, y), xytext=(0, 6), textcoords="offset points")
    figure.suptitle("V(t) of the demo's helmet: cost by faces, and by resolution with its band")
    figure.savefig(FOLDER / "field-cost.png", dpi=90)


if __name__ == "__main__":
    main()
