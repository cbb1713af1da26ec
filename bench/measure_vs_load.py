"""`husk measure --quick` of a 400,000-face STL beside only loading it with the mesh library.

Both as whole processes, taking turns in one run; wanted: at most twice the time.
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


def main() -> None:
    """Time both, print medians and their ratio."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sphere.stl"
        mesh = trimesh.creation.uv_sphere(radius=100.0, count=[317, 317])
        path.write_bytes(mesh.export(file_type="stl"))
        husk = Path(sys.executable).parent / "husk"
        load, measure = [], []
        for _ in range(ROUNDS):
            load.append(_seconds([sys.executable, "-c", LOAD, str(path)]))
            measure.append(_seconds([str(husk), "measure", str(path), "--quick", "--json"]))
    loaded, measured = statistics.median(load), statistics.median(measure)
    print(f"measure_vs_load: {len(mesh.faces):,} faces, median of {ROUNDS} whole processes each")
    print(f"  load with the mesh library {loaded:.2f} s, husk measure --quick {measured:.2f} s")
    print(f"  ratio {measured / loaded:.2f} (wanted: at most 2)")


def _seconds(command: list[str]) -> float:
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
