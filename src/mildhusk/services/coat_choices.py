"""A cast in more or fewer coats, side by side: what is settled, and what is asked of workers."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mildhusk.core.casting.choices import Choice, compare, elsewhere
from mildhusk.core.casting.plan import CastSheet, plan_cast, rolled_coats
from mildhusk.core.casting.unevenness import StandsOn
from mildhusk.services.errors import ConflictError
from mildhusk.services.jobs import JobState, cancel_job, newest_jobs
from mildhusk.services.pieces import face_of, find_piece
from mildhusk.services.settling import settle_sheet
from mildhusk.services.sheets import SheetQuestion, planned, settling_key
from mildhusk.services.shelf import castable_of, find_material
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import equipment_here
from mildhusk.store.tables import JobKind

_MOST, _FEWER, _LOOKED_AT = 6, 2, 12
"""So many are compared, from so many fewer than the plan's on, of so many that are looked at."""


@dataclass(frozen=True, slots=True)
class CoatChoice:
    """A number of coats to choose.

    Parameters
    ----------
    choice : Choice
    wish_coats : int or None
        What a wish says that takes it; None as the limits of a coat have it.
    is_chosen : bool
    job : JobState or None
        What settles it, where that was asked and is not done.
    """

    choice: Choice
    wish_coats: int | None
    is_chosen: bool
    job: JobState | None


def coat_choices(
    transaction: Transaction, asked: SheetQuestion, *, settle: bool = False, stop: bool = False
) -> list[CoatChoice]:
    """Return a cast in several numbers of coats, the fewest first.

    Those that are not settled are asked of workers where it is wanted to `settle` them; to `stop`
    cancels what is open.

    Raises
    ------
    ConflictError
        Nothing is said of how it is turned, or its way of dividing has no coats to choose.
    """
    questions, sheets = _compared(transaction, asked)
    unknown = {
        number: sheet for number, sheet in sheets.items() if sheet.stands_on is not StandsOn.SETTLED
    }
    jobs: dict[SheetQuestion, JobState] = {}
    if unknown:
        for number, sheet in unknown.items():
            if settle and sheet.fits:
                settle_sheet(transaction, questions[number])
        jobs = _jobs(transaction, [questions[number] for number in unknown], stop)
        # What was done meanwhile is told as done.
        questions, sheets = _compared(transaction, asked)
    return [
        CoatChoice(
            choice,
            questions[number].wish.coats,
            is_chosen=questions[number] == asked,
            job=jobs.get(questions[number]),
        )
        for number, choice in zip(sheets, compare(list(sheets.values())), strict=True)
    ]


def _compared(
    transaction: Transaction, asked: SheetQuestion
) -> tuple[dict[int, SheetQuestion], dict[int, CastSheet]]:
    """Return questions and plans by the number of coats."""
    face = face_of(find_piece(transaction, asked.piece_id))
    material = castable_of(find_material(transaction, asked.material_id))
    equipment = equipment_here(transaction)

    def plan(question: SheetQuestion) -> CastSheet:
        return planned(transaction, question, face, material, equipment)

    chosen = plan(asked)
    if chosen.uneven is None or not chosen.way.explains_more_coats:
        raise ConflictError(
            "There are no coats to choose: say how the mould is turned, and divide it into coats "
            "that are alike."
        )
    usual = replace(asked, wish=replace(asked.wish, coats=None))
    questions = {len(rolled_coats(plan(usual))): usual, len(rolled_coats(chosen)): asked}
    uneven = elsewhere(chosen.uneven)
    first = max(min(questions) - _FEWER, 1)
    own_numbers = set(questions)
    sheets: dict[int, CastSheet] = {}
    for number in sorted({*range(first, first + _LOOKED_AT), *own_numbers}):
        own = number in own_numbers
        if len(sheets) >= _MOST and not own:
            continue
        question = questions.setdefault(
            number, replace(asked, wish=replace(asked.wish, coats=number))
        )
        guess = plan_cast(face, material, question.wish, equipment, uneven)
        if own or guess.fits:
            sheet = plan(question)
            known = own or sheet.stands_on is StandsOn.SETTLED
            sheets[number] = sheet if known else guess
    return questions, sheets


def _jobs(
    transaction: Transaction, questions: Sequence[SheetQuestion], stop: bool
) -> dict[SheetQuestion, JobState]:
    """Return the jobs that settle them and are not done; what is open is stopped."""
    keys = {one: settling_key(transaction, one) or "" for one in questions}
    newest = newest_jobs(transaction, JobKind.SETTLE, list(keys.values()))
    jobs = {one: newest[key] for one, key in keys.items() if key in newest}
    return {
        one: cancel_job(transaction, job.job.id) if stop and job.is_open else job
        for one, job in jobs.items()
        if not job.is_done
    }
