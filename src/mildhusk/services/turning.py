"""How a mould was really turned: recorded while a coat is liquid, read as a motion afterwards."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

import numpy as np
from sqlalchemy import select

from mildhusk.core.coating.motion import Motion
from mildhusk.core.coating.recorded import recorded_motion, ups_of_orientation
from mildhusk.core.errors import InputError
from mildhusk.core.geometry.mesh import Floats
from mildhusk.core.pouring.steps import CLOCKS_DIFFER
from mildhusk.services.devices import coat_in_mould
from mildhusk.services.errors import ConflictError, NotFoundError
from mildhusk.services.pours import find_pour
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import Pour, PourStatus, RecordedTurning

SENSOR_OUT = np.array([0.0, 0.0, 1.0])
"""A sensor is screwed on with its third axis out of the opening."""
LONGEST_S = 4.0 * 3600.0
"""A coat that is liquid for longer is recorded no further. [s]"""


@dataclass(frozen=True, slots=True)
class Orientation:
    """How a tablet on a mould is held at a moment; see `ups_of_orientation`. [rad]"""

    at: datetime
    front_to_back: float
    left_to_right: float


@dataclass(frozen=True, slots=True)
class Rolled:
    """A coat that is liquid in its mould, and when it came in."""

    pour: UUID
    coat: int
    poured_at: datetime


def rolled_now(transaction: Transaction) -> Rolled | None:
    """Return the coat that is being rolled; None where there is none, or more than one."""
    found = []
    mine = select(Pour).where(
        Pour.workshop_id == transaction.workshop_id, Pour.status == PourStatus.OPEN
    )
    for pour in transaction.session.scalars(mine):
        coat = coat_in_mould(pour)
        poured_at = None if coat is None else pour.coats[coat - 1].poured_at
        if coat is not None and poured_at is not None:
            found.append(Rolled(pour.id, coat, poured_at))
    # A sensor does not say on which mould it is.
    return found[0] if len(found) == 1 else None


def readings_of(transaction: Transaction, pour_id: UUID, coat: int) -> Floats:
    """Return what was recorded of a coat: moments [s] and directions of up. (n, 4)"""
    kept = transaction.session.get(RecordedTurning, (pour_id, coat))
    content = b"" if kept is None else kept.readings
    return np.frombuffer(content, "<f4").reshape(-1, 4).astype(float)


def keep_readings(
    transaction: Transaction,
    pour_id: UUID,
    coat: int,
    readings: Floats,
    *,
    by_tablet: bool = False,
) -> None:
    """Keep what was recorded of a coat so far; what a tablet records is left to it."""
    kept = transaction.session.get(RecordedTurning, (pour_id, coat))
    if kept is None:
        kept = RecordedTurning(pour_id=pour_id, coat=coat)
        transaction.session.add(kept)
    elif kept.by_tablet and not by_tablet:
        return
    kept.by_tablet = by_tablet
    kept.lasted_s = float(readings[-1, 0])
    kept.readings = readings.astype("<f4").tobytes()


def add_orientations(
    transaction: Transaction, pour_id: UUID, coat: int, told: Sequence[Orientation]
) -> float:
    """Keep what a tablet on the mould told of a coat that is rolled; returns its length. [s]

    What was kept already, what was before the pour and what came after the gel is left out, so a
    tablet may send the same again.

    Raises
    ------
    ConflictError
        The coat is not in the mould.
    InputError
        A moment in the future.
    """
    pour = transaction.find(Pour, pour_id, "pour", lock=True)
    row = next((one for one in pour.coats if one.number == coat), None)
    if row is None or row.poured_at is None:
        raise ConflictError(f"Coat {coat} is not in the mould; nothing is recorded of it yet.")
    if told and max(one.at for one in told) > transaction.now + CLOCKS_DIFFER:
        raise InputError("A moment that was recorded is in the future.", "readings")
    kept = transaction.session.get(RecordedTurning, (pour_id, coat))
    is_own = kept is not None and kept.by_tablet
    before = readings_of(transaction, pour_id, coat) if is_own else np.empty((0, 4))
    last_s = float(before[-1, 0]) if len(before) else 0.0
    until = row.gelled_at or transaction.now + CLOCKS_DIFFER
    fresh = []
    for one in sorted(told, key=lambda one: one.at):
        moment = (one.at - row.poured_at).total_seconds()
        if last_s < moment <= LONGEST_S and one.at <= until:
            fresh.append((moment, one.front_to_back, one.left_to_right))
            last_s = moment
    if fresh:
        new = np.array(fresh)
        ups = ups_of_orientation(new[:, 1], new[:, 2])
        whole = np.vstack([before, np.column_stack([new[:, 0], ups])])
        keep_readings(transaction, pour_id, coat, whole, by_tablet=True)
    return last_s


def recorded_lengths(transaction: Transaction, pour_id: UUID) -> dict[int, float]:
    """Return for how long each coat of a pour was recorded. [s]"""
    rows = transaction.session.execute(
        select(RecordedTurning.coat, RecordedTurning.lasted_s).where(
            RecordedTurning.pour_id == pour_id
        )
    )
    return {one.coat: one.lasted_s for one in rows}


def turned_motion(transaction: Transaction, pour_id: UUID, coat: int) -> Motion:
    """Return how the mould was turned for a coat."""
    find_pour(transaction, pour_id)
    readings = readings_of(transaction, pour_id, coat)
    if len(readings) == 0:
        raise NotFoundError("How this coat was turned was not recorded.")
    name = f"as coat {coat} was turned"
    return recorded_motion(name, readings[:, 0], readings[:, 1:], SENSOR_OUT)
