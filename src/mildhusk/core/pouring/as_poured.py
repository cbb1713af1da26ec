"""A cast as it was really poured and turned, as charges that land in the mould."""

from collections.abc import Sequence
from dataclasses import dataclass

from mildhusk.core.casting.charges import Charge
from mildhusk.core.casting.coats import FLOWING
from mildhusk.core.casting.plan import CoatPlan
from mildhusk.core.casting.pour_plan import PourPlan
from mildhusk.core.casting.room_clock import coat_in_room
from mildhusk.core.coating.motion import Motion, motion_named
from mildhusk.core.constants import MIXING_TIME_S
from mildhusk.core.errors import CoatingError
from mildhusk.core.pouring.steps import CoatRecord


@dataclass(frozen=True, slots=True)
class CoatAsPoured:
    """What is known of a coat that was poured.

    Parameters
    ----------
    record : CoatRecord
        What was weighed, and when each step was done.
    room_k : float or None
        As a probe told it; None as it was planned. [K]
    recorded : Motion or None
        How the mould was really turned, from the pour on; None where that was not recorded.
    """

    record: CoatRecord
    room_k: float | None
    recorded: Motion | None


def charges_as_planned(plan: PourPlan) -> list[Charge]:
    """Return the coats of a plan that flow, as it has them.

    Raises
    ------
    CoatingError
        A plan that does not say how its mould is turned.
    """
    return [
        Charge(coat.charge_kg, _planned_motion(coat), _planned_room(plan))
        for coat in plan.coats
        if coat.kind in FLOWING
    ]


def charges_as_poured(plan: PourPlan, coats: Sequence[CoatAsPoured]) -> list[Charge]:
    """Return the coats of a plan as they were poured.

    Parameters
    ----------
    plan : PourPlan
    coats : sequence of CoatAsPoured
        In their order; a paste, and what never came into the mould, is left out.

    Returns
    -------
    list of Charge
        What is mixed in goes with what was weighed of A and B. Turned as recorded, else as planned,
        a pattern by hand at the pace that the guide kept in that room.

    Raises
    ------
    CoatingError
        A coat that was neither recorded nor planned with a way of turning it.
    """
    charges = []
    for coat in coats:
        record, planned = coat.record, plan.coats[coat.record.number - 1]
        if planned.kind not in FLOWING or record.poured_at is None:
            continue
        weighed_kg = (record.a_kg or 0.0) + (record.b_kg or 0.0)
        poured_s = MIXING_TIME_S
        if record.mixed_at is not None:
            poured_s = (record.poured_at - record.mixed_at).total_seconds()
        charges.append(
            Charge(
                planned.charge_kg * weighed_kg / (planned.parts_kg.A + planned.parts_kg.B),
                coat.recorded or _guided_motion(plan, planned, coat.room_k),
                coat.room_k or _planned_room(plan),
                poured_s,
            )
        )
    return charges


def _planned_motion(coat: CoatPlan) -> Motion:
    if not coat.motion:
        raise CoatingError(
            f"The plan of this pour does not say how the mould is turned for coat {coat.number}; "
            "say it on the cast sheet before the next pour.",
            "motion",
        )
    return motion_named(coat.motion)


def _guided_motion(plan: PourPlan, coat: CoatPlan, room_k: float | None) -> Motion:
    motion = _planned_motion(coat)
    if not motion.by_hand or motion.is_by_eye:
        return motion
    found = coat_in_room(plan.rooms_of(coat.number), plan.room_k, room_k)
    return motion if found is None else motion.at_pace(found.pace)


def _planned_room(plan: PourPlan) -> float:
    if plan.room_k is None:
        raise CoatingError("This pour was begun before rooms were kept with it.", "room")
    return plan.room_k
