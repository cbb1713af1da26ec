"""Coats that landed as a plain document."""

from dataclasses import asdict
from typing import Any

from mildhusk.core.coating.coats import Coated, CoatRun, centre_of_mass, wall_figures
from mildhusk.core.coating.grid import CoatGrid

Document = dict[str, Any]


def coated_document(mould: Coated, density_kg_m3: float, target_m: float) -> Document:
    """Return what a row of coats came to.

    Parameters
    ----------
    mould : Coated
        With at least one coat.
    density_kg_m3 : float
        Cured. [kg/m^3]
    target_m : float
        Wall that the thin places are judged by. [m]
    """
    figures = wall_figures(mould.grid, mould.wall_m, target_m, density_kg_m3)
    wet = [run.all_wet_s for run in mould.coats]
    stopped = [run.still_s for run in mould.coats if run.still_s is not None]
    return {
        "estimate": True,
        **asdict(figures),
        "target_m": target_m,
        "spilt_kg": sum(run.spilt_kg for run in mould.coats),
        "pool_kg": sum(run.pool_kg for run in mould.coats),
        "lid_kg": float((mould.wall_m * mould.grid.area)[mould.grid.lid].sum() * density_kg_m3),
        "mass_error": max(run.mass_error for run in mould.coats),
        "all_wet_s": wet[0],
        "still_s": max(stopped) if stopped else None,
        "centre_of_mass_m": centre_of_mass(mould.grid, mould.wall_m).tolist(),
        "faces": len(mould.grid.area),
        "coats": [_coat(mould.grid, run, density_kg_m3) for run in mould.coats],
    }


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
