"""A workshop of invented truths: its pours, casts and readings, and what each of them teaches."""

from datetime import UTC, datetime, timedelta

from core.plans import planned
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.learning.learned import Taught
from mildhusk.core.learning.pooling import Level
from mildhusk.core.learning.readings import ReadBy, WallReading
from mildhusk.core.pouring.lessons import lesson_of
from mildhusk.core.pouring.steps import CoatRecord

DAY = datetime(2026, 3, 1, 12, tzinfo=UTC)
PLACES = (0.6, 0.75, 0.9, 1.0, 1.0, 1.15, 1.3, 1.5)
"""Simulated walls where a cast is read, by its mean."""
HERE = {
    Level.WORKSHOP: "here",
    Level.RESIN: "fast",
    Level.LOT: "blue",
    Level.MOULD: "glove",
    Level.HANDS: "by hand",
}
LOST, COVERED, SLOWER = 0.07, 1.06, 0.88
"""Invented truths: what stays in the cup, the area, the times."""


def poured(sheet, rng=None, loss=LOST, area=COVERED, times=SLOWER):
    """A pour of a sheet in a workshop of such truths, its cast weight and readings of its wall."""
    plan = PourPlan.of(sheet)
    off = (lambda sd: 1.0 + sd * rng.standard_normal()) if rng is not None else lambda sd: 1.0
    records = [
        CoatRecord(
            coat.number, coat.parts_kg.A, coat.parts_kg.B, DAY, DAY,
            DAY + timedelta(seconds=60),
            DAY + timedelta(seconds=coat.roll_until_s / sheet.time_factor * times * off(0.05)),
        )
        for coat in plan.coats
    ]  # fmt: skip
    cast_kg = plan.total_charge_kg * (1.0 - loss) * off(0.008)
    # What was weighed, simulated with the plan's own loss and area; on more face it is thinner.
    simulated_kg = plan.cast_kg / plan.area_factor
    thicker = cast_kg / simulated_kg / area
    readings = [
        WallReading(
            ReadBy.CALIPER, place * plan.even_wall_m * thicker * off(0.06), None,
            place * plan.even_wall_m, simulated_kg,
        )
        for place in PLACES
    ]  # fmt: skip
    return plan, records, cast_kg, readings


def taught(rng, count, **wish):
    sheet = planned(**wish)
    return [
        Taught(lesson_of(*poured(sheet, rng)), HERE, DAY + timedelta(days=at), f"pour {at}")
        for at in range(count)
    ]
