"""Late casts made of another resin, as a change that is tried.

One that leaves the mould sooner, or a slower one that takes hands for less time.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.casting.schools import SCHOOLS
from mildhusk.core.days.collisions import Candidate, ChangeKind
from mildhusk.core.days.days import Days, Plan
from mildhusk.core.days.making import CastTimes
from mildhusk.core.days.standing import late_tasks
from mildhusk.core.days.tasks import Task
from mildhusk.core.errors import InputError
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.likeness import is_less_tough, is_like
from mildhusk.services.days.jobs import cast_tasks_by, cast_times, open_jobs
from mildhusk.services.errors import ConflictError
from mildhusk.services.lots import usable_lots
from mildhusk.services.sheets import (
    SheetQuestion,
    add_sheet,
    find_sheet,
    plan_of,
    plan_sheet,
    question_of,
)
from mildhusk.services.shelf import castable_of, find_material, list_castables
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import CastSheetRow, DayJob, DayJobKind, Material

_MOST_SHEETS, _MOST_SOONER, _MOST_SLOWER = 2, 2, 1
_LESS = 0.8
"""Another resin is tried that takes so much of the time or less, in the mould or of hands
(assumed). [1]"""


@dataclass(frozen=True, slots=True)
class OtherResin:
    """A sheet's cast in another resin, how long it takes, and whether it gives up toughness."""

    row: Material
    sheet: CastSheet
    times: CastTimes
    is_less_tough: bool


def in_other_resins(transaction: Transaction, days: Days, plan: Plan) -> tuple[Candidate, ...]:
    """Return the days with what is late cast in other resins that may free them."""
    late = {task.job for task in late_tasks(days.tasks, plan.by_id())}
    sheets = dict.fromkeys(
        job.sheet_id for job in _to_be_cast(transaction) if str(job.id) in late
    )  # fmt: skip
    found = []
    for sheet_id in list(sheets)[:_MOST_SHEETS]:
        if sheet_id is None:
            continue
        row = find_sheet(transaction, sheet_id)
        jobs = [job for job in _to_be_cast(transaction) if job.sheet_id == sheet_id]
        now = cast_times(transaction, plan_of(transaction, row))
        for other in _others(transaction, row, now):
            text = _told(transaction, row, other, len(jobs), now)
            changed = _changed(transaction, days, jobs, other)
            found.append(Candidate(ChangeKind.RESIN, f"{row.id}:{other.row.id}", text, changed))
    return tuple(found)


def cast_in(transaction: Transaction, of: str) -> None:
    """Cast what is still to be cast by a sheet in another resin, by a new sheet.

    Raises
    ------
    ConflictError
        The sheet or the resin is gone, or nothing is cast by it any more.
    """
    sheet, _, material = of.partition(":")
    try:
        row = find_sheet(transaction, UUID(sheet))
        resin = find_material(transaction, UUID(material))
    except ValueError as error:
        raise ConflictError("This changed meanwhile; look at the days again.") from error
    jobs = [job for job in _to_be_cast(transaction) if job.sheet_id == row.id]
    if not jobs:
        raise ConflictError("This changed meanwhile; look at the days again.")
    name = f"{row.name}, {resin.name}"[:120]
    made = add_sheet(transaction, name, _question(row, resin))
    for job in jobs:
        job.sheet_id = made.id
    transaction.session.flush()


def _to_be_cast(transaction: Transaction) -> Sequence[DayJob]:
    """Return the casts whose resin is still free: not begun, and of no run, which is one sheet."""
    return [
        job
        for job in open_jobs(transaction)
        if job.kind == DayJobKind.CAST and job.pour_id is None and job.run_id is None
    ]


def _question(row: CastSheetRow, material: Material) -> SheetQuestion:
    """Return what a sheet asks in another resin; what was chosen for its own resin alone goes."""
    asked, resin = question_of(row), castable_of(material)
    wish = replace(asked.wish, catalyst=None, time_factor=1.0, viscosity_factor=1.0)
    if not SCHOOLS[wish.school].takes(resin):
        school = next(one.key for one in SCHOOLS.values() if one.takes(resin))
        wish = replace(wish, school=school)
    return replace(asked, material_id=material.id, wish=wish)


def _others(transaction: Transaction, row: CastSheetRow, now: CastTimes) -> list[OtherResin]:
    """Return resins like the one of a sheet: the soonest out, then slower ones of few hands."""
    own = castable_of(row.material)
    if not isinstance(own, CastingResin):
        return []
    found = []
    for one in list_castables(transaction):
        material = find_material(transaction, one.id)
        resin = castable_of(material)
        if not isinstance(resin, CastingResin) or one.id == row.material_id:
            continue
        if not is_like(resin, own):
            continue
        try:
            sheet = plan_sheet(transaction, _question(row, material))
        except InputError:
            continue
        if sheet.fits:
            times = cast_times(transaction, sheet)
            found.append(OtherResin(material, sheet, times, is_less_tough(resin, own)))
    sooner = [one for one in found if one.times.out_s <= _LESS * now.out_s]
    slower = [one for one in found if one.times.out_s >= now.out_s]
    handy = [one for one in slower if one.times.rolled_s <= _LESS * now.rolled_s]
    sooner.sort(key=lambda one: one.times.out_s)
    handy.sort(key=lambda one: one.times.rolled_s)
    return [*sooner[:_MOST_SOONER], *handy[:_MOST_SLOWER]]


def _told(
    transaction: Transaction, row: CastSheetRow, other: OtherResin, casts: int, now: CastTimes
) -> str:
    need_kg = casts * other.sheet.resin_kg
    lots = usable_lots(transaction, other.row.id, transaction.now.date())
    missing_kg = need_kg - sum(float(lot.left_g) for lot in lots) / 1e3
    bought = f"; {missing_kg:.2f} kg of it to buy" if missing_kg > 0.0 else ""
    sooner_s = now.out_s - other.times.out_s
    if sooner_s > 0.0:
        gained = f"out of the mould {sooner_s / 3600.0:.1f} h sooner"
    else:
        less_min = (now.rolled_s - other.times.rolled_s) / 60.0
        gained = f"it sets slower, and takes hands for {less_min:.0f} min less"
    tough = "; it is less tough" if other.is_less_tough else ""
    return f"'{row.name}' in {other.row.name}: {gained}{tough}{bought}"


def _changed(
    transaction: Transaction, days: Days, jobs: Sequence[DayJob], other: OtherResin
) -> Days:
    """Return days in which some casts are made of another resin."""
    keys = {str(job.id) for job in jobs}
    before = {task.id: task for task in days.tasks}
    new: list[Task] = []
    for job in jobs:
        for task in cast_tasks_by(transaction, job, other.row, other.sheet).tasks:
            was = before.get(task.id)
            # What a cast waits for beside its own steps stays: its mould is still to be built.
            apart = () if was is None else tuple(
                one for one in was.after if before[one.task].job not in keys
            )  # fmt: skip
            new.append(replace(task, after=(*task.after, *apart)))
    kept = [task for task in days.tasks if task.job not in keys]
    return replace(days, tasks=(*kept, *new)).cut()
