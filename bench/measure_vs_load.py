"""`husk measure --quick` of large STLs beside only loading them with the mesh library.

Both as whole processes, taking turns in one run; wanted: at most 1.5 times the time for 400,000
faces, 1.8 times for a million. The whole survey (repair, skin, V(t), girths) is timed once besides.
"""

import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import trimesh

ROUNDS = 5
LOAD = "import sys, trimesh; trimesh.load_mesh(sys.argv[1])"
SIZES = ((317, 1.5), (500, 1.8))
"""Sections of the ball, and the ratio that is wanted."""


def main() -> None:
    """Time both for each size, print medians and their ratio."""
    for count, wanted in SIZES:
        _time(count, wanted)


def _time(count: int, wanted: float) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sphere.stl"
        mesh = trimesh.creation.uv_sphere(radius=100.0, count=[count, count])
        path.write_bytes(mesh.export(file_type="stl"))
        husk = Path(sys.executable).parent / "husk"
        load, measure = [], []
        for _ in range(ROUNDS):
            load.append(_seconds([sys.executable, "-c", LOAD, str(path)]))
            measure.append(_seconds([str(husk), "measure", str(path), "--quick", "--json"]))
        whole = _seconds([str(husk), "measure", str(path), "--json"])
    loaded, measured = statistics.median(load), statistics.median(measure)
    print(f"measure_vs_load: {len(mesh.faces):,} faces, median of {ROUNDS} whole processes each")
    print(f"  load with the mesh library {loaded:.2f} s, husk measure --quick {measured:.2f} s")
    print(f"  ratio {measured / loaded:.2f} (wanted: at most {wanted})")
    print(f"  husk measure, all of the survey, once: {whole:.2f} s, {whole / loaded:.1f} times")


def _seconds(command: list[str]) -> float:
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
