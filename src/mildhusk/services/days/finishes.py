"""The finish of one cast: its steps with their clocks, what paint waits for, what it weighs."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.days.days import Planned
from mildhusk.core.days.standing import may_begin, window_of
from mildhusk.core.days.tasks import Task
from mildhusk.core.errors import InputError
from mildhusk.core.finishing.finish import (
    Block,
    FinishStep,
    FinishWish,
    Husk,
    finish_of,
    paint_blocks,
)
from mildhusk.core.geometry.wearing import HEADS, Fit, wall_by_weight
from mildhusk.core.materials.casting_resin import CastingResin
from mildhusk.documents.days_files import read_days_json
from mildhusk.services.days.jobs import NewDayJob, add_job, edit_job, husk_of
from mildhusk.services.days.planning import done_of, ticks_here
from mildhusk.services.errors import ConflictError
from mildhusk.services.pieces import fit_head
from mildhusk.services.pour_facts import followed_by, kilograms, last_contact, whole_cast_kg
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import castable_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.live import announce
from mildhusk.store.tables import (
    DayJob,
    DayJobKind,
    DayPlan,
    DayTick,
    Pour,
    PourStatus,
)
from mildhusk.store.values import DAY_JOBS, DAY_PLANS, DayJobRequest

_TASK_PART = ", part "


@dataclass(frozen=True, slots=True)
class FinishStepState:
    """A step of a finish, and where it stands.

    Parameters
    ----------
    step : FinishStep
    task : str
        That a tick is for; of a long one its next part.
    starts, ends : datetime or None
        As it is planned, or was done; None where it is not planned yet.
    closes : datetime or None
        Until when it may begin, where a window closes.
    begun, done, may_begin : bool
        What it follows is over, and it is cured enough for it.
    """

    step: FinishStep
    task: str
    starts: datetime | None
    ends: datetime | None
    closes: datetime | None
    begun: bool
    done: bool
    may_begin: bool


@dataclass(frozen=True, slots=True)
class HeadRoom:
    """How much room a head has all round, planned and by what the cast weighs."""

    head: str
    planned: Fit | None
    weighed: Fit | None


@dataclass(frozen=True, slots=True)
class Finish:
    """The finish of a cast.

    Parameters
    ----------
    pour_id : UUID
    job_id : UUID or None
        None where no finish was asked for.
    title, resin_name : str
    wish : FinishWish or None
    release : str
        Key of the release in the mould; empty for none.
    due : datetime or None
    cured_at : datetime
        When it is cured through.
    steps : tuple of FinishStepState
    blocks : tuple of Block
        What stands between it and its paint.
    planned_kg : float
        The whole cast. [kg]
    cast_kg, trimmed_kg : float or None
        As it came out, and with its openings cut. [kg]
    wall_m : float or None
        Even wall that weighs as much as it does, with what was cut away; an estimate. [m]
    planned_wall_m : float or None
        [m]
    rooms : tuple of HeadRoom
        Empty of what nobody wears.
    """

    pour_id: UUID
    job_id: UUID | None
    title: str
    resin_name: str
    wish: FinishWish | None
    release: str
    due: datetime | None
    cured_at: datetime
    steps: tuple[FinishStepState, ...]
    blocks: tuple[Block, ...]
    planned_kg: float
    cast_kg: float | None
    trimmed_kg: float | None
    wall_m: float | None
    planned_wall_m: float | None
    rooms: tuple[HeadRoom, ...]


def finish_of_pour(transaction: Transaction, pour_id: UUID) -> Finish:
    """Return the finish of a cast, whether it was asked for or not.

    Raises
    ------
    ConflictError
        No cast came of this pour, or it is of what is not painted.
    """
    pour, resin, sheet = _cast(transaction, pour_id)
    job = _job_of(transaction, pour_id)
    asked = DayJobRequest() if job is None else DAY_JOBS.read(job.asked)
    husk = husk_of(transaction, resin, sheet, asked.release)
    ticks = ticks_here(transaction)
    steps: tuple[FinishStepState, ...] = ()
    blocks: tuple[Block, ...] = ()
    if job is not None and asked.finish is not None:
        steps = _states(transaction, job, finish_of(husk, asked.finish), ticks, last_contact(pour))
        blocks = _blocks(transaction, pour, husk, asked.finish, steps)
    planned_wall, wall = _walls(pour)
    worn = asked.finish is not None and asked.finish.worn
    return Finish(
        pour.id,
        None if job is None else job.id,
        _title(pour),
        pour.resin_name,
        asked.finish,
        asked.release,
        None if job is None else job.due,
        last_contact(pour) + timedelta(seconds=husk.full_cure_s),
        steps,
        blocks,
        followed_by(pour).cast_kg,
        kilograms(pour.cast_g),
        kilograms(pour.trimmed_g),
        wall,
        planned_wall,
        _rooms(transaction, pour, planned_wall, wall) if worn else (),
    )


def _cast(transaction: Transaction, pour_id: UUID) -> tuple[Pour, CastingResin, CastSheet]:
    pour = transaction.find(Pour, pour_id, "pour")
    if pour.status != PourStatus.CAST:
        raise ConflictError("No cast came of this pour yet; close it with its weight first.")
    resin = castable_of(pour.material)
    if not isinstance(resin, CastingResin):
        raise ConflictError(f"'{pour.resin_name}' is no resin; its finish is not planned here.")
    return pour, resin, plan_of(transaction, find_sheet(transaction, pour.sheet_id))


def _job_of(transaction: Transaction, pour_id: UUID) -> DayJob | None:
    """Return the job that has the finish of a cast: one that goes on, else the newest with one."""
    rows = transaction.session.scalars(
        select(DayJob)
        .where(DayJob.workshop_id == transaction.workshop_id, DayJob.pour_id == pour_id)
        .order_by(DayJob.ended_at.is_not(None), DayJob.created_at.desc())
    ).all()
    with_finish = [row for row in rows if DAY_JOBS.read(row.asked).finish is not None]
    going_on = [row for row in rows if row.ended_at is None]
    return next(iter((*with_finish, *going_on)), None)


def _title(pour: Pour) -> str:
    number = "" if pour.cast is None else f", cast {pour.cast.number}"
    return f"{pour.piece_name}{number}"


def _states(
    transaction: Transaction,
    job: DayJob,
    steps: Sequence[FinishStep],
    ticks: Mapping[str, DayTick],
    contact: datetime,
) -> tuple[FinishStepState, ...]:
    now = transaction.now.astimezone(UTC)
    row = transaction.session.get(DayPlan, transaction.workshop_id)
    tasks: dict[str, Task] = {}
    at: dict[str, Planned] = {}
    done: dict[str, Planned] = {}
    if row is not None:
        kept, days = DAY_PLANS.read(row.plan), read_days_json(row.days)
        tasks = {task.id: task for task in days.tasks if task.job == str(job.id)}
        done = done_of(days, ticks, kept.plan, now)
        at = {**kept.plan.by_id(), **done}
    states = []
    over = True
    for step in steps:
        key = f"{job.id}: {step.id}"
        parts = [one for one in tasks if one == key or one.startswith(key + _TASK_PART)] or [key]
        state = _state(step, parts, at, tasks, ticks)
        opened = parts[0] not in tasks or may_begin(tasks[parts[0]], done, now)
        cured = contact + timedelta(seconds=step.not_before_s) <= now
        states.append(replace(state, may_begin=over and opened and cured and not state.done))
        over = over and state.done
    return tuple(states)


def _state(
    step: FinishStep,
    parts: Sequence[str],
    at: Mapping[str, Planned],
    tasks: Mapping[str, Task],
    ticks: Mapping[str, DayTick],
) -> FinishStepState:
    done = [key for key in parts if key in ticks and ticks[key].ends is not None]
    following = next((key for key in parts if key not in done), parts[-1])
    starts: datetime | None = None
    ends: datetime | None = None
    if following in at:
        starts, ends = at[following].starts, at[following].ends
    elif following in ticks:
        starts, ends = ticks[following].starts, ticks[following].ends
    return FinishStepState(
        step,
        following,
        starts,
        ends,
        window_of(tasks[following], at)[1] if following in tasks else None,
        following in ticks,
        len(done) == len(parts),
        may_begin=False,
    )


def _blocks(
    transaction: Transaction,
    pour: Pour,
    husk: Husk,
    wish: FinishWish,
    steps: Sequence[FinishStepState],
) -> tuple[Block, ...]:
    done = {one.step.id: one.done for one in steps}
    if done.get("primer", False):
        return ()
    cured_s = (transaction.now - last_contact(pour)).total_seconds()
    return paint_blocks(
        husk,
        wish.paint,
        cured_s=cured_s,
        washed=done.get("wash", True),
        scuffed=done.get("sand", True),
        post_cured=done.get("post-cure", False),
    )


def _walls(pour: Pour) -> tuple[float | None, float | None]:
    """Return the planned even wall, and the one that weighs as much as the cast did. [m]"""
    plan, cast_kg = followed_by(pour), whole_cast_kg(pour)
    if plan.even_wall_m is None or cast_kg is None or plan.cast_kg <= 0.0:
        return plan.even_wall_m, None
    return plan.even_wall_m, wall_by_weight(plan.even_wall_m, plan.cast_kg, cast_kg)


def _rooms(
    transaction: Transaction, pour: Pour, planned: float | None, wall: float | None
) -> tuple[HeadRoom, ...]:
    try:
        return tuple(
            HeadRoom(
                head.name,
                None if planned is None else fit_head(transaction, pour.piece_id, head, planned),
                None if wall is None else fit_head(transaction, pour.piece_id, head, wall),
            )
            for head in HEADS
        )
    except ConflictError:
        # A piece without an opening is worn by nobody.
        return ()


def set_finish(
    transaction: Transaction,
    pour_id: UUID,
    wish: FinishWish,
    release: str,
    due: datetime | None,
) -> DayJob:
    """Say what becomes of a cast; its steps are put into the days, or changed there."""
    pour, _, _ = _cast(transaction, pour_id)
    job = _job_of(transaction, pour_id)
    asked = DayJobRequest(wish, release)
    if job is not None and job.ended_at is None:
        return edit_job(transaction, job.id, due=due, asked=asked)
    title = f"{_title(pour)}: finish"[:120]
    new = NewDayJob(DayJobKind.FINISH, title, asked, due=due, pour_id=pour.id)
    return add_job(transaction, new)


def weigh_trimmed(transaction: Transaction, pour_id: UUID, trimmed_kg: float | None) -> None:
    """Say what a cast weighs with its openings cut; None takes it back.

    Raises
    ------
    InputError
        More than it weighed before anything was cut.
    """
    pour = transaction.find(Pour, pour_id, "pour", lock=True)
    if pour.status != PourStatus.CAST:
        raise ConflictError("No cast came of this pour yet; close it with its weight first.")
    cast_kg = whole_cast_kg(pour)
    if trimmed_kg is not None and cast_kg is not None and not 0.0 < trimmed_kg <= cast_kg:
        raise InputError(
            f"It weighed {cast_kg * 1e3:,.1f} g before anything was cut; give no more than that.",
            "trimmed_kg",
        )
    pour.trimmed_g = (
        None if trimmed_kg is None else (Decimal(repr(trimmed_kg)) * 1000).quantize(Decimal("0.01"))
    )
    transaction.session.flush()
    announce(transaction.session, {"topic": "pour", "id": str(pour.id)})
