"""What became of a mould's casts: control charts, how long it lasts, its album."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from uuid import UUID

from sqlalchemy import ColumnElement, func, select, true

from mildhusk.core.learning.control import ControlChart, control_chart
from mildhusk.core.mould.lasting import SURE, Lasting, LifeBand, WornMould, lasting
from mildhusk.documents.mould_model import stretch_used
from mildhusk.services.costs import mould_cost
from mildhusk.services.mould_study import is_studied
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import (
    MouldEvent,
    MouldEventKind,
    MouldRow,
    NumberedCast,
    Pour,
    PouredCoat,
    PourStatus,
    WallReadingRow,
)

_CHARTED = 60
"""The newest casts a chart shows."""
_PLACES = 6
"""Of so many places at most the wall is charted."""
_MOST_MOULDS = 500


@dataclass(frozen=True, slots=True)
class ChartedCast:
    """A cast on the charts; its weight as if it had been planned as the newest. [kg], [s], [m]"""

    pour_id: UUID
    number: int | None
    poured_at: datetime
    weight_kg: float
    minutes_s: float | None
    wall_m: float | None
    room_k: float | None


@dataclass(frozen=True, slots=True)
class PlaceChart:
    """The wall at one place of the casts; of those that were read there, in their order."""

    place: str
    pours: tuple[UUID, ...]
    chart: ControlChart


@dataclass(frozen=True, slots=True)
class CastCharts:
    """Casts in the order they came, and the chart of each of their measures."""

    sheet_name: str
    casts: tuple[ChartedCast, ...]
    weight: ControlChart | None
    minutes: ControlChart | None
    wall: ControlChart | None
    places: tuple[PlaceChart, ...]


@dataclass(frozen=True, slots=True)
class Chance:
    """Casts in all, and the chance that a mould makes them. [1]"""

    casts: float
    chance: float


@dataclass(frozen=True, slots=True)
class MouldLife:
    """How long a mould lasts.

    Parameters
    ----------
    casts, expected : int
    tears, hazes, swells : int
        That were written down.
    mean_life : LifeBand
        Of such moulds in the mean.
    surely, likely : float
        Casts still to come with a chance of 80 %, and of 50 %.
    moulds, ended : int
        Of the workshop, that this stands on, and how many of them are worn out.
    chances : tuple of Chance
    cost_per_cast : Decimal or None
        Of the whole mould with its hours, over the casts it will likely have made.
    warmest_k : float or None
        Of the rooms its casts were poured in. [K]
    stretch_used : float or None
        What letting go takes of the stretch its rubber bears, uncut; None of one that is not
        studied. [1]
    """

    casts: int
    expected: int
    tears: int
    hazes: int
    swells: int
    mean_life: LifeBand
    surely: float
    likely: float
    moulds: int
    ended: int
    chances: tuple[Chance, ...]
    cost_per_cast: Decimal | None
    warmest_k: float | None
    stretch_used: float | None


def charts_of_mould(transaction: Transaction, mould_id: UUID) -> CastCharts:
    """Return the control charts of the newest casts of a mould by its most used sheet.

    Casts of different sheets are not alike, and no process of one kind.
    """
    transaction.find(MouldRow, mould_id, "mould")
    sheet_id = transaction.session.scalar(
        select(Pour.sheet_id)
        .where(Pour.mould_id == mould_id, Pour.status == PourStatus.CAST)
        .group_by(Pour.sheet_id)
        .order_by(func.count().desc(), func.max(Pour.created_at).desc())
        .limit(1)
    )
    return charts_of(transaction, Pour.mould_id == mould_id, Pour.sheet_id == sheet_id)


def charts_of(transaction: Transaction, *which: ColumnElement[bool]) -> CastCharts:
    """Return the control charts of the newest of some casts."""
    charted = (
        select(Pour.id)
        .where(Pour.workshop_id == transaction.workshop_id, Pour.status == PourStatus.CAST, *which)
        .order_by(Pour.created_at.desc(), Pour.id)
        .limit(_CHARTED)
    )
    times = (
        select(
            func.min(PouredCoat.mixed_at).label("began"),
            func.max(PouredCoat.gelled_at).label("ended"),
            func.avg(PouredCoat.room_k).label("room_k"),
        )
        .where(PouredCoat.pour_id == Pour.id)
        .lateral()
    )
    walls = (
        select(func.avg(WallReadingRow.wall_m))
        .where(WallReadingRow.pour_id == Pour.id)
        .scalar_subquery()
    )
    rows = transaction.session.execute(
        select(
            Pour.id, NumberedCast.number, Pour.created_at,
            Pour.cast_g + func.coalesce(Pour.offcuts_g, 0), Pour.plan["cast_kg"].as_float(),
            times.c.began, times.c.ended, times.c.room_k, walls, Pour.sheet_name,
        )
        .select_from(Pour)
        .join(times, true())
        .outerjoin(NumberedCast, NumberedCast.pour_id == Pour.id)
        .where(Pour.id.in_(charted))
        .order_by(Pour.created_at.desc(), Pour.id)
    ).all()  # fmt: skip
    newest_kg = rows[0][4] if rows else None
    casts = []
    for key, number, at, grams, planned_kg, began, ended, room_k, wall_m, _ in reversed(rows):
        alike = newest_kg / planned_kg if newest_kg and planned_kg else 1.0
        lasted = None if began is None or ended is None else (ended - began).total_seconds()
        casts.append(
            ChartedCast(key, number, at, float(grams) / 1e3 * alike, lasted, wall_m, room_k)
        )
    return CastCharts(
        rows[0][9] if rows else "",
        tuple(casts),
        control_chart([one.weight_kg for one in casts]),
        control_chart([one.minutes_s for one in casts if one.minutes_s is not None]),
        control_chart([one.wall_m for one in casts if one.wall_m is not None]),
        _at_places(transaction, [one.pour_id for one in casts]),
    )


def _at_places(transaction: Transaction, pours: Sequence[UUID]) -> tuple[PlaceChart, ...]:
    """Return the charts of the places that were read most often."""
    order = {key: at for at, key in enumerate(pours)}
    rows = transaction.session.execute(
        select(WallReadingRow.place, WallReadingRow.pour_id, func.avg(WallReadingRow.wall_m))
        .where(WallReadingRow.pour_id.in_(pours), WallReadingRow.wall_m.is_not(None))
        .group_by(WallReadingRow.place, WallReadingRow.pour_id)
    )
    read: dict[str, dict[UUID, float]] = defaultdict(dict)
    for place, pour, wall_m in rows:
        read[place][pour] = wall_m
    most = sorted(read, key=lambda place: (-len(read[place]), place))[:_PLACES]
    found = []
    for place in most:
        there = sorted(read[place], key=lambda pour: order[pour])
        chart = control_chart([read[place][pour] for pour in there])
        if chart is not None:
            found.append(PlaceChart(place, tuple(there), chart))
    return tuple(found)


def lasting_here(transaction: Transaction) -> Lasting:
    """Return how long this workshop's moulds last, by all of them."""
    rows = transaction.session.scalars(
        select(MouldRow)
        .where(MouldRow.workshop_id == transaction.workshop_id)
        .order_by(MouldRow.created_at.desc())
        .limit(_MOST_MOULDS)
    ).all()
    counted = counts_of(transaction, [row.id for row in rows])
    worn = []
    for row in rows:
        counts = counted[row.id]
        # One that was put away whole has not worn out.
        is_worn = row.retired_at is not None and counts[MouldEventKind.TEAR] > 0
        if counts[MouldEventKind.CAST] > 0:
            worn.append(WornMould(counts[MouldEventKind.CAST], row.life_casts, is_worn))
    return lasting(worn)


def counts_of(
    transaction: Transaction, moulds: Sequence[UUID]
) -> dict[UUID, dict[MouldEventKind, int]]:
    """Return how often each kind of thing happened to moulds."""
    found: dict[UUID, dict[MouldEventKind, int]] = {key: defaultdict(int) for key in moulds}
    rows = transaction.session.execute(
        select(MouldEvent.mould_id, MouldEvent.kind, func.count())
        .where(MouldEvent.mould_id.in_(moulds))
        .group_by(MouldEvent.mould_id, MouldEvent.kind)
    )
    for mould, kind, count in rows:
        found[mould][MouldEventKind(kind)] = count
    return found


def life_of(transaction: Transaction, mould_id: UUID) -> MouldLife:
    """Return how long a mould lasts."""
    row = transaction.find(MouldRow, mould_id, "mould")
    counts = counts_of(transaction, [row.id])[row.id]
    casts, expected = counts[MouldEventKind.CAST], row.life_casts
    found = lasting_here(transaction)
    likely = found.lasts(casts, expected, 0.5)
    most = max(2.0 * expected, casts + 2.0 * likely)
    steps = [casts + (most - casts) * step / 24 for step in range(25)]
    warmest = transaction.session.scalar(
        select(func.max(PouredCoat.room_k))
        .join(Pour, Pour.id == PouredCoat.pour_id)
        .where(Pour.mould_id == mould_id)
    )
    cost = mould_cost(transaction, row)
    per_cast = None if cost is None else cost / Decimal(repr(casts + likely))
    return MouldLife(
        casts=casts,
        expected=expected,
        tears=counts[MouldEventKind.TEAR],
        hazes=counts[MouldEventKind.HAZE],
        swells=counts[MouldEventKind.SWELL],
        mean_life=found.mean_life(expected),
        surely=found.lasts(casts, expected, SURE),
        likely=likely,
        moulds=found.moulds,
        ended=found.ended,
        chances=tuple(Chance(at, found.chance(casts, at - casts, expected)) for at in steps),
        cost_per_cast=None if per_cast is None else per_cast.quantize(Decimal("0.01")),
        warmest_k=warmest,
        stretch_used=stretch_used(row.study) if is_studied(row) else None,
    )
