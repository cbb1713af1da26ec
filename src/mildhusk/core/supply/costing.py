"""What one cast costs, and a run: line by line, so that the sum can be opened."""

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from enum import StrEnum

from mildhusk.core.amounts import Source, source_of
from mildhusk.core.casting.plan import CastSheet
from mildhusk.core.casting.unevenness import StandsOn
from mildhusk.core.checks import require_between
from mildhusk.core.constants import CAST_FINISH_H, CAST_SETUP_H
from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.kinds import Consumable
from mildhusk.core.mould.estimate import MouldBuild, MouldEstimate
from mildhusk.core.wording import Quantity, Unit

DEAREST_HOUR = 1000
"""More than this for an hour of work is a slip of the keys."""

_CENT = Decimal("0.01")


class CostGroup(StrEnum):
    """What a line of the cost belongs to."""

    RESIN = "resin"
    MOULD = "mould"
    CONSUMABLES = "consumables"
    HOURS = "hours"


@dataclass(frozen=True, slots=True)
class Rate:
    """A price, what it is for one of, and where it came from."""

    amount: Decimal
    per: str
    source: Source


@dataclass(frozen=True, slots=True)
class CostLine:
    """One line of the cost.

    Parameters
    ----------
    id, label : str
    group : CostGroup
    quantity : Quantity
        What is used up: by one cast, or by the whole mould that casts share.
    rate : Rate
    shared_by : int
        Casts that share it; 1 for what every cast uses up.
    each, run : Decimal
        For one cast and for the run, to the cent.
    """

    id: str
    label: str
    group: CostGroup
    quantity: Quantity
    rate: Rate
    shared_by: int
    each: Decimal
    run: Decimal


@dataclass(frozen=True, slots=True)
class Cost:
    """What one cast costs and what a run costs; the sums are those of the lines as shown.

    Parameters
    ----------
    casts : int
        Casts of the run.
    lines : tuple of CostLine
    each, run : Decimal
    moulds : int
        Moulds that the run wears out or begins; 0 without a mould.
    stands_on : StandsOn
        What the plan of each cast stands on.
    """

    casts: int
    lines: tuple[CostLine, ...]
    each: Decimal
    run: Decimal
    moulds: int
    stands_on: StandsOn


@dataclass(frozen=True, slots=True)
class MouldCosting:
    """A mould that casts share: how it is built, what it takes, what its rubber costs."""

    build: MouldBuild
    estimate: MouldEstimate
    rubber_rate: Rate


def cost_of_run(
    sheet: CastSheet,
    casts: int,
    *,
    resin_rate: Rate,
    hour_rate: Rate,
    consumables: tuple[Consumable, ...],
    mould: MouldCosting | None,
) -> Cost:
    """Cost a run of casts.

    Parameters
    ----------
    sheet : CastSheet
    casts : int
        How many, 1 to 1000.
    resin_rate, hour_rate : Rate
        Of a kilogram of resin, of an hour of work.
    consumables : tuple of Consumable
    mould : MouldCosting or None
        Shared over its expected life; None leaves it out.

    Returns
    -------
    Cost

    Raises
    ------
    ConditionError
        A number of casts out of range.

    Notes
    -----
    A line is its quantity times its rate, by the casts that share it, rounded to the cent once for
    one cast and once for the run. Sums are made of rounded lines, so that they add up as shown.
    """
    require_between(
        casts, 1, 1000, name="The run", field="casts", error=ConditionError, shown_in="casts"
    )
    lines = (
        *_resin(sheet, resin_rate, casts),
        *(() if mould is None else _mould(mould, consumables, hour_rate, casts)),
        *_consumables(sheet, consumables, casts),
        *_hours(sheet, hour_rate, casts),
    )
    return Cost(
        casts=casts,
        lines=lines,
        each=sum((line.each for line in lines), Decimal("0.00")),
        run=sum((line.run for line in lines), Decimal("0.00")),
        moulds=0 if mould is None else -(-casts // mould.build.life_casts),
        stands_on=sheet.stands_on,
    )


def cost_of_mould(
    mould: MouldCosting, consumables: tuple[Consumable, ...], hour_rate: Rate
) -> Decimal:
    """Cost one mould: its rubber, its shell, what is used up on it, and the hours of building it.

    Parameters
    ----------
    mould : MouldCosting
    consumables : tuple of Consumable
    hour_rate : Rate
        Of an hour of work.

    Returns
    -------
    Decimal
        As the mould's lines of a run that lasts its whole life add up to.
    """
    whole_life = mould.build.life_casts
    lines = _mould(mould, consumables, hour_rate, whole_life)
    return sum((line.run for line in lines), Decimal("0.00"))


def _line(
    name: str,
    label: str,
    group: CostGroup,
    quantity: Quantity,
    rate: Rate,
    casts: int,
    shared_by: int = 1,
) -> CostLine:
    value = quantity.value / 3600.0 if quantity.unit is Unit.TIME else quantity.value
    exact = Decimal(repr(value)) * rate.amount
    return CostLine(
        id=name,
        label=label,
        group=group,
        quantity=quantity,
        rate=rate,
        shared_by=shared_by,
        each=(exact / shared_by).quantize(_CENT, ROUND_HALF_UP),
        run=(exact * casts / shared_by).quantize(_CENT, ROUND_HALF_UP),
    )


def _resin(sheet: CastSheet, rate: Rate, casts: int) -> Iterator[CostLine]:
    group, lost = CostGroup.RESIN, sheet.resin_kg - sheet.stays_kg
    yield _line(
        "resin-cast",
        "Resin in the cast",
        group,
        Quantity(sheet.stays_kg, Unit.MASS),
        rate,
        casts,
    )
    yield _line(
        "resin-lost",
        "Resin left in cups and over the rim",
        group,
        Quantity(max(0.0, lost), Unit.MASS),
        rate,
        casts,
    )


def _mould(
    mould: MouldCosting, consumables: tuple[Consumable, ...], hour: Rate, casts: int
) -> Iterator[CostLine]:
    group, build, takes = CostGroup.MOULD, mould.build, mould.estimate
    life = build.life_casts
    shell_rate = Rate(Decimal(repr(build.shell.price_per_m2)), "m²", source_of(build.shell.origin))
    yield _line(
        "rubber",
        build.rubber.name,
        group,
        Quantity(takes.rubber_kg, Unit.MASS),
        mould.rubber_rate,
        casts,
        life,
    )
    yield _line(
        "shell",
        build.shell.name,
        group,
        Quantity(takes.shell_m2, Unit.AREA),
        shell_rate,
        casts,
        life,
    )
    for one in consumables:
        if one.per_mould:
            used = Quantity(one.per_mould, Unit.COUNT)
            label = f"{one.name}, for the mould"
            yield _line(f"mould-{one.key}", label, group, used, _price(one), casts, life)
    work = Quantity(takes.hours * 3600.0, Unit.TIME)
    yield _line("mould-hours", "Building the mould", group, work, hour, casts, life)


def _consumables(
    sheet: CastSheet, consumables: tuple[Consumable, ...], casts: int
) -> Iterator[CostLine]:
    for one in consumables:
        used = one.per_coat * len(sheet.coats) + one.per_cast
        if used:
            yield _line(
                one.key,
                one.name,
                CostGroup.CONSUMABLES,
                Quantity(used, Unit.COUNT),
                _price(one),
                casts,
            )


def _hours(sheet: CastSheet, rate: Rate, casts: int) -> Iterator[CostLine]:
    for name, label, seconds in (
        ("hours-setup", "Seating and strapping the mould", CAST_SETUP_H * 3600.0),
        ("hours-rolling", "Mixing and rolling", sheet.hands_on_s),
        ("hours-finish", "Taking out, trimming, cleaning", CAST_FINISH_H * 3600.0),
    ):
        yield _line(name, label, CostGroup.HOURS, Quantity(seconds, Unit.TIME), rate, casts)


def _price(one: Consumable) -> Rate:
    return Rate(Decimal(repr(one.price)), "piece", source_of(one.origin))
