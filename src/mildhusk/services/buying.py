"""What to buy for the casts to come: kits on offer, lots at hand."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from uuid import UUID

from sqlalchemy import select

from mildhusk.core.casting.unevenness import StandsOn
from mildhusk.core.errors import InputError
from mildhusk.core.materials.kinds import ShellMaterial
from mildhusk.core.materials.kit import Kit
from mildhusk.core.supply.besides import Beside, besides_of_cast, besides_of_mould, pooled_besides
from mildhusk.core.supply.buying import Lot, Needed, Purchase, plan_order
from mildhusk.services.lots import DEAREST, usable_lots
from mildhusk.services.moulds import estimate_of, find_mould
from mildhusk.services.sheets import find_sheet, plan_of
from mildhusk.services.shelf import find_material, material_of
from mildhusk.services.transaction import Transaction
from mildhusk.store.tables import KitOffer, Material

_MOST_KITS = 20


@dataclass(frozen=True, slots=True)
class Need:
    """What the casts to come need of one material, and how to get it.

    `stands_on` is what the least sure of their plans stands on; None where only moulds need it.
    """

    material: Material
    purchase: Purchase
    stands_on: StandsOn | None


@dataclass(frozen=True, slots=True)
class BuyList:
    """What the casts and moulds to come need.

    Parameters
    ----------
    needs : list of Need
        Materials that come in kits.
    besides : tuple of Beside
        What else goes into them.
    cost, raised_by, short_by : Decimal
        See `Order`.
    """

    needs: list[Need]
    besides: tuple[Beside, ...]
    cost: Decimal
    raised_by: Decimal
    short_by: Decimal


def plan_buying(
    transaction: Transaction,
    casts: Sequence[tuple[UUID, int]],
    moulds: Sequence[tuple[UUID, int]],
    minimum: Decimal,
) -> BuyList:
    """Plan what to buy for casts of some sheets and for some moulds; equal needs are added up."""
    if not casts and not moulds:
        raise InputError("Say how many casts of a sheet, or how many moulds.", "casts")
    needed: dict[UUID, float] = defaultdict(float)
    stand_on: dict[UUID, list[StandsOn]] = defaultdict(list)
    besides: list[Beside] = []
    for sheet_id, count in casts:
        row = find_sheet(transaction, sheet_id)
        plan = plan_of(transaction, row)
        needed[row.material_id] += plan.resin_kg * count
        stand_on[row.material_id].append(plan.stands_on)
        besides += besides_of_cast(plan, count)
    for mould_id, count in moulds:
        mould = find_mould(transaction, mould_id)
        takes = estimate_of(mould)
        needed[mould.rubber_id] += takes.rubber_kg * count
        needed[mould.shell_id] += takes.shell_kg * count
        shell = material_of(find_material(transaction, mould.shell_id))
        assert isinstance(shell, ShellMaterial)
        besides += besides_of_mould(shell, takes.shell_m2, count)
    today = transaction.now.date()
    order = plan_order(
        [
            Needed(
                str(material_id),
                need_kg,
                _lots(transaction, material_id, today),
                kits_of(transaction, material_id),
            )
            for material_id, need_kg in needed.items()
        ],
        today,
        minimum,
    )
    needs = [
        Need(
            material=find_material(transaction, material_id),
            purchase=purchase,
            stands_on=StandsOn.weakest(plans) if (plans := stand_on[material_id]) else None,
        )
        for material_id, purchase in zip(needed, order.purchases, strict=True)
    ]
    return BuyList(needs, pooled_besides(besides), order.cost, order.raised_by, order.short_by)


def _lots(transaction: Transaction, material_id: UUID, on: date) -> tuple[Lot, ...]:
    return tuple(
        Lot(row.label, float(row.left_g) / 1000.0, row.opened_on, row.expires_on)
        for row in usable_lots(transaction, material_id, on)
    )


def kits_of(transaction: Transaction, material_id: UUID) -> tuple[Kit, ...]:
    """Return the kits on offer for a material, the smallest first."""
    transaction.find(Material, material_id, "material")
    rows = transaction.session.scalars(
        select(KitOffer)
        .where(KitOffer.workshop_id == transaction.workshop_id, KitOffer.material_id == material_id)
        .order_by(KitOffer.mass_kg)
    ).all()
    return tuple(Kit(row.name, row.mass_kg, row.price, row.shelf_life_days) for row in rows)


def set_kits(transaction: Transaction, material_id: UUID, kits: Sequence[Kit]) -> tuple[Kit, ...]:
    """Replace the kits on offer for a material."""
    material = transaction.find(Material, material_id, "material", lock=True)
    if len(kits) > _MOST_KITS:
        raise InputError(f"Up to {_MOST_KITS} kits are offered of one material.", "kits")
    if any(kit.price >= DEAREST for kit in kits):
        raise InputError("A kit costs less than 1,000,000.", "price")
    # Row by row, so that the trail tells what they cost before.
    for row in transaction.session.scalars(
        select(KitOffer).where(KitOffer.material_id == material.id)
    ):
        transaction.session.delete(row)
    transaction.session.flush()
    transaction.session.add_all(
        KitOffer(
            workshop_id=transaction.workshop_id,
            created_at=transaction.now,
            material_id=material.id,
            name=kit.name,
            mass_kg=kit.mass_kg,
            price=kit.price,
            shelf_life_days=kit.shelf_life_days,
        )
        for kit in kits
    )
    transaction.session.flush()
    return kits_of(transaction, material.id)
