"""A pour as it happens: the next step, when its clocks run out, how it compares with the plan."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from mildhusk.core.errors import InputError


class PourStep(StrEnum):
    """The steps of a coat, in their order."""

    WEIGH = "weigh"
    MIX = "mix"
    """A meets B: the clock starts."""
    POUR = "pour"
    GEL = "gel"
    """It has stopped flowing; rolling ends."""


@dataclass(frozen=True, slots=True)
class CoatRecord:
    """What has been done of one coat; None is not yet."""

    number: int
    a_kg: float | None = None
    b_kg: float | None = None
    weighed_at: datetime | None = None
    mixed_at: datetime | None = None
    poured_at: datetime | None = None
    gelled_at: datetime | None = None

    def done_at(self, step: PourStep) -> datetime | None:
        """When a step was done."""
        match step:
            case PourStep.WEIGH:
                return self.weighed_at
            case PourStep.MIX:
                return self.mixed_at
            case PourStep.POUR:
                return self.poured_at
            case PourStep.GEL:
                return self.gelled_at


@dataclass(frozen=True, slots=True)
class NextStep:
    """The step to do now."""

    coat: int
    step: PourStep


def next_step(records: tuple[CoatRecord, ...]) -> NextStep | None:
    """Return the first step not done, in the order of coats and steps; None when all are."""
    for record in records:
        for step in PourStep:
            if record.done_at(step) is None:
                return NextStep(record.number, step)
    return None


def last_step(records: tuple[CoatRecord, ...]) -> NextStep | None:
    """Return the last step done, the one that can be taken back; None when none is."""
    done = [
        NextStep(record.number, step)
        for record in records
        for step in PourStep
        if record.done_at(step) is not None
    ]
    return done[-1] if done else None


CLOCKS_DIFFER = timedelta(seconds=5)
"""A tablet's clock and the server's may be so far apart."""
WEIGHED_BEFORE = timedelta(hours=1)
"""A first cup may have been weighed so long before the pour was opened."""


def step_time(
    records: tuple[CoatRecord, ...], at: datetime | None, now: datetime, *, opened: datetime
) -> datetime:
    """Return when the next step was done: as given, or now.

    A time before the step before it, before the pour, or in the future is refused. But a clock that
    was put back behind what is ticked off already has no right time for anybody who has to go on
    now: until it is past that again, the next step is as late as the one before it.

    Parameters
    ----------
    records : tuple of CoatRecord
    at : datetime or None
        When it was done, where that is told.
    now, opened : datetime
        The time it is, when the pour was opened.

    Returns
    -------
    datetime
        Not before the step before it.

    Raises
    ------
    InputError
        Naming the time that stands against the one that is given.
    """
    last = last_step(records)
    before = None if last is None else records[last.coat - 1].done_at(last.step)
    earliest = opened - WEIGHED_BEFORE if before is None else before
    if now < earliest:
        return earliest
    if at is None:
        return now
    if at > now + CLOCKS_DIFFER:
        raise InputError("The time given is in the future; give when it was done.", "at")
    if last is not None and at < earliest:
        raise InputError(
            f"The time given is before the step before it ({last.step} of coat {last.coat}, "
            f"{earliest:%H:%M:%S} UTC); give a later one.",
            "at",
        )
    if at < opened - WEIGHED_BEFORE:
        raise InputError(
            f"The time given is before this pour was opened ({opened:%d %B %Y, %H:%M:%S} UTC); "
            "give when it was done.",
            "at",
        )
    return at


@dataclass(frozen=True, slots=True)
class CoatTimes:
    """When the clocks of a mixed coat run out, by the clock on the wall."""

    pour_by: datetime
    roll_until: datetime
    next_from: datetime
    next_until: datetime
    demould: datetime


def coat_times(
    mixed_at: datetime,
    *,
    pour_by_s: float,
    roll_until_s: float,
    next_from_s: float,
    next_until_s: float,
    demould_s: float,
) -> CoatTimes:
    """Return when the clocks of a coat run out that was mixed at a time.

    Parameters
    ----------
    mixed_at : datetime
        First contact of A and B.
    pour_by_s, roll_until_s, next_from_s, next_until_s, demould_s : float
        From then. [s]

    Returns
    -------
    CoatTimes
    """

    def after(seconds: float) -> datetime:
        return mixed_at + timedelta(seconds=seconds)

    return CoatTimes(
        pour_by=after(pour_by_s),
        roll_until=after(roll_until_s),
        next_from=after(next_from_s),
        next_until=after(next_until_s),
        demould=after(demould_s),
    )


@dataclass(frozen=True, slots=True)
class Comparison:
    """Planned beside poured. [kg]; None where nothing was recorded."""

    planned_kg: float
    poured_kg: float
    planned_cast_kg: float
    cast_kg: float | None
    stayed_share: float | None
    """Cast weight as a share of what was poured: one less the real loss."""


def compare(
    planned_kg: float,
    planned_cast_kg: float,
    records: tuple[CoatRecord, ...],
    cast_kg: float | None,
) -> Comparison:
    """Compare a pour with its plan.

    Parameters
    ----------
    planned_kg, planned_cast_kg : float
        To mix, and to come out. [kg]
    records : tuple of CoatRecord
    cast_kg : float or None
        What the cast weighed. [kg]

    Returns
    -------
    Comparison
    """
    poured = sum((r.a_kg or 0.0) + (r.b_kg or 0.0) for r in records if r.poured_at is not None)
    return Comparison(
        planned_kg=planned_kg,
        poured_kg=poured,
        planned_cast_kg=planned_cast_kg,
        cast_kg=cast_kg,
        stayed_share=cast_kg / poured if cast_kg is not None and poured > 0.0 else None,
    )
