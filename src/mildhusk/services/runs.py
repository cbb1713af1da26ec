"""Runs of casts: so many by a sheet, in some moulds, by a day."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from math import ceil
from uuid import UUID

from sqlalchemy import ColumnElement, select, update

from mildhusk.core.errors import InputError
from mildhusk.core.mould.lasting import SURE, MouldInUse, rotation
from mildhusk.services.casts import mould_for
from mildhusk.services.lots import usable_lots
from mildhusk.services.mould_history import CastCharts, charts_of, counts_of, lasting_here
from mildhusk.services.moulds import estimate_of
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import (
    CastRun,
    CastSheetRow,
    DayJob,
    MouldEventKind,
    MouldRow,
    Pour,
    PourStatus,
)

MOST_CASTS, MOST_MOULDS = 10_000, 20
_HOURS_A_DAY = 8.0
"""Of work on a mould; after the last of them it cures for a day (assumed). [h]"""
_MOST_RUNS = 200


@dataclass(frozen=True, slots=True)
class MouldOfRun:
    """A mould of a run: its casts so far, and how many of the run are its to make."""

    id: UUID
    name: str
    casts: int
    expected: int
    to_make: int


@dataclass(frozen=True, slots=True)
class RunState:
    """Where a run stands.

    Parameters
    ----------
    done, spoilt, left : int
    days_left : int
        Until it is due, today among them.
    per_day : float
        Casts a day from now on, to be done in time. [1/day]
    resin_kg : float or None
        That the casts to come need; None where the sheet can no longer be planned. [kg]
    stock_kg : float
        What the lots have. [kg]
    unplanned : str
        Why the sheet cannot be planned.
    moulds : tuple of MouldOfRun
    chance : float
        That the moulds last it. [1]
    next_mould_before : int or None
        Before which cast of those to come another mould should be ready.
    next_mould_from : date or None
        When to begin it at the latest, at the pace that is needed.
    """

    done: int
    spoilt: int
    left: int
    days_left: int
    per_day: float
    resin_kg: float | None
    stock_kg: float
    unplanned: str
    moulds: tuple[MouldOfRun, ...]
    chance: float
    next_mould_before: int | None
    next_mould_from: date | None


def add_run(
    transaction: Transaction,
    name: str,
    sheet_id: UUID,
    mould_ids: Sequence[UUID],
    wanted: int,
    due_on: date,
) -> CastRun:
    """Begin a run.

    Raises
    ------
    InputError
        No casts, a day gone by, no mould, or one of another piece.
    """
    sheet = find_sheet(transaction, sheet_id)
    if not 1 <= wanted <= MOST_CASTS:
        raise InputError(f"A run has 1 to {MOST_CASTS:,} casts.", "wanted")
    if due_on < transaction.now.date():
        raise InputError(f"{due_on} is past; give a day to come.", "due_on")
    if not 1 <= len(set(mould_ids)) <= MOST_MOULDS:
        raise InputError(f"A run is cast in 1 to {MOST_MOULDS} moulds.", "mould_ids")
    for mould_id in mould_ids:
        mould_for(transaction, sheet.piece_id, mould_id)
    row = CastRun(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        name=name,
        sheet_id=sheet_id,
        mould_ids=[str(one) for one in dict.fromkeys(mould_ids)],
        wanted=wanted,
        due_on=due_on,
        ended_at=None,
    )
    transaction.session.add(row)
    transaction.session.flush()
    return row


def list_runs(transaction: Transaction) -> Sequence[CastRun]:
    """Return the runs, those that go on first, then the newest."""
    return transaction.session.scalars(
        select(CastRun)
        .where(CastRun.workshop_id == transaction.workshop_id)
        .order_by(CastRun.ended_at.is_not(None), CastRun.due_on, CastRun.id)
        .limit(_MOST_RUNS)
    ).all()


def end_run(transaction: Transaction, key: UUID, *, ended: bool) -> CastRun:
    """End a run, or take it up again."""
    row = transaction.find(CastRun, key, "run", lock=True)
    row.ended_at = transaction.now if ended else None
    transaction.session.flush()
    return row


def delete_run(transaction: Transaction, key: UUID) -> None:
    """Delete a run; its casts stay in the log, and those to come in the days."""
    transaction.session.execute(update(DayJob).where(DayJob.run_id == key).values(run_id=None))
    transaction.session.delete(transaction.find(CastRun, key, "run", lock=True))
    transaction.session.flush()


def find_run(transaction: Transaction, key: UUID) -> CastRun:
    """Return one run."""
    return transaction.find(CastRun, key, "run")


def sheet_of(transaction: Transaction, run: CastRun) -> CastSheetRow:
    """Return the sheet a run is cast by."""
    return find_sheet(transaction, run.sheet_id)


def charts_of_run(transaction: Transaction, run: CastRun) -> CastCharts:
    """Return the control charts of the casts of a run."""
    return charts_of(transaction, *_of_run(run))


def _of_run(run: CastRun) -> tuple[ColumnElement[bool], ...]:
    moulds = [UUID(one) for one in run.mould_ids]
    found: list[ColumnElement[bool]] = [
        Pour.sheet_id == run.sheet_id,
        Pour.mould_id.in_(moulds),
        Pour.created_at >= run.created_at,
    ]
    if run.ended_at is not None:
        found.append(Pour.created_at < run.ended_at)
    return tuple(found)


def state_of_run(transaction: Transaction, run: CastRun) -> RunState:
    """Return where a run stands: its casts, days, resin and moulds."""
    done = transaction.count(Pour, *_of_run(run), Pour.status == PourStatus.CAST)
    spoilt = transaction.count(Pour, *_of_run(run), Pour.status == PourStatus.SPOILT)
    left = max(run.wanted - done, 0)
    days = max((run.due_on - transaction.now.date()).days + 1, 0)
    sheet = sheet_of(transaction, run)
    charge_kg, unplanned = _charge_of(transaction, sheet)
    today = transaction.now.date()
    stock = sum(float(lot.left_g) for lot in usable_lots(transaction, sheet.material_id, today))
    rows = [transaction.find(MouldRow, UUID(one), "mould") for one in run.mould_ids]
    in_use = [row for row in rows if row.retired_at is None]
    counted = counts_of(transaction, [row.id for row in rows])
    casts = {row.id: counted[row.id][MouldEventKind.CAST] for row in rows}
    shared = rotation(
        lasting_here(transaction),
        [MouldInUse(casts[row.id], row.life_casts) for row in in_use],
        left,
        SURE,
    )
    to_make = dict(zip((row.id for row in in_use), shared.shares, strict=True))
    per_day = left / days if days else float(left)
    return RunState(
        done=done,
        spoilt=spoilt,
        left=left,
        days_left=days,
        per_day=per_day,
        resin_kg=None if charge_kg is None else left * charge_kg,
        stock_kg=stock / 1e3,
        unplanned=unplanned,
        moulds=tuple(
            MouldOfRun(row.id, row.name, casts[row.id], row.life_casts, to_make.get(row.id, 0))
            for row in rows
        ),
        chance=shared.chance if in_use else 0.0,
        next_mould_before=shared.next_mould_before,
        next_mould_from=_begin_on(today, shared.next_mould_before, per_day, in_use),
    )


def _charge_of(transaction: Transaction, sheet: CastSheetRow) -> tuple[float | None, str]:
    """Return what a cast takes, or why that is not known: a run is shown all the same. [kg]"""
    try:
        return plan_of(transaction, sheet).total_charge_kg, ""
    except InputError as error:
        return None, str(error)


def _begin_on(
    today: date, before: int | None, per_day: float, moulds: Sequence[MouldRow]
) -> date | None:
    """Return when the next mould has to be begun, so that the run does not stop."""
    if before is None or not per_day:
        return None
    days = [ceil(estimate_of(one).hours / _HOURS_A_DAY) + 1 for one in moulds]
    builds = max(days, default=1)
    return max(today, today + timedelta(days=int((before - 1) / per_day) - builds))
