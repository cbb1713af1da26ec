"""What the row of a pour says, as the core's values."""

from datetime import datetime
from decimal import Decimal

from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.pouring.steps import CoatRecord, Comparison, compare
from mildhusk.store.tables import Pour
from mildhusk.store.values import POUR_PLANS


def followed_by(pour: Pour) -> PourPlan:
    """Return the plan a pour follows."""
    return POUR_PLANS.read(pour.plan)


def records_of(pour: Pour) -> tuple[CoatRecord, ...]:
    """Return what has been done, as the core's values."""
    return tuple(
        CoatRecord(
            number=row.number,
            a_kg=kilograms(row.a_g),
            b_kg=kilograms(row.b_g),
            weighed_at=row.weighed_at,
            mixed_at=row.mixed_at,
            poured_at=row.poured_at,
            gelled_at=row.gelled_at,
        )
        for row in pour.coats
    )


def comparison_of(pour: Pour) -> Comparison:
    """Return the pour beside its plan."""
    plan = followed_by(pour)
    return compare(plan.total_charge_kg, plan.cast_kg, records_of(pour), whole_cast_kg(pour))


def whole_cast_kg(pour: Pour) -> float | None:
    """Return what came out, with what was cut away before it was weighed; None of no cast. [kg]"""
    cast_kg = kilograms(pour.cast_g)
    return None if cast_kg is None else cast_kg + (kilograms(pour.offcuts_g) or 0.0)


def last_contact(pour: Pour) -> datetime:
    """Return when A met B for the last coat that was mixed; the start where none was."""
    mixed = [coat.mixed_at for coat in pour.coats if coat.mixed_at is not None]
    return max(mixed, default=pour.created_at)


def kilograms(grams: Decimal | None) -> float | None:
    """Return a kept weight in SI. [kg]"""
    return None if grams is None else float(grams / 1000)
