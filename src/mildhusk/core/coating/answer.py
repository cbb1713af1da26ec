"""The answer about coats that landed: figures of the wall, its places, coats still needed."""

from dataclasses import dataclass

import numpy as np

from mildhusk.core.coating.coats import Coated, CoatRun
from mildhusk.core.coating.figures import THICK, centre_of_mass, puddle_m3, wall_figures
from mildhusk.core.coating.grid import CoatGrid
from mildhusk.core.coating.naming import names_of
from mildhusk.core.coating.places import (
    Place,
    coin_means,
    thick_places,
    thin_line,
    thin_places,
)
from mildhusk.core.coating.thickness import Curvature, curvature_of, thickness, volume_per_area
from mildhusk.core.geometry.mesh import Flags, Floats

_DOUBT = (
    "Estimate: levelling and inertia are left out; meshes and steps alone move it by 3 to 5 %{}."
)
_OF_A_LID = ", under a lid by 5 to 20 %"
_MOST_THIN = 0.01


@dataclass(frozen=True, slots=True)
class LandedCoat:
    """One coat as it landed; see `CoatRun` and `WallFigures`."""

    charge_kg: float
    mean_m: float
    p05_m: float
    p50_m: float
    p95_m: float
    spilt_kg: float
    pool_kg: float
    first_spill_s: float | None
    all_wet_s: float | None
    still_s: float | None

    @classmethod
    def of(
        cls, grid: CoatGrid, run: CoatRun, added_m: Floats, density_kg_m3: float
    ) -> "LandedCoat":
        """Return the figures of a coat, by what it added to the wall along the normals. [m]"""
        figures = wall_figures(grid, added_m, 0.0, density_kg_m3)
        return cls(
            charge_kg=run.charge_kg,
            mean_m=figures.mean_m,
            p05_m=figures.p05_m,
            p50_m=figures.p50_m,
            p95_m=figures.p95_m,
            spilt_kg=run.spilt_kg,
            pool_kg=run.pool_kg,
            first_spill_s=run.first_spill_s,
            all_wet_s=run.all_wet_s,
            still_s=run.still_s,
        )


@dataclass(frozen=True, slots=True)
class LandedWall:
    """The wall that coats left one on another, along its normals; see `WallFigures`.

    Parameters
    ----------
    estimate : bool
    has_lid : bool
        A lid closed an opening, and kept `lid_kg`.
    target_m, coat_target_m : float
        Wall that thin places are judged by, and its share of one coat. [m]
    spilt_kg, lid_kg : float
        [kg]
    pool_kg : float
        In puddles of the whole wall. [kg]
    mass_error : float
        [1]
    all_wet_s, still_s : float or None
        Of the first coat when all was wet, of all when the last liquid stopped. [s]
    centre_of_mass_m : tuple of 3 floats
    faces : int
        Computed on.
    face_m2 : float
        Their area without lids. [m^2]
    thinnest_at, thickest_at : str
        Names of places of a coin's size.
    thin_under_m : float
        Below it a place is told as thin. [m]
    thin_places, thick_places : tuple of Place
    reached, never_wet : float
        Of the face that the first coat wet, and that no coat did. [1]
    in_air_m2 : float
        That a bubble kept dry. [m^2]
    coats_needed, coats_for_thinnest : int or None
        Until nearly all of the face meets the target, and all of it.
    paste_kg : float
        That fills thin places up to the target. [kg]
    paste_saves_kg : float or None
        Beside whole coats more. [kg]
    coats : tuple of LandedCoat
    """

    estimate: bool
    has_lid: bool
    mean_m: float
    p01_m: float
    p05_m: float
    p50_m: float
    p95_m: float
    min_m: float
    max_m: float
    under_target: float
    cast_kg: float
    target_m: float
    coat_target_m: float
    spilt_kg: float
    pool_kg: float
    lid_kg: float
    mass_error: float
    all_wet_s: float | None
    still_s: float | None
    centre_of_mass_m: tuple[float, float, float]
    faces: int
    face_m2: float
    thinnest_at: str
    thickest_at: str
    thin_under_m: float
    thin_places: tuple[Place, ...]
    thick_places: tuple[Place, ...]
    reached: float
    never_wet: float
    in_air_m2: float
    coats_needed: int | None
    coats_for_thinnest: int | None
    paste_kg: float
    paste_saves_kg: float | None
    coats: tuple[LandedCoat, ...]

    @property
    def doubt(self) -> str:
        """How far it may be off, in words."""
        return _DOUBT.format(_OF_A_LID if self.has_lid else "")


def landed_wall(
    mould: Coated, density_kg_m3: float, target_m: float, waste: Flags | None = None
) -> LandedWall:
    """Return the wall that coats left one on another, with its places and what it still lacks.

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

    Returns
    -------
    LandedWall
    """
    grid = mould.grid
    waste = np.zeros(len(mould.wall_m), dtype=bool) if waste is None else waste
    bend = curvature_of(grid)
    walls = walls_after_coats(mould, bend)
    wall_m = walls[-1]
    figures = wall_figures(grid, wall_m, target_m, density_kg_m3)
    kept = wall_figures(grid, wall_m, target_m, density_kg_m3, waste)
    # What is cut away may be as thin as it likes.
    judged = np.where(waste, np.inf, wall_m)
    stopped = [run.still_s for run in mould.coats if run.still_s is not None]
    first, on_face = mould.coats[0], ~grid.lid
    thin_m = thin_line(grid, judged, target_m)
    needed = _coats_needed(grid, walls, target_m, waste, _MOST_THIN)
    lacks = np.where(
        grid.lid | waste | (wall_m >= target_m), 0.0, volume_per_area(bend, target_m) - mould.wall_m
    )
    paste_kg = float(np.maximum(lacks, 0.0) @ grid.area) * density_kg_m3
    more = 0 if needed is None else max(needed - len(mould.coats), 0)
    on_wall = np.where(grid.lid, 0.0, mould.wall_m * grid.area)
    x, y, z = centre_of_mass(grid, mould.wall_m, wall_m).tolist()
    wet = np.any([run.wet for run in mould.coats], axis=0)
    names = names_of(grid)
    face_m2 = float(grid.area[on_face].sum())
    return LandedWall(
        estimate=True,
        has_lid=bool(grid.lid.any()),
        mean_m=figures.mean_m,
        p01_m=kept.p01_m,
        p05_m=kept.p05_m,
        p50_m=figures.p50_m,
        p95_m=figures.p95_m,
        min_m=kept.min_m,
        max_m=figures.max_m,
        under_target=kept.under_target,
        cast_kg=float(on_wall.sum()) * density_kg_m3,
        target_m=target_m,
        coat_target_m=target_m / len(mould.coats),
        spilt_kg=sum(run.spilt_kg for run in mould.coats),
        pool_kg=puddle_m3(grid, mould.wall_m) * density_kg_m3,
        lid_kg=float((mould.wall_m * grid.area)[grid.lid].sum() * density_kg_m3),
        mass_error=max(run.mass_error for run in mould.coats),
        all_wet_s=first.all_wet_s,
        still_s=max(stopped) if stopped else None,
        centre_of_mass_m=(x, y, z),
        faces=len(grid.area),
        face_m2=face_m2,
        thinnest_at=names.of(grid.centre[int(np.argmin(coin_means(grid, judged)))]),
        thickest_at=names.of(grid.centre[_most(coin_means(grid, wall_m))]),
        thin_under_m=thin_m,
        thin_places=tuple(thin_places(grid, judged, thin_m)),
        thick_places=tuple(thick_places(grid, wall_m, THICK * figures.p50_m)),
        reached=float(grid.area[first.wet & on_face].sum()) / face_m2,
        never_wet=float(grid.area[~wet & on_face].sum()) / face_m2,
        in_air_m2=float(grid.area[first.in_air].sum()),
        coats_needed=needed,
        coats_for_thinnest=_coats_needed(grid, walls, target_m, waste, 0.0),
        paste_kg=paste_kg,
        # The paste fills up each face to the target; what it saves is beside whole coats more.
        paste_saves_kg=more * mould.coats[-1].charge_kg - paste_kg if more else None,
        coats=tuple(
            LandedCoat.of(grid, run, added, density_kg_m3)
            for run, added in zip(mould.coats, np.diff(walls, axis=0), strict=True)
        ),
    )


def walls_after_coats(mould: Coated, bend: Curvature | None = None) -> Floats:
    """Return the wall along the normals before the first coat and after each.

    Parameters
    ----------
    mould : Coated
    bend : Curvature or None
        Of its face; None works it out.

    Returns
    -------
    (coats + 1, m) float
        [m]
    """
    bend = curvature_of(mould.grid) if bend is None else bend
    left = np.cumsum([np.zeros(len(mould.grid.area)), *(run.wall_m for run in mould.coats)], axis=0)
    return np.stack([thickness(bend, one) for one in left])


def _most(means_m: Floats) -> int:
    """Return where a mean is largest, where it is known."""
    return int(np.argmax(np.where(np.isfinite(means_m), means_m, -np.inf)))


def _coats_needed(
    grid: CoatGrid, walls: Floats, target_m: float, waste: Flags, most_thin: float
) -> int | None:
    """How many such coats until all but so much of the face meets the target.

    Counted on by the last coat, where the coats there are do not do; None where more of the face
    than that takes next to nothing of it.
    """
    on_face = ~grid.lid & ~waste
    area = grid.area[on_face]

    def thin(wall: Floats) -> bool:
        return float(area[wall[on_face] < target_m].sum() / area.sum()) > most_thin

    for number, wall in enumerate(walls[1:], start=1):
        if not thin(wall):
            return number
    last = walls[-1] - walls[-2]
    for more in range(1, 41):
        if not thin(walls[-1] + more * last):
            return len(walls) - 1 + more
    return None
