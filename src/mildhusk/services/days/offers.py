"""Can so many casts be done by a day: when, with how much work and resin, at what price."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from decimal import ROUND_HALF_UP, Decimal
from typing import TYPE_CHECKING
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.days.days import Plan, PlanStatus
from mildhusk.core.days.making import mould_tasks
from mildhusk.core.days.tasks import Task
from mildhusk.core.errors import ConditionError, InputError
from mildhusk.core.finishing.finish import FinishWish
from mildhusk.services.buying import Need, plan_buying
from mildhusk.services.casts import mould_for
from mildhusk.services.costs import cost_sheet, hour_rate_of, mould_cost
from mildhusk.services.days.jobs import (
    NewDayJob,
    add_job,
    cast_times,
    finish_steps,
    held_mould,
    mould_steps,
)
from mildhusk.services.days.planning import problem_here
from mildhusk.services.errors import ConflictError
from mildhusk.services.lots import usable_lots
from mildhusk.services.moulds import add_mould_like, find_mould
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import castable_of
from mildhusk.services.transaction import Transaction
from mildhusk.services.workshop import workshop_here
from mildhusk.store.kept import Kept
from mildhusk.store.tables import DayJobKind, DayOffer
from mildhusk.store.values import DayJobRequest

if TYPE_CHECKING:
    from mildhusk.core.days.offering import Answered

MOST_CASTS = 40
SECOND_MOULD = "another mould"
_CENT = Decimal("0.01")
_SECONDS = 1.2
"""To look for each answer. [s]"""
_MOST_LISTED = 100


@dataclass(frozen=True, slots=True)
class OfferRequest:
    """What somebody asks for.

    Parameters
    ----------
    casts : int
    due : datetime
    mould_id : UUID or None
    finish : FinishWish or None
    release : str
    margin : float
        On top of what it costs. [1]
    delivery_days : int
        Until resin that is ordered now is there.
    """

    casts: int
    due: datetime
    mould_id: UUID | None = None
    finish: FinishWish | None = None
    release: str = ""
    margin: float = 0.3
    delivery_days: int = 3


@dataclass(frozen=True, slots=True)
class PriceLine:
    """One line of a price; the lines add up to its sum."""

    text: str
    amount: Decimal


@dataclass(frozen=True, slots=True)
class OfferWay:
    """One way to do it.

    Parameters
    ----------
    second_mould : bool
        With another mould, which is built first.
    ends : datetime or None
        An estimate: a longer look may find a sooner end. None where it does not fit.
    in_time : int
        Casts that are done by the day.
    hands_s : float
        Work, of all pairs of hands. [s]
    evenings : int
    lines : tuple of PriceLine
    price, each : Decimal
    """

    second_mould: bool
    ends: datetime | None
    in_time: int
    hands_s: float
    evenings: int
    lines: tuple[PriceLine, ...]
    price: Decimal
    each: Decimal


@dataclass(frozen=True, slots=True)
class ToBuy:
    """What has to be bought of a material. [kg]"""

    name: str
    need_kg: float
    there_kg: float
    kits: tuple[str, ...]
    cost: Decimal


@dataclass(frozen=True, slots=True)
class OfferAnswer:
    """What the days, the shelf and the rates say.

    Parameters
    ----------
    at : datetime
    ways : tuple of OfferWay
        As things are, then with another mould where that was needed.
    buy : tuple of ToBuy
    from_stock : int
        Casts for which the resin is here.
    untried : str
        Why another mould was not tried though it might help.
    """

    at: datetime
    ways: tuple[OfferWay, ...]
    buy: tuple[ToBuy, ...]
    from_stock: int
    untried: str = ""


@dataclass(frozen=True, slots=True)
class Offer:
    """An offer as it was kept."""

    id: UUID
    title: str
    made_at: datetime
    taken_at: datetime | None
    sheet_id: UUID
    sheet_name: str
    asked: OfferRequest
    answer: OfferAnswer


_ASKED, _ANSWERS = Kept(OfferRequest), Kept(OfferAnswer)


def make_offer(
    transaction: Transaction, sheet_id: UUID, title: str, asked: OfferRequest, zone: str
) -> Offer:
    """Answer what somebody asks for, and keep the answer.

    Raises
    ------
    InputError
        No casts or too many, a day gone by, a mould of another piece, a price nobody knows.
    """
    if not 1 <= asked.casts <= MOST_CASTS:
        raise InputError(f"An offer is for 1 to {MOST_CASTS} casts.", "casts")
    if asked.due <= transaction.now:
        raise InputError("That day is past; give one to come.", "due")
    row = DayOffer(
        workshop_id=transaction.workshop_id,
        created_at=transaction.now,
        sheet_id=find_sheet(transaction, sheet_id).id,
        title=title,
        asked=_ASKED.write(asked),
        answer=_ANSWERS.write(_answer(transaction, sheet_id, asked, zone)),
        taken_at=None,
    )
    transaction.session.add(row)
    transaction.session.flush()
    return _offer(transaction, row)


def _answer(
    transaction: Transaction, sheet_id: UUID, asked: OfferRequest, zone: str
) -> OfferAnswer:
    # A solver is slow to load, and few requests need it.
    from mildhusk.core.days.offering import Order, answer_to
    from mildhusk.core.days.solver import Kept as KeptDays

    row = find_sheet(transaction, sheet_id)
    sheet = plan_of(transaction, row)
    if asked.mould_id is not None:
        mould_for(transaction, row.piece_id, asked.mould_id)
    finish = DayJobRequest(asked.finish, asked.release)
    steps = finish_steps(transaction, castable_of(row.material), sheet, finish)
    there_kg = _there_kg(transaction, row.material_id)
    ready = min(asked.casts, int(there_kg / sheet.resin_kg)) if sheet.resin_kg else asked.casts
    problem = problem_here(transaction, zone)
    order = Order(
        asked.casts,
        held_mould(transaction, sheet_id, asked.mould_id),
        cast_times(transaction, sheet),
        steps,
        asked.due.astimezone(UTC),
        ready,
        problem.now + timedelta(days=asked.delivery_days),
    )
    plan = problem.before or Plan(PlanStatus.GOOD)
    kept = KeptDays(problem.done, {}, problem.now) if problem.before or problem.done else None
    first = answer_to(problem.days, plan, order, kept=kept, seconds=_SECONDS)
    finish_s = sum(step.hands_s for step in steps)
    ways = [_way(transaction, sheet_id, asked, first, finish_s, second=False)]
    build, untried = _another_mould(transaction, asked, in_time=first.in_time == asked.casts)
    if build:
        other = answer_to(problem.days, plan, order, build=build, kept=kept, seconds=_SECONDS)
        ways.append(_way(transaction, sheet_id, asked, other, finish_s, second=True))
    moulds = [(asked.mould_id, 1)] if len(ways) > 1 and asked.mould_id is not None else []
    needs = plan_buying(transaction, [(sheet_id, asked.casts)], moulds, Decimal(0)).needs
    return OfferAnswer(transaction.now, tuple(ways), tuple(map(_to_buy, needs)), ready, untried)


def _another_mould(
    transaction: Transaction, asked: OfferRequest, *, in_time: bool
) -> tuple[tuple[Task, ...], str]:
    """Return how another mould is built where one might help, or why that is not known."""
    if in_time:
        return (), ""
    if asked.mould_id is None:
        return (), "Say in which mould, and another one is tried beside it."
    try:
        return mould_tasks(SECOND_MOULD, mould_steps(transaction, asked.mould_id)), ""
    except ConflictError:
        return (), "Open the mould once so that its build is planned, and another one is tried."


def _there_kg(transaction: Transaction, material_id: UUID) -> float:
    lots = usable_lots(transaction, material_id, transaction.now.date())
    return sum(float(lot.left_g) for lot in lots) / 1e3


def _way(
    transaction: Transaction,
    sheet_id: UUID,
    asked: OfferRequest,
    answered: "Answered",
    finish_s: float,
    *,
    second: bool,
) -> OfferWay:
    cost = cost_sheet(transaction, sheet_id, asked.casts, asked.mould_id).cost
    lines = [PriceLine(f"{asked.casts} casts", _cents(cost.run))]
    rate = hour_rate_of(workshop_here(transaction)).amount
    if finish_s:
        hours = Decimal(repr(asked.casts * finish_s / 3600.0))
        lines.append(PriceLine("Finish, by the hour", _cents(hours * rate)))
    if second and asked.mould_id is not None:
        row = find_mould(transaction, asked.mould_id)
        built = mould_cost(transaction, row)
        if built is None:
            raise ConditionError(
                f"Nobody knows what '{row.rubber.name}' costs; add a kit with its price, or a lot.",
                "kits",
            )
        lines.append(PriceLine("Another mould", _cents(built)))
    share = Decimal(repr(asked.margin))
    lines.append(PriceLine("Margin", _cents(share * sum(one.amount for one in lines))))
    price = sum((one.amount for one in lines), Decimal(0))
    return OfferWay(
        second,
        answered.ends,
        answered.in_time,
        answered.hands_s,
        answered.evenings,
        tuple(lines),
        price,
        _cents(price / asked.casts),
    )


def _cents(amount: Decimal) -> Decimal:
    return amount.quantize(_CENT, ROUND_HALF_UP)


def _to_buy(need: Need) -> ToBuy:
    bought = need.purchase
    return ToBuy(
        need.material.name,
        bought.need_kg,
        sum(one.kg for one in bought.from_lots),
        tuple(f"{one.count} of {one.name}" for one in bought.kits if one.count),
        bought.cost,
    )


def list_offers(transaction: Transaction) -> tuple[Offer, ...]:
    """Return the offers that were kept, the newest first."""
    rows = transaction.session.scalars(
        select(DayOffer)
        .where(DayOffer.workshop_id == transaction.workshop_id)
        .order_by(DayOffer.created_at.desc(), DayOffer.id)
        .limit(_MOST_LISTED)
    )
    return tuple(_offer(transaction, row) for row in rows)


def _offer(transaction: Transaction, row: DayOffer) -> Offer:
    return Offer(
        row.id,
        row.title,
        row.created_at,
        row.taken_at,
        row.sheet_id,
        find_sheet(transaction, row.sheet_id).name,
        _ASKED.read(row.asked),
        _ANSWERS.read(row.answer),
    )


def delete_offer(transaction: Transaction, key: UUID) -> None:
    """Delete an offer; what it put into the days stays there."""
    transaction.session.delete(transaction.find(DayOffer, key, "offer", lock=True))
    transaction.session.flush()


def take_offer(transaction: Transaction, key: UUID, *, second_mould: bool) -> Offer:
    """Put the casts of an offer into the days, and the mould to be built where it has one more.

    That is a mould of its own, built like the first; every second cast waits for it.

    Raises
    ------
    ConflictError
        It was taken already.
    """
    row = transaction.find(DayOffer, key, "offer", lock=True)
    if row.taken_at is not None:
        raise ConflictError("This offer is in the days already.")
    asked = _ASKED.read(row.asked)
    moulds = [asked.mould_id]
    if second_mould and asked.mould_id is not None:
        name = f"{find_mould(transaction, asked.mould_id).name}, another"[:120]
        other = add_mould_like(transaction, asked.mould_id, name)
        title = f"Another mould for {row.title}"[:120]
        add_job(
            transaction,
            NewDayJob(DayJobKind.MOULD, title, DayJobRequest(), mould_id=other.id),
        )
        moulds.append(other.id)
    for job in _jobs(row, asked, moulds):
        add_job(transaction, job)
    row.taken_at = transaction.now
    transaction.session.flush()
    return _offer(transaction, row)


def _jobs(row: DayOffer, asked: OfferRequest, moulds: Sequence[UUID | None]) -> Sequence[NewDayJob]:
    """Return the casts of an offer, in its moulds by turns: as it was answered."""
    request = DayJobRequest(asked.finish, asked.release)
    return [
        NewDayJob(
            DayJobKind.CAST,
            f"{row.title}, {number + 1} of {asked.casts}"[:120],
            request,
            row.sheet_id,
            moulds[number % len(moulds)],
            asked.due,
        )
        for number in range(asked.casts)
    ]
