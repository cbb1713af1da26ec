"""What happens at the bench ticks the days: a pour begun, its coats, the cast, one that is spoilt.

It imports nothing of pours: they call it.
"""

from datetime import UTC, datetime, timedelta

from sqlalchemy import or_, select

from mildhusk.services.days.planning import (
    begin_tick,
    end_what_is_done,
    kept_plan,
    plan_soon,
    ticks_here,
)
from mildhusk.services.pour_facts import followed_by
from mildhusk.services.room import room_of, times_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import DayJob, DayJobKind, DayTick, Pour, PourStatus

_NOTICED = timedelta(minutes=2)
"""A pour that ends later by less moves nothing (assumed)."""

_NEVER = datetime.max.replace(tzinfo=UTC)


def pour_began(transaction: Transaction, pour: Pour) -> None:
    """Tie a pour to the cast of the days that it is, by its sheet and in its mould.

    Of several it is the one that is planned first, as Today tells it; not planned, the oldest.
    """
    waiting = transaction.session.scalars(
        select(DayJob)
        .where(
            DayJob.workshop_id == transaction.workshop_id,
            DayJob.kind == DayJobKind.CAST,
            DayJob.ended_at.is_(None),
            DayJob.pour_id.is_(None),
            DayJob.sheet_id == pour.sheet_id,
            or_(DayJob.mould_id.is_(None), DayJob.mould_id == pour.mould_id),
        )
        .order_by(DayJob.created_at, DayJob.id)
        .with_for_update()
    ).all()
    if not waiting:
        return
    kept = kept_plan(transaction)
    starts = {} if kept is None else {one.id: one.starts for one in kept.plan.planned}
    job = min(waiting, key=lambda one: starts.get(_roll(one), _NEVER))
    job.pour_id = pour.id
    ticks = ticks_here(transaction)
    if _roll(job) not in ticks:
        begin_tick(transaction, _roll(job), pour.created_at, _hands(transaction, _roll(job)))
    transaction.session.flush()
    plan_soon(transaction)


def pour_went_on(transaction: Transaction, pour: Pour) -> None:
    """Say when a pour that goes on will have been rolled, by its coats and the room as it is."""
    job = _job_of(transaction, pour)
    row = None if job is None else ticks_here(transaction).get(_roll(job))
    if row is None:
        return
    ended = pour.coats[-1].gelled_at
    expected = None if ended is not None else _rolled_by(transaction, pour)
    before = row.ends or row.expected
    row.ends, row.expected = ended, expected
    transaction.session.flush()
    now = ended or expected
    if before is None or now is None or abs(now - before) >= _NOTICED or ended is not None:
        plan_soon(transaction)


def pour_ended(transaction: Transaction, pour: Pour) -> None:
    """Take the cast off the days that came out, or plan again what was spoilt."""
    job = _job_of(transaction, pour)
    if job is None or pour.closed_at is None:
        return
    ticks = ticks_here(transaction)
    if pour.status == PourStatus.SPOILT:
        for part in ("roll", "cure", "out"):
            if (row := ticks.get(f"{job.id}: {part}")) is not None:
                transaction.session.delete(row)
        job.pour_id, job.spoilt = None, job.spoilt + 1
    else:
        rolled = ticks.get(_roll(job))
        if rolled is not None:
            rolled.ends = rolled.ends or pour.closed_at
            _was_done(transaction, ticks, f"{job.id}: cure", rolled.ends, pour.closed_at)
        _was_done(transaction, ticks, f"{job.id}: out", pour.closed_at, pour.closed_at)
    transaction.session.flush()
    end_what_is_done(transaction)
    plan_soon(transaction)


def _was_done(
    transaction: Transaction,
    ticks: dict[str, DayTick],
    task: str,
    starts: datetime,
    ends: datetime,
) -> None:
    row = ticks.get(task) or begin_tick(transaction, task, starts, _hands(transaction, task))
    row.ends = row.ends or ends


def _job_of(transaction: Transaction, pour: Pour) -> DayJob | None:
    return transaction.session.scalars(
        select(DayJob).where(
            DayJob.workshop_id == transaction.workshop_id,
            DayJob.pour_id == pour.id,
            DayJob.kind == DayJobKind.CAST,
            DayJob.ended_at.is_(None),
        )
    ).first()


def _hands(transaction: Transaction, task: str) -> tuple[str, ...]:
    kept = kept_plan(transaction)
    planned = None if kept is None else kept.plan.by_id().get(task)
    return () if planned is None else planned.people


def _roll(job: DayJob) -> str:
    return f"{job.id}: roll"


def _rolled_by(transaction: Transaction, pour: Pour) -> datetime:
    """Return when the last coat will have gelled, from the coat at hand on as planned."""
    plan = followed_by(pour)
    coat = next(row for row in pour.coats if row.gelled_at is None)
    planned, last = plan.coats[coat.number - 1], plan.coats[-1]
    times = times_of(plan, coat, room_of(transaction, coat))
    if times is not None:
        rolled = times.roll_until
    else:
        starts = transaction.now
        if coat.number > 1 and (before := pour.coats[coat.number - 2]).mixed_at is not None:
            gap_s = planned.starts_s - plan.coats[coat.number - 2].starts_s
            starts = max(starts, before.mixed_at + timedelta(seconds=gap_s))
        rolled = starts + timedelta(seconds=planned.roll_until_s)
    left_s = last.starts_s + last.roll_until_s - planned.starts_s - planned.roll_until_s
    return max(rolled, transaction.now) + timedelta(seconds=left_s)
