"""Rubber that is poured: round a clay blanket, or into a box."""

import math
from dataclasses import dataclass

from mildhusk.core.checks import require_between
from mildhusk.core.constants import GRAVITY_M_S2
from mildhusk.core.errors import MouldError
from mildhusk.core.geometry.measure import measure_face
from mildhusk.core.geometry.sections import outline_along
from mildhusk.core.materials.kinds import Rubber
from mildhusk.core.mould.outside import Standing

TUBE_RADIUS_M, TUBE_LENGTH_M = 0.0225, 0.15
"""A pour tube 40 to 50 mm across (common practice, no source), and its length (assumed)."""
FUNNEL_HEAD_M = 0.10
"""Liquid stands so high over the tube's upper end (assumed)."""
POURED_YIELD_PA = 2.0
"""Yield stress of a rubber that is poured (assumed)."""
BLEED_HOLES_PER_M2 = 40.0
"""Holes where the air leaves a blanket, lowest plugged first (assumed)."""
CLAY_DENSITY_KG_M3 = 1750.0
"""Oil clay (assumed)."""


@dataclass(frozen=True, slots=True)
class Blanket:
    """A blanket of clay that stands for the rubber.

    Parameters
    ----------
    clay_m3, clay_kg : float
        [m^3], [kg]
    fill_s : float
        Pouring the rubber through its tube. [s]
    in_time : bool
        Filled before half the pot life is over, so that it still levels out.
    bleed_holes : int
    """

    clay_m3: float
    clay_kg: float
    fill_s: float
    in_time: bool
    bleed_holes: int


@dataclass(frozen=True, slots=True)
class Block:
    """A block of rubber in a box.

    Parameters
    ----------
    box_m3, outline_m3 : float
        Rubber in a straight box, and in one that follows the outline. [m^3]
    saved_m3 : float
        What the second saves. [m^3]
    """

    box_m3: float
    outline_m3: float

    @property
    def saved_m3(self) -> float:
        """What following the outline saves. [m^3]"""
        return self.box_m3 - self.outline_m3


def tube_flow(
    radius_m: float, length_m: float, pressure_pa: float, viscosity_pa_s: float, yield_pa: float
) -> float:
    """Flow of a thick liquid through a round tube.

    Parameters
    ----------
    radius_m, length_m : float
        [m]
    pressure_pa : float
        Over the length. [Pa]
    viscosity_pa_s, yield_pa : float
        Plastic viscosity and yield stress; without the latter it is Hagen-Poiseuille. [Pa s], [Pa]

    Returns
    -------
    float
        [m^3/s]; nought where the yield stress holds it.

    Raises
    ------
    MouldError
        A size, a pressure or a viscosity that is not positive.

    References
    ----------
    Buckingham-Reiner equation of a Bingham body in a tube (Reiner 1926; from memory).
    """
    if min(radius_m, length_m, pressure_pa, viscosity_pa_s) <= 0.0 or yield_pa < 0.0:
        raise MouldError("A pour tube wants a radius, a length, a head and a viscosity above 0.")
    at_wall = pressure_pa * radius_m / (2.0 * length_m)
    share = yield_pa / at_wall
    if share >= 1.0:
        return 0.0
    newtonian = math.pi * radius_m**4 * pressure_pa / (8.0 * viscosity_pa_s * length_m)
    return newtonian * (1.0 - 4.0 / 3.0 * share + share**4 / 3.0)


def blanket(volume_m3: float, area_m2: float, rubber: Rubber) -> Blanket:
    """Plan a blanket: its clay, and how long the rubber takes to fill what it leaves.

    Parameters
    ----------
    volume_m3 : float
        Of the clay. [m^3]
    area_m2 : float
        Of the face under it. [m^2]
    rubber : Rubber

    Returns
    -------
    Blanket

    Raises
    ------
    MouldError
        The rubber is too stiff to run through the tube.
    """
    head = rubber.density_kg_m3 * GRAVITY_M_S2 * (FUNNEL_HEAD_M + TUBE_LENGTH_M)
    flow = tube_flow(TUBE_RADIUS_M, TUBE_LENGTH_M, head, rubber.viscosity_pa_s, POURED_YIELD_PA)
    if flow <= 0.0:
        raise MouldError(f"'{rubber.name}' does not run through a tube; brush it on.", "rubber_id")
    fill = volume_m3 / flow
    return Blanket(
        clay_m3=volume_m3,
        clay_kg=volume_m3 * CLAY_DENSITY_KG_M3,
        fill_s=fill,
        in_time=fill <= rubber.pot_life_s / 2.0,
        bleed_holes=max(4, round(BLEED_HOLES_PER_M2 * area_m2)),
    )


def volume_of_clay(
    *, mass_kg: float | None = None, size_m: tuple[float, float, float] | None = None
) -> float:
    """Return the volume of removed clay from its weight, or from the block it was packed to. [m^3]

    Raises
    ------
    MouldError
        Neither or both are given, or one is not positive.
    """
    if (mass_kg is None) == (size_m is None):
        raise MouldError("Give either the weight of the clay or the size of its block.", "clay")
    volume = mass_kg / CLAY_DENSITY_KG_M3 if mass_kg is not None else math.prod(size_m or ())
    if not volume > 0.0 or not math.isfinite(volume):
        raise MouldError("The clay has no volume; weigh it, or measure its block.", "clay")
    return volume


def block(piece: Standing, margin_m: float) -> Block:
    """Plan a block: rubber in a straight box, and in one that follows the outline.

    Parameters
    ----------
    piece : Standing
    margin_m : float
        Of rubber round and over the piece. [m]

    Returns
    -------
    Block

    Raises
    ------
    MouldError
        A margin out of range.
    """
    require_between(
        margin_m,
        0.005,
        0.1,
        name="The margin of a block",
        field="rubber_wall_m",
        error=MouldError,
        shown_in="mm",
        scale=1e3,
    )
    outline = outline_along(piece.closed, piece.up)
    height = float((piece.face.vertices @ piece.up).max()) - piece.board_m + margin_m
    solid = measure_face(piece.closed).volume_m3
    around = outline.buffer(margin_m, quad_segs=32)
    straight = around.minimum_rotated_rectangle
    return Block(straight.area * height - solid, around.area * height - solid)
