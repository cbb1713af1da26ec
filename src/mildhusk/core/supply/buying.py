"""What to take from open lots and which kits to buy, at the least cost."""

from collections.abc import Iterable
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
        nothing = Decimal("0.00")
        return Purchase(need_kg, taken, (), nothing, 0.0, None, _smallest(kits), "Nothing to buy.")
    if not kits:
        raise ConditionError(
            f"{missing / _GRAM:g} kg are missing and no kit is on offer; add a kit with its price.",
            "kits",
        )
    counts = _cheapest(missing, kits)
    chosen = [(k, n) for k, n in zip(kits, counts, strict=True) if n]
    total = sum(_grams(k.mass_kg) * n for k, n in chosen)
    cost = sum((k.price * n for k, n in chosen), Decimal("0.00"))
    return Purchase(
        need_kg=need_kg,
        from_lots=taken,
        kits=tuple(Bought(k.name, k.mass_kg, k.price, n) for k, n in chosen),
        cost=cost,
        left_over_kg=(total - missing) / _GRAM,
        left_over_days=min(k.shelf_life_days for k, _ in chosen),
        trial_covers_kg=_smallest(kits),
        why_not_bigger=_why_not_bigger(missing, kits, [k for k, _ in chosen], cost),
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


def _cheapest(missing: int, kits: tuple[Kit, ...]) -> list[int]:
    # The solver is slow to load.
    from scipy.optimize import Bounds, LinearConstraint, milp

    mass = np.array([_grams(kit.mass_kg) for kit in kits], dtype=float)
    price = np.array([int(kit.price * 100) for kit in kits], dtype=float)
    most = np.ceil(missing / mass)
    # A thousandth of a cent for the whole possible surplus: it decides between equal costs only.
    tie = 1e-3 / (float((mass * most).sum()) or 1.0)
    answer = milp(
        price + tie * mass,
        integrality=np.ones(len(kits)),
        bounds=Bounds(0, most),
        constraints=LinearConstraint(mass[None, :], lb=missing),
        options={"mip_rel_gap": 0.0},
    )
    if not answer.success:
        raise ConditionError(f"No purchase was found: {answer.message}", "kits")
    return [round(count) for count in answer.x]


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
