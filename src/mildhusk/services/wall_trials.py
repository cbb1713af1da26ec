"""Better motions and useful charges: several walls of a sheet, each a job of its own.

As many workers as there are take them up at once, on any machine. What is known so far is read
from the walls that are done, so nothing is lost when one of them is stopped.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from mildhusk.core.casting.plan import rolled_coats
from mildhusk.core.casting.trials import (
    ChargeTrial,
    Trial,
    best_of,
    gain_words,
    useful_charges,
)
from mildhusk.core.coating.answer import LandedWall
from mildhusk.core.coating.motion import BY_EYE, MACHINE_TRIALS, MOTIONS
from mildhusk.services.jobs import cancel_job
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.walls import WallAnswer, wall_of_run, walls_of
from mildhusk.store.values import WallRequest

_EDGE_M = 0.012
_USUAL_BY_MACHINE, _USUAL_BY_HAND = "machine:8,3.1", BY_EYE
_LEADS = (1.5, 2.0 / 3.0)
_SHARES = (0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0, 2.8)


@dataclass(frozen=True, slots=True)
class Tried:
    """One way: what was asked, and its wall or its job."""

    asked: WallRequest
    answer: WallAnswer

    @property
    def is_open(self) -> bool:
        """Whether a worker has yet to say what comes of it."""
        return self.answer.job is not None and self.answer.job.is_open

    @property
    def wall(self) -> LandedWall | None:
        """What it came to; None where that is not known."""
        return None if self.answer.run is None else wall_of_run(self.answer.run).wall


@dataclass(frozen=True, slots=True)
class MotionsTried:
    """Ways tried so far, the best first; `said` is what the best gains over the usual one."""

    ways: list[Tried]
    said: str


def try_motions(
    transaction: Transaction, sheet_id: UUID, *, by_hand: bool, capped: bool, again: bool = False
) -> MotionsTried:
    """Return what is known of each motion with the sheet's resin, and ask for what is not.

    When all of them are known, the best is also tried with a coat less and a coat more, and with a
    first coat that is heavier or lighter than the others. What was stopped or refused stays so
    unless it is wanted `again`.
    """
    coats = len(rolled_coats(plan_of(transaction, find_sheet(transaction, sheet_id))))
    hands = [one.name for one in MOTIONS if one.by_hand]
    # With a lid on it may be tumbled; without, only hands that see the rim can hold it.
    names = [*hands, *(["slow-tumble"] if capped else [])] if by_hand else list(MACHINE_TRIALS)
    ways = _tried(
        transaction, sheet_id, [WallRequest(n, capped, _EDGE_M, coats) for n in names], again
    )
    if not any(one.is_open for one in ways) and (best := best_of(_trials(ways))) is not None:
        split = [n for n in (coats - 1, coats + 1) if n >= 1]
        more = [WallRequest(best.name, capped, _EDGE_M, n) for n in split]
        if coats > 1:
            more += [WallRequest(best.name, capped, _EDGE_M, coats, lead) for lead in _LEADS]
        ways += _tried(transaction, sheet_id, more, again)
    trials = _trials(ways)
    usual_name = _USUAL_BY_HAND if by_hand else _USUAL_BY_MACHINE
    usual = next((one for one in trials if one.is_equal(usual_name, coats)), None)
    best = best_of(trials)
    ways.sort(key=lambda one: 0.0 if one.wall is None else -one.wall.p05_m)
    return MotionsTried(ways, gain_words(usual, best, len(trials)))


@dataclass(frozen=True, slots=True)
class ChargesTried:
    """Charges tried so far; which of them reach everywhere and leave no puddle. [kg]"""

    ways: list[Tried]
    smallest_kg: float | None
    largest_kg: float | None


def try_charges(
    transaction: Transaction, sheet_id: UUID, motion: str, *, capped: bool, again: bool = False
) -> ChargesTried:
    """Return what several charges come to as a first coat, and ask for what is not known."""
    asked = [WallRequest(motion, capped, _EDGE_M, share=share) for share in _SHARES]
    ways = _tried(transaction, sheet_id, asked, again)
    trials = [
        ChargeTrial(wall.coats[0].charge_kg, wall.reached, wall.pool_kg, wall.spilt_kg)
        for one in ways
        if (wall := one.wall) is not None
    ]
    return ChargesTried(ways, *useful_charges(trials))


def stop_trying(transaction: Transaction, ways: Sequence[Tried]) -> list[Tried]:
    """Cancel what is not done, and return all as it then stands; what is done stays."""
    return [
        replace(one, answer=replace(one.answer, job=cancel_job(transaction, job.job.id)))
        if (job := one.answer.job) is not None and one.is_open
        else one
        for one in ways
    ]


def _tried(
    transaction: Transaction, sheet_id: UUID, asked: list[WallRequest], again: bool
) -> list[Tried]:
    answers = walls_of(transaction, sheet_id, asked, again=again)
    return [Tried(*one) for one in zip(asked, answers, strict=True)]


def _trials(ways: list[Tried]) -> list[Trial]:
    return [
        Trial(one.asked.motion, len(wall.coats), wall.p05_m, one.asked.lead)
        for one in ways
        if (wall := one.wall) is not None
    ]
