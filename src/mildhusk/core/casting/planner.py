"""The planner: coats are simulated and planned again until they keep the least wall."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from mildhusk.core.casting.plan import CastSheet, SheetWall, ThinPlace, plan_cast, rolled_coats
from mildhusk.core.casting.settling import Landed, bare_mould, coat_sheet, density_of
from mildhusk.core.casting.two_part import two_part_of
from mildhusk.core.casting.unevenness import StandsOn, Unevenness, thinnest_share
from mildhusk.core.casting.wish import CastWish
from mildhusk.core.coating.answer import LandedWall, landed_wall
from mildhusk.core.coating.coats import Coated
from mildhusk.core.coating.grid import marked_on, usual_edge_m
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.coating.turning import HowTurned
from mildhusk.core.equipment import Equipment
from mildhusk.core.errors import CoatingError
from mildhusk.core.geometry.measure import FaceMeasures
from mildhusk.core.geometry.mesh import Flags, Mesh
from mildhusk.core.geometry.wall_volume import ShellCurve, shell_volume
from mildhusk.core.materials.catalogue import CastingMaterial
from mildhusk.core.progress import Tell, silent, within

_ROUGH_M = 0.012
_MOST_RUNS = 5
_SHARES = (0.1, 0.45, 0.7, 0.85, 0.95, 1.0)
"""How far the whole is before each run, as most take two. [1]"""
_SAME_LOSS = 0.02
"""Shares on lid and rim that differ by less are the same (assumed). [1]"""
_MOST_SPILT = 0.1
"""No more is poured for what runs over the rim than this: it is told, and mended (assumed). [1]"""
_AIM, _TOO_MUCH = 1.015, 1.04
"""The least wall is aimed at with so much more, and is kept with no more than so much more. [1]"""
SETTLED_BAND, ROUGH_BAND = 0.05, 0.2
"""What a simulated thin place may be off by, and one of a rough look (assumed). [1]"""


@dataclass(frozen=True, slots=True, eq=False)
class Settled:
    """A plan that was simulated as it stands.

    Parameters
    ----------
    sheet : CastSheet
    landed : Landed
    wall : LandedWall
    edge_m : float
        Of the faces it was computed on. [m]
    """

    sheet: CastSheet
    landed: Landed
    wall: LandedWall
    edge_m: float


@dataclass(frozen=True, slots=True, eq=False)
class Piece:
    """What a plan is settled on.

    Parameters
    ----------
    face : Mesh
        Casting face. [m]
    cut_away : (m,) bool
        Which of its faces become waste: cast, and not judged by the least wall.
    measures : FaceMeasures
    """

    face: Mesh
    cut_away: Flags
    measures: FaceMeasures


def settle(
    piece: Piece,
    material: CastingMaterial,
    wish: CastWish,
    equipment: Equipment | None = None,
    tell: Tell = silent,
    edge_m: float | None = None,
    first_look: Callable[[Settled], None] | None = None,
) -> Settled:
    """Plan a cast by what its coats leave on the wall.

    Parameters
    ----------
    piece : Piece
    material : CastingMaterial
    wish : CastWish
        Says how the mould is turned.
    equipment : Equipment or None
    tell : callable
        Is told the progress.
    edge_m : float or None
        Of the faces computed on; None as the piece's size asks. [m]
    first_look : callable or None
        Is given what the estimate's coats leave by a rough look, and the plan made from it.

    Returns
    -------
    Settled

    Raises
    ------
    CoatingError
        Not said how it is turned, a material that sets by cooling, a motion that pours it out.
    WallError, ConditionError
        As `plan_cast`.

    Notes
    -----
    A plan is a fixed point: it is made for a wall as uneven as its own coats leave it. The estimate
    is planned and looked at roughly, then planned again and simulated on fine faces, until the
    least wall is kept with at most 4 % more.
    """
    sheet = plan_cast(piece.measures, material, wish, equipment)
    if sheet.uneven is None:
        two_part_of(sheet)
        raise CoatingError("Say how the mould is turned, so that it can be simulated.", "motion")
    estimate = sheet.estimate
    rough = bare_mould(piece.face, _ROUGH_M, capped=sheet.lid)
    landed = coat_sheet(rough, sheet, _how(sheet, _ROUGH_M), within(tell, 0.0, _SHARES[0]))
    wall = wall_of(piece, sheet, landed.mould)
    found = unevenness_of(sheet, wall)
    found = replace(found, stands_on=StandsOn.FIRST_LOOK, band=ROUGH_BAND)
    looked = plan_cast(piece.measures, material, wish, equipment, found)
    if first_look is not None:
        first_look(Settled(replace(looked, estimate=estimate), landed, wall, _ROUGH_M))
    edge_m = edge_m or usual_edge_m(piece.face)
    mould = bare_mould(piece.face, edge_m, capped=sheet.lid)
    runs: list[_Run] = []
    while len(runs) < _MOST_RUNS:
        uneven = replace(found, stands_on=StandsOn.SETTLED, band=SETTLED_BAND)
        sheet = plan_cast(piece.measures, material, wish, equipment, uneven)
        if any(_charges(sheet) == _charges(one.sheet) for one in runs):
            break
        told = within(tell, _SHARES[len(runs)], _SHARES[len(runs) + 1])
        landed = coat_sheet(mould, sheet, _how(sheet, edge_m), told)
        runs.append(_Run(sheet, landed, wall_of(piece, sheet, landed.mould)))
        found = unevenness_of(sheet, runs[-1].wall)
        if runs[-1].keeps(found):
            break
        if runs[-1].over > _TOO_MUCH and any(one.over < 1.0 for one in runs[:-1]):
            # Fewer coats did not do: less of it in as many.
            found = replace(found, coats=_coats_kept(sheet))
        found = _between(runs) or found
    best = min(runs, key=lambda one: one.rank)
    sheet, landed, wall = best.sheet, best.landed, best.wall
    kept = SheetWall(
        mean_m=wall.mean_m,
        p05_m=wall.p05_m,
        p01_m=wall.p01_m,
        share_under=wall.under_target,
        never_wet=wall.never_wet,
        puddle_kg=wall.pool_kg,
        spilt_kg=wall.spilt_kg,
        lid_kg=wall.lid_kg,
        paste_kg=wall.paste_kg,
        thin=tuple(ThinPlace(one.name, one.area_m2, one.wall_m) for one in wall.thin_places),
    )
    return Settled(replace(sheet, estimate=estimate, wall=kept), landed, wall, edge_m)


def _coats_kept(sheet: CastSheet) -> int | None:
    return len(rolled_coats(sheet)) if sheet.way.explains_more_coats else None


def _between(runs: Sequence["_Run"]) -> Unevenness | None:
    """Return what lies between too little and too much in as many coats, by regula falsi.

    How even a wall comes out changes a little with every charge, by chance: going by the last run
    alone swings from one side to the other. None where both sides are not known.
    """
    last = runs[-1].sheet
    alike = [one for one in runs if len(rolled_coats(one.sheet)) == len(rolled_coats(last))]
    below = max((one for one in alike if one.over < 1.0), key=lambda one: one.over, default=None)
    above = min((one for one in alike if one.over >= 1.0), key=lambda one: one.over, default=None)
    if below is None or above is None or below.even >= above.even:
        return None
    share = (_AIM - below.over) / (above.over - below.over)
    even = below.even + share * (above.even - below.even)
    uneven = runs[-1].uneven
    return replace(uneven, thin_share=min(1.0 / even, 1.0), coats=_coats_kept(last))


def wall_of(piece: Piece, sheet: CastSheet, mould: Coated) -> LandedWall:
    """Return the wall of a sheet's coats as they landed.

    Parameters
    ----------
    piece : Piece
    sheet : CastSheet
    mould : Coated

    Returns
    -------
    LandedWall
    """
    waste = marked_on(mould.grid, piece.face, piece.cut_away)
    return landed_wall(mould, density_of(sheet), sheet.wish.wall_m, waste)


def unevenness_of(sheet: CastSheet, wall: LandedWall) -> Unevenness:
    """Return how uneven a sheet's coats came out.

    Parameters
    ----------
    sheet : CastSheet
    wall : LandedWall

    Returns
    -------
    Unevenness
        With the band of a settled plan.
    """
    density = density_of(sheet)
    even_m = even_wall_m(sheet.face, wall.cast_kg / density * sheet.area_m2 / wall.face_m2)
    poured_kg = wall.cast_kg + wall.lid_kg + wall.spilt_kg
    share = _least_m(sheet, wall) / (_AIM * even_m)
    return Unevenness(
        thin_share=float(np.clip(share, _thinnest(sheet), 1.0)),
        lid_share=wall.lid_kg / poured_kg,
        spilt_share=min(wall.spilt_kg / poured_kg, _MOST_SPILT),
        band=SETTLED_BAND,
        stands_on=StandsOn.SETTLED,
    )


def even_wall_m(face: FaceMeasures, volume_m3: float) -> float:
    """Return the even wall that takes a volume. [m]

    Parameters
    ----------
    face : FaceMeasures
    volume_m3 : float
        [m^3]

    Returns
    -------
    float
        By the table of V(t) where there is one, else by bisection of its formula. [m]
    """
    if face.curve is not None:
        return float(np.interp(volume_m3, face.curve.volumes_m3, face.curve.walls_m))
    curve = ShellCurve.of(face)
    low, high = 0.0, 2.0 * volume_m3 / face.area_m2
    for _ in range(50):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if shell_volume(curve, middle) < volume_m3 else (low, middle)
    return high


def _thinnest(sheet: CastSheet) -> float:
    return thinnest_share(motion_named(str(sheet.motion)))


def _least_m(sheet: CastSheet, wall: LandedWall) -> float:
    by_share = {0.05: wall.p05_m, 0.01: wall.p01_m, 0.5: wall.p50_m}
    return by_share[sheet.wish.least.share_under]


@dataclass(frozen=True, slots=True, eq=False)
class _Run:
    """A plan and what its coats left."""

    sheet: CastSheet
    landed: Landed
    wall: LandedWall

    @property
    def uneven(self) -> Unevenness:
        """What it was planned for."""
        assert self.sheet.uneven is not None
        return self.sheet.uneven

    @property
    def even(self) -> float:
        """The even wall it was planned for, over the least one. [1]"""
        return 1.0 / self.uneven.thin_share

    @property
    def over(self) -> float:
        """The least wall it has, over the one that is wished for. [1]"""
        return _least_m(self.sheet, self.wall) / self.sheet.wish.wall_m

    @property
    def rank(self) -> tuple[bool, float]:
        """What keeps the wish stands first, then what takes the least resin or misses least."""
        keeps = self.over >= 1.0
        return (not keeps, self.sheet.total_charge_kg if keeps else -self.over)

    def keeps(self, found: Unevenness) -> bool:
        """Whether it keeps the wish with little more, or cannot be thickened to it."""
        if self.sheet.way.mends_thin_places:
            return True
        planned = self.sheet.uneven
        if planned is not None and max(found.thin_share, planned.thin_share) <= _thinnest(
            self.sheet
        ):
            return math.isclose(found.astray_share, planned.astray_share, abs_tol=_SAME_LOSS)
        return 1.0 <= self.over <= _TOO_MUCH


def _how(sheet: CastSheet, edge_m: float) -> HowTurned:
    return HowTurned(motion_named(str(sheet.motion)), sheet.lid, edge_m)


def _charges(sheet: CastSheet) -> list[float]:
    return [coat.recipe.total_kg for coat in rolled_coats(sheet)]
