"""What a mould takes, before it is planned coat by coat: rubber, shell, hours, weight."""

import math
from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.wall_volume import ShellCurve, outer_area, outer_volume
from mildhusk.core.materials.kinds import Rubber, ShellMaterial

RUBBER_LOSS = 0.08
"""Share of the rubber mixed that stays on board, brush and cup (assumed)."""

FLANGE_SHARE = 0.15
"""Flanges and overlaps, as a share of the shell's area (assumed)."""

RUBBER_COAT_WALL_M = 0.003
"""What a brushed coat of rubber leaves (common practice, no source: 9 to 13 mm in 3 to 5 coats)."""

BRUSHING_HOURS_PER_M2 = 0.8
"""Mixing and brushing one coat of rubber (assumed)."""

MASTER_HOURS = 1.5
"""Fixing, closing and sealing the master, seating and trimming the rubber (assumed)."""


THICKEST_RUBBER_M = 0.026
"""A little over an inch, the most that is poured round a piece (common practice, no source)."""
THINNEST_RUBBER_M = 0.002


def require_wall(wall_m: float) -> None:
    """Refuse a wall of rubber that nobody builds. [m]"""
    require_between(
        wall_m,
        THINNEST_RUBBER_M,
        THICKEST_RUBBER_M,
        name="The wall of rubber",
        field="rubber_wall_m",
        error=MouldError,
        shown_in="mm",
        scale=1e3,
    )


@dataclass(frozen=True, slots=True)
class MouldBuild:
    """How a mould is to be built.

    Parameters
    ----------
    rubber : Rubber
    rubber_wall_m : float
        Wanted all over. [m]
    shell : ShellMaterial
    life_casts : int
        Casts expected of it.

    Raises
    ------
    MouldError
        A wall or a life out of range.
    """

    rubber: Rubber
    rubber_wall_m: float
    shell: ShellMaterial
    life_casts: int

    def __post_init__(self) -> None:
        require_wall(self.rubber_wall_m)
        require_between(
            self.life_casts,
            1,
            1000,
            name="The expected life",
            field="life_casts",
            error=MouldError,
            shown_in="casts",
        )


@dataclass(frozen=True, slots=True)
class MouldEstimate:
    """What a mould takes. An estimate: coats, split and keys are not planned yet.

    Parameters
    ----------
    rubber_kg : float
        To mix, with what is lost. [kg]
    rubber_coats : int
        Brushed coats for the wall.
    shell_m2, shell_kg : float
        Area of the shell with its flanges, and its weight. [m^2], [kg]
    hours : float
        Work. [h]
    weight_kg : float
        Rubber and shell as they are lifted. [kg]
    """

    rubber_kg: float
    rubber_coats: int
    shell_m2: float
    shell_kg: float
    hours: float
    weight_kg: float


def estimate_mould(face: FaceMeasures, build: MouldBuild) -> MouldEstimate:
    """Estimate a brushed mould round a casting face.

    Parameters
    ----------
    face : FaceMeasures
    build : MouldBuild

    Returns
    -------
    MouldEstimate

    Notes
    -----
    Rubber on the mould = outward shell volume x density; what is mixed is that by (1 - loss). The
    shell covers the outside of the rubber, more its flanges.
    """
    curve = ShellCurve.of(face)
    on_mould = outer_volume(curve, build.rubber_wall_m) * build.rubber.density_kg_m3
    shell_m2 = outer_area(curve, build.rubber_wall_m) * (1.0 + FLANGE_SHARE)
    shell_kg = shell_m2 * build.shell.mass_per_m2
    coats = math.ceil(build.rubber_wall_m / RUBBER_COAT_WALL_M - 1e-6)
    return MouldEstimate(
        rubber_kg=on_mould / (1.0 - RUBBER_LOSS),
        rubber_coats=coats,
        shell_m2=shell_m2,
        shell_kg=shell_kg,
        hours=MASTER_HOURS
        + coats * BRUSHING_HOURS_PER_M2 * face.area_m2
        + shell_m2 * build.shell.hours_per_m2,
        weight_kg=on_mould + shell_kg,
    )
