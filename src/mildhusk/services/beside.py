"""Two to four pours beside each other."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import selectinload

from mildhusk.core.errors import InputError
from mildhusk.core.pouring.beside import Difference, differences, inputs_of
from mildhusk.services.faults import facts_of
from mildhusk.services.pours import PourSummary, find_pour, summaries_of
from mildhusk.services.readings import list_readings
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import Pour, PourStatus

MOST_BESIDE = 4
_USUAL_OF = 30
"""So many of the newest pours tell what is usual."""


@dataclass(frozen=True, slots=True)
class BesideEachOther:
    """Pours, what differed between them, and what came of each."""

    pours: tuple[PourSummary, ...]
    differences: tuple[Difference, ...]
    mean_walls_m: tuple[float | None, ...]


def pours_beside(transaction: Transaction, keys: Sequence[UUID]) -> BesideEachOther:
    """Return two to four pours beside each other.

    Raises
    ------
    InputError
        Fewer or more of them.
    """
    if not 2 <= len(set(keys)) <= MOST_BESIDE:
        raise InputError(f"Choose two to {MOST_BESIDE} pours to compare.", "pours")
    rows = [find_pour(transaction, key) for key in keys]
    known = transaction.session.scalars(
        select(Pour)
        .where(Pour.workshop_id == transaction.workshop_id, Pour.status != PourStatus.OPEN)
        .order_by(Pour.created_at.desc())
        .limit(_USUAL_OF)
        .options(selectinload(Pour.coats))
    ).all()
    told = {row.id: inputs_of(facts_of(transaction, row)) for row in {*rows, *known}}
    found = differences([told[row.id] for row in rows], [told[row.id] for row in known])
    walls = []
    for row in rows:
        read = [one.wall_m for one in list_readings(transaction, row.id) if one.wall_m is not None]
        walls.append(sum(read) / len(read) if read else None)
    return BesideEachOther(summaries_of(transaction, keys), tuple(found), tuple(walls))
