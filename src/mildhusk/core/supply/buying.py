"""What to take from open lots and which kits to buy, at the least cost."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

import numpy as np

from mildhusk.core.errors import ConditionError
from mildhusk.core.materials.kit import Kit

# Kits are counted in whole grams, so that sums of weights are exact.
_GRAM = 1000
# A need this far beyond every reasonable order is a slip of the keys.
_LARGEST_NEED_KG = 10_000.0
_LARGEST_MINIMUM = 100_000
MOST_TIMES = 3.0
"""To fill an order up nobody buys more than so many times what is missing (assumed). [1]"""
_NOTHING = Decimal("0.00")


@dataclass(frozen=True, slots=True)
class Lot:
    """An open or unopened lot in the workshop."""

    key: str
    left_kg: float
    opened: date | None
    expires: date


@dataclass(frozen=True, slots=True)
class Taken:
    """What a need takes from a lot. [kg]"""

    lot: str
    kg: float


@dataclass(frozen=True, slots=True)
class Bought:
    """How many of a kit to buy."""

    name: str
    mass_kg: float
    price: Decimal
    count: int


@dataclass(frozen=True, slots=True)
class Purchase:
    """How one need is met.

    Parameters
    ----------
    need_kg : float
        [kg]
    from_lots : tuple of Taken
        Oldest first, none past its date.
    kits : tuple of Bought
        Whole ones.
    cost : Decimal
        Of the kits bought.
    left_over_kg : float
        Of the kits bought, when the need is met. [kg]
    left_over_days : int or None
        How long the left over keeps unopened; None when nothing is bought.
    trial_covers_kg : float
        What a single smallest kit would cover. [kg]
    why_not_bigger : str
        Why the largest kit was not taken, or that it was.
    """

    need_kg: float
    from_lots: tuple[Taken, ...]
    kits: tuple[Bought, ...]
    cost: Decimal
    left_over_kg: float
    left_over_days: int | None
    trial_covers_kg: float
    why_not_bigger: str


@dataclass(frozen=True, slots=True)
class Needed:
    """A material that is needed, and where it may come from.

    Parameters
    ----------
    key : str
    kg : float
        [kg]
    lots : tuple of Lot
    kits : tuple of Kit
    """

    key: str
    kg: float
    lots: tuple[Lot, ...]
    kits: tuple[Kit, ...]


@dataclass(frozen=True, slots=True)
class Order:
    """What is bought together.

    Parameters
    ----------
    purchases : tuple of Purchase
        One for each need, in their order.
    cost : Decimal
        The sum of their costs.
    raised_by : Decimal
        What the shop's minimum order adds to it; 0 where it is met anyway.
    short_by : Decimal
        What it lacks of that minimum where no sensible amount of the same fills it up; else 0.
    """

    purchases: tuple[Purchase, ...]
    cost: Decimal
    raised_by: Decimal
    short_by: Decimal


def pooled(needs: Iterable[tuple[str, float]]) -> dict[str, float]:
    """Add up needs of the same material, in the order in which each was first named.

    Two needs met one by one may take two large kits where the sum takes fewer. [kg]
    """
    together: dict[str, float] = {}
    for key, kg in needs:
        together[key] = together.get(key, 0.0) + kg
    return together


def plan_purchase(
    need_kg: float, lots: tuple[Lot, ...], kits: tuple[Kit, ...], use_on: date
) -> Purchase:
    """Meet a need from lots first, then from the cheapest whole kits.

    Parameters
    ----------
    need_kg : float
        [kg]
    lots : tuple of Lot
    kits : tuple of Kit
    use_on : date
        When it will be used; lots that expire before are left alone.

    Returns
    -------
    Purchase

    Raises
    ------
    ConditionError
        A need that is not positive, or no kit on offer for what the lots do not cover.

    Notes
    -----
    Least sum of price times count, with count whole and the weight at least what is missing, by a
    general mixed-integer solver; of equal costs the least left over.
    """
    if not 0.0 < need_kg <= _LARGEST_NEED_KG:
        raise ConditionError(
            f"The need is {need_kg:g} kg; give more than 0 and up to {_LARGEST_NEED_KG:,.0f} kg.",
            "need_kg",
        )
    need = _grams_up(need_kg)
    taken, missing = _from_lots(need, lots, use_on)
    if missing == 0:
        return Purchase(need_kg, taken, (), _NOTHING, 0.0, None, _smallest(kits), "Nothing to buy.")
    if not kits:
        raise ConditionError(
            f"{missing / _GRAM:g} kg are missing and no kit is on offer; add a kit with its price.",
            "kits",
        )
    counts = _cheapest_of(kits, [[True] * len(kits)], [(missing, None)])
    assert counts is not None, "kits have a weight, so that enough of them meet any need"
    chosen = [(kit, count) for kit, count in zip(kits, counts, strict=True) if count]
    return _purchase(Needed("", need_kg, lots, kits), taken, missing, chosen)


def plan_order(needed: Sequence[Needed], use_on: date, minimum: Decimal = _NOTHING) -> Order:
    """Meet several needs in one order, which is not below what the shop takes if that is sensible.

    Parameters
    ----------
    needed : sequence of Needed
        Each material once.
    use_on : date
    minimum : Decimal
        Least order that the shop takes; 0 where it takes any.

    Returns
    -------
    Order

    Raises
    ------
    ConditionError
        As `plan_purchase`; a minimum below 0 or beyond every order.

    Notes
    -----
    Where the cheapest kits come to less than the minimum, all kits together are chosen anew, at the
    least cost that reaches it: more of what is needed, rather than paid for nothing. Of no material
    more than `MOST_TIMES` what is missing, or two of its smallest kits.
    """
    if not _NOTHING <= minimum <= _LARGEST_MINIMUM:
        raise ConditionError(
            f"The smallest order is {minimum}; give 0 to {_LARGEST_MINIMUM:,}.", "minimum_order"
        )
    plain = tuple(plan_purchase(one.kg, one.lots, one.kits, use_on) for one in needed)
    cost = sum((one.cost for one in plain), _NOTHING)
    if cost == _NOTHING or cost >= minimum:
        return Order(plain, cost, _NOTHING, _NOTHING)
    missing = [
        _grams_up(one.kg) - sum(_grams(taken.kg) for taken in bought.from_lots)
        for one, bought in zip(needed, plain, strict=True)
    ]
    bought = [at for at, short in enumerate(missing) if short > 0]
    offers = [(at, kit) for at in bought for kit in needed[at].kits]
    counts = _cheapest_of(
        [kit for _, kit in offers],
        [[at == need for at, _ in offers] for need in bought],
        [(missing[need], _most(needed[need], missing[need], plain[need])) for need in bought],
        minimum,
    )
    if counts is None:
        return Order(plain, cost, _NOTHING, minimum - cost)
    raised = list(plain)
    for need in bought:
        chosen = [
            (kit, count) for (at, kit), count in zip(offers, counts, strict=True) if at == need
        ]
        raised[need] = _purchase(
            needed[need], plain[need].from_lots, missing[need], [one for one in chosen if one[1]]
        )
    total = sum((one.cost for one in raised), _NOTHING)
    return Order(tuple(raised), total, total - cost, _NOTHING)


def _most(need: Needed, missing: int, plain: Purchase) -> int:
    """Return the most of a material that is bought to fill an order up. [g]"""
    smallest = min(_grams(kit.mass_kg) for kit in need.kits)
    least = sum(_grams(kit.mass_kg) * kit.count for kit in plain.kits)
    return max(int(MOST_TIMES * missing), 2 * smallest, least)


def _purchase(
    need: Needed, taken: tuple[Taken, ...], missing: int, chosen: list[tuple[Kit, int]]
) -> Purchase:
    total = sum(_grams(kit.mass_kg) * count for kit, count in chosen)
    cost = sum((kit.price * count for kit, count in chosen), _NOTHING)
    return Purchase(
        need_kg=need.kg,
        from_lots=taken,
        kits=tuple(Bought(kit.name, kit.mass_kg, kit.price, count) for kit, count in chosen),
        cost=cost,
        left_over_kg=(total - missing) / _GRAM,
        left_over_days=min(kit.shelf_life_days for kit, _ in chosen),
        trial_covers_kg=_smallest(need.kits),
        why_not_bigger=_why_not_bigger(missing, need.kits, [kit for kit, _ in chosen], cost),
    )


def _from_lots(need: int, lots: tuple[Lot, ...], use_on: date) -> tuple[tuple[Taken, ...], int]:
    """Take from lots in date: opened ones first, the longest open first, then by expiry."""
    good = sorted(
        (lot for lot in lots if lot.expires >= use_on and lot.left_kg > 0.0),
        key=lambda lot: (lot.opened is None, lot.opened or lot.expires, lot.expires, lot.key),
    )
    taken = []
    for lot in good:
        here = min(need, int(lot.left_kg * _GRAM + 1e-6))
        if here:
            taken.append(Taken(lot.key, here / _GRAM))
            need -= here
    return tuple(taken), need


def _cheapest_of(
    kits: Sequence[Kit],
    serves: Sequence[Sequence[bool]],
    bounds: Sequence[tuple[int, int | None]],
    minimum: Decimal = _NOTHING,
) -> list[int] | None:
    """Return how many of each kit: each need is met by the kits that serve it, at least cost.

    `bounds` are the least and the most of each need [g]; None where they cannot all be kept.
    """
    # The solver is slow to load.
    from scipy.optimize import Bounds, LinearConstraint, milp

    mass = np.array([_grams(kit.mass_kg) for kit in kits], dtype=float)
    price = np.array([int(kit.price * 100) for kit in kits], dtype=float)
    least = int(minimum * 100)
    missing = [low for low, _ in bounds]
    ceilings = [np.inf if high is None else high for _, high in bounds]
    most = np.ceil(np.maximum(max(missing) / mass, least / price))
    rows = np.vstack([np.array(serves, dtype=float) * mass, price])
    # A thousandth of a cent for the whole possible surplus: it decides between equal costs only.
    tie = 1e-3 / (float((mass * most).sum()) or 1.0)
    answer = milp(
        price + tie * mass,
        integrality=np.ones(len(kits)),
        bounds=Bounds(0, most),
        constraints=LinearConstraint(rows, lb=[*missing, least], ub=[*ceilings, np.inf]),
        options={"mip_rel_gap": 0.0},
    )
    return [round(count) for count in answer.x] if answer.success else None


def _why_not_bigger(missing: int, kits: tuple[Kit, ...], chosen: list[Kit], cost: Decimal) -> str:
    biggest = max(kits, key=lambda kit: kit.mass_kg)
    if biggest in chosen:
        return f"The {biggest.name} kit is among them."
    count = -(-missing // _grams(biggest.mass_kg))
    dearer = biggest.price * count - cost
    over = (_grams(biggest.mass_kg) * count - missing) / _GRAM
    return (
        f"The {biggest.name} kit would cost {dearer:.2f} more and leave {over:.2f} kg, which keeps "
        f"{biggest.shelf_life_days} days unopened."
    )


def _smallest(kits: tuple[Kit, ...]) -> float:
    return min((kit.mass_kg for kit in kits), default=0.0)


def _grams(kg: float) -> int:
    return round(kg * _GRAM)


def _grams_up(kg: float) -> int:
    return int(np.ceil(kg * _GRAM - 1e-6))
