"""What is put into the days, and the tasks it is made of."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, time, timedelta
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy import select

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.coating.motion import motion_named
from mildhusk.core.days.making import CastTimes, cast_tasks, finish_tasks, mould_tasks
from mildhusk.core.days.tasks import Held, Task
from mildhusk.core.errors import InputError
from mildhusk.core.finishing.finish import FinishStep, Husk, finish_of
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.core.materials.kinds import Release
from mildhusk.core.mould import clock
from mildhusk.services.casts import mould_for
from mildhusk.services.costs import price_mould
from mildhusk.services.errors import ConflictError
from mildhusk.services.mould_study import PlanRequest
from mildhusk.services.pour_facts import last_contact
from mildhusk.services.runs import find_run, state_of_run
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import castable_of, material_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import equipment_here
from mildhusk.store.tables import DayJob, DayJobKind, Material, MouldRow, Pour
from mildhusk.store.values import DAY_JOBS, DayJobRequest

MOST_JOBS, MOST_OF_A_RUN = 60, 24


@dataclass(frozen=True, slots=True)
class NewDayJob:
    """Something to be put into the days."""

    kind: DayJobKind
    title: str
    asked: DayJobRequest
    sheet_id: UUID | None = None
    mould_id: UUID | None = None
    due: datetime | None = None
    pour_id: UUID | None = None
    run_id: UUID | None = None


def add_job(transaction: Transaction, new: NewDayJob) -> DayJob:
    """Put something into the days.

    Raises
    ------
    InputError
        What it needs is not said, or is of another piece.
    ConflictError
        There is too much in them, or the mould's piece is not studied yet.
    """
    here = len(open_jobs(transaction))
    if here >= MOST_JOBS:
        raise ConflictError(f"The days hold up to {MOST_JOBS} jobs; take some off first.")
    row = DayJob(
        workshop_id=transaction.workshop_id,
        # What is put in at once keeps its order: the first of a run is the first to be poured.
        created_at=transaction.now + timedelta(microseconds=here),
        kind=new.kind,
        title=new.title,
        sheet_id=new.sheet_id if new.kind is DayJobKind.CAST else None,
        mould_id=None if new.kind is DayJobKind.OWN else new.mould_id,
        asked=DAY_JOBS.write(new.asked),
        due=new.due,
        ended_at=None,
        pour_id=new.pour_id,
        run_id=new.run_id,
        spoilt=0,
    )
    transaction.session.add(row)
    transaction.session.flush()
    # What cannot be made into tasks says so now.
    tasks_of(transaction, row)
    return row


def add_run_to_days(
    transaction: Transaction, run_id: UUID, asked: DayJobRequest, zone: str
) -> tuple[DayJob, ...]:
    """Put the casts into the days that a run still wants, each in one of its moulds.

    They are due when the run's day ends in a zone.

    Raises
    ------
    ConflictError
        All of them are in the days, or none is left.
    """
    run = find_run(transaction, run_id)
    state = state_of_run(transaction, run)
    here = [one for one in open_jobs(transaction) if one.run_id == run_id and one.pour_id is None]
    count = min(state.left - len(here), MOST_OF_A_RUN)
    if count <= 0:
        raise ConflictError(f"Every cast that '{run.name}' still wants is in the days.")
    shares = [one.id for one in state.moulds for _ in range(one.to_make)]
    # What no mould is sure to last for goes on in turn.
    moulds = shares or [one.id for one in state.moulds]
    first = state.done + len(here)
    due = datetime.combine(run.due_on, time(23, 59), ZoneInfo(zone)).astimezone(UTC)
    return tuple(
        add_job(
            transaction,
            NewDayJob(
                DayJobKind.CAST,
                f"{run.name}, {first + number + 1} of {run.wanted}"[:120],
                asked,
                run.sheet_id,
                moulds[(len(here) + number) % len(moulds)],
                due,
                run_id=run_id,
            ),
        )
        for number in range(count)
    )


def edit_job(
    transaction: Transaction,
    key: UUID,
    *,
    due: datetime | None,
    asked: DayJobRequest | None = None,
) -> DayJob:
    """Change when something is due, or how it is done."""
    row = transaction.find(DayJob, key, "job", lock=True)
    row.due = due
    if asked is not None:
        row.asked = DAY_JOBS.write(asked)
        tasks_of(transaction, row)
    transaction.session.flush()
    return row


def end_job(transaction: Transaction, key: UUID) -> None:
    """Take something off the days; what was done of it stays done."""
    row = transaction.find(DayJob, key, "job", lock=True)
    row.ended_at = transaction.now
    transaction.session.flush()


def open_jobs(transaction: Transaction) -> Sequence[DayJob]:
    """Return what is in the days, the first that was put into them first."""
    return transaction.session.scalars(
        select(DayJob)
        .where(DayJob.workshop_id == transaction.workshop_id, DayJob.ended_at.is_(None))
        .order_by(DayJob.created_at, DayJob.id)
    ).all()


@dataclass(frozen=True, slots=True)
class JobTasks:
    """The tasks of a job, what it holds of a mould, and what it still draws from the shelf. [kg]"""

    tasks: tuple[Task, ...]
    held: Held | None = None
    material_id: UUID | None = None
    resin_kg: float = 0.0


def tasks_of(transaction: Transaction, job: DayJob) -> JobTasks:
    """Return the tasks of a job, what it holds, and what it draws from the shelf."""
    asked, key = DAY_JOBS.read(job.asked), str(job.id)
    match DayJobKind(job.kind):
        case DayJobKind.CAST:
            return _cast_tasks(transaction, job)
        case DayJobKind.MOULD:
            if job.mould_id is None:
                raise InputError("Say which mould is to be built.", "mould_id")
            return JobTasks(mould_tasks(key, mould_steps(transaction, job.mould_id), due=job.due))
        case DayJobKind.FINISH:
            return JobTasks(_finish_tasks(transaction, job, asked))
        case DayJobKind.OWN:
            task = Task(
                key,
                job.title,
                key,
                asked.minutes * 60.0,
                hands=asked.hands,
                places=(asked.place,) if asked.place else (),
                due=job.due,
                interruptible=asked.interruptible,
            )
            return JobTasks((task,))


def mould_steps(transaction: Transaction, mould_id: UUID) -> list[clock.Task]:
    """Return the steps of building a mould."""
    asked = PlanRequest(transaction.now, equipment_here(transaction), 0.0)
    return [one.task for one in price_mould(transaction, mould_id, asked).steps]


def held_mould(transaction: Transaction, sheet_id: UUID, mould_id: UUID | None) -> str:
    """Return what a cast holds: its mould, or any of its piece."""
    row = find_sheet(transaction, sheet_id)
    if mould_id is None:
        return f"mould of '{row.piece.name}'"
    name = mould_for(transaction, row.piece_id, mould_id).name
    # Of two moulds of one name each is a place of its own.
    alike = transaction.count(MouldRow, MouldRow.name == name)
    return f"mould '{name}'" if alike == 1 else f"mould '{name}' ({str(mould_id)[:4]})"


def cast_times(transaction: Transaction, sheet: CastSheet) -> CastTimes:
    """Return how long a cast by a sheet takes with the hands that are here."""
    on_machine = sheet.motion is not None and not motion_named(sheet.motion).by_hand
    return CastTimes.of(sheet, on_machine=on_machine, hands=equipment_here(transaction).hands)


def _cast_tasks(transaction: Transaction, job: DayJob) -> JobTasks:
    if job.sheet_id is None:
        raise InputError("Say by which cast sheet it is cast.", "sheet_id")
    row = find_sheet(transaction, job.sheet_id)
    return cast_tasks_by(transaction, job, row.material, plan_of(transaction, row))


def cast_tasks_by(
    transaction: Transaction, job: DayJob, resin: Material, sheet: CastSheet
) -> JobTasks:
    """Return the tasks of a cast by a plan, which need not be that of its own sheet."""
    assert job.sheet_id is not None
    held = held_mould(transaction, job.sheet_id, job.mould_id)
    steps = finish_steps(transaction, castable_of(resin), sheet, DAY_JOBS.read(job.asked))
    times = cast_times(transaction, sheet)
    tasks, holds = cast_tasks(str(job.id), held, times, steps, due=job.due)
    if job.spoilt:
        again = f"{tasks[0].title}; the last one was spoilt"
        tasks = (replace(tasks[0], title=again), *tasks[1:])
    if job.pour_id is not None:
        return JobTasks(tasks, holds)
    return JobTasks(tasks, holds, resin.id, sheet.resin_kg)


def _finish_tasks(transaction: Transaction, job: DayJob, asked: DayJobRequest) -> tuple[Task, ...]:
    if job.pour_id is None:
        raise InputError("Say of which cast it is the finish.", "pour_id")
    pour = transaction.find(Pour, job.pour_id, "pour")
    row = find_sheet(transaction, pour.sheet_id)
    sheet = plan_of(transaction, row)
    steps = finish_steps(transaction, castable_of(pour.material), sheet, asked)
    if not steps:
        raise InputError("Nothing is left to do of this finish; ask for some of it.", "finish")
    return finish_tasks(str(job.id), steps, last_contact(pour), due=job.due)


def finish_steps(
    transaction: Transaction, resin: object, sheet: CastSheet, asked: DayJobRequest
) -> tuple[FinishStep, ...]:
    """Return the steps of the finish that is asked for; none of what is left as it comes out."""
    if asked.finish is None or not isinstance(resin, CastingResin):
        return ()
    return finish_of(husk_of(transaction, resin, sheet, asked.release), asked.finish)


def husk_of(transaction: Transaction, resin: CastingResin, sheet: CastSheet, release: str) -> Husk:
    """Return the husk that is finished."""
    found = None if not release else _release(transaction, release)
    return Husk(resin, found, sheet.area_m2, sheet.demould_s, sheet.full_cure_s)


def _release(transaction: Transaction, key: str) -> Release:
    row = transaction.session.scalars(
        select(Material).where(
            Material.workshop_id == transaction.workshop_id,
            Material.kind == "release",
            Material.key == key,
        )
    ).first()
    found = None if row is None else material_of(row)
    if not isinstance(found, Release):
        raise InputError(f"There is no release '{key}' on the shelf.", "release")
    return found
