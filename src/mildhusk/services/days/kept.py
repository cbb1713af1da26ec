"""Plans of the days that were kept, beside how the days went."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import select

from mildhusk.services.days.board import board
from mildhusk.services.days.planning import ticks_here
from mildhusk.services.errors import ConflictError
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayTick, KeptDayPlanRow

MOST_KEPT = 60


@dataclass(frozen=True, slots=True)
class KeptPlanName:
    """A plan that was kept."""

    id: UUID
    name: str
    made_at: datetime
    tasks: int


@dataclass(frozen=True, slots=True)
class AsItWent:
    """A task as it was planned once, and as it went.

    Parameters
    ----------
    title, job_title : str
    planned_starts, planned_ends : datetime
    starts, ends : datetime or None
        None of what was not begun, or is not over.
    late_s, longer_s : float or None
        How much later it began, and how much longer it took. [s]
    """

    title: str
    job_title: str
    planned_starts: datetime
    planned_ends: datetime
    starts: datetime | None
    ends: datetime | None
    late_s: float | None
    longer_s: float | None


@dataclass(frozen=True, slots=True)
class HowItWent:
    """A kept plan beside what was done of it."""

    kept: KeptPlanName
    tasks: tuple[AsItWent, ...]


def keep_plan(transaction: Transaction, name: str) -> KeptPlanName:
    """Keep the plan as it stands, to be compared with how it goes."""
    shown = [one for one in board(transaction).tasks if one.hands]
    if not shown:
        raise ConflictError("Nothing is planned that could be kept.")
    if transaction.count(KeptDayPlanRow) >= MOST_KEPT:
        raise ConflictError(f"Up to {MOST_KEPT} plans are kept; delete some first.")
    row = KeptDayPlanRow(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        name=name,
        tasks=[
            {
                "id": one.id,
                "title": one.title,
                "job_title": one.job_title,
                "starts": one.starts.isoformat(),
                "ends": one.ends.isoformat(),
            }
            for one in shown
        ],
    )
    transaction.session.add(row)
    transaction.session.flush()
    return _named(row)


def kept_plans(transaction: Transaction) -> tuple[KeptPlanName, ...]:
    """Return the plans that were kept, the newest first."""
    rows = transaction.session.scalars(
        select(KeptDayPlanRow)
        .where(KeptDayPlanRow.workshop_id == transaction.workshop_id)
        .order_by(KeptDayPlanRow.created_at.desc(), KeptDayPlanRow.id)
    )
    return tuple(_named(row) for row in rows)


def _named(row: KeptDayPlanRow) -> KeptPlanName:
    return KeptPlanName(row.id, row.name, row.created_at, len(row.tasks))


def delete_kept_plan(transaction: Transaction, key: UUID) -> None:
    """Delete a plan that was kept."""
    transaction.session.delete(transaction.find(KeptDayPlanRow, key, "kept plan", lock=True))
    transaction.session.flush()


def how_it_went(transaction: Transaction, key: UUID) -> HowItWent:
    """Return a kept plan beside what was done of it."""
    row = transaction.find(KeptDayPlanRow, key, "kept plan")
    ticks = ticks_here(transaction)
    return HowItWent(
        _named(row), tuple(_as_it_went(one, ticks.get(one["id"])) for one in row.tasks)
    )


def _as_it_went(kept: Mapping[str, str], tick: DayTick | None) -> AsItWent:
    starts, ends = (datetime.fromisoformat(kept[key]) for key in ("starts", "ends"))
    began, ended = (None, None) if tick is None else (tick.starts, tick.ends)
    return AsItWent(
        kept["title"],
        kept["job_title"],
        starts,
        ends,
        began,
        ended,
        None if began is None else (began - starts).total_seconds(),
        None
        if began is None or ended is None
        else ((ended - began) - (ends - starts)).total_seconds(),
    )
