"""Coats that landed as a plain document."""

from dataclasses import asdict
from typing import Any

import numpy as np

from mildhusk.core.coating.coats import THICK, Coated, CoatRun
from mildhusk.core.coating.figures import centre_of_mass, wall_figures
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.places import Place, name_of, thick_places, thin_line, thin_places
from mildhusk.core.geometry.mesh import Flags, Floats

Document = dict[str, Any]


def coated_document(
    mould: Coated, density_kg_m3: float, target_m: float, waste: Flags | None = None
) -> Document:
    """Return what a row of coats came to.

    Parameters
    ----------
    mould : Coated
        With at least one coat.
    density_kg_m3 : float
        Cured. [kg/m^3]
    target_m : float
        Wall that the thin places are judged by. [m]
    waste : (m,) bool or None
        Faces that are cut away later: cast and weighed, but not judged by the target.
    """
    waste = np.zeros(len(mould.wall_m), dtype=bool) if waste is None else waste
    figures = wall_figures(mould.grid, mould.wall_m, target_m, density_kg_m3)
    kept = wall_figures(mould.grid, mould.wall_m, target_m, density_kg_m3, waste)
    # What is cut away may be as thin as it likes.
    judged = np.where(waste, np.inf, mould.wall_m)
    wet = [run.all_wet_s for run in mould.coats]
    stopped = [run.still_s for run in mould.coats if run.still_s is not None]
    on_face = ~mould.grid.lid
    thin_m = thin_line(mould.grid, judged, target_m)
    face_m2 = float(mould.grid.area[on_face].sum())
    return {
        "estimate": True,
        "doubt": _DOUBT.format(_OF_A_LID if mould.grid.lid.any() else ""),
        **asdict(figures),
        "min_m": kept.min_m,
        "under_target": kept.under_target,
        "target_m": target_m,
        "coat_target_m": target_m / len(mould.coats),
        "spilt_kg": sum(run.spilt_kg for run in mould.coats),
        "pool_kg": sum(run.pool_kg for run in mould.coats),
        "lid_kg": float((mould.wall_m * mould.grid.area)[mould.grid.lid].sum() * density_kg_m3),
        "mass_error": max(run.mass_error for run in mould.coats),
        "all_wet_s": wet[0],
        "still_s": max(stopped) if stopped else None,
        "centre_of_mass_m": centre_of_mass(mould.grid, mould.wall_m).tolist(),
        "faces": len(mould.grid.area),
        "thinnest_at": _where(mould.grid, -judged),
        "thickest_at": _where(mould.grid, mould.wall_m),
        "thin_under_m": thin_m,
        "thin_places": _places(thin_places(mould.grid, judged, thin_m)),
        "thick_places": _places(thick_places(mould.grid, mould.wall_m, THICK * figures.p50_m)),
        "reached": float(mould.grid.area[mould.coats[0].wet & on_face].sum()) / face_m2,
        "in_air_m2": float(mould.grid.area[mould.coats[0].in_air].sum()),
        **_more_coats(mould, density_kg_m3, target_m, waste),
        "coats": [_coat(mould.grid, run, density_kg_m3) for run in mould.coats],
    }


_DOUBT = (
    "Estimate: surface tension and inertia are left out; meshes and steps alone move it by "
    "3 to 5 %{}."
)
_OF_A_LID = ", under a lid by 5 to 15 %"
_MOST_THIN = 0.01


def _places(found: list[Place]) -> list[Document]:
    return [
        {"name": one.name, "at_m": list(one.at_m), "area_m2": one.area_m2, "wall_m": one.wall_m}
        for one in found
    ]


def _where(grid: CoatGrid, most: Floats) -> str:
    return name_of(grid, grid.centre[int(np.argmax(np.where(grid.lid, -np.inf, most)))])


def _more_coats(mould: Coated, density: float, target_m: float, waste: Flags) -> Document:
    """How many coats the target takes, and how much less resin a paste on the thin places takes.

    The paste fills up each face to the target; what it saves is beside whole coats more.
    """
    grid, needed = mould.grid, _coats_needed(mould, target_m, waste, _MOST_THIN)
    lacks = np.where(grid.lid | waste, 0.0, np.maximum(target_m - mould.wall_m, 0.0))
    paste_kg = float(lacks @ grid.area) * density
    more = 0 if needed is None else max(needed - len(mould.coats), 0)
    saves = more * mould.coats[-1].charge_kg - paste_kg if more else None
    return {
        "coats_needed": needed,
        "coats_for_thinnest": _coats_needed(mould, target_m, waste, 0.0),
        "paste_kg": paste_kg,
        "paste_saves_kg": saves,
    }


def _coats_needed(mould: Coated, target_m: float, waste: Flags, most_thin: float) -> int | None:
    """How many such coats until all but so much of the face meets the target.

    Counted on by the last coat, where the coats there are do not do; None where more of the face
    than that takes next to nothing of it.
    """
    on_face = ~mould.grid.lid & ~waste
    area = mould.grid.area[on_face]

    def thin(wall: Floats) -> bool:
        return float(area[wall[on_face] < target_m].sum() / area.sum()) > most_thin

    wall = np.zeros(len(mould.grid.area))
    for number, run in enumerate(mould.coats, start=1):
        wall = wall + run.wall_m
        if not thin(wall):
            return number
    last = mould.coats[-1].wall_m
    for more in range(1, 41):
        if not thin(wall + more * last):
            return len(mould.coats) + more
    return None


def _coat(grid: CoatGrid, run: CoatRun, density: float) -> Document:
    figures = wall_figures(grid, run.wall_m, 0.0, density)
    return {
        "charge_kg": run.charge_kg,
        "mean_m": figures.mean_m,
        "p05_m": figures.p05_m,
        "p50_m": figures.p50_m,
        "p95_m": figures.p95_m,
        "spilt_kg": run.spilt_kg,
        "pool_kg": run.pool_kg,
        "first_spill_s": run.first_spill_s,
        "all_wet_s": run.all_wet_s,
        "still_s": run.still_s,
    }
