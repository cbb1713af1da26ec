"""What one pour teaches, by itself: measured against data sheet and piece, never against its plan.

So a plan that was made with learned values teaches what one without them does.
"""

import math
from collections.abc import Sequence

import numpy as np

from mildhusk.core.casting.coats import FLOWING
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.learning.lesson import Lesson, Told
from mildhusk.core.learning.readings import WallReading
from mildhusk.core.pouring.steps import CoatRecord

_LONGEST, _SHORTEST = 3.0, 1.0 / 3.0
"""A gel time beyond these, by the data sheet's, is a tick at the wrong time. [1]"""
_MOST_LOST = 0.6
"""More than this was not lost in a cup: something was weighed wrong. [1]"""
FEWEST_READINGS, _FEWEST_FOR_EVENNESS = 3, 5
_READ_SPREAD, _PLACE_SPREAD, _CALIPER = 0.058, 0.3, 0.01
"""What a reading is off the simulated wall of its place, what a wall is off its mean, and what a
caliper is off in all its readings (assumed). [1]"""
_LEAST_SPREAD = 0.08
"""Simulated walls that differ less tell nothing of evenness (assumed). [1]"""


def lesson_of(
    plan: PourPlan,
    records: Sequence[CoatRecord],
    cast_kg: float | None,
    readings: Sequence[WallReading] = (),
    viscosity: Told | None = None,
) -> Lesson:
    """Return what a pour teaches.

    Parameters
    ----------
    plan : PourPlan
        It followed.
    records : sequence of CoatRecord
        Coat by coat.
    cast_kg : float or None
        All that came out, with what was cut off since; None where nothing usable did. [kg]
    readings : sequence of WallReading
    viscosity : Told or None
        As it was fitted to the readings.

    Returns
    -------
    Lesson
    """
    poured_kg = math.fsum(
        (one.a_kg or 0.0) + (one.b_kg or 0.0) for one in records if one.poured_at is not None
    )
    read = [one for one in readings if one.wall_m is not None]
    # A paste is not rolled, and rigid foam weighs in the cast.
    is_rolled = all(one.kind in FLOWING for one in plan.coats)
    told_kg = cast_kg if is_rolled and poured_kg > 0.0 else None
    motion = next((one.motion for one in plan.coats if one.motion), "")
    return Lesson(
        loss=None if told_kg is None else _loss(plan, poured_kg, told_kg),
        area_factor=None if told_kg is None else _area(plan, told_kg, read),
        time_factor=_times(plan, records),
        coat_wall=None if told_kg is None else _coat_wall(plan, records, told_kg),
        evenness=_evenness(plan, read),
        viscosity_factor=viscosity,
        by_hand=not motion or motion_named(motion).by_hand,
    )


def _loss(plan: PourPlan, poured_kg: float, cast_kg: float) -> Told | None:
    """Return what stayed in cup and on stick; lid and rim are the simulation's."""
    added = plan.total_charge_kg / math.fsum(
        coat.parts_kg.A + coat.parts_kg.B for coat in plan.coats
    )
    lost = 1.0 - cast_kg / (poured_kg * added * (1.0 - plan.astray_share))
    return Told(max(lost, 0.0)) if -0.02 <= lost <= _MOST_LOST else None


def _area(plan: PourPlan, cast_kg: float, read: Sequence[WallReading]) -> Told | None:
    if len(read) < FEWEST_READINGS or plan.even_wall_m is None:
        return None
    on_place, kg, spread = _on_place(read), plan.cast_kg / plan.area_factor, _PLACE_SPREAD
    if len(on_place) == len(read):
        thicker = _mean_log([wall_m / simulated_m for wall_m, simulated_m in on_place])
        kg, spread = read[0].cast_kg or kg, _READ_SPREAD
    else:
        thicker = _mean_log([(one.wall_m or 0.0) / plan.even_wall_m for one in read])
    noise = math.hypot(spread / math.sqrt(len(read)), _CALIPER)
    return Told(cast_kg / kg / math.exp(thicker), noise)


def _on_place(read: Sequence[WallReading]) -> list[tuple[float, float]]:
    """Return read and simulated walls, where the place was simulated. [m]"""
    return [(one.wall_m, one.simulated_m) for one in read if one.wall_m and one.simulated_m]


def _times(plan: PourPlan, records: Sequence[CoatRecord]) -> Told | None:
    ratios = [
        (one.gelled_at - one.mixed_at).total_seconds() / coat.roll_until_s * plan.time_factor
        for one, coat in zip(records, plan.coats, strict=False)
        if one.gelled_at is not None and one.mixed_at is not None
    ]
    sane = [one for one in ratios if _SHORTEST <= one <= _LONGEST]
    if not sane:
        return None
    # Twice too long and half too long weigh alike.
    return Told(math.exp(_mean_log(sane)), 1.0 / math.sqrt(len(sane)))


def _coat_wall(plan: PourPlan, records: Sequence[CoatRecord], cast_kg: float) -> Told | None:
    poured = sum(one.poured_at is not None for one in records)
    if plan.even_wall_m is None or plan.coat_wall_m is None or plan.cast_kg <= 0.0:
        return None
    return Told(plan.even_wall_m * cast_kg / plan.cast_kg / poured / plan.coat_wall_m)


def _evenness(plan: PourPlan, read: Sequence[WallReading]) -> Told | None:
    """Return the slope of read on simulated walls, both by their means, as logarithms."""
    on_place = _on_place(read)
    if len(on_place) < _FEWEST_FOR_EVENNESS:
        return None
    walls, simulated = np.log(np.array(on_place)).T
    walls, simulated = walls - walls.mean(), simulated - simulated.mean()
    spread = float(np.sqrt((simulated**2).mean()))
    if spread < _LEAST_SPREAD:
        return None
    slope = float(simulated @ walls / (simulated @ simulated))
    # What it is set beside was simulated as uneven as it was planned.
    noise = _READ_SPREAD / spread / math.sqrt(len(on_place))
    return Told(slope * plan.evenness, noise * plan.evenness)


def _mean_log(ratios: Sequence[float]) -> float:
    return math.fsum(math.log(one) for one in ratios) / len(ratios)
